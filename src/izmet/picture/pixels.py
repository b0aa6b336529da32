"""What is done to each pixel of each picture of a take: the innermost loops of ``motion``, compiled.

Pictures are uint8; levels are pictures of float32; both of shape (high, wide), rows one after another in
memory. Where a loop needs pixels beyond the border, the picture is mirrored there, its border pixel not
doubled. A picture moved by (dx, dy) is read between its pixels, in straight lines (bilinear).
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from izmet.compiling import compiled
from izmet.picture.shrinking import Picture

Level = NDArray[np.float32]
Ready = NDArray[np.float32]
"""What of a picture can be followed: four levels of one size, shape (4, high, wide)."""
LEVEL, COUNTS, ACROSS, DOWN = range(4)
"""In it: the picture freed of slow changes of light; how much each pixel counts, by area, not by contrast,
for what is small and bright may be none of the scene; the slopes across and down, times that."""

BORDER = 2
"""Pixels at the border that two pictures are not compared in."""
FARTHEST = 0.45
"""The largest movement, as part of the picture's side."""
LIKELY_NOISE = 1.0
"""Error in levels that is usual where the picture follows."""
ENOUGH = 0.04
"""A step so short, in pixels of a level, is the last one there."""
FLAT = 1e-3
"""Mean squared gradient below which there is nothing to follow."""
TINY = 1e-6
REACH = 7
"""Pixels to each side of what counts as slow in light."""
SOFT = (0.40261995, 0.24420134, 0.05448868)
"""A normal distribution of standard deviation 1, its middle and two neighbours: only a smooth picture can be
moved by parts of a pixel."""

ONE = np.float32(1)


@compiled
def contrast(level: Level) -> float:
    """The mean distance of a level's pixels from 0."""
    total = 0.0
    for y in range(level.shape[0]):
        row, along = level[y], np.float32(0)
        for x in range(row.size):
            along += abs(row[x])
        total += float(along)
    return total / level.size


@compiled
def _mirrored(side: int) -> NDArray[np.int64]:
    """Which pixel stands at each place from ``REACH`` before the first to ``REACH`` after the last."""
    places = np.zeros(side + 2 * REACH, np.int64)
    if side > 1:
        for k in range(places.size):
            at = abs(k - REACH) % (2 * side - 2)
            places[k] = min(at, 2 * side - 2 - at)
    return places


@compiled
def _free_of_slow(picture: Level, level: Level) -> None:
    """Sets a level to the picture made smooth, less its mean over the pixels near: no slow changes of light
    are left."""
    high, wide = picture.shape
    middle, near, far = np.float32(SOFT[0]), np.float32(SOFT[1]), np.float32(SOFT[2])
    part = np.float32(1 / (2 * REACH + 1) ** 2)
    rows, places = _mirrored(high), _mirrored(wide)
    first, end = REACH, REACH + wide
    smooth, slow = np.empty(places.size, np.float32), np.zeros(places.size, np.float32)
    two, four, eight = np.empty_like(slow), np.empty_like(slow), np.empty_like(slow)
    for y in range(2 * REACH):
        slow[first:end] += picture[rows[y]]
    for y in range(high):
        at = y + REACH
        a, b, c = picture[rows[at - 2]], picture[rows[at - 1]], picture[y]
        d, e, come = picture[rows[at + 1]], picture[rows[at + 2]], picture[rows[at + REACH]]
        for x in range(wide):
            smooth[first + x] = middle * c[x] + near * (b[x] + d[x]) + far * (a[x] + e[x])
            slow[first + x] += come[x]
        for k in range(REACH):
            smooth[k], smooth[end + k] = smooth[first + places[k]], smooth[first + places[end + k]]
            slow[k], slow[end + k] = slow[first + places[k]], slow[first + places[end + k]]
        # Fifteen pixels are twice eight that share one.
        for x in range(places.size - 1):
            two[x] = slow[x] + slow[x + 1]
        for x in range(places.size - 3):
            four[x] = two[x] + two[x + 2]
        for x in range(places.size - 7):
            eight[x] = four[x] + four[x + 4]
        row, gone = level[y], picture[rows[y]]
        for x in range(wide):
            soft = (
                middle * smooth[x + 7]
                + near * (smooth[x + 6] + smooth[x + 8])
                + far * (smooth[x + 5] + smooth[x + 9])
            )
            row[x] = soft - part * (eight[x] + eight[x + 7] - slow[x + 7])
        for x in range(wide):
            slow[first + x] -= gone[x]


