"""Which output frames repeat a picture, and which pass pictures over?

A take may hold fewer distinct pictures than frames, so a frame number alone does
not tell whether two frames look different: ``pictures`` gives the number of the
distinct picture that each source frame holds.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.core.edit import Edit, Take
from izmet.core.retime.solve import Frames


def smooth_floor(edit: Edit, take: Take) -> float:
    """The lowest speed at which no picture repeats: edit rate ÷ the take's distinct rate."""
    return float(edit.rate / take.distinct)


def steps(shown: Frames, pictures: Frames | None = None) -> Frames:
    """Distinct pictures passed from each output frame to the next, shape (count,).

    The first frame counts as one. 0 marks a repeat, more than 1 a skip.

    Args:
        shown: source frame at each output frame, shape (count,).
        pictures: distinct picture of each source frame, shape (source frames,);
            without it every frame counts as a picture of its own.
    """
    seen = shown if pictures is None else pictures[np.clip(shown, 0, len(pictures) - 1)]
    return np.diff(seen, prepend=seen[:1] - 1)


def repeats(shown: Frames, pictures: Frames | None = None) -> NDArray[np.bool_]:
    """True where an output frame shows the same picture as the one before, shape (count,)."""
    return np.equal(steps(shown, pictures), 0)
