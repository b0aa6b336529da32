"""Do a clip's repeats stutter, or do they come in an even beat?

Where every picture is held equally long (25 pictures a second in 50 frames, or 24 in 60 as
2, 3, 2, 3), the eye sees a lower rate, not a stutter: from picture to picture the start
strays less than a frame from an even count. A freeze inside movement does stutter.
"""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel

from izmet.core.retime.sampling import Frames

FEWEST = 6
"""Pictures from which an even beat can be told."""


class Smoothness(BaseModel):
    """How a clip's pictures follow each other.

    ``worst`` is the first output frame of the longest run of repeats; ``even`` is the count
    of frames that each picture is held, where that is the same all through.
    """

    repeats: int
    skips: int
    longest: int
    worst: int | None
    even: float | None


def smoothness(steps: Frames, first: int) -> Smoothness:
    """Told from the distinct pictures passed at each output frame from ``first``, shape (count,)."""
    repeated = steps == 0
    edges = np.flatnonzero(np.diff(np.concatenate([[0], repeated.view(np.int8), [0]])))
    runs = edges[1::2] - edges[::2]
    longest = int(runs.max()) if len(runs) else 0
    return Smoothness(
        repeats=int(repeated.sum()),
        skips=int(np.count_nonzero(steps > 1)),
        longest=longest,
        worst=first + int(edges[2 * int(runs.argmax())]) if longest else None,
        even=_even(steps) if longest else None,
    )


def _even(steps: Frames) -> float | None:
    begins = np.flatnonzero(steps != 0)
    if len(begins) < FEWEST or (steps[begins] != 1).any():
        return None
    count = np.arange(len(begins))
    held = (begins[-1] - begins[0]) / count[-1]
    strayed = begins - begins[0] - held * count
    return float(held) if np.ptp(strayed) < 1 and held > 1 else None
