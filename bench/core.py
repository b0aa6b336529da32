"""The core and the store, each step in bare requests: what Flask takes to answer nothing, in turn with it.

What is asked was said in milliseconds; the bounds are about those over the .6 that a bare
request takes between other work on a quiet machine. Only a fill takes more than its half a
second, by up to a half: its bound is what it takes.
"""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from flask import Flask

from bench.figures import timed, told
from izmet.core import commands as do
from izmet.core.commands.common import with_
from izmet.core.commands.passes import PulseChange
from izmet.core.commands.slots import Shot
from izmet.core.document.edit import Clip, Cue, Dip, Edit, Moment, PulseValues, Song, Take
from izmet.core.document.places import Pin
from izmet.core.document.values import Media
from izmet.core.following.derived import DerivedChange, changes
from izmet.core.following.workings import Workings, workings_of
from izmet.store import edits
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import database

STEPS = 120
MEDIA = Media(name="any", sha256="0" * 64)


def montage(clips: int, cues: int = 3000, sha256: str = "0" * 64, ties: int = 2, frames: int = 300) -> Edit:
    """An edit of many short clips, each with some ties, over a song with thousands of cues."""
    media = Media(name="any", sha256=sha256)
    marks = tuple(Cue(id=f"cue-{i}", time=0.09 * i, kind="kick") for i in range(cues))
    parts = [k / (ties - 1) for k in range(ties)]
    moments = tuple(Moment(id=f"moment-{k + 1}", frame=60 + round(40 * part)) for k, part in enumerate(parts))
    takes = tuple(
        Take(
            id=f"take-{i}", media=media, rate="60", frames=frames, distinct="60", width=1280, height=720,
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
    one, many = montage(1), montage(200)
    alone, _ = in_bare_requests(lambda step: _drag(one, step), STEPS)
    _, among = in_bare_requests(lambda step: _drag(many, step), STEPS)
    _, moved = in_bare_requests(_cue_moved(), STEPS)
    filled, _ = in_bare_requests(lambda step: _filled(), 5)
    _, pulsed = in_bare_requests(_pulse_dragged(), STEPS)
    return [
        told("core: one clip, one tie moved, in bare requests", alone, 4, at_least=False),
        told("core: 200 clips, one tie moved, p95", among, 17, at_least=False),
        told("core: 1,000 ties, one cue moved, p95", moved, 80, at_least=False),
        told("core: 2,000 slots filled", filled, 1250, at_least=False),
        told("core: four pulses on 600 frames, one dragged, p95", pulsed, 27, at_least=False),
        *_kept(many),
    ]


def in_bare_requests(step: Callable[[int], float], count: int) -> tuple[float, float]:
    """Median and 95th percentile of some steps' times, over the median of a bare request."""
    app = Flask(__name__)
    app.add_url_rule("/", "nothing", lambda: {})
    client = app.test_client()
    bare, times = [], []
    for number in range(count):
        bare.append(timed(lambda: client.get("/")))
        times.append(step(number))
    floor = statistics.median(bare)
    print(f"     a bare request between these: {floor * 1000:.2f} ms", flush=True)
    return statistics.median(times) / floor, statistics.quantiles(times, n=20)[18] / floor


def _filled() -> float:
    """Seconds that 2,000 slots between cues take to fill from twenty takes, and to be found good."""
    count = 2000
    cues = tuple(Cue(id=f"cue-{i}", time=0.5 * i, kind="kick") for i in range(count + 1))
    takes = montage(20).takes
    song = Song(media=MEDIA, duration=0.5 * count + 1, sample_rate=44100, cues=cues)
    edit = Edit(title="filled", rate="60", song=song, takes=takes)
    shots = tuple(Shot(take=take.id) for take in takes)
    command = do.FillSlots(cues=tuple(cue.id for cue in cues), shots=shots)
    return timed(lambda: do.apply(edit, command))


def _drag(edit: Edit, step: int) -> float:
    """Seconds that one step of a tie's drag takes: the command, what follows, and what of it changed."""
    number = len(edit.clips) // 2
    cue = f"cue-{14 * number + 21 + step % 5}"
    command = do.ChangeTie(clip=f"clip-{number}", pin="pin-2", cue=cue)
    return timed(_would_change(workings_of(edit, {}), command))


def _pulse_dragged() -> Callable[[int], float]:
    """Seconds that one step of a drag of an amount takes, of four pulses on twenty cues of ten seconds."""
    edit = montage(1, frames=2000)
    ties = [Pin(id="pin-1", n=60, p=10), Pin(id="pin-2", n=660, p=900)]
    clip = with_(edit.clips[0], spans=(Dip(),), pins=tuple(ties))
    edit = edit.model_copy(update={"clips": (clip,)})
    cues = tuple(cue.id for cue in edit.song.cues[20:120:5]) if edit.song else ()
    for pattern in ("step", "push", "wander", "dash"):
        values = PulseValues(pattern=pattern, amounts=(2,))
        edit = do.apply(edit, do.AddPulse(clip=clip.id, cues=cues, values=values))
    before = workings_of(edit, {})

    def step(number: int) -> float:
        pulse = PulseChange(amounts=(2 + number / 100,))
        return timed(_would_change(before, do.ChangePass(clip=clip.id, id="pass-1", pulse=pulse)))

    return step


def _would_change(before: Workings, command: do.Command) -> Callable[[], DerivedChange]:
    """What the app does at each step of a drag."""
    return lambda: changes(before.derived, workings_of(do.attempt(before.edit, command), {}, before).derived)


def _cue_moved() -> Callable[[int], float]:
    """Seconds of one step of moving a cue that a tie hangs on, among 1,000 ties, with all that follows."""
    edit = montage(200, ties=5)
    before = workings_of(edit, {})
    cue = edit.clips[100].pins[2].cue or ""
    at = edit.cue(cue).time

    def step(number: int) -> float:
        command = do.ChangeCue(cue=cue, time=at + 0.004 * (number % 9 - 4))
        return timed(_would_change(before, command))

    return step


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

            def run(step: int) -> float:
                nonlocal stored
                cue = f"cue-{(step * 37) % 2900}"
                command = do.ChangeCue(cue=cue, time=edit.cue(cue).time + 0.0001 * (step % 90))
                began = time.perf_counter()
                stored = edits.run(stored.id, stored.revision, command)
                return time.perf_counter() - began

            median, _ = in_bare_requests(run, 2000)
            database.execute_sql("PRAGMA wal_checkpoint(TRUNCATE)")
            added = (folder.database.stat().st_size - before) / 1e6
            listing, _ = in_bare_requests(
                lambda step: timed(lambda: json.dumps([e.title for e in edits.listing()])), 9
            )
    return [
        told("store: 2,000 commands, 3,000 cues, 200 clips", added, 30, " MB", at_least=False),
        told("store: one command, in bare requests", median, 80, at_least=False),
        told("store: a list of 200 edits", listing, 20, at_least=False),
    ]
