"""How much of each spot is background, by its colour?

A colour difference key: of the two colour differences of a spot, as a vector, what lies along those of the
background, less what lies across, over the length of the background's own. It is 1 for the background, 0 or
less for grey and for other hues, and between where it is in shade or shines through. Common practice, no
source. The colour differences are those of ITU-R BT.709, of limited range.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.framing import Keying
from izmet.core.shown.light import differences

Plane = NDArray[np.uint8]
Parts = NDArray[np.float32]
GREY, SPAN = 128, 224


def keyed(u: Plane, v: Plane, keying: Keying) -> tuple[tuple[Plane, Plane], Parts]:
    """The colour planes of a picture without the background's colour, and how much of each spot is seen.

    Args:
        u, v: what the picture has of blue and of red, of one shape.

    Returns:
        Both planes again, and parts from 0 to 1 of their shape.
    """
    key = differences(keying.colour)
    length = float(np.hypot(*key))
    way = (key / length).astype(np.float32)
    blue, red = ((plane.astype(np.float32) - GREY) / SPAN for plane in (u, v))
    along, across = blue * way[0] + red * way[1], np.abs(blue * way[1] - red * way[0])
    share = (along - across) / length
    seen = np.clip((1 - keying.near - share) / keying.soft, 0, 1).astype(np.float32)
    less = keying.spill * length * np.maximum(share, 0)
    left = [_coded(each - less * by) for each, by in ((blue, way[0]), (red, way[1]))]
    return (left[0], left[1]), seen


def _coded(difference: Parts) -> Plane:
    return np.clip(np.rint(difference * SPAN + GREY), 0, 255).astype(np.uint8)
