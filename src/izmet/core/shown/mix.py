"""What is heard when?

The mix of an edit is a list of voices: the song, and the own sound of each clip that is
not mute. All instants are seconds of the edit. A clip's sound goes with its picture: as
fast, the same way, and with each tie's moment on its cue.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from hashlib import sha256
from typing import NamedTuple

from izmet.core.document.edit import Edit
from izmet.core.document.rates import seconds_at
from izmet.core.music.facts import heard
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve, solve

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
    for clip in edit.clips:
        if clip.level > 0:
            curve = solve(edit, clip)
            begin, end = (seconds_at(n, edit.rate) for n in (curve.first, curve.last + 1))
            way = Bent(curve, edit.rate, edit.take(clip.take).rate)
            found.append(Voice(clip.take, way, begin, end, clip.level))
    return found