@compiled
def _count(level: Level, counts: Level) -> None:
    """Sets how much each pixel counts: 1 where there is no contrast, 1/2 where it is usual, less beyond."""
    usual = np.float32(1 / (contrast(level) + TINY))
    for y in range(level.shape[0]):
        row, into = level[y], counts[y]
        for x in range(row.size):
            times = row[x] * usual
            into[x] = ONE / (ONE + times * times)


@compiled
def _limited(level: Level, times: float) -> Level:
    most = np.float32(times * contrast(level))
    found = np.empty_like(level)
    for y in range(level.shape[0]):
        row, into = level[y], found[y]
        for x in range(row.size):
            into[x] = min(max(row[x], -most), most)
    return found


@compiled
def limited(level: Level, times: float) -> Level:
    """A level in which nothing is farther from 0 than so many times what is usual."""
    for _ in range(2):
        level = _limited(level, times)
    return level


@compiled
def _shared(side: int, moved: float) -> tuple[int, int]:
    """First and last but one of the rows, or columns, of a picture that are in the one after, too."""
    first = min(max(0, math.ceil(-moved)) + BORDER, side - 1)
    return first, max(first + 1, min(side, side - math.ceil(moved)) - BORDER)


@compiled
def _compared(before: Level, after: Level, dx: float, dy: float, error: Level) -> Any:
    """Sets the error of each shared pixel: how it is after, less how it was.

    Returns:
        Mean size of the error; top, bottom, left and right of what is shared.
    """
    high, wide = before.shape
    (top, bottom), (left, right) = _shared(high, dy), _shared(wide, dx)
    down, along = math.floor(dy), math.floor(dx)
    low, far = np.float32(dy - down), np.float32(dx - along)
    nw, ne, sw, se = (ONE - low) * (ONE - far), (ONE - low) * far, low * (ONE - far), low * far
    start = left + along
    beside = min(start + 1, wide - 1)
    right = left + max(1, min(right - left, wide - beside))
    total = 0.0
    for y in range(top, bottom):
        upper, lower = after[y + down], after[min(y + down + 1, high - 1)]
        a, b, c, d = upper[start:], upper[beside:], lower[start:], lower[beside:]
        here, into, sizes = before[y, left:right], error[y, left:right], np.float32(0)
        for x in range(here.size):
            into[x] = nw * a[x] + ne * b[x] + sw * c[x] + se * d[x] - here[x]
            sizes += abs(into[x])
        total += float(sizes)
    return total / ((bottom - top) * (right - left)), top, bottom, left, right


@compiled
def mean_error(before: Level, after: Level, dx: float, dy: float) -> float:
    """By how much a picture, moved, differs from the one after, in the mean over what they share."""
    mean: float = _compared(before, after, dx, dy, np.empty_like(before))[0]
    return mean


@compiled
def unlike(was: Ready, now: Ready, dx: float, dy: float) -> tuple[Level, float]:
    """What of a picture does not follow a movement, by pixel, and how much of its structure is kept.

    Returns:
        The error's size, 0 where nothing is shared; the correlation of what is shared, pixels
        weighted by how much each counts; 1 where both pictures are flat, 0 where one is.
    """
    before, counts = was[LEVEL], was[COUNTS]
    error = np.zeros_like(before)
    _, top, bottom, left, right = _compared(before, now[LEVEL], dx, dy, error)
    of_both, of_before, of_after = 0.0, 0.0, 0.0
    for y in range(top, bottom):
        here, count, miss = before[y, left:right], counts[y, left:right], error[y, left:right]
        both, then, there = np.float32(0), np.float32(0), np.float32(0)
        for x in range(here.size):
            moved = here[x] + miss[x]
            both += count[x] * here[x] * moved
            then += count[x] * here[x] * here[x]
            there += count[x] * moved * moved
            miss[x] = abs(miss[x])
        of_both, of_before, of_after = of_both + float(both), of_before + float(then), of_after + float(there)
    if of_before == 0 or of_after == 0:
        return error, 1.0 if of_before == of_after else 0.0
    return error, of_both / math.sqrt(of_before * of_after)


