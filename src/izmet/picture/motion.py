"""By how much did the whole picture move since the one before?

Conventions
    Pictures are luma, uint8, shape (high, wide), and looked at from half their size down.
    A movement (dx, dy) is the content's, in pixels of the picture given, right and down
    positive: what was at (x, y) is now at (x + dx, y + dy).

The movement is the shift that makes one picture most like the other, found from coarse
to fine by least squares, with what does not follow it (a boat before a coast) counting
less and less. Pictures are freed of slow changes of light first, so a flash is no
movement. It begins from the best of: no movement, the last one, phase correlation.

Source: B. D. Lucas, T. Kanade, "An iterative image registration technique", IJCAI 1981,
in the inverse form of S. Baker, I. Matthews, "Lucas-Kanade 20 years on", IJCV 56, 2004;
C. D. Kuglin, D. C. Hines, "The phase correlation image alignment method", 1975; weights
of S. Geman, D. E. McClure, 1987.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.uint8]
Floats = NDArray[np.float32]
Shift = tuple[float, float]

LEVELS = 3
ROUNDS = (1, 1, 3)
"""Least squares at each level, from the coarsest."""
SMOOTH = 15
"""Side of what counts as slow in light, in pixels of a level."""
SOFT = 1.0
"""Standard deviation of what is smoothed away: only a smooth picture can be moved by parts of a pixel."""
FITS = 0.5
"""Error, as part of what there is to see, at which a guess is good enough to begin from."""
ENOUGH = 0.04
"""A step so short, in pixels of a level, is the last one there."""
EDGE = 2
LEAST_SIDE = 6
"""In pixels of the coarsest level, of a picture in which a movement can be looked for."""
STILL: Shift = (0.0, 0.0)
FLAT = 1e-3
"""Mean squared gradient below which there is nothing to follow."""
FARTHEST = 0.45
"""The largest movement, as part of the picture's side."""
LIKELY_NOISE = 1.0
"""Error in levels that is usual where the picture follows."""


@dataclass(frozen=True)
class View:
    """A picture made ready to be followed."""

    levels: tuple[Any, ...]

    @classmethod
    def of(cls, luma: Plane) -> View:
        """From a picture's luma."""
        levels = []
        small: Any = _halved(luma).astype(np.float32)
        for level in range(LEVELS):
            if level:
                small = _halved(small)
            levels.append(cv2.GaussianBlur(small, (5, 5), SOFT) - cv2.blur(small, (SMOOTH, SMOOTH)))
        return cls(tuple(reversed(levels)))

    @cached_property
    def slopes(self) -> list[tuple[Any, Any]]:
        """The gradient of each level."""
        return [
            (
                cv2.Sobel(level, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8),
                cv2.Sobel(level, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8),
            )
            for level in self.levels
        ]


