"""What is seen between two pictures: each is moved along its motion to the other.

Conventions
    ``part`` is how far the instant lies from the first picture to the second, 0 to 1. A motion is
    of each pixel of one picture's luma, in pixels to where it is found in the other, shape
    (high, wide, 2), across and down. Motion is searched with OpenCV's dense inverse search:
    Kroeger, Timofte, Dai and Van Gool, Fast Optical Flow using Dense Inverse Search, ECCV 2016.

Both motions are read at the instant's own pixels, which leaves no holes; where flow is fine, so
is their mean, for what one of them does not find. What stands still in both pictures stays,
so that a score or a map over the picture does not swim; where the moved pictures agree far less
than they did unmoved, they are blended as they lie. Where nothing of one is found in the
other, there is another scene, and the nearer picture is seen alone. ``VERSION`` goes up with
any change to what comes out, so that nothing old is joined with new.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, cast

import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Flowing
from izmet.picture.composing import Plane, Planes

VERSION = 4
Motion = NDArray[np.floating[Any]]
Trust = NDArray[np.floating[Any]]

LEAST_SIDE = 64
"""Pixels that a picture is given on each side: on smaller ones OpenCV fails, or ends the program."""
LEAST_HIGH: dict[Flowing, int] = {"draft": 270, "fine": 360}
"""Pixels on the shorter side of the smallest picture in which motion is looked for. In those of 720 lines at
full size fine flow takes three times as long, for a tenth of a dB."""
AROUND = (5, 5)
"""Pixels that two pictures are compared over."""
STILL, MOVES = 0.5, 2.0
"""Levels up to which a pixel stands still, and from which on it does not."""
DOUBLE, DOUBT = 2.0, 30.0
"""Moved pictures are trusted while they differ by no more than twice as they lie, and by so many levels more
not at all. Blending is the worse guess even where motion is not found well."""
ASTRAY, ASTRAY_PART = 1.0, 0.1
"""Pixels by which the way there and back may miss, and by which part of the way more."""
OTHER_SCENE, UNFOUND, DIFFERS = 0.5, 0.6, 4.0
"""Two pictures are of two scenes, or too far apart to be followed, where so much of them goes astray, and so
much of a difference of so many levels is left when both are moved."""
LIT = 20.0
"""Levels by which a picture is lighter or darker as a whole, from which on light rises or falls at once."""
BAND_PIXELS = 1 << 18
"""Of a plane, that are worked on together."""


@dataclass(frozen=True, eq=False)
class Flow:
    """The motion of two pictures to each other, found in pictures ``by`` times smaller and in their pixels.

    ``trust`` tells where it is to be trusted, up to 255, a uint8 for each pixel of the pictures.
    ``astray`` is the part of the picture in which the way there and back does not lead home.
    ``is_cut``: they are of two scenes, or of two lights.
    """

    forth: Motion
    back: Motion
    trust: Plane
    by: int
    is_fine: bool
    is_cut: bool
    astray: float

    @cached_property
    def middle(self) -> Motion:
        """The mean of both, as that of the first picture."""
        return (self.forth - self.back) / 2


def flow_of(first: Plane, second: Plane, quality: Flowing) -> Flow:
    """The motion between two pictures, given their luma."""
    is_fine = quality == "fine"
    by = _smaller(first.shape, LEAST_HIGH[quality])
    pair = [_shrunk(each, by) for each in (first, second)]
    forth, back = _searched(pair[0], pair[1], is_fine)
    moved = _moved(pair[0], back, 0.5), _moved(pair[1], forth, 0.5)
    left, still = cv2.absdiff(*moved), cv2.absdiff(*pair)
    apart, lies = (cv2.blur(each.astype(np.float32), AROUND) for each in (left, still))
    found = np.rint(255 * np.clip((DOUBLE * lies + DOUBT - apart) / DOUBT, 0, 1)).astype(np.uint8)
    high, wide = first.shape
    enlarged = cv2.resize(found, (found.shape[1] * by, found.shape[0] * by))[:high, :wide]
    trust = cv2.multiply(enlarged, _moves(first, second), scale=1 / 255)
    astray = _astray(forth, back)
    two_scenes = astray > OTHER_SCENE and still.mean() > DIFFERS and left.mean() > UNFOUND * still.mean()
    is_cut = two_scenes or abs(float(pair[0].mean()) - float(pair[1].mean())) > LIT
    return Flow(
        _rounded(forth), _rounded(back), np.asarray(trust, np.uint8), by, is_fine, bool(is_cut), astray
    )


def _rounded(motion: Motion) -> Motion:
    """As finely as it is kept: half floats, a sixty-fourth of a pixel up to sixty-four of them."""
    return motion.astype(np.float16).astype(np.float32)


def _searched(first: Plane, second: Plane, is_fine: bool) -> tuple[Motion, Motion]:
    """The motion of each of two pictures to the other."""
    # The stubs do not know it.
    search: Any = vars(cv2)["DISOpticalFlow_create"](
        cv2.DISOPTICAL_FLOW_PRESET_MEDIUM if is_fine else cv2.DISOPTICAL_FLOW_PRESET_ULTRAFAST
    )
    search.setFinestScale(1)
    high, wide = first.shape
    below, right = max(0, LEAST_SIDE - high), max(0, LEAST_SIDE - wide)
    one, other = (
        cv2.copyMakeBorder(each, 0, below, 0, right, cv2.BORDER_REPLICATE) for each in (first, second)
    )
    forth, back = search.calc(one, other, None), search.calc(other, one, None)
    return np.ascontiguousarray(forth[:high, :wide]), np.ascontiguousarray(back[:high, :wide])


def _moves(first: Plane, second: Plane) -> Plane:
    """Which pixels do not stand still, 0 to 255: those do that lie in some block of nine that all do."""
    apart = cv2.morphologyEx(cv2.absdiff(first, second), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    moves = np.clip((np.arange(256) - STILL) / (MOVES - STILL), 0, 1)
    return np.asarray(cv2.LUT(apart, np.rint(255 * moves).astype(np.uint8)), np.uint8)


def _astray(forth: Motion, back: Motion) -> float:
    """In which part of the picture the way there and back does not lead home."""
    home = _moved(back, forth, 1) + forth
    missed, long = (cv2.magnitude(*cv2.split(each)) for each in (home, forth))
    return float(np.mean(missed > ASTRAY + ASTRAY_PART * long))


def between(first: Planes, second: Planes, flow: Flow, part: float) -> Planes:
    """What is seen between two pictures, given their motion."""
    if flow.is_cut:
        return first if part < 0.5 else second
    found = []
    for share, one, other in zip((1, 2, 2), first, second, strict=True):
        trust = np.asarray(cv2.resize(flow.trust, one.shape[::-1]), np.uint8)
        high, wide = trust.shape
        bands = _bands(high, wide, max(1, flow.by // share))
        found.append(
            np.concatenate([_band(one, other, flow, part, flow.by / share, rows, trust) for rows in bands])
        )
    return Planes(*found)


def _bands(high: int, wide: int, step: int) -> Iterator[range]:
    """Rows of a plane that are worked on together, so that nothing is needed of its whole size."""
    rows = max(1, BAND_PIXELS // wide // step) * step
    for begin in range(0, high, rows):
        yield range(begin, min(begin + rows, high))


def _band(
    one: Plane, other: Plane, flow: Flow, part: float, times: float, rows: range, trust: Plane
) -> Plane:
    """Rows between those of two planes, which are so many ``times`` as large as what their motion is of."""
    kernel = cv2.INTER_CUBIC if flow.is_fine else cv2.INTER_LINEAR
    moved = []
    for plane, own, by, way in ((one, flow.back, part, -part), (other, flow.forth, 1 - part, 1 - part)):
        seen = _read(plane, own, by, times, rows, kernel)
        if flow.is_fine:
            seen = cv2.addWeighted(seen, 0.5, _read(plane, flow.middle, way, times, rows, kernel), 0.5, 0)
        moved.append(seen)
    here = slice(rows.start, rows.stop)
    trusted = trust[here].astype(np.float32) / 255
    seen, lies = (cv2.addWeighted(a, 1 - part, b, part, 0) for a, b in (moved, (one[here], other[here])))
    return np.asarray(cv2.convertScaleAbs(cv2.blendLinear(seen, lies, trusted, 1 - trusted)), np.uint8)


def _moved(plane: NDArray[Any], motion: Motion, by: float) -> NDArray[Any]:
    """A plane read where each of its pixels is found, by a part of its motion."""
    return _read(plane, motion, by, 1, range(len(motion)), cv2.INTER_LINEAR)


def _read(
    plane: NDArray[Any], motion: Motion, by: float, times: float, rows: range, kernel: int
) -> NDArray[Any]:
    """Rows of a plane read so; it is so many ``times`` as large as what its motion is of."""
    way, nothing = cast(Any, _way(motion, by, times, rows)[:, : plane.shape[1]]), cast(Any, None)
    return np.asarray(cv2.remap(plane, way, nothing, kernel, borderMode=cv2.BORDER_REPLICATE))


def _way(motion: Motion, by: float, times: float, rows: range) -> Motion:
    """Where the pixels of some rows are found: the way in the smaller plane, enlarged.

    That has a pixel more on each side, where the way goes on, so that bands meet and edges are right.
    """
    edge = 1 if times > 1 else 0
    begin, end = int(rows.start / times) - edge, math.ceil(rows.stop / times) + edge
    first, last = max(0, begin), min(len(motion), end)
    some = cv2.copyMakeBorder(motion[first:last], first - begin, end - last, edge, edge, cv2.BORDER_REPLICATE)
    small: Any = cv2.scaleAdd(some, by * times, _places(*some.shape[:2], times, edge))
    small[:, :, 1] += (begin + edge) * times
    size = int(small.shape[1] * times), int(small.shape[0] * times)
    way: Motion = small if times == 1 else cv2.resize(small, size)
    cut = int(edge * times)
    return way[cut : cut + len(rows), cut:]


@lru_cache(32)
def _places(high: int, wide: int, times: float, edge: int) -> Motion:
    """Where each pixel of a plane with such an edge lies in a larger one, shape (high, wide, 2)."""
    across, down = ((np.arange(side, dtype=np.float32) - edge + 0.5) * times - 0.5 for side in (wide, high))
    return np.dstack(np.meshgrid(across, down))


def _smaller(shape: tuple[int, ...], least: int) -> int:
    """By how much smaller pictures of a shape are when motion is looked for, a power of two."""
    return int(2 ** max(0, math.floor(math.log2(min(shape) / least))))


def _shrunk(plane: Plane, by: int) -> Plane:
    """A plane so many times smaller, its edges drawn out to a whole pixel there."""
    high, wide = plane.shape
    whole = cv2.copyMakeBorder(plane, 0, -high % by, 0, -wide % by, cv2.BORDER_REPLICATE)
    if by == 1:
        return np.ascontiguousarray(whole)
    size = (whole.shape[1] // by, whole.shape[0] // by)
    return np.asarray(cv2.resize(whole, size, interpolation=cv2.INTER_AREA))
