"""Where is a point of one picture in the pictures that follow it?

What is about the point is looked for in each next picture: by the iterative Lucas-Kanade method on pyramids
(Bouguet 2000, as OpenCV has it), with much of what is around it and with little, for it may move otherwise
than that; and from where it is most like (normalised correlation), around the place to which it was on its
way. Each of these is gone back again: a step that does not lead back is not trusted; of the rest the one
that is most like counts. So that small errors do not add up, what was first seen about the point is then
laid on the new picture, turned and bent as it fits best (enhanced correlation, Evangelidis and Psarakis
2008), and its middle is taken wherever that fits well. Where it does not, what is followed has changed its
look, and the picture before is what it is held against from then on. A point that leaves the picture, or is
found nowhere, is lost.

As much is looked at about a point as it takes to tell it from its neighbours on all sides: on a straight
edge more than on a corner (the lesser eigenvalue of the structure tensor, Shi and Tomasi 1994).

Points are pixels from the left and from the top, of the middles of pixels: the first is at (0.5, 0.5).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.uint8]
Point = tuple[float, float]
WINDOWS, LEVELS = (31, 47, 71, 101), 4
"""Pixels of the square that is looked at, the least that will do; and pyramids above the picture."""
LEAST_SLOPE, LEAST_OTHER = 4.0, 0.08
"""Mean square slope, in levels a pixel, that a square must have on every way to be told from others; and how
large the least is to be, of the greatest."""
SEARCHED = 64
"""Pixels to each side of where a point should be in which it is looked for."""
CLOSE, CLOSE_TO_STEP = 1.0, 4.0
"""Pixels that a step, gone back again, may lie off; and that what is laid on may lie off the step."""
ALIKE, SEEN = 0.9, 0.6
"""How much what is held must be like what is seen, and the next picture like the last, to be the same thing:
the correlation of their levels, 1 for the same."""
ENOUGH = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 50, 1e-4)
STEPS = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 40, 0.003)


def followed(pictures: Iterable[Plane], point: Point) -> Iterator[Point]:
    """A point through pictures of one size, from its place in the first one on, until it is lost."""
    held: _Held | None = None
    before: Plane | None = None
    side = WINDOWS[0]
    here, onward = point, (0.0, 0.0)
    for picture in pictures:
        if held is None or before is None:
            told = _window_for(picture, point)
            if told is None:
                yield here
                return
            side = told
            held = _Held.about(picture, point, side)
        else:
            found = _step(before, picture, here, onward, side)
            if found is None:
                return
            if not held.lay(picture, found):
                held = _Held.about(before, here, side)
                found = held.point if held.lay(picture, found) else found
            else:
                found = held.point
            onward = (found[0] - here[0], found[1] - here[1])
            here = found
        before = picture
        yield here


def _window_for(picture: Plane, point: Point) -> int | None:
    """How large a square about a point must be; None where nothing around tells it from other places."""
    least = 0.0
    for side in WINDOWS:
        down, across = np.gradient(_square(picture, point, side).astype(np.float32))
        mixed = (across * down).mean()
        least, most = np.linalg.eigvalsh([[(across**2).mean(), mixed], [mixed, (down**2).mean()]]).tolist()
        if least >= max(LEAST_SLOPE, LEAST_OTHER * most):
            return side
    return WINDOWS[-1] if least >= LEAST_SLOPE else None


class _Held:
    """What was seen about a point, and how it lies in the picture looked at last: an affine matrix from its
    own pixels to those of the picture, shape (2, 3)."""

    def __init__(self, seen: Plane, way: NDArray[np.float32]):
        self._seen, self._way = seen, way

    @classmethod
    def about(cls, picture: Plane, point: Point, side: int) -> Self:
        """What a picture shows about a point."""
        corner = np.array(point, np.float32) - 0.5 - (side - 1) / 2
        return cls(_square(picture, point, side), np.column_stack([np.eye(2, dtype=np.float32), corner]))

    @property
    def point(self) -> Point:
        """Where its middle lies."""
        middle = (len(self._seen) - 1) / 2
        x, y = (self._way @ np.array([middle, middle, 1]) + 0.5).tolist()
        return x, y

    def lay(self, picture: Plane, near: Point) -> bool:
        """Lay it on another picture, near a place; returns whether it fits."""
        way = self._way.copy()
        way[:, 2] += np.array(near, np.float32) - np.array(self.point, np.float32)
        # Only what is around is looked at: OpenCV would go through the whole picture.
        around = 2 * len(self._seen)
        left, top = (max(0, round(each) - around) for each in near)
        part = picture[top : top + 2 * around, left : left + 2 * around]
        way[:, 2] -= (left, top)
        try:
            fits, bent = cv2.findTransformECC(self._seen, part, way, cv2.MOTION_AFFINE, ENOUGH)
        except cv2.error:  # it does not come to rest, or lies outside
            return False
        found = np.asarray(bent, np.float32)
        found[:, 2] += (left, top)
        x, y = _Held(self._seen, found).point
        close = np.hypot(x - near[0], y - near[1]) <= CLOSE_TO_STEP
        if fits < ALIKE or not close or not _within((x, y), picture):
            return False
        self._way = found
        return True


def _step(one: Plane, other: Plane, point: Point, onward: Point, side: int) -> Point | None:
    """Where a point of one picture is in the next one; None where it is not found.

    Args:
        onward: how it moved into the first one.
        side: of the square about it that is looked at.
    """
    like = _most_like(one, other, point, (point[0] + onward[0], point[1] + onward[1]), side)
    found: list[tuple[float, Point]] = []
    for near, levels in ((point, LEVELS), (point, 1), (like, 0)):
        there = _moved(one, other, point, near, levels, side)
        if there is None or not _within(there, other):
            continue
        guess = (point[0] + there[0] - near[0], point[1] + there[1] - near[1])
        back = _moved(other, one, there, guess, levels, side)
        if back is not None and np.hypot(back[0] - point[0], back[1] - point[1]) <= CLOSE:
            found.append((_likeness(one, point, other, there, side), there))
    likeness, best = max(found, default=(0.0, point))
    return best if likeness >= SEEN else None


def _most_like(one: Plane, other: Plane, point: Point, near: Point, side: int) -> Point:
    """Where another picture is most like one about a point, to a pixel, within ``SEARCHED`` of a place."""
    reach = SEARCHED + side // 2
    left, top = (max(0, round(each - 0.5) - reach) for each in near)
    part = other[top : top + 2 * reach + 1, left : left + 2 * reach + 1]
    if min(part.shape) < side:
        return near
    alike = cv2.matchTemplate(part, _square(one, point, side), cv2.TM_CCOEFF_NORMED)
    down, across = np.unravel_index(int(np.nan_to_num(alike).argmax()), alike.shape)
    return float(left + across + side / 2), float(top + down + side / 2)


def _moved(one: Plane, other: Plane, point: Point, near: Point, levels: int, side: int) -> Point | None:
    asked, guess = (np.array([[each]], np.float32) - 0.5 for each in (point, near))
    found, seen, _ = cv2.calcOpticalFlowPyrLK(
        one,
        other,
        asked,
        guess,
        winSize=(side, side),
        maxLevel=levels,
        criteria=STEPS,
        flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
    )
    if not seen[0, 0]:
        return None
    x, y = (found[0, 0] + 0.5).tolist()
    return x, y


def _within(point: Point, picture: Plane) -> bool:
    high, wide = picture.shape
    return bool(0 <= point[0] <= wide and 0 <= point[1] <= high)


def _square(picture: Plane, point: Point, side: int) -> Plane:
    """What is about a point."""
    square = cv2.getRectSubPix(picture, (side, side), (point[0] - 0.5, point[1] - 0.5))
    return np.asarray(square, np.uint8)


def _likeness(one: Plane, at: Point, other: Plane, there: Point, side: int) -> float:
    """The correlation of the squares about two points; 1 where neither has anything to tell."""
    left, right = (
        square - square.mean()
        for square in (
            _square(one, at, side).astype(np.float32),
            _square(other, there, side).astype(np.float32),
        )
    )
    size = float(np.sqrt((left**2).sum() * (right**2).sum()))
    return float((left * right).sum()) / size if size else 1.0


def thinned(frames: NDArray[np.int64], points: NDArray[np.float64], off: float) -> NDArray[np.intp]:
    """Which of some points suffice: on straight lines between them no other lies farther off than this.

    Lines are laid from the first on, each as far as it goes.

    Args:
        frames: rising, shape (count,).
        points: shape (count, 2), as ``off`` is.
    """
    kept = [0]
    last = len(frames) - 1
    while kept[-1] < last:
        begin = end = kept[-1]
        # Doubled until it is too far, then halved in between: no line is asked of every point in turn.
        reach = 1
        while end < last and _straight(frames, points, begin, min(last, begin + reach), off):
            end = min(last, begin + reach)
            reach *= 2
        low, high = max(end, begin + 1), min(last, begin + reach)
        while low < high:
            middle = (low + high + 1) // 2
            low, high = (middle, high) if _straight(frames, points, begin, middle, off) else (low, middle - 1)
        kept.append(low)
    return np.array(kept)


def _straight(
    frames: NDArray[np.int64], points: NDArray[np.float64], begin: int, end: int, off: float
) -> bool:
    part = slice(begin, end + 1)
    line = [np.interp(frames[part], frames[[begin, end]], column[[begin, end]]) for column in points.T]
    away = np.hypot(*(np.array(line) - points[part].T))
    return bool(away.max() <= off)
