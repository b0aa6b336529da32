"""What is heard when?

The mix of an edit is a list of voices: the song, and the own sound of each clip that is
not mute, where the clip is seen, or wherever it lies if that is wished; black hides no sound. All
instants are seconds of the edit. A clip's sound goes with its picture: as fast, the same way, and with
each tie's moment on its cue.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from hashlib import sha256
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Edit
from izmet.core.document.rates import seconds_at
from izmet.core.music.facts import heard
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve, solve
from izmet.core.shown.framemap import FrameMap, frame_map
from izmet.core.shown.insets import insets_in

SONG = "song"


class Plain(NamedTuple):
    """The way through a sound that is heard as it is; its own instant 0 lies at ``origin``."""

    origin: float

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        return str(self.origin)


@dataclass(frozen=True, eq=False)
class Bent:
    """The way through a take's sound that goes with a clip's picture."""

    curve: Curve
    rate: Fraction
    take_rate: Fraction

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        curve = self.curve
        seen = sha256(curve.source.tobytes() + curve.speed.tobytes()).hexdigest()
        return f"{curve.first} {self.rate} {self.take_rate} {seen}"

    def at(self, instants: Floats) -> tuple[Floats, Floats]:
        """Where it is at instants of the edit, in seconds of the take, and how fast it runs there.

        Args:
            instants: rising, shape (count,). Speeds are relative to real time, below 0 backwards.
        """
        position, speed = self.curve.at(instants * float(self.rate))
        return position / float(self.take_rate), speed


class Voice(NamedTuple):
    """One sound: ``source`` is a take's id, or ``song``. It is heard from ``begin`` to ``end``."""

    source: str
    way: Plain | Bent
    begin: float
    end: float
    level: float

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        return f"{self.source} {self.way.told} {self.begin} {self.end} {self.level}"


def voices(edit: Edit) -> list[Voice]:
    """All voices of an edit. Raises Refusal when a clip that is not mute cannot be solved."""
    found = []
    if edit.song is not None:
        found.append(Voice(SONG, Plain(edit.song.start), *heard(edit.song), edit.song.level))
    ground = None
    for place, clip in enumerate(edit.clips):
        if clip.level == 0:
            continue
        curve = solve(edit, clip)
        way = Bent(curve, edit.rate, edit.take(clip.take).rate)
        stretches = [curve.covered]
        if not clip.under:
            ground = ground or _ground(edit)
            stretches = list(_seen(ground, place, clip.inset is not None, curve))
        for frames in stretches:
            begin, end = (seconds_at(n, edit.rate) for n in (frames.start, frames.stop))
            found.append(Voice(clip.take, way, begin, end, clip.level))
    return found


def _ground(edit: Edit) -> FrameMap:
    """Which clip fills each frame, were nothing black."""
    ids = [clip.id for clip in edit.clips]
    return frame_map(ids, [solve(edit, clip) for clip in edit.clips], insets=insets_in(edit.clips))


def _seen(ground: FrameMap, place: int, inset: bool, curve: Curve) -> Iterator[range]:
    """The stretches of a clip in which no later one fills the frame."""
    over = ground.clip[ground.part_of(curve.covered)]
    seen = over < place if inset else over == place
    edges = np.flatnonzero(np.diff(seen, prepend=False, append=False)).tolist()
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        yield range(curve.first + begin, curve.first + end)
