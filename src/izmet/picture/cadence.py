"""How many distinct pictures a second does a capture hold, stretch by stretch?

A capture at 60 frames a second of a game at 30 shows each picture twice, of one at 24
by turns twice and three times. Coding hides it: the copy of a picture is not quite
equal, and where a keyframe is set it may differ more than by slow movement. So the
pattern is looked for that explains a stretch best: ``m`` new pictures in ``n``
frames, spread evenly, told by how much each picture differs from the one before, or by
how much that part of it does which changes most, which coding hides less. Where no
pattern does, for the game was late now and then or its clock is another, new pictures
are told from copies by the bar that parts them best, and the pattern is the one that
holds from most of them to the next ones. Without that too, a frame that differs much
less than is usual around it repeats the one before. Where nothing moves there is nothing
to tell.

Source of the part of variance: N. Otsu, "A threshold selection method from gray-level
histograms", IEEE Transactions on Systems, Man, and Cybernetics 9, 1979.

Patterns such as two and three frames by turns for 24 pictures in 60 frames are common
practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from izmet.picture.local import Flags, Floats

LONGEST_PERIOD = 6
WINDOW_SECONDS, STEP_SECONDS = 2.0, 0.5
LEAST_WINDOW = 24
"""Frames in which a pattern must show itself."""
LEAST_TURNS = 4
"""A pattern must show itself so often: of a few frames some period would happen to fit."""
STILL_LEVELS = 0.12
"""Mean difference of neighbours, in levels, below which a stretch is still: codecs leave less on a copy."""
EQUAL_LEVELS = 0.06
"""Mean difference of two pictures that are the same to anybody's eye."""
STILL_MOST, EQUAL_MOST = 3.0, 2.0
"""The same of that part of a picture which changes most: a small thing may be all that moves."""
LATE_EXPLAINS, LATE_APART = 0.6, 0.75
"""Where pictures came late: from how many of them the pattern holds, and how much of what they vary by lies
between new pictures and copies. Of values of one kind the best bar parts 0.64 (normal) to 0.75 (even)."""
COPY_PART, BESIDE = 0.25, 8
"""Without a pattern a copy differs by less than this part of what is usual in so many frames to each side."""
EXPLAINS = 0.9
"""How many of a stretch's new pictures and copies a pattern must explain, the mean of both parts."""
MOST_LEFT, NEARLY_ALL = 0.55, 0.9
"""Nearly all copies differ or lose at most so much of what new pictures do in the median: coding makes copies
unlike, but one as new as the others is a picture of its own, as where 24 in 60 look like 12."""
USUAL, LEAST_PART = 0.95, 0.02
"""What so many frames of a stretch do not exceed is the most that counts, what is above are cuts and flashes;
below so small a part of it all is as good as nothing."""
MOST_COPY_LEVELS = 4.0
"""No usual coding makes a copy differ by more than so many levels in the mean, whatever moves beside it."""
ANY = Fraction(1)


@dataclass(frozen=True)
class Pattern:
    """Frames ``begin`` to ``end`` (not included), of which ``part`` hold a new picture."""

    begin: int
    end: int
    part: Fraction


def cadence(change: Floats, most: Floats, rate: float) -> tuple[list[Pattern], Flags]:
    """The stretches of a take, and which of its frames hold a new picture.

    Args:
        change: mean difference of each frame from the one before, in levels.
        most: difference of that part of each frame that changes most, in levels.
        rate: frames a second.
    """
    count = len(change)
    window = max(LEAST_WINDOW, round(WINDOW_SECONDS * rate))
    step = max(1, round(STEP_SECONDS * rate))
    is_new, moves = _called(change, most, window)
    begins = range(0, max(1, count - window + step), step)
    signs = np.stack([change, most])
    found = [_pattern(signs[:, at : at + window], moves[at : at + window], at) for at in begins]
    parts: list[Fraction | None] = []
    for frame in range(count):
        near = min(len(found) - 1, max(0, round((frame - window / 2) / step)))
        pattern = found[near]
        parts.append(pattern and pattern[0])
    told = _filled(parts)
    stretches = _stretches(told)
    for at, pattern in zip(begins, found, strict=True):
        if pattern is not None and pattern[0] < ANY:
            first = 0 if at == 0 else at + window // 4
            last = count if at == begins[-1] else at + window - window // 4
            middle = slice(first, min(last, count))
            expected = pattern[1][middle.start - at : middle.stop - at]
            is_new[middle] = np.where(moves[middle], expected, is_new[middle])
    is_new[:1] = True
    return stretches, is_new


