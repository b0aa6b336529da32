"""What lies between two pins: a displacement, and the profile that brings it about."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.retime.pins import Fixed
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.sampling import Frames, Jumps

Travel = Literal["forward", "rest", "backward"]


@dataclass(frozen=True, eq=False)
class Segment:
    """One span of a clip, solved.

    ``per_frame`` source frames pass per output frame at real time. ``mean`` is the
    profile's area; an open end without room covers no frame and keeps its speed. ``way``
    is the sign that both have in the take. ``skip`` source frames after the first pin's
    are left out. Where it ``lands`` on a moment, that is not seen before its pin, though
    the speed may come to nothing there.
    """

    start: Fixed
    end: Fixed
    per_frame: float
    mean: float
    profile: Profile
    way: int = 1
    skip: int = 0
    lands: bool = False

    @property
    def length(self) -> float:
        """Output frames from the first pin to the second."""
        return self.end.n - self.start.n

    @property
    def frames(self) -> range:
        """The whole output frames from the first pin up to the second, which is not counted."""
        return range(math.ceil(self.start.n), math.ceil(self.end.n))

    @property
    def displacement(self) -> float:
        """Source frames that it passes, below 0 backwards; what is left out is not passed."""
        return self.end.p - self.start.p - self.way * self.skip

    @property
    def travel(self) -> Travel:
        """Where the segment leads as a whole; inside, its speed may turn."""
        if self.displacement == 0:
            return "rest"
        return "forward" if self.displacement > 0 else "backward"

    @property
    def speed_in(self) -> float:
        """Speed where the segment begins."""
        return self.way * float(self.profile.runs[0])

    @property
    def speed_out(self) -> float:
        """Speed where it ends."""
        return self.way * float(self.profile.runs[-1])

    def evaluate(self, frames: range) -> tuple[Floats, Floats, Jumps]:
        """Source positions, speeds, and jumps back at some of its output frames, each of shape (frames,)."""
        moved, speed, over = self._moved(np.arange(frames.start, frames.stop))
        back = np.zeros(len(moved), bool)
        if over is not None and self.skip < 0:
            back[np.flatnonzero(over)[:1]] = True
        if self.lands:
            moved = np.minimum(moved, abs(self.end.p - self.start.p) - 2 * FRAME_TOLERANCE)
        return self.start.p + self.way * moved, speed, back

    def at(self, n: Floats) -> tuple[Floats, Floats]:
        """Source positions and speeds at instants inside it, in output frames, shape as given."""
        moved, speed, _ = self._moved(n)
        return self.start.p + self.way * moved, speed

    def _moved(self, n: Floats | Frames) -> tuple[Floats, Floats, Jumps | None]:
        """How far it came, how fast it is there, and whether what it leaves out, if it does, is behind it."""
        speed, passed = self.profile.speed_and_advance(
            np.asarray((n - self.start.n) / (self.length or 1), np.float64)
        )
        moved = self.per_frame * self.length * passed
        over = None
        if self.skip:
            over = moved >= 1 - FRAME_TOLERANCE  # the pin's own picture
            moved += self.skip * over
        return moved, self.way * speed, over
