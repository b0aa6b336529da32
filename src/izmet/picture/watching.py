"""What is to be measured in each picture of a take, one after the other.

Pictures are luma, uint8, of ``SIZE`` or smaller sides; whatever the size, they are
looked at through a grid of blocks. The first picture is compared with itself.
"""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from izmet.picture import blocks
from izmet.picture.motion import STILL, Shift, View, movement, refined, unlike
from izmet.picture.shrinking import Picture

Floats = NDArray[np.float32]
Blocks = NDArray[np.uint8]

SIZE = (320, 180)
"""Within which pictures are looked at, wide and high."""
GRID = (32, 18)
"""Blocks across and down."""
FINE = (40, 30)
"""Finer blocks, in which a small thing shows."""
SPAN = 5
"""Pictures over which slow movement is told once more; odd, so that a movement is in its middle."""
SLOW = 0.015
"""Movement a picture below so much of its width is slow."""


@dataclass(frozen=True)
class Seen:
    """Measures of a take's pictures, each of shape (pictures,) unless it says otherwise.

    Attributes:
        light: mean luma, 0..1.
        blocks: mean luma of each block, 0..255, shape (pictures, 18, 32).
        dx, dy: the content's movement since the picture before, in parts of the picture's width.
        far_x, far_y: the same since ``SPAN`` pictures before, or since the first; told at once where it is
            slow, otherwise the sum of what lies between.
        change: mean absolute difference from the picture before, in levels.
        most: the same of the fine block that changes most: where only a small thing moves.
        surprise: the greatest error of a fine block against the picture before as it moved, in levels,
            above what was there and near it in the pictures before: a thing that goes its own way is
            none, a thing that appears is.
        unrest: the mean of that error over the whole picture, in levels.
        kept: how much of the structure of the picture before is kept, as a correlation.
        across, down: where in the picture that error is, its centre, 0..1; the middle where there is none.
    """

    light: Floats
    blocks: Blocks
    dx: Floats
    dy: Floats
    far_x: Floats
    far_y: Floats
    change: Floats
    most: Floats
    surprise: Floats
    unrest: Floats
    kept: Floats
    across: Floats
    down: Floats

    def __len__(self) -> int:
        return len(self.light)

    def at(self, pictures: NDArray[np.int64]) -> Seen:
        """The measures of frames, given the picture that each shows; a frame that repeats one is still."""
        again = np.diff(pictures, prepend=-1) == 0
        found = {name: column[pictures] for name, column in vars(self).items()}
        for name in ("dx", "dy", "change", "most", "surprise", "unrest"):
            found[name][again] = 0
        found["kept"][again] = 1
        return Seen(**found)


class Watcher:
    """Looks at pictures in order of time."""

    def __init__(self) -> None:
        self._rows: list[tuple[float, ...]] = []
        self._blocks: list[Any] = []
        self._luma: Picture | None = None
        self._views: deque[View] = deque(maxlen=SPAN)
        self._shifts: deque[Shift] = deque([STILL], maxlen=SPAN)
        self._known: Any = np.zeros(FINE[::-1], np.float32)

    def look(self, luma: Picture) -> None:
        """Take in the next picture; all have one size."""
        view = View.of(luma)
        before = self._views[-1] if self._views else view
        change, most = blocks.change(luma if self._luma is None else self._luma, luma, FINE)
        shift = movement(before, view, self._shifts[-1]) if change else STILL
        error, kept = unlike(before, view, shift)
        error_of_blocks, unrest = blocks.means(error, FINE)
        surprise, across, down, self._known = blocks.own_way(error_of_blocks, self._known)
        self._shifts.append(shift)
        far = self._far(view, SLOW * luma.shape[1])
        self._views.append(view)
        light_of_blocks, light = blocks.means(luma, GRID)
        shifts = (way / luma.shape[1] for way in (*shift, *far))
        self._rows.append((light / 255, *shifts, change, round(most), surprise, unrest, kept, across, down))
        self._blocks.append(np.rint(light_of_blocks).astype(np.uint8))
        self._luma = luma

    def _far(self, view: View, slow: float) -> Shift:
        """The movement over the last pictures."""
        dx, dy = (sum(way) for way in zip(*self._shifts, strict=True))
        moves = 0 < math.hypot(dx, dy) < slow * len(self._shifts)
        return refined(self._views[0], view, (dx, dy)) if moves else (dx, dy)

    def seen(self) -> Seen:
        """All that was measured."""
        light, *rest = np.array(self._rows, np.float32).reshape(-1, 12).T
        light_of_blocks = np.array(self._blocks, np.uint8).reshape(-1, GRID[1], GRID[0])
        return Seen(light, light_of_blocks, *rest)
