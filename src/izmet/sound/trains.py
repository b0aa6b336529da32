"""Which trains of beats could be tapped to this music?

Every likely period is followed (``pulse``). What goes with it could be tapped as well:
its off-beats, doubles and halves, and the notes beside it where they swing. A song may
go on at another tempo; then two trains in turn are one.

Conventions
    A train is an increasing array of frames (``onsets.FRAME_RATE``), shape (beats,).
    ``active`` is likeness to an onset, frame by frame; ``near`` its greatest value near each frame.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import permutations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from izmet.sound.onsets import FRAME_RATE
from izmet.sound.pulse import follow, likely_periods, steady_train

Doubles = NDArray[np.float64]

SLOWEST_BPM, FASTEST_BPM = 42.0, 230.0
LEAST_BEATS = 4
NEAR_FRAMES = 2
"""An onset this near belongs to the place."""
SUPPORTED = 0.35
"""Activation from which an onset supports a beat."""
ALSO_LIKELY = 0.6
"""Onsets at another part of the beat, against those on the beat, from which it may be the beat itself."""
BESIDE_FRAMES = (0, -1, 1, -2, 2, -3, 3, -4, 4)
"""How far beside that part of the beat they may be, the nearest first."""
TURNED_LEAST, TURNED_BEATS, MOST_JOINED = 0.12, 12, 4
"""How much more its own part fits each of two trains in turn, how many beats each has, how many are kept."""
SAME_FRAMES = 4.0
"""Two trains whose beats lie no further apart are one."""


def period(train: Doubles) -> float:
    """The usual length of a beat, in frames."""
    return float(np.median(np.diff(train)))


def candidates(active: Doubles, beat: Doubles) -> list[Doubles]:
    """Trains that follow the likely periods and what goes with each, no two the same.

    Both what begins and what sounds like a beat (``beatnet``) is followed, and what sounds like a beat
    is also asked for the one steady train that the whole song fits best.
    """
    near = maximum_filter1d(active, 2 * NEAR_FRAMES + 1)
    periods = likely_periods(beat)
    steady = [steady_train(beat, period) for period in periods]
    found = (*follow(beat, periods), *follow(active, likely_periods(active)))
    followed = _distinct(train for train in found if len(train) >= LEAST_BEATS)
    trains = [*steady, *followed, *_joined(followed, near)]
    every = (_supported(other, near) for train in trains for other in _related(train, near))
    return _distinct(train for train in every if len(train) >= LEAST_BEATS and _in_range(train))


def _distinct(trains: Iterable[Doubles]) -> list[Doubles]:
    """The trains, no two the same: of these the first."""
    found: list[Doubles] = []
    for train in trains:
        if not any(_same(train, other) for other in found):
            found.append(train)
    return found


def _related(train: Doubles, near: Doubles) -> Iterator[Doubles]:
    """A train, its off-beats, doubles and halves, and what lies a third or a quarter beside it."""
    between = train[:-1] + np.diff(train) / 2
    yield from (train, between, np.sort(np.concatenate([train, between])))
    yield from (train[::2], train[1::2], between[::2], between[1::2])
    # Where every other note swings, the train may have caught the notes between the beats.
    usual = float(_on(train, near).mean())
    for place in (1 / 4, 1 / 3, 2 / 3, 3 / 4):
        beside = train[:-1] + place * np.diff(train)
        found = [float(_on(beside + off, near).mean()) for off in BESIDE_FRAMES]
        if max(found) > ALSO_LIKELY * usual:
            yield beside + BESIDE_FRAMES[int(np.argmax(found))]


def _joined(trains: list[Doubles], near: Doubles) -> list[Doubles]:
    """Two trains in turn, for a song that goes on at another tempo: one fits until then, the other after."""
    better = [_better_before(train, near) for train in trains]
    joined: list[tuple[float, Doubles]] = []
    for (before, one), (after, other) in permutations(zip(better, trains, strict=True), 2):
        sure = np.minimum(before, -after)
        turn = int(np.argmax(sure))
        if sure[turn] < TURNED_LEAST:
            continue
        first = one[one <= turn]
        joined.append((sure[turn], np.append(first, other[other > first[-1] + period(other) / 2])))
    joined.sort(key=lambda pair: -pair[0])
    return [train for _, train in joined[:MOST_JOINED]]


def _better_before(train: Doubles, near: Doubles) -> Doubles:
    """How much more of a train's beats are onsets before each frame than after it, shape (frames,).

    0 where fewer than ``TURNED_BEATS`` lie on either side.
    """
    beats, found = np.zeros(len(near)), np.zeros(len(near))
    beats[train.astype(int)] = 1.0
    found[train.astype(int)] = _on(train, near)
    beats, found = np.cumsum(beats), np.cumsum(found)
    enough = (beats >= TURNED_BEATS) & (beats[-1] - beats >= TURNED_BEATS)
    more = found / np.maximum(beats, 1) - (found[-1] - found) / np.maximum(beats[-1] - beats, 1)
    return np.where(enough, more, 0.0)


def _on(train: Doubles, near: Doubles) -> Doubles:
    """How like an onset each beat is, shape (beats,)."""
    found: Doubles = near[frames_at(train, 0.0, len(near))]
    return found


def frames_at(train: Doubles, place: float, count: int) -> NDArray[np.intp]:
    """The frame of ``count`` at a part of each beat; for the last beat the one before gives the length."""
    lengths = np.diff(train, append=2 * train[-1] - train[-2])
    return np.clip(np.round(train + place * lengths).astype(np.intp), 0, count - 1)


def _supported(train: Doubles, near: Doubles) -> Doubles:
    """The train without the beats at either end that no onset supports."""
    if len(train) < LEAST_BEATS:
        return train[:0]
    strong = np.flatnonzero(_on(train, near) > SUPPORTED)
    return train[strong[0] : strong[-1] + 1] if len(strong) else train[:0]


def _in_range(train: Doubles) -> bool:
    return bool(SLOWEST_BPM <= 60 * FRAME_RATE / period(train) <= FASTEST_BPM)


def _same(one: Doubles, other: Doubles) -> bool:
    if abs(period(one) / period(other) - 1) > 0.1:
        return False
    at = np.clip(np.searchsorted(other, one), 1, len(other) - 1)
    apart = np.minimum(np.abs(one - other[at - 1]), np.abs(one - other[at]))
    return float(np.mean(apart <= SAME_FRAMES)) > 0.9
