"""A smaller picture: by quarters and halves as far as they go, which is quick.

No pixel is left out but up to three at the right and at the bottom, of sides that have no half or quarter.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.compiling import compiled

Picture = NDArray[np.uint8]


@compiled
def quartered(lines: Picture, wide: int, high: int) -> Picture:
    """A picture of a quarter of the size, so wide and high; each pixel is the mean of sixteen, rounded."""
    found = np.empty((high, wide), np.uint8)
    sums, pairs = np.empty(4 * wide, np.uint16), np.empty(2 * wide, np.uint16)
    for y in range(high):
        sums[:] = 0
        for line in range(4 * y, 4 * y + 4):  # One after another, as they lie in memory.
            row = lines[line]
            for x in range(sums.size):
                sums[x] += row[x]
        for x in range(pairs.size):
            pairs[x] = sums[2 * x] + sums[2 * x + 1]
        into = found[y]
        for x in range(into.size):
            into[x] = (pairs[2 * x] + pairs[2 * x + 1] + 8) >> 4
    return found


@compiled
def stretched(picture: Picture, black: int, white: int) -> Picture:
    """A picture whose levels from black to white become 0 to 255."""
    found = np.empty_like(picture)
    times, half, most = np.float32(255 / (white - black)), np.float32(0.5), np.float32(255)
    first = np.float32(black)
    for y in range(picture.shape[0]):
        row, into = picture[y], found[y]
        for x in range(row.size):
            level = max((np.float32(row[x]) - first) * times + half, half)
            into[x] = np.uint8(np.int32(min(level, most)))
    return found


def halved(picture: Any) -> Any:
    """A picture of half the size, each pixel the mean of four."""
    high, wide = (side // 2 for side in picture.shape)
    return cv2.resize(picture[: 2 * high, : 2 * wide], (wide, high), interpolation=cv2.INTER_AREA)


def shrunk(lines: Any, size: tuple[int, int], wanted: tuple[int, int]) -> Any:
    """A picture of the wanted size, each pixel a mean of what it covers.

    Args:
        lines: uint8, shape (lines, line size): the picture and what may stand beside and below it.
        size, wanted: wide and high.
    """
    wide, high = size
    while wide >= 4 * wanted[0] and high >= 4 * wanted[1]:
        wide, high = wide // 4, high // 4
        lines = quartered(lines, wide, high)
    picture = lines[:high, :wide]
    while picture.shape[1] >= 2 * wanted[0] and picture.shape[0] >= 2 * wanted[1]:
        picture = halved(picture)
    # What is left is less than half: in straight lines each pixel counts too, and it is six times as quick.
    return picture if picture.shape[::-1] == wanted else cv2.resize(picture, wanted)
