"""Slow movement, told over several pictures: between two alone it is lost in their coding.

What the coding moves wrongly between two pictures, it mostly moves back in the next ones.
So each slow movement is read from a span of pictures around it, and is the mean of those
nearby that agree with the one in the middle. Where they do not, what was seen stays.

Source: own.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.picture.local import Floats
from izmet.picture.watching import SLOW, SPAN, Seen

STRAY = 0.01
"""A movement that strays by so much of the picture's width is one of its own."""
AGREE = 0.0015
"""What is so near to the median agrees with it, in parts of the picture's width."""
NEARBY = 6
"""New pictures to each side whose movement is compared."""


def steadied(seen: Seen, distinct_of: NDArray[np.int64], since: NDArray[np.int64]) -> tuple[Floats, Floats]:
    """The movement into each frame, in parts of the picture's width; a frame that repeats a picture is still.

    Args:
        seen: measures of frames.
        distinct_of: number of the distinct picture that each shows, rising from 0, shape (frames,).
        since: the frame from which each one's ``far_x`` and ``far_y`` are counted, shape (frames,).
    """
    steady = np.zeros((2, len(seen)), np.float32)
    new = np.flatnonzero(np.diff(distinct_of, prepend=-1))
    near = np.stack([seen.dx, seen.dy])[:, new]
    around = np.minimum(new + SPAN // 2, len(seen) - 1)
    pictures = (distinct_of - distinct_of[since])[around]
    spanned = np.stack([seen.far_x, seen.far_y])[:, around] / np.maximum(pictures, 1)
    fits = (pictures > 0) & (np.hypot(*(spanned - near)) < STRAY)
    steady[:, new] = _agreed(near, np.where(fits, spanned, near))
    return steady[0], steady[1]


def _agreed(near: Floats, told: Floats) -> Floats:
    """Slow movement as the mean of what agrees nearby, all other as it is near; shape (2, pictures)."""
    if near.shape[1] <= 2 * NEARBY:
        return near
    padded = np.pad(told, ((0, 0), (NEARBY, NEARBY)), mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * NEARBY + 1, axis=1)
    middle = np.median(windows, axis=2)
    agree = np.hypot(*(windows - middle[..., None])) < AGREE
    counts = agree.sum(axis=1)
    slow = (np.hypot(*middle) < SLOW) & (np.hypot(*near) > 0) & (counts > NEARBY)
    slow &= np.hypot(*(near - middle)) < STRAY
    means = (windows * agree).sum(axis=2) / np.maximum(counts, 1)
    return np.where(slow, means, near)