def _halved(picture: Any) -> Any:
    high, wide = picture.shape
    return cv2.resize(picture, (max(1, wide // 2), max(1, high // 2)), interpolation=cv2.INTER_AREA)


def movement(before: View, after: View, last: Shift = STILL) -> Shift:
    """The content's movement from one picture to the next; ``last`` is that into the one before."""
    if min(before.levels[0].shape) < LEAST_SIDE:
        return STILL
    scale = 2.0**-LEVELS
    coarse_before, coarse_after = before.levels[0], after.levels[0]
    guesses = [STILL, (last[0] * scale, last[1] * scale)]
    errors = [_error(coarse_before, coarse_after, guess) for guess in guesses]
    if min(errors) > FITS * float(np.abs(coarse_before).mean()):
        guesses.append(_correlated(coarse_before, coarse_after))
        errors.append(_error(coarse_before, coarse_after, guesses[-1]))
    shift = guesses[int(np.argmin(errors))]
    for level, rounds in enumerate(ROUNDS):
        if level:
            shift = (shift[0] * 2, shift[1] * 2)
        for _ in range(rounds):
            nearer = _nearer(before.levels[level], before.slopes[level], after.levels[level], shift)
            step = max(abs(nearer[0] - shift[0]), abs(nearer[1] - shift[1]))
            shift = nearer
            if step < ENOUGH:
                break
    return shift[0] * 2, shift[1] * 2


def unlike(before: View, after: View, shift: Shift) -> tuple[Floats, float]:
    """What of a picture does not follow a movement: its error by pixel of the finest level, and how much
    of its structure is kept (a correlation, 1: all of it)."""
    shift = shift[0] / 2, shift[1] / 2
    there, here = _moved(after.levels[-1], shift), before.levels[-1]
    shared = _shared(here.shape, shift)
    error = np.zeros_like(here)
    error[shared] = np.abs(there[shared] - here[shared])
    size = np.linalg.norm(there[shared]) * np.linalg.norm(here[shared])
    return error, float(np.vdot(there[shared], here[shared]) / size) if size else 1.0


def _correlated(before: Floats, after: Floats) -> Shift:
    """A first guess by phase correlation."""
    (dx, dy), _ = cv2.phaseCorrelate(before, after, _window(before.shape[0], before.shape[1]))
    high, wide = before.shape
    return (dx, dy) if abs(dx) < FARTHEST * wide and abs(dy) < FARTHEST * high else STILL


_WINDOWS: dict[tuple[int, int], Any] = {}


def _window(high: int, wide: int) -> Any:
    if (high, wide) not in _WINDOWS:
        _WINDOWS[high, wide] = cv2.createHanningWindow((wide, high), cv2.CV_32F)
    return _WINDOWS[high, wide]


def _moved(picture: Floats, shift: Shift) -> Any:
    """The picture as it was before it moved."""
    way = np.array([[1, 0, shift[0]], [0, 1, shift[1]]], np.float32)
    size = picture.shape[1], picture.shape[0]
    moved: Any = cv2.warpAffine(
        picture,
        way,
        size,
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=0,
    )
    return moved


def _shared(shape: tuple[int, ...], shift: Shift) -> tuple[slice, slice]:
    """What of the picture before is in the one after too."""
    high, wide = shape
    dx, dy = shift
    left, top = max(EDGE, int(np.ceil(-dx)) + EDGE), max(EDGE, int(np.ceil(-dy)) + EDGE)
    right = min(wide - EDGE, wide - int(np.ceil(dx)) - EDGE)
    bottom = min(high - EDGE, high - int(np.ceil(dy)) - EDGE)
    return slice(top, max(top + 1, bottom)), slice(left, max(left + 1, right))


def _error(before: Floats, after: Floats, shift: Shift) -> float:
    shared = _shared(before.shape, shift)
    return float(np.abs(_moved(after, shift)[shared] - before[shared]).mean())


def _nearer(before: Floats, slopes: tuple[Floats, Floats], after: Floats, shift: Shift) -> Shift:
    shared = _shared(before.shape, shift)
    error = (_moved(after, shift)[shared] - before[shared]).ravel()
    across, down = slopes[0][shared].ravel(), slopes[1][shared].ravel()
    usual = LIKELY_NOISE + 2 * cv2.norm(error, cv2.NORM_L1) / error.size
    weight = error * np.float32(1 / usual)
    weight *= weight
    weight += 1
    np.reciprocal(weight, out=weight)
    weight *= weight
    told = np.stack([across, down, error])
    (xx, xy, right), (_, yy, low) = ((told[:2] * weight) @ told.T).tolist()
    least = FLAT * error.size
    xx, yy = xx + least, yy + least
    size = xx * yy - xy * xy
    dx, dy = shift[0] - (yy * right - xy * low) / size, shift[1] - (xx * low - xy * right) / size
    high, wide = before.shape
    return dx if abs(dx) < FARTHEST * wide else shift[0], dy if abs(dy) < FARTHEST * high else shift[1]
