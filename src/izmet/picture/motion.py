"""By how much did the whole picture move since the one before?

Conventions
    Pictures are luma, uint8, shape (high, wide), and looked at from half their size down.
    A movement (dx, dy) is the content's, in pixels of the picture given, right and down
    positive: what was at (x, y) is now at (x + dx, y + dy).

The movement is the shift that makes one picture most like the other, found from coarse
to fine by least squares, with what does not follow it (a boat before a coast) counting
less and less, and what stands out of the picture (a bright counter that lies over it)
no more than the rest. Pictures are freed of slow changes of light first, so a flash is no
movement. It begins from the best of: no movement, the last one, phase correlation; where
one of them fits already, the coarsest level is left out.

Source: B. D. Lucas, T. Kanade, "An iterative image registration technique", IJCAI 1981,
in the inverse form of S. Baker, I. Matthews, "Lucas-Kanade 20 years on", IJCV 56, 2004;
C. D. Kuglin, D. C. Hines, "The phase correlation image alignment method", 1975; weights
of S. Geman, D. E. McClure, 1987.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
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
STANDS_OUT = 2.0
"""How many times the usual contrast is the most that counts in a guess."""
FITS, SURE = 0.5, 0.2
"""Error, as part of what there is to see, at which a guess is good enough to begin from, and to skip the
coarsest level."""
TINY = 1e-6
LEAST_ERROR = 0.05
"""In levels: what differs by less has no movement to look for."""
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
    """From the coarsest to the finest."""
    rough: Any
    """The coarsest one in which nothing stands out."""
    counts: tuple[Any, ...]
    """How much each pixel of each level counts: by area, not by contrast, for what is small and bright may be
    none of the scene."""

    @classmethod
    def of(cls, luma: Plane) -> View:
        """From a picture's luma."""
        levels = []
        small = halved(luma)
        for level in range(LEVELS):
            fine = small.astype(np.float32)
            soft = cv2.GaussianBlur(fine, (5, 5), SOFT)
            slow = cv2.boxFilter(small, cv2.CV_32F, (SMOOTH, SMOOTH))
            levels.append(cv2.subtract(soft, slow, dst=soft))
            if level < LEVELS - 1:
                small = halved(fine)
        levels.reverse()
        return cls(tuple(levels), _limited(levels[0]), tuple(_counted(level) for level in levels))


def _counted(level: Floats) -> Floats:
    counts: Floats = level * np.float32(1 / (_contrast(level) + TINY))
    counts *= counts
    counts += 1
    np.reciprocal(counts, out=counts)
    return counts


def _slope(level: Floats) -> Floats:
    """The gradient of a level, across and down, shape (2, high, wide)."""
    slope = np.empty((2, *level.shape), np.float32)
    for way, into in enumerate(slope):
        cv2.Sobel(level, cv2.CV_32F, 1 - way, way, dst=into, ksize=3, scale=1 / 8)
    return slope


