"""Several workers on this machine: how much sooner a film is whole, and what becomes of it where they die.

A worker that is held to one core is as one with a single thread; two on two cores should take hardly more
than half its time. What is measured goes into ``farm_simulation``.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

from bench.farm_simulation import Measured, simulated
from bench.figures import RUNS, timed, told
from izmet.core.document.edit import Edit
from izmet.farm.handing import Handing
from izmet.farm.line import Line
from izmet.farm.shared import Shared
from izmet.media.render import render
from izmet.media.sampling import TakeFile
from tests.farm.conftest import KEY, Workers, film, place_in
from tests.standins import RedisServer
from tests.waiting import until

PARTS, FRAMES, SIZE = 60, 40, (1280, 720)
KILL_SECONDS, AWAY_SECONDS = 5.0, 1.0
"""How often a worker is killed, and how long Redis is away."""


def farm_figures() -> list[bool]:
    """Whether each bound is met."""
    cores = sorted(os.sched_getaffinity(0))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        edit, takes = film(folder, PARTS, FRAMES, SIZE)
        alone, kept = folder / "alone.mp4", folder / "kept"
        kept.mkdir()
        here = timed(lambda: render(edit, takes, None, alone, "mp4", kept=kept))
        join = timed(lambda: render(edit, takes, None, alone, "mp4", kept=kept))
        took: dict[int, list[float]] = {1: [], 2: [], 4: []}
        same = True
        for turn in range(RUNS):  # in turn, so that a busy moment of the machine meets all of them
            for count, held in ((1, cores[:1]), (2, cores), (4, cores)):
                out = folder / f"{turn}-{count}.mp4"
                with _farm(out.with_suffix("")) as (handing, workers, _):
                    workers.start(count, held)
                    _warm(handing, out.with_suffix(""), count)
                    took[count].append(timed(partial(_made, handing, edit, takes, out)))
                same &= out.read_bytes() == alone.read_bytes()
        whole = _under_fire(folder, edit, takes, alone)
    seconds = {count: statistics.median(each) for count, each in took.items()}
    said = ", ".join(f"{count}: {each:.1f} s" for count, each in seconds.items())
    print(f"     farm: here alone {here:.1f} s, workers {said}; joined in {join:.1f} s", flush=True)
    measured = Measured(seconds[1] / PARTS, FRAMES, join_frames=PARTS * FRAMES / join)
    for line in simulated(measured):
        print(f"     {line}", flush=True)
    gain = statistics.median(one / two for one, two in zip(took[1], took[2], strict=True))
    return [
        told("farm: one worker on one core ÷ two on two", gain, 1.7),
        told("farm: each file the same to the bit as one made alone", same, 1),
        told("farm: the same, workers killed every 5 s, Redis twice", whole, 1),
    ]


@contextmanager
def _farm(folder: Path) -> Iterator[tuple[Handing, Workers, RedisServer]]:
    folder.mkdir()
    redis = RedisServer()
    place = place_in(folder, redis)
    workers = Workers(place)
    try:
        yield Handing(Line(place.redis, KEY), Shared(place.media, folder / "server")), workers, redis
    finally:
        workers.end()
        redis.kill()


def _warm(handing: Handing, folder: Path, count: int) -> None:
    """Have every worker there, with all that it loads once."""
    until(lambda: len(handing.line.workers()) == count, "all workers are there")
    edit, takes = film(folder, 4 * count, 2)
    _made(handing, edit, takes, folder / "warm.mp4")


def _made(handing: Handing, edit: Edit, takes: dict[str, TakeFile], out: Path) -> None:
    with tempfile.TemporaryDirectory(dir=out.parent) as kept:
        render(edit, takes, None, out, "mp4", kept=Path(kept), maker=handing.make_parts)


def _under_fire(folder: Path, edit: Edit, takes: dict[str, TakeFile], alone: Path) -> bool:
    """Whether the file is the same where a worker is killed every few seconds, and Redis twice."""
    with _farm(folder / "fire") as (handing, workers, redis):
        workers.start(2)
        out = folder / "fire.mp4"
        thread = threading.Thread(target=_made, args=(handing, edit, takes, out), daemon=True)
        begun, killed, restarts = time.perf_counter(), 0, 0
        thread.start()
        while thread.is_alive():
            thread.join(KILL_SECONDS)
            if thread.is_alive():
                workers.kill()
                workers.start(1)
                killed += 1
            if thread.is_alive() and killed in (2, 4) and restarts < killed // 2:
                redis.kill()
                time.sleep(AWAY_SECONDS)
                redis.start()
                restarts += 1
        print(
            f"     farm: {time.perf_counter() - begun:.0f} s under fire, {killed} workers killed, "
            f"Redis {restarts} times",
            flush=True,
        )
        return out.exists() and out.read_bytes() == alone.read_bytes()
