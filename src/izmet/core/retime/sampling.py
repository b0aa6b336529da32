"""Which picture is seen at a source position, given the way the picture travels?

Moving forward the picture shown is ``floor(p)``, moving backward ``ceil(p)``, so a
pinned moment is never seen one frame early from either side. A rest shows what the
movement before it showed. Where the movement turns, no picture is shown that it has
not reached: a picture shown never steps against the direction of travel.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.retime.profile import Floats

Frames = NDArray[np.int64]
Directions = NDArray[np.int8]
Jumps = NDArray[np.bool_]

REST = 1e-9
"""Source frames between two output frames below which the picture rests."""


def directions(source: Floats, back: Jumps) -> Directions:
    """The way of travel into each output frame, shape as given: 1 forward, −1 backward.

    A rest goes on with the way before it; what begins at rest, with the way it starts out. A
    jump ``back`` into a frame is no travel.
    """
    if len(source) < 2:
        return np.ones(len(source), np.int8)
    step = source[1:] - source[:-1]
    if step.min() > REST and not back.any():  # as most clips do
        return np.ones(len(source), np.int8)
    passed = np.where(back, 0.0, np.concatenate([[0.0], step]))
    way = np.sign(passed) * (np.abs(passed) > REST)
    moving = np.flatnonzero(way)
    if len(moving) == 0:
        return np.ones(len(source), np.int8)
    latest = np.maximum.accumulate(np.where(way != 0, np.arange(len(way)), moving[0]))
    return np.asarray(way[latest], np.int8)


def pictures_shown(source: Floats, way: Directions, back: Jumps) -> Frames:
    """The source frame that is seen at each output frame, shape as given.

    After a jump ``back`` into a frame, what was reached before it counts no more.
    """
    forward = np.floor(source + FRAME_TOLERANCE).astype(np.int64)
    if len(way) == 0 or way.min() > 0:
        return forward
    turns = np.flatnonzero(np.diff(way)) + 1
    shown = np.where(way > 0, forward, np.ceil(source - FRAME_TOLERANCE).astype(np.int64))
    edges = sorted({0, *turns.tolist(), *np.flatnonzero(back).tolist()})
    for begin, end in zip(edges, [*edges[1:], len(way)], strict=True):
        farthest = np.maximum if way[begin] > 0 else np.minimum
        run = slice(begin if back[begin] else max(0, begin - 1), end)
        shown[run] = farthest.accumulate(shown[run])
    return shown
