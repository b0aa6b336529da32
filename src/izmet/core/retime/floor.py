"""How slow may a take run before pictures repeat?

A picture that is held for some source frames is passed in one step when a step is at least
so long. So the smooth floor is the speed at which as many source frames pass an output
frame as one picture is held: for a take of 60 fps that holds 24 pictures a second as 3, 2,
3, 2 that is three, whatever frame it begins on. Where its own pictures stand still for
longer, now and then, they repeat at any speed that anybody would call smooth; these are
left out. Where something is seen between two pictures none repeats, and there is no floor.
"""

from __future__ import annotations

import math
from fractions import Fraction
from functools import lru_cache

import numpy as np

from izmet.core.document.edit import Clip, Edit, Take
from izmet.core.retime.sampling import Frames

STANDING = 0.05
"""The part of a take's pictures that may be held longer than is usual in it."""


def floor_of(edit: Edit, clip: Clip) -> float:
    """The lowest speed at which no picture of a clip repeats; 0 where something is seen between all."""
    held = any(motion.between == "held" for motion in edit.motions_of(clip))
    return smooth_floor(edit, edit.take(clip.take)) if held else 0.0


def smooth_floor(edit: Edit, take: Take) -> float:
    """The lowest speed at which no picture repeats, where the take itself does not stand still."""
    return _floor(edit.rate, take.rate, held_frames(take))


@lru_cache(4096)
def _floor(rate: Fraction, take_rate: Fraction, held: int) -> float:
    return float(rate * held / take_rate)


def held_frames(take: Take) -> int:
    """Source frames for which one picture is held at the most: as was counted, else if spread evenly."""
    return take.held or max(1, math.ceil(take.rate / take.distinct))


def most_held(pictures: Frames) -> int:
    """Source frames for which most pictures are held at the most.

    Args:
        pictures: the distinct picture that each source frame shows, shape (frames,).
    """
    edges = np.flatnonzero(np.diff(pictures)) + 1
    runs = np.sort(np.diff(np.concatenate([[0], edges, [len(pictures)]])))
    return int(runs[math.ceil(len(runs) * (1 - STANDING)) - 1])