def held(values: Floats, is_new: Flags) -> Floats:
    """A value a frame, where captures repeat a picture that of the picture: a copy is no rest."""
    frames = np.arange(len(values))
    shown = np.maximum.accumulate(np.where(is_new, frames, 0))
    return np.where(frames - shown < LONGEST_PERIOD, values[shown], values)


def _called(change: Floats, most: Floats, window: int) -> tuple[Flags, Flags]:
    """Which frames are new by themselves, and around which anything moves."""
    moves = _moves(change, window) > STILL_LEVELS
    moves |= _moves(most, window) > STILL_MOST
    differs = change > np.maximum(COPY_PART * _usual(change), EQUAL_LEVELS)
    differs |= most > np.maximum(COPY_PART * _usual(most), EQUAL_MOST)
    return np.where(moves, differs, (change > STILL_LEVELS) | (most > STILL_MOST)), moves


def _moves(values: Floats, window: int) -> Floats:
    """What most frames around each do not exceed."""
    padded = np.pad(values, window // 4, mode="reflect" if len(values) > window // 4 else "edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * (window // 4) + 1)[: len(values)]
    most: Floats = np.percentile(windows, 85, axis=1).astype(np.float32)
    return most


def _usual(values: Floats) -> Floats:
    """What is usual around each frame on its calmer side: before something strikes, the calm is no repeat."""
    padded = np.pad(values, BESIDE, mode="edge")
    sides = np.lib.stride_tricks.sliding_window_view(padded, BESIDE)
    before, after = sides[: len(values)], sides[BESIDE + 1 : BESIDE + 1 + len(values)]
    usual: Floats = np.minimum(*(np.percentile(side, 70, axis=1) for side in (before, after))).astype(
        np.float32
    )
    return usual


def _pattern(signs: Floats, moves: Flags, at: int) -> tuple[Fraction, Flags] | None:
    """The part of new pictures that explains frames from ``at`` on, and which are new; None: nothing moves.

    Args:
        signs: of new pictures, greater in them than in copies, shape (signs, frames); the change comes first.
    """
    if np.count_nonzero(moves) < max(8, len(moves) // 3):
        return None
    moving = np.flatnonzero(moves)
    if at == 0:  # nothing is before the first frame that it could differ from
        moving = moving[moving > 0]
    orders = [moving[np.argsort(sign[moving])] for sign in signs]
    told = [(order, sign[order]) for order, sign in zip(orders, signs, strict=True)]
    best: tuple[float, Fraction, int] = (0, ANY, 0)
    shown = [part for part in _PERIODS if LEAST_TURNS * part.denominator <= len(moving)]
    for part in sorted(shown, reverse=True):
        for phase in range(part.denominator):
            fits = _fits_best(told, part, phase, at)
            if fits > best[0]:
                best = (fits, part, phase)
    if best[1] == ANY:
        return _late(told, signs[0])
    return best[1], _expected(best[1], best[2], at + np.arange(len(moves)))


def _late(told: Sequence[tuple[NDArray[np.int64], Floats]], change: Floats) -> tuple[Fraction, Flags]:
    """The pattern that holds but where pictures came late, and which frames are new; ANY: there is none."""
    best, is_new = (LATE_EXPLAINS, ANY), np.ones(len(change), bool)
    for order, rising in told:
        bar = _bar(rising)
        copies, new = order[:bar], np.sort(order[bar:])
        if (
            len(order) < LEAST_WINDOW
            or np.median(change[copies]) >= MOST_COPY_LEVELS
            or not _are_copies(rising[:bar], rising[bar:])
        ):
            continue
        for part in _PERIODS:
            lengths = new[part.numerator :] - new[: -part.numerator]
            holds = np.mean(lengths == part.denominator) if len(lengths) >= LEAST_TURNS else 0
            if holds > best[0]:
                best, is_new = (float(holds), part), np.isin(np.arange(len(change)), new)
    return best[1], is_new


def _bar(rising: Floats) -> int:
    """How many copies there are, by the bar that parts them best from new pictures; all where none does."""
    told, count = _logarithms(rising), len(rising)
    copies, sums = np.arange(1, count), np.cumsum(told)[:-1]
    apart = (told.sum() - sums) / (count - copies) - sums / copies
    between = copies * (count - copies) / count**2 * apart**2
    bar = int(np.argmax(between))
    return bar + 1 if between[bar] > LATE_APART * told.var() else count


def _fits_best(
    told: Sequence[tuple[NDArray[np.int64], Floats]], part: Fraction, phase: int, at: int
) -> float:
    """How well a pattern fits the sign that it fits best; 0 when its copies change too much."""
    expected = [_expected(part, phase, at + frames) for frames, _ in told]
    copies = told[0][1][~expected[0]]
    if len(copies) == 0 or _middle(copies) >= MOST_COPY_LEVELS:
        return 0.0
    return max(_fits(each, rising) for each, (_, rising) in zip(expected, told, strict=True))


def _fits(expected: Flags, rising: Floats) -> float:
    """How many new pictures and copies, by a rising sign, lie on their sides of the bar that parts them best,
    the mean of both parts, and how much of what the sign varies by lies between both; 0 when copies would not
    be copies, or the pattern explains too little."""
    new, copies = rising[expected], rising[~expected]
    if not _are_copies(copies, new):
        return 0.0
    right, wrong = np.cumsum(~expected) / len(copies), np.cumsum(expected) / len(new)
    explains = float((1 + (right - wrong).max()) / 2)
    return explains + _between(expected, rising) if explains > EXPLAINS else 0.0


def _between(expected: Flags, rising: Floats) -> float:
    """The part of the variance of a rising sign's logarithm that lies between new pictures and copies, 0..1.

    Where copies are of two kinds a bar between these parts them just as well, but it parts what is near.
    """
    told = _logarithms(rising)
    part = np.count_nonzero(expected) / len(expected)
    apart = float(told[expected].mean() - told[~expected].mean())
    return part * (1 - part) * apart**2 / max(float(told.var()), 1e-12)


def _are_copies(copies: Floats, new: Floats) -> bool:
    """Whether nearly all copies change much less than new pictures do; both rising."""
    return len(new) > 0 and bool(copies[int(NEARLY_ALL * (len(copies) - 1))] < MOST_LEFT * _middle(new))


def _logarithms(rising: Floats) -> NDArray[np.float64]:
    """The logarithms of what counts of a rising sign."""
    most = float(rising[int(USUAL * (len(rising) - 1))])
    return np.log(np.clip(rising.astype(np.float64), LEAST_PART * most, most) + 1e-9)


def _middle(rising: Floats) -> float:
    return float(rising[(len(rising) - 1) // 2] + rising[len(rising) // 2]) / 2


def _period(part: Fraction) -> Flags:
    """Which frames of a period hold a new picture when ``part`` of them do, spread evenly."""
    spread = np.arange(-1, part.denominator) * part.numerator // part.denominator
    return np.diff(spread) > 0


_PERIODS = {
    Fraction(m, n): _period(Fraction(m, n)) for n in range(2, LONGEST_PERIOD + 1) for m in range(1, n)
}


def _expected(part: Fraction, phase: int, frames: NDArray[np.int64]) -> Flags:
    """Which frames hold a new picture when ``part`` of them do, spread evenly."""
    expected: Flags = _PERIODS[part][(frames + phase) % part.denominator]
    return expected


def _filled(parts: Sequence[Fraction | None]) -> list[Fraction]:
    """Where nothing moves it is as in the stretch before, or else the one after."""
    told: list[Fraction] = []
    last = next((part for part in parts if part is not None), ANY)
    for part in parts:
        last = part or last
        told.append(last)
    return told


def _stretches(parts: Sequence[Fraction]) -> list[Pattern]:
    edges = [0, *(i for i in range(1, len(parts)) if parts[i] != parts[i - 1]), len(parts)]
    return [Pattern(a, b, parts[a]) for a, b in pairwise(edges) if b > a]
