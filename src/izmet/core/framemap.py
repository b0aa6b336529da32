"""What does each output frame of the edit show?

The map runs from the first frame that any clip covers to the last. Later clips lie
over earlier ones; a frame that no clip covers is black (clip −1).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from izmet.core.retime.solve import Curve, Frames

BLACK = -1


@dataclass(frozen=True)
class FrameMap:
    """``first`` output frame; clip index and source frame for each frame from there, shape (count,)."""

    first: int
    clip: NDArray[np.int32]
    source: Frames

    def __len__(self) -> int:
        return len(self.clip)


def frame_map(curves: Sequence[Curve]) -> FrameMap:
    """The frame map of clips, given their curves from the lowest to the topmost."""
    if not curves:
        return FrameMap(0, np.empty(0, np.int32), np.empty(0, np.int64))
    first = min(curve.pins[0].n for curve in curves)
    last = max(curve.pins[-1].n for curve in curves)
    clip = np.full(last - first + 1, BLACK, np.int32)
    source = np.zeros(last - first + 1, np.int64)
    for index, curve in enumerate(curves):
        covered = slice(curve.pins[0].n - first, curve.pins[-1].n - first + 1)
        clip[covered] = index
        source[covered] = curve.shown
    return FrameMap(first, clip, source)
