"""Between which pictures of a take is it worth looking for optical flow?

Between such that hardly differ a blend is the same; one that has moved too far cannot be followed.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.picture.cadence import held
from izmet.picture.watching import Seen

Flags = NDArray[np.bool_]

STILL_LEVELS = 3.0
"""Levels up to which the block of a picture that changes most hardly differs."""
FAR = 0.17
"""Parts of the width that a picture may move as a whole. Measured on pictures moved by known ways: at .16
flow is 5 to 10 dB better than a blend, at .2 by nothing to 6, from .25 on worse."""


def still(seen: Seen, is_new: Flags) -> Flags:
    """Which frames hold a picture that hardly differs from the one before, shape (frames,).

    Args:
        is_new: which frames hold another picture than the frame before, shape (frames,).
    """
    return held(seen.most, is_new) < STILL_LEVELS


def far(seen: Seen, is_new: Flags) -> Flags:
    """Which frames hold a picture that has moved too far since the one before, shape (frames,)."""
    return held(np.hypot(seen.dx, seen.dy), is_new) > FAR
