"""What lies between two pins: a displacement, and the profile that brings it about."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np

from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.retime.pins import Fixed
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.sampling import Jumps
from izmet.core.retime.steps import Steps

Travel = Literal["forward", "rest", "backward"]


@dataclass(frozen=True, eq=False)
class Segment:
    """One span of a clip, solved.

    ``per_frame`` source frames pass per output frame at real time. ``mean`` is the
    profile's area; an open end without room covers no frame and keeps its speed. ``way``
    is the sign that both have in the take. ``skip`` source frames after the first pin's
    are left out. Where it ``lands`` on a moment, that is not seen before its pin, though
    the speed may come to nothing there. ``passes`` work on its travel, in order.
    """

    start: Fixed
    end: Fixed
    per_frame: float
    mean: float
    profile: Profile
    way: int = 1
    skip: int = 0
    lands: bool = False
    passes: tuple[Steps, ...] = ()

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

    @cached_property
    def runs(self) -> Floats:
        """The speeds at both sides of each piece, in order, without the way."""
        if not self.passes:
            return self.profile.runs
        edges = np.unique(np.concatenate([steps.edges for steps in self.passes]))
        bounds = np.concatenate([[self.start.n], edges, [self.end.n]])
        parts = []
        for begin, end in pairwise(bounds.tolist()):
            runs = self._profile_in(begin, end).runs
            for steps in self.passes:
                runs = np.outer(runs, steps.factors_in(begin, end)).ravel()
            parts.append(runs)
        return np.concatenate(parts)

    def _profile_in(self, begin: float, end: float) -> Profile:
        """The profile that is gone through between two output frames; under a bend it may be any of it."""
        if any(steps.bend is not None for steps in self.passes):
            return self.profile
        return self.profile.between(*((n - self.start.n) / self.length for n in (begin, end)))

    @cached_property
    def goes_on(self) -> bool:
        """Whether the picture moves on at every frame, the same way."""
        return self.skip >= 0 and self.profile.slowest > 0 and all(steps.goes_on for steps in self.passes)

    @property
    def speed_in(self) -> float:
        """Speed where the segment begins."""
        return self.way * float(self.runs[0])

    @property
    def speed_out(self) -> float:
        """Speed where it ends."""
        return self.way * float(self.runs[-1])

    def evaluate(self, frames: range) -> tuple[Floats, Floats, Jumps]:
        """Source positions, speeds, and jumps back at some of its output frames, each of shape (frames,)."""
        n = np.arange(frames.start, frames.stop, dtype=np.float64)
        travelled, speed = self.travelled(n)
        back = np.zeros(len(n), bool)
        moved = travelled
        if self.skip:
            over = self._over(travelled)
            moved = travelled + self.skip * over
            if self.skip < 0:
                back[np.flatnonzero(over)[:1]] = True
        for steps in self.passes:
            jumped = np.ceil(steps.edges[steps.jumps[1:] < 0]).astype(int) - frames.start
            back[jumped[(jumped >= 0) & (jumped < len(n))]] = True
        if self.lands:
            moved = np.minimum(moved, abs(self.end.p - self.start.p) - 2 * FRAME_TOLERANCE)
        return self.start.p + self.way * moved, self.way * speed, back

    def at(self, n: Floats) -> tuple[Floats, Floats]:
        """Source positions and speeds at instants inside it, in output frames, shape as given."""
        travelled, speed = self.travelled(n)
        moved = travelled + self.skip * self._over(travelled) if self.skip else travelled
        return self.start.p + self.way * moved, self.way * speed

    def travelled(self, n: Floats) -> tuple[Floats, Floats]:
        """How far it came, without what the first pin leaves out, and how fast it is, shape as given."""
        return self._under(n, len(self.passes))

    def _under(self, n: Floats, passes: int) -> tuple[Floats, Floats]:
        """The same with its first few passes alone."""
        if passes:
            return self.passes[passes - 1].over(n, lambda at: self._under(at, passes - 1))
        speed, passed = self.profile.speed_and_advance((n - self.start.n) / (self.length or 1))
        return passed * (self.per_frame * self.length), speed

    @staticmethod
    def _over(travelled: Floats) -> Jumps:
        """Where what the first pin leaves out is left behind: after the pin's own picture."""
        return travelled >= 1 - FRAME_TOLERANCE