def halved(picture: Any) -> Any:
    """A picture of half the size, each pixel the mean of four."""
    high, wide = picture.shape
    return cv2.resize(picture, (max(1, wide // 2), max(1, high // 2)), interpolation=cv2.INTER_AREA)


def movement(before: View, after: View, last: Shift = STILL) -> Shift:
    """The content's movement from one picture to the next; ``last`` is that into the one before."""
    if min(before.levels[0].shape) < LEAST_SIDE:
        return STILL
    shift, fits = _guessed(before.rough, after.rough, last)
    for level in range(LEVELS):
        if level:
            shift = _followed(before, after, level, (shift[0] * 2, shift[1] * 2))
        elif not fits:
            shift = _followed(before, after, level, shift)
    return shift[0] * 2, shift[1] * 2


def _guessed(before: Floats, after: Floats, last: Shift) -> tuple[Shift, bool]:
    """The best guess in pixels of the coarsest level, and whether it fits already."""
    scale = 2.0**-LEVELS
    guesses = [STILL, (last[0] * scale, last[1] * scale)]
    errors = [_error(before, after, guess) for guess in guesses]
    contrast = _contrast(before)
    if min(errors) > max(FITS * contrast, LEAST_ERROR):
        guesses.append(_correlated(before, after))
        errors.append(_error(before, after, guesses[-1]))
    return guesses[int(np.argmin(errors))], min(errors) <= SURE * contrast


def _limited(level: Floats) -> Floats:
    """A level in which nothing stands out."""
    for _ in range(2):
        most = STANDS_OUT * _contrast(level)
        level = np.clip(level, -most, most)
    return level


def _contrast(level: Floats) -> float:
    return float(cv2.norm(level, cv2.NORM_L1)) / level.size


def _followed(before: View, after: View, level: int, shift: Shift) -> Shift:
    """A shift made better by least squares at one level."""
    here, counts = before.levels[level], before.counts[level]
    slope = _slope(here)
    slope *= counts
    for _ in range(ROUNDS[level]):
        nearer = _nearer(here, slope, counts, after.levels[level], shift)
        step = max(abs(nearer[0] - shift[0]), abs(nearer[1] - shift[1]))
        shift = nearer
        if step < ENOUGH:
            break
    return shift


def unlike(before: View, after: View, shift: Shift) -> tuple[Floats, float]:
    """What of a picture does not follow a movement: its error by pixel of the finest level, and how much
    of its structure is kept (a correlation, 1: all of it)."""
    shift = shift[0] / 2, shift[1] / 2
    shared, there = _moved(after.levels[-1], shift)
    here = np.ascontiguousarray(before.levels[-1][shared])
    error = np.zeros_like(before.levels[-1])
    cv2.absdiff(there, here, dst=error[shared])
    counted = there * before.counts[-1][shared]
    both, now = (float(np.vdot(counted, each)) for each in (here, there))
    then = float(np.vdot(here * before.counts[-1][shared], here))
    kept = both / math.sqrt(now * then) if now and then else float(now == then)
    return error, kept


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


def _moved(picture: Floats, shift: Shift) -> tuple[tuple[slice, slice], Any]:
    """Where the picture before is in this one too, and how it looks here."""
    shared = _shared(picture.shape, shift)
    (top, bottom), (left, right) = ((side.start, side.stop) for side in shared)
    middle = shift[0] + (left + right - 1) / 2, shift[1] + (top + bottom - 1) / 2
    return shared, cv2.getRectSubPix(picture, (right - left, bottom - top), middle)


def _shared(shape: tuple[int, ...], shift: Shift) -> tuple[slice, slice]:
    """Rows and columns of the picture before that are in the one after too."""
    return _kept(shape[0], shift[1]), _kept(shape[1], shift[0])


def _kept(side: int, moved: float) -> slice:
    first = min(max(0, math.ceil(-moved)) + EDGE, side - 1)
    return slice(first, max(first + 1, min(side, side - math.ceil(moved)) - EDGE))


def _error(before: Floats, after: Floats, shift: Shift) -> float:
    shared, there = _moved(after, shift)
    return float(cv2.norm(there, before[shared], cv2.NORM_L1) / there.size)


def _nearer(before: Floats, slope: Floats, counts: Floats, after: Floats, shift: Shift) -> Shift:
    shared, there = _moved(after, shift)
    error: Any = cv2.subtract(there, before[shared], dst=there)
    usual = LIKELY_NOISE + 2 * cv2.norm(error, cv2.NORM_L1) / error.size
    weight = error * np.float32(1 / usual)
    weight *= weight
    weight += 1
    np.reciprocal(weight, out=weight)
    weight *= weight
    error *= counts[shared]
    told = slope[:, *shared].reshape(2, -1)
    weighted = told * weight.ravel()
    (xx, xy), (_, yy) = (weighted @ told.T).tolist()
    right, low = (weighted @ error.ravel()).tolist()
    least = FLAT * error.size
    xx, yy = xx + least, yy + least
    size = xx * yy - xy * xy
    dx, dy = shift[0] - (yy * right - xy * low) / size, shift[1] - (xx * low - xy * right) / size
    high, wide = before.shape
    return dx if abs(dx) < FARTHEST * wide else shift[0], dy if abs(dy) < FARTHEST * high else shift[1]