@compiled
def _slope(level: Level, counts: Level, across: Level, down: Level) -> None:
    """Sets the gradient of a level across and down (Sobel), times how much each pixel counts; 0 at the
    border."""
    across[:], down[:] = 0, 0
    eighth, double = np.float32(1 / 8), np.float32(2)
    for y in range(1, level.shape[0] - 1):
        above, here, below = level[y - 1], level[y], level[y + 1]
        times, into_across, into_down = counts[y], across[y], down[y]
        for x in range(1, here.size - 1):
            part = eighth * times[x]
            west = above[x - 1] + double * here[x - 1] + below[x - 1]
            east = above[x + 1] + double * here[x + 1] + below[x + 1]
            north = above[x - 1] + double * above[x] + above[x + 1]
            south = below[x - 1] + double * below[x] + below[x + 1]
            into_across[x] = part * (east - west)
            into_down[x] = part * (south - north)


@compiled
def halved(picture: Any) -> Level:
    """A level of half the size of a picture or level, each pixel the mean of four; at least one pixel
    wide and high."""
    high, wide = picture.shape
    level = np.empty((max(1, high // 2), max(1, wide // 2)), np.float32)
    quarter = np.float32(1 / 4)
    for y in range(level.shape[0]):
        upper, lower, into = picture[2 * y], picture[min(2 * y + 1, high - 1)], level[y]
        if wide == 1:
            into[0] = quarter * (2 * np.float32(upper[0]) + 2 * np.float32(lower[0]))
            continue
        for x in range(into.size):
            above = np.float32(upper[2 * x]) + np.float32(upper[2 * x + 1])
            below = np.float32(lower[2 * x]) + np.float32(lower[2 * x + 1])
            into[x] = quarter * (above + below)
    return level


@compiled
def ready(picture: Level) -> Ready:
    """What of a picture can be followed."""
    high, wide = picture.shape
    found = np.empty((4, high, wide), np.float32)
    _free_of_slow(picture, found[LEVEL])
    _count(found[LEVEL], found[COUNTS])
    _slope(found[LEVEL], found[COUNTS], found[ACROSS], found[DOWN])
    return found


@compiled
def ready_at_all_sizes(picture: Picture) -> Any:
    """A picture at an eighth, a quarter and half its size, each ``ready``."""
    fine = halved(picture)
    middle = halved(fine)
    return ready(halved(middle)), ready(middle), ready(fine)


@compiled
def followed(was: Ready, now: Ready, dx: float, dy: float, rounds: int) -> tuple[float, float]:
    """A movement made better by up to so many rounds of least squares.

    What does not follow the movement counts less and less (Geman and McClure's weights).
    """
    before, counts, across, down = was[LEVEL], was[COUNTS], was[ACROSS], was[DOWN]
    high, wide = before.shape
    error = np.empty_like(before)
    for _ in range(rounds):
        mean, top, bottom, left, right = _compared(before, now[LEVEL], dx, dy, error)
        unusual = np.float32(1 / (LIKELY_NOISE + 2 * mean))
        xx, xy, yy, to_right, to_low = 0.0, 0.0, 0.0, 0.0, 0.0
        for y in range(top, bottom):
            miss, count = error[y, left:right], counts[y, left:right]
            gx, gy = across[y, left:right], down[y, left:right]
            a, b, c, d, e = np.float32(0), np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            for x in range(miss.size):
                times = miss[x] * unusual
                weight = ONE / (ONE + times * times)
                weight *= weight
                wx, wy, counted_miss = weight * gx[x], weight * gy[x], count[x] * miss[x]
                a += wx * gx[x]
                b += wx * gy[x]
                c += wy * gy[x]
                d += wx * counted_miss
                e += wy * counted_miss
            xx, xy, yy = xx + float(a), xy + float(b), yy + float(c)
            to_right, to_low = to_right + float(d), to_low + float(e)
        least = FLAT * (bottom - top) * (right - left)
        xx, yy = xx + least, yy + least
        size = xx * yy - xy * xy
        step_x, step_y = (yy * to_right - xy * to_low) / size, (xx * to_low - xy * to_right) / size
        if abs(dx - step_x) >= FARTHEST * wide:
            step_x = 0.0
        if abs(dy - step_y) >= FARTHEST * high:
            step_y = 0.0
        dx, dy = dx - step_x, dy - step_y
        if max(abs(step_x), abs(step_y)) < ENOUGH:
            break
    return dx, dy
