"""The core alone: one clip, and one tie among two hundred clips, beside numpy.interp as the floor."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from bench.figures import timed, told
from izmet.core import commands as do
from izmet.core.document.edit import Clip, Cue, Dip, Edit, Media, Moment, Pin, Song, Take
from izmet.core.following.derived import DerivedChange, changes
from izmet.core.following.workings import Workings, work_out
from izmet.store import edits
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import database

FRAMES = 600
STEPS = 120
MEDIA = Media(name="any", sha256="0" * 64)


def montage(clips: int, cues: int = 3000, sha256: str = "0" * 64, ties: int = 2) -> Edit:
    """An edit of many short clips, each with some ties, over a song with thousands of cues."""
    media = Media(name="any", sha256=sha256)
    marks = tuple(Cue(id=f"cue-{i}", time=0.09 * i, kind="kick") for i in range(cues))
    parts = [k / (ties - 1) for k in range(ties)]
    moments = tuple(Moment(id=f"moment-{k + 1}", frame=60 + round(40 * part)) for k, part in enumerate(parts))
    takes = tuple(
        Take(
            id=f"take-{i}", media=media, rate="60", frames=300, distinct="60", width=1280, height=720,
            moments=moments,
        )
        for i in range(min(60, clips))
    )  # fmt: skip
    laid = tuple(
        Clip(
            id=f"clip-{i}", take=f"take-{i % len(takes)}",
            spans=(Dip(speed=1), *[Dip()] * (ties - 1), Dip(speed=1)),
            pins=(
                Pin(id="pin-1", p=30),
                *(
                    Pin(id=f"pin-{k + 2}", cue=f"cue-{14 * i + 20 + after}", moment=f"moment-{k + 1}")
                    for k, after in enumerate(round(7 * part) for part in parts)
                ),
                Pin(id=f"pin-{ties + 2}", p=130),
            ),
        )
        for i in range(clips)
    )  # fmt: skip
    song = Song(media=MEDIA, duration=0.09 * cues + 1, sample_rate=44100, cues=marks)
    return Edit(title="montage", rate="60", song=song, takes=takes, clips=laid)


def core_figures() -> list[bool]:
    """Whether each bound is met."""
    edit = montage(200)
    steps = [_drag(edit, step) for step in range(STEPS)]
    one = montage(1)
    alone = [_drag(one, step) for step in range(STEPS)]
    at = np.linspace(0, FRAMES, FRAMES)
    floor = statistics.median(
        timed(lambda: np.interp(at, [0, 200, FRAMES], [0, 100, 900])) for _ in range(99)
    )
    print(f"     numpy.interp over {FRAMES} points: {floor * 1000:.3f} ms")
    p95 = statistics.quantiles(steps, n=20)[18] * 1000
    return [
        told("core: one clip, one tie moved", statistics.median(alone) * 1000, 2, " ms", at_least=False),
        told("core: 200 clips, one tie moved, p95", p95, 10, " ms", at_least=False),
        told("core: 1,000 ties, one cue moved, p95", _cue_moved(), 50, " ms", at_least=False),
        *_kept(edit),
    ]


def _drag(edit: Edit, step: int) -> float:
    """Seconds that one step of a tie's drag takes: the command, what follows, and what of it changed."""
    number = len(edit.clips) // 2
    cue = f"cue-{14 * number + 21 + step % 5}"
    command = do.ChangeTie(clip=f"clip-{number}", pin="pin-2", cue=cue)
    return timed(_would_change(work_out(edit, {}), command))


def _would_change(before: Workings, command: do.Command) -> Callable[[], DerivedChange]:
    """What the app does at each step of a drag."""
    return lambda: changes(before.derived, work_out(do.attempt(before.edit, command), {}, before).derived)


def _cue_moved() -> float:
    """The 95th percentile, in ms, of moving a cue that a tie hangs on, with all that follows from it."""
    edit = montage(200, ties=5)
    before = work_out(edit, {})
    cue = edit.clips[100].pins[2].cue or ""
    at = edit.cue(cue).time
    times = []
    for step in range(STEPS):
        command = do.ChangeCue(cue=cue, time=at + 0.004 * (step % 9 - 4))
        times.append(timed(_would_change(before, command)))
    return statistics.quantiles(times, n=20)[18] * 1000


def _kept(edit: Edit) -> list[bool]:
    """What 2,000 commands add to the database, how long one takes, and a list of 200 edits."""
    with tempfile.TemporaryDirectory() as name:
        folder = DataFolder(Path(name)).prepare()
        open_database(folder)
        with database.connection_context():
            for number in range(200):
                stored = edits.create(edit if number == 199 else montage(2, 60))
            database.execute_sql("PRAGMA wal_checkpoint(TRUNCATE)")
            before = folder.database.stat().st_size
            times = []
            for step in range(2000):
                cue = f"cue-{(step * 37) % 2900}"
                command = do.ChangeCue(cue=cue, time=edit.cue(cue).time + 0.0001 * (step % 90))
                began = time.perf_counter()
                stored = edits.run(stored.id, stored.revision, command)
                times.append(time.perf_counter() - began)
            database.execute_sql("PRAGMA wal_checkpoint(TRUNCATE)")
            added = (folder.database.stat().st_size - before) / 1e6
            listing = statistics.median(
                timed(lambda: json.dumps([e.title for e in edits.listing()])) for _ in range(9)
            )
    median = statistics.median(times) * 1000
    return [
        told("store: 2,000 commands, 3,000 cues, 200 clips", added, 30, " MB", at_least=False),
        told("store: one command, median", median, 50, " ms", at_least=False),
        told("store: a list of 200 edits", listing * 1000, 300, " ms", at_least=False),
    ]
