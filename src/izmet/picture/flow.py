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
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Flowing
from izmet.picture.composing import Plane, Planes

VERSION = 3
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


@dataclass(frozen=True, eq=False)
class Flow:
    """The motion of two pictures to each other, and where it is to be trusted, 0 to 1, shape of the pictures.

    ``astray`` is the part of the picture in which the way there and back does not lead home.
    ``is_cut``: they are of two scenes, or of two lights.
    """

    forth: Motion
    back: Motion
    trust: Trust
    is_fine: bool
    is_cut: bool
    astray: float
    _resized: dict[tuple[int, int], Flow] = field(default_factory=dict, repr=False)

    def at(self, size: tuple[int, int]) -> Flow:
        """The same for a plane of another width and height, such as that of colour."""
        if size not in self._resized:
            by = size[0] / self.forth.shape[1]
            # Fewer places are multiplied before they are enlarged than after it.
            forth, back, trust = (
                _resized(each, size) for each in (self.forth * by, self.back * by, self.trust)
            )
            self._resized[size] = replace(self, forth=forth, back=back, trust=trust, _resized={})
        return self._resized[size]


def flow_of(first: Plane, second: Plane, quality: Flowing) -> Flow:
    """The motion between two pictures, given their luma."""
    is_fine = quality == "fine"
    by = _smaller(first.shape, LEAST_HIGH[quality])
    pair = [_shrunk(each, by) for each in (first, second)]
    forth, back = _searched(pair[0], pair[1], is_fine)
    moved = _moved(pair[0], back, 0.5, cv2.INTER_LINEAR), _moved(pair[1], forth, 0.5, cv2.INTER_LINEAR)
    left, still = cv2.absdiff(*moved), cv2.absdiff(*pair)
    apart, lies = (cv2.blur(each.astype(np.float32), AROUND) for each in (left, still))
    found = np.clip((DOUBLE * lies + DOUBT - apart) / DOUBT, 0, 1)
    trust = cv2.resize(found, first.shape[::-1]) * _moves(first, second)
    astray = _astray(forth, back)
    two_scenes = astray > OTHER_SCENE and still.mean() > DIFFERS and left.mean() > UNFOUND * still.mean()
    is_cut = two_scenes or abs(float(pair[0].mean()) - float(pair[1].mean())) > LIT
    return Flow(_rounded(forth), _rounded(back), np.rint(trust * 255) / 255, is_fine, bool(is_cut), astray)


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


def _moves(first: Plane, second: Plane) -> Trust:
    """Which pixels do not stand still, 0 to 1: those do that lie in some block of nine that all do."""
    apart = cv2.morphologyEx(cv2.absdiff(first, second), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    moves: Trust = np.clip((apart.astype(np.float32) - STILL) / (MOVES - STILL), 0, 1)
    return moves


def _astray(forth: Motion, back: Motion) -> float:
    """In which part of the picture the way there and back does not lead home."""
    home = _moved(back, forth, 1, cv2.INTER_LINEAR) + forth
    missed, long = (cv2.magnitude(*cv2.split(each)) for each in (home, forth))
    return float(np.mean(missed > ASTRAY + ASTRAY_PART * long))


def between(first: Planes, second: Planes, flow: Flow, part: float) -> Planes:
    """What is seen between two pictures, given their motion."""
    if flow.is_cut:
        return first if part < 0.5 else second
    found = []
    for one, other in zip(first, second, strict=True):
        mine = flow.at((one.shape[1], one.shape[0]))
        seen = _fine(one, other, mine, part) if flow.is_fine else _draft(one, other, mine, part)
        lies = cv2.addWeighted(one, 1 - part, other, part, 0, dtype=cv2.CV_32F if flow.is_fine else -1)
        mixed = cv2.blendLinear(seen, lies, mine.trust, 1 - mine.trust)
        found.append(np.asarray(cv2.convertScaleAbs(mixed), np.uint8))
    return Planes(*found)


def _draft(one: Plane, other: Plane, flow: Flow, part: float) -> Plane:
    moved = (
        _moved(one, flow.back, part, cv2.INTER_LINEAR),
        _moved(other, flow.forth, 1 - part, cv2.INTER_LINEAR),
    )
    return np.asarray(cv2.addWeighted(moved[0], 1 - part, moved[1], part, 0))


def _fine(one: Plane, other: Plane, flow: Flow, part: float) -> NDArray[np.float32]:
    middle = (flow.forth - flow.back) / 2
    seen = np.zeros(one.shape, np.float32)
    for plane, weight, own, way in (
        (one, 1 - part, flow.back, -part),
        (other, part, flow.forth, 1 - part),
    ):
        exact = plane.astype(np.float32)
        for motion, by in ((own, abs(way)), (middle, way)):
            cv2.accumulate(_moved(exact, motion, by, cv2.INTER_CUBIC) * (weight / 2), seen)
    return seen


def _moved(plane: NDArray[Any], motion: Motion, by: float, kernel: int) -> NDArray[Any]:
    """A plane read where each of its pixels is found, by a part of its motion."""
    way: Any = cv2.scaleAdd(motion, by, _places(*plane.shape[:2]))
    nothing: Any = None
    return np.asarray(cv2.remap(plane, way, nothing, kernel, borderMode=cv2.BORDER_REPLICATE))


@lru_cache(8)
def _places(high: int, wide: int) -> Motion:
    """Where each pixel of a plane lies, shape (high, wide, 2)."""
    return np.dstack(np.meshgrid(np.arange(wide, dtype=np.float32), np.arange(high, dtype=np.float32)))


def _resized(columns: NDArray[Any], size: tuple[int, int]) -> NDArray[Any]:
    return columns if columns.shape[1::-1] == size else np.asarray(cv2.resize(columns, size))


def _smaller(shape: tuple[int, ...], least: int) -> int:
    """By how much smaller pictures of a shape are when motion is looked for, a power of two."""
    return int(2 ** max(0, math.floor(math.log2(min(shape) / least))))


def _shrunk(plane: Plane, by: int) -> Plane:
    high, wide = plane.shape
    if by == 1:
        return np.ascontiguousarray(plane)
    return np.asarray(cv2.resize(plane, (wide // by, high // by), interpolation=cv2.INTER_AREA))
