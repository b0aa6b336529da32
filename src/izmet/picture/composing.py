"""What becomes of whole pictures on their way to the screen: placed, mixed, lit.

Conventions
    A picture is its three planes in 4:2:0, 8 bits, limited range (ITU-R BT.709): luma of
    shape (high, wide), even sides, and two of colour of half of both. ``VERSION`` goes up
    with any change to what comes out, so that nothing old is joined with new.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.core.shown.framemap import Place

Plane = NDArray[np.uint8]
Floats = NDArray[np.float64]

VERSION = 2
BLACK_LUMA, WHITE_LUMA, NEUTRAL = 16, 235, 128


class Planes(NamedTuple):
    """A picture: luma, and what it has of blue and of red."""

    y: Plane
    u: Plane
    v: Plane

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.y.shape[1], self.y.shape[0]


def black(size: tuple[int, int]) -> Planes:
    """A black picture of this width and height."""
    wide, high = size
    colour = (high // 2, wide // 2)
    return Planes(
        np.full((high, wide), BLACK_LUMA, np.uint8),
        np.full(colour, NEUTRAL, np.uint8),
        np.full(colour, NEUTRAL, np.uint8),
    )


def placed(picture: Planes, size: tuple[int, int], across: float, down: float) -> Planes:
    """A picture in a frame of another size: cut where it is larger, on black where it is smaller.

    Args:
        size: width and height of the frame.
        across, down: which part stays, 0 the left or the top.
    """
    frame = black(size)
    inner = (picture.y.shape[1], picture.y.shape[0])
    # Even offsets, so that colour, at half the size, is moved by whole samples. Below 0 it is cut.
    left, top = (
        2 * round((side - other) * part / 2)
        for side, other, part in zip(size, inner, (across, down), strict=True)
    )
    for index, (area, plane) in enumerate(zip(frame, picture, strict=True)):
        share = 2 if index else 1
        y, x = top // share, left // share
        shown = plane[max(0, -y) :, max(0, -x) :][: area.shape[0], : area.shape[1]]
        area[max(0, y) : max(0, y) + shown.shape[0], max(0, x) : max(0, x) + shown.shape[1]] = shown
    return frame


def mixed(under: Planes, over: Planes, opacity: float) -> Planes:
    """A picture with another one over it, which has this part of what is seen, 0 to 1."""
    return Planes(
        *(
            np.asarray(cv2.addWeighted(top, opacity, bottom, 1 - opacity, 0), np.uint8)
            for bottom, top in zip(under, over, strict=True)
        )
    )


def laid(under: Planes, over: Planes, opacity: float, place: Place) -> Planes:
    """A picture with another one over a part of it, moved, to whole samples of colour."""
    wide, high = over.size
    x, left, right = (2 * round(part * wide / 2) for part in (place.x, place.left, place.right))
    y, top, bottom = (2 * round(part * high / 2) for part in (place.y, place.top, place.bottom))
    found = []
    for index, (bottom_plane, top_plane) in enumerate(zip(under, over, strict=True)):
        share = 2 if index else 1
        to = (
            slice(max(0, y, top) // share, max(0, min(high, high + y, bottom)) // share),
            slice(max(0, x, left) // share, max(0, min(wide, wide + x, right)) // share),
        )
        of = (
            slice(to[0].start - y // share, to[0].stop - y // share),
            slice(to[1].start - x // share, to[1].stop - x // share),
        )
        plane = bottom_plane.copy()
        if plane[to].size:
            plane[to] = cv2.addWeighted(top_plane[of], opacity, plane[to], 1 - opacity, 0)
        found.append(plane)
    return Planes(*found)


def weighted(pictures: Sequence[Planes], weights: Floats) -> Planes:
    """Some pictures seen together, each with its weight, above 0 and 1 in all."""
    found = []
    parts = weights / np.cumsum(weights)
    for first, *others in zip(*pictures, strict=True):
        mean = first.astype(np.float32)
        for plane, part in zip(others, parts[1:], strict=True):
            cv2.accumulateWeighted(plane, mean, part)
        found.append(np.asarray(cv2.convertScaleAbs(mean), np.uint8))
    return Planes(*found)


def flash(picture: Planes, light: float) -> Planes:
    """A picture with white light over it, which has this part of what is seen, 0 to 1."""
    return Planes(
        *(
            np.asarray(cv2.convertScaleAbs(plane, alpha=1 - light, beta=light * white), np.uint8)
            for plane, white in zip(picture, (WHITE_LUMA, NEUTRAL, NEUTRAL), strict=True)
        )
    )


LOOKS: dict[str, Callable[..., Planes]] = {"flash": flash}
"""What can be done to a whole picture: by kind, a function of the picture and its parameters by name."""
