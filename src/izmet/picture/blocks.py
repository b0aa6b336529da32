"""What is in a picture, block by block: how light it is, what changes, what stands out.

Pictures of shape (high, wide), rows one after another in memory, are cut into a grid of
(across, down) blocks. Sides that do not go up in it have blocks that differ by a pixel;
a side that is shorter than the grid has blocks that share pixels.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from izmet.compiling import compiled

Blocks = NDArray[np.float32]
Grid = tuple[int, int]

STANDS_OUT, LEAST_ERROR = 3.0, 2.0
"""What goes its own way has an error so many times the usual, and by so many levels more."""
FORGOTTEN = 0.9
"""What is left from picture to picture of an error that was seen."""
NEAR = 2
"""How far a thing may go in a picture, in blocks; the five of a row are named in ``_spread``."""


@compiled
def _parts(side: int, count: int) -> NDArray[np.int64]:
    """First and last but one pixel of each of so many parts of a side."""
    parts = np.empty((count, 2), np.int64)
    for k in range(count):
        parts[k, 0] = k * side // count
        parts[k, 1] = max(parts[k, 0] + 1, (k + 1) * side // count)
    return parts


@compiled
def means(picture: Any, grid: Grid) -> tuple[Blocks, float]:
    """The mean of each block, shape (down, across), and that of the whole picture."""
    across, down = grid
    high, wide = picture.shape
    rows, columns = _parts(high, down), _parts(wide, across)
    blocks = np.empty((down, across), np.float32)
    sums = np.empty(wide, np.float32)
    total, pixels = 0.0, 0
    for j in range(down):
        sums[:] = 0
        for y in range(rows[j, 0], rows[j, 1]):
            row = picture[y]
            for x in range(row.size):
                sums[x] += np.float32(row[x])
        into, along = blocks[j], np.float32(0)
        for i in range(across):
            part, mean = sums[columns[i, 0] : columns[i, 1]], np.float32(0)
            for x in range(part.size):
                mean += part[x]
            along += mean
            size = (rows[j, 1] - rows[j, 0]) * part.size
            into[i] = mean / np.float32(size)
            pixels += size
        total += float(along)
    return blocks, total / pixels


@compiled
def change(before: Any, after: Any, grid: Grid) -> tuple[float, float]:
    """How much two pictures differ: in the mean, and in the block that differs most."""
    difference = np.empty_like(after)
    for y in range(after.shape[0]):
        then, now, into = before[y], after[y], difference[y]
        for x in range(into.size):
            into[x] = max(then[x], now[x]) - min(then[x], now[x])
    blocks, mean = means(difference, grid)
    most = np.float32(0)
    for row in blocks:
        for x in range(row.size):
            most = max(most, row[x])
    return mean, float(most)


@compiled
def _spread(error: Blocks) -> Blocks:
    """The greatest of the blocks near each; none is below 0."""
    down, across = error.shape
    found = np.zeros_like(error)
    row, along = np.zeros(across + 2 * NEAR, np.float32), np.empty(across, np.float32)
    for j in range(down):
        row[NEAR : NEAR + across] = error[j]
        for i in range(along.size):
            along[i] = max(row[i], row[i + 1], row[i + 2], row[i + 3], row[i + 4])
        for other in range(max(0, j - NEAR), min(down, j + NEAR + 1)):
            into = found[other]
            for i in range(into.size):
                into[i] = max(into[i], along[i])
    return found


@compiled
def _centre(error: Blocks, usual: float) -> tuple[float, float]:
    """The centre of what stands out of an error, in parts of the picture; the middle where nothing does."""
    least = STANDS_OUT * usual + LEAST_ERROR
    weight, across, down = 0.0, 0.0, 0.0
    for j in range(error.shape[0]):
        for i in range(error.shape[1]):
            above = max(0.0, error[j, i] - least)
            weight, across, down = weight + above, across + above * (i + 0.5), down + above * (j + 0.5)
    if weight == 0:
        return 0.5, 0.5
    return across / weight / error.shape[1], down / weight / error.shape[0]


@compiled
def _surprise(error: Blocks, known: Blocks) -> tuple[float, Blocks]:
    """The greatest error above what is known there, and what is known now."""
    now, most = _spread(error), -np.inf
    for j in range(error.shape[0]):
        for i in range(error.shape[1]):
            most = max(most, error[j, i] - known[j, i])
            now[j, i] = max(now[j, i], np.float32(FORGOTTEN) * known[j, i])
    return most, now


@compiled
def _own_way(error: Blocks, known: Blocks, usual: float) -> tuple[float, float, float, Blocks]:
    across, down = _centre(error, usual)
    surprise, now = _surprise(error, known)
    return surprise, across, down, now


def own_way(error: Blocks, known: Blocks) -> tuple[float, float, float, Blocks]:
    """What of an error was not there before.

    Args:
        known: what was there, as the picture before told.

    Returns:
        The greatest error above what was known there; across and down, the centre of what stands out, in
        parts of the picture, its middle where nothing does; and what is known now.
    """
    middle = error.size // 2
    found: tuple[float, float, float, Blocks] = _own_way(
        error, known, np.partition(error.ravel(), middle)[middle]
    )
    return found
