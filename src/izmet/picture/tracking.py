"""Where is a point of one picture in the pictures that follow it?

The point is followed from each picture to the next by the iterative Lucas-Kanade method on pyramids
(Bouguet 2000, as OpenCV has it), and back again: a step that does not lead back is not trusted. So that
small errors do not add up, what was first seen about it is then laid on the new picture, turned and bent as
it fits best (enhanced correlation, Evangelidis and Psarakis 2008), and its middle is taken wherever that
fits well. Where it does not, what is followed has changed its look, and the picture before is what it is held
against from then on. A point that leaves the picture, or is found nowhere, is lost.

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
WINDOW, LEVELS = 31, 4
"""Pixels of the square that is looked at, and pyramids above the picture."""
MIDDLE, AROUND = (WINDOW - 1) / 2, 2 * WINDOW
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
    here = point
    for picture in pictures:
        if held is None or before is None:
            held = _Held.about(picture, point)
        else:
            found = _step(before, picture, here)
            if found is None or _likeness(before, here, picture, found) < SEEN:
                return
            if held.lay(picture, found):
                found = held.point
            else:
                held = _Held.about(before, here)
                found = held.point if held.lay(picture, found) else found
            here = found
        before = picture
        yield here


class _Held:
    """What was seen about a point, and how it lies in the picture looked at last: an affine matrix from its
    own pixels to those of the picture, shape (2, 3)."""

    def __init__(self, seen: Plane, way: NDArray[np.float32]):
        self._seen, self._way = seen, way

    @classmethod
    def about(cls, picture: Plane, point: Point) -> Self:
        """What a picture shows about a point."""
        corner = np.array(point, np.float32) - 0.5 - (WINDOW - 1) / 2
        way = np.column_stack([np.eye(2, dtype=np.float32), corner])
        return cls(_square(picture, point), way)

    @property
    def point(self) -> Point:
        """Where its middle lies."""
        x, y = (self._way @ np.array([MIDDLE, MIDDLE, 1]) + 0.5).tolist()
        return x, y

    def lay(self, picture: Plane, near: Point) -> bool:
        """Lay it on another picture, near a place; returns whether it fits."""
        off = np.array(near, np.float32) - np.array(self.point, np.float32)
        way = self._way.copy()
        way[:, 2] += off
        # Only what is around is looked at: OpenCV would go through the whole picture.
        left, top = (max(0, round(float(each) - AROUND)) for each in near)
        part = picture[top : top + 2 * AROUND, left : left + 2 * AROUND]
        way[:, 2] -= (left, top)
        try:
            fits, bent = cv2.findTransformECC(self._seen, part, way, cv2.MOTION_AFFINE, ENOUGH)
        except cv2.error:  # it does not come to rest, or lies outside
            return False
        found = np.asarray(bent, np.float32)
        found[:, 2] += (left, top)
        laid = _Held(self._seen, found)
        close = np.hypot(laid.point[0] - near[0], laid.point[1] - near[1]) <= CLOSE_TO_STEP
        if fits < ALIKE or not close or not _within(laid.point, picture):
            return False
        self._way = found
        return True


def _step(one: Plane, other: Plane, point: Point) -> Point | None:
    """Where a point of one picture is in the next one; None where it is not found."""
    there = _moved(one, other, point, point)
    if there is None or not _within(there, other):
        return None
    back = _moved(other, one, there, point)
    if back is None or np.hypot(back[0] - point[0], back[1] - point[1]) > CLOSE:
        return None
    return there


def _moved(one: Plane, other: Plane, point: Point, near: Point) -> Point | None:
    asked, guess = (np.array([[each]], np.float32) - 0.5 for each in (point, near))
    found, seen, _ = cv2.calcOpticalFlowPyrLK(
        one,
        other,
        asked,
        guess,
        winSize=(WINDOW, WINDOW),
        maxLevel=LEVELS,
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


def _square(picture: Plane, point: Point) -> Plane:
    """What is about a point."""
    square = cv2.getRectSubPix(picture, (WINDOW, WINDOW), (point[0] - 0.5, point[1] - 0.5))
    return np.asarray(square, np.uint8)


def _likeness(one: Plane, at: Point, other: Plane, there: Point) -> float:
    """The correlation of the squares about two points; 1 where neither has anything to tell."""
    left, right = (
        square - square.mean()
        for square in (_square(one, at).astype(np.float32), _square(other, there).astype(np.float32))
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
