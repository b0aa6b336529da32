"""How does a span travel that is cut into stretches, each quicker or slower than it was?

Over the travel of a span M(n), source frames from its start, the stretch that begins at
the output frame n_i travels

    m(n) = m(n_i) + j_i + f_i · (M(n) − M(n_i))

with a factor f and a jump j, which is seen on n_i itself.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Frames

Travel = Callable[[Floats], tuple[Floats, Floats]]


@dataclass(frozen=True, eq=False)
class Steps:
    """What one pass makes of one span.

    ``edges`` are the output frames inside it where a stretch begins, rising, shape (k,);
    ``factors`` and ``jumps`` are those of the stretches, shape (k + 1,), the first jump 0.
    """

    edges: Floats
    factors: Floats
    jumps: Floats

    def over(self, n: Floats, beneath: Travel) -> tuple[Floats, Floats]:
        """How far it came and how fast it is at output frames, given the same of what lies beneath it."""
        marks = np.concatenate([[0.0], beneath(self.edges)[0]])
        begun = np.cumsum(self.jumps)
        begun[1:] += np.cumsum(self.factors[:-1] * np.diff(marks))
        moved, speed = beneath(n)
        stretch = self.stretch_of(n)
        factor = self.factors[stretch]
        return begun[stretch] + factor * (moved - marks[stretch]), factor * speed

    def stretch_of(self, n: Floats) -> Frames:
        """In which stretch each output frame lies; on an edge in the one that begins there."""
        return self.edges.searchsorted(n + FRAME_TOLERANCE, side="right")
