"""How does a span travel that is cut into stretches, each of them run in its own way?

Over the travel of a span M(n), source frames from its start, the stretch that begins at
the output frame n_i and ends at n_j travels

    m(n) = m(n_i) + j_i + f_i · (M(n_i + A(u) · (n_j − n_i)) − M(n_i)),   u = (n − n_i) / (n_j − n_i)

with a jump j, which is seen on n_i itself, a factor f, and the advance A of a bend from 0
to 1, which is u itself where nothing is bent.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.sampling import Frames

Travel = Callable[[Floats], tuple[Floats, Floats]]


@dataclass(frozen=True, eq=False)
class Steps:
    """What one pass makes of one span from output frame ``begin`` to ``end``.

    ``edges`` are the output frames inside it where a stretch begins, rising, shape (k,);
    ``factors`` and ``jumps`` are those of the stretches, shape (k + 1,), the first jump 0.
    ``bend`` is the profile of each stretch, of mean 1; None where nothing is bent.
    """

    begin: float
    end: float
    edges: Floats
    factors: Floats
    jumps: Floats
    bend: Profile | None = None

    def over(self, n: Floats, beneath: Travel) -> tuple[Floats, Floats]:
        """How far it came and how fast it is at output frames, given the same of what lies beneath it."""
        marks = np.concatenate([[0.0], beneath(self.edges)[0]])
        begun = np.cumsum(self.jumps)
        begun[1:] += np.cumsum(self.factors[:-1] * np.diff(marks))
        stretch = self.stretch_of(n)
        factor = self.factors[stretch]
        if self.bend is not None:
            n, bent = self._bent(self.bend, n, stretch)
            factor = factor * bent
        moved, speed = beneath(n)
        return begun[stretch] + self.factors[stretch] * (moved - marks[stretch]), factor * speed

    def stretch_of(self, n: Floats) -> Frames:
        """In which stretch each output frame lies; on an edge in the one that begins there."""
        return self.edges.searchsorted(n + FRAME_TOLERANCE, side="right")

    def factors_in(self, begin: float, end: float) -> Floats:
        """How many times as fast it may run inside one stretch, in order, shape (some,)."""
        factor = self.factors[self.stretch_of(np.array([(begin + end) / 2]))]
        return factor if self.bend is None else factor * self.bend.runs

    @property
    def goes_on(self) -> bool:
        """Whether it leaves what moves on moving on."""
        return bool(self.jumps.min() >= 0) and (self.bend is None or self.bend.slowest > 0)

    def _bent(self, bend: Profile, n: Floats, stretch: Frames) -> tuple[Floats, Floats]:
        """Where beneath it an output frame lies, and how many times as fast that goes by."""
        bounds = np.concatenate([[self.begin], self.edges, [self.end]])
        begin, end = bounds[stretch], bounds[stretch + 1]
        u = np.clip((n - begin) / (end - begin), 0.0, 1.0)
        speed, advance = bend.speed_and_advance(u)
        at = begin + advance * (end - begin)
        # A bend that comes to rest is all but at its end long before; what begins there is not on yet.
        return np.where(u < 1, np.minimum(at, end - 2 * FRAME_TOLERANCE), at), speed
