"""Where does movement begin, end, and where is it greatest?

Movement is how far the whole picture goes, or how much in it goes its own way,
whichever is more, smoothed over a tenth of a second. It begins when it rises from rest
and goes on, and ends when it comes to rest and stays there.

Source: own; hysteresis and prominence are standard (scipy.signal.find_peaks).
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter, uniform_filter1d
from scipy.signal import find_peaks

from izmet.picture.proposal import Proposal
from izmet.picture.watching import Floats, Seen

SMOOTH_SECONDS = 0.1
REST, MOVES = 0.1, 0.25
"""Parts of the take's usual greatest movement: below the one it rests, above the other it moves."""
LEAST = 0.0015
"""Movement a picture, in parts of its width, that a take must have."""
LASTS_SECONDS = 0.25
UNREST_WIDTH = 0.004
"""What goes its own way by one level counts as the whole picture going this part of its width."""
PROMINENT, APART_SECONDS = 0.3, 0.6


def movement_of(seen: Seen) -> Floats:
    """How much moves in each picture, in parts of the picture's width."""
    whole = np.hypot(seen.dx, seen.dy)
    moves: Floats = np.maximum(whole, UNREST_WIDTH * np.maximum(seen.unrest - 1, 0)).astype(np.float32)
    return moves


def courses(seen: Seen, rate: float, cuts: Sequence[int]) -> list[Proposal]:
    """Starts, stops and peaks of movement, scene by scene."""
    moves = movement_of(seen)
    great = float(np.percentile(moves, 90)) if len(moves) else 0.0
    if great < LEAST:
        return []
    found: list[Proposal] = []
    for begin, end in pairwise([0, *cuts, len(seen)]):
        if end - begin > 3:
            found += [each._replace(frame=each.frame + begin) for each in _of(moves[begin:end], great, rate)]
    return found


def _of(moves: Floats, great: float, rate: float) -> list[Proposal]:
    size = max(1, 2 * round(SMOOTH_SECONDS * rate / 2) + 1)
    smooth = uniform_filter1d(median_filter(moves, min(size, 3)), size)
    lasts = max(2, round(LASTS_SECONDS * rate))
    found = []
    moving = _states(smooth, REST * great, MOVES * great)
    for at in np.flatnonzero(np.diff(moving.astype(np.int8))) + 1:
        before, after = moving[max(0, at - lasts) : at], moving[at : at + lasts]
        if len(before) < lasts or len(after) < lasts:
            continue
        if moving[at] and not before.any() and after.all():
            first = _first_above(moves, int(at), size, REST * great)
            found.append(
                Proposal(first, "start", _weight(smooth[at : at + lasts], great), "it begins to move")
            )
        elif not moving[at] and before.all() and not after.any():
            found.append(
                Proposal(int(at), "stop", _weight(smooth[at - lasts : at], great), "it comes to rest")
            )
    peaks, facts = find_peaks(
        smooth, prominence=PROMINENT * great, distance=max(1, round(APART_SECONDS * rate))
    )
    for peak, prominence in zip(peaks, facts["prominences"], strict=True):
        weight = round(float(np.clip(prominence / great / 2, 0.1, 1)), 3)
        found.append(Proposal(int(peak), "action", weight, "the picture moves most here"))
    return found


def _states(smooth: Floats, rest: float, moves: float) -> NDArray[np.bool_]:
    """Whether it moves, once it has begun until it rests."""
    told = np.where(smooth >= moves, 1, np.where(smooth <= rest, 0, -1))
    known = np.maximum.accumulate(np.where(told >= 0, np.arange(len(told)), 0))
    moving: NDArray[np.bool_] = told[known] == 1
    return moving


def _first_above(moves: Floats, at: int, size: int, rest: float) -> int:
    """The first picture of a rise that smoothing has spread."""
    first = at
    for frame in range(at, max(0, at - 2 * size), -1):
        if moves[frame] <= rest:
            break
        first = frame
    return int(first)


def _weight(smooth: Floats, great: float) -> float:
    return round(float(np.clip(smooth.max() / great / 2, 0.1, 1)), 3)
