"""Which of the possible trains of beats do people tap, and which of its beats begin bars?

Every train that could be tapped is described by what begins on, and between, its
beats: kicks and snares, chords, hats. Weights learned from practice songs turn the
description into a likelihood, so the machine can say how sure it is and what else
it may be. Bars are read the same way.

Conventions
    A train is an increasing array of frames (``onsets.FRAME_RATE``), shape (beats,).

Source: conditional logit, D. McFadden 1974, over candidates, with a hidden layer; the description is
our own.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import permutations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from izmet.sound.hits import Hit, HitKind
from izmet.sound.learned import Weights
from izmet.sound.onsets import FRAME_RATE, Onsets
from izmet.sound.pulse import activation, follow, likely_periods

Doubles = NDArray[np.float64]
Bands = dict[str, Doubles]

SLOWEST_BPM, FASTEST_BPM = 42.0, 230.0
LEAST_BEATS = 4
NEAR_FRAMES = 2
"""An onset this near belongs to the place."""
PLACES = (0.0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4)
"""Parts of a beat at which onsets are looked for."""
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
METERS = (4, 3)
TYPICAL_BPM = 115.0
TURN_BEATS = 8
"""How long, to both sides of a turn, what is played is compared."""
STRUCK: tuple[HitKind, ...] = ("kick", "snare", "bass")
BANDS = ("any", "low", "mid", "high", "chord", *STRUCK)
"""What is listened to on and between beats."""


@dataclass(frozen=True)
class Reading:
    """One way to hear the beat.

    ``likelihood`` is that of this reading among all.
    """

    train: Doubles
    likelihood: float

    @property
    def tempo(self) -> float:
        """Beats a minute."""
        return 60 * FRAME_RATE / period(self.train)


def period(train: Doubles) -> float:
    """The usual length of a beat, in frames."""
    return float(np.median(np.diff(train)))


def readings(bands: Bands, weights: Weights) -> list[Reading]:
    """All ways to hear the beat, the likeliest first; empty where nothing beats."""
    trains = candidates(bands["full"])
    if not trains:
        return []
    chances = _softmax(weights.score("beat", np.array([describe(train, bands) for train in trains])))
    order = np.argsort(-chances, kind="stable")
    return [Reading(trains[index], float(chances[index])) for index in order]


def heard(onsets: Onsets, hits: list[Hit]) -> Bands:
    """Likeness to an onset in all and by band, the greatest value near each frame, of shape (frames,)."""
    return {
        "full": activation(onsets.full),
        **{
            name: maximum_filter1d(activation(strength), 2 * NEAR_FRAMES + 1)
            for name, strength in (
                ("any", onsets.full),
                ("low", onsets.low),
                ("mid", onsets.mid),
                ("high", onsets.high),
                ("chord", onsets.chord),
            )
        },
        **{kind: _struck(hits, kind, len(onsets)) for kind in STRUCK},
    }


def _struck(hits: list[Hit], kind: HitKind, count: int) -> Doubles:
    """Where hits of a kind are, as a band of shape (count,)."""
    band = np.zeros(count)
    for hit in hits:
        if kind in hit.kinds:
            frame = min(count - 1, round(hit.time * FRAME_RATE))
            band[frame] = max(band[frame], 0.5 + hit.strength / 2)
    spread: Doubles = maximum_filter1d(band, 2 * NEAR_FRAMES + 1)
    return spread


def candidates(active: Doubles) -> list[Doubles]:
    """Trains that follow the likely periods and what goes with each, no two the same."""
    near = maximum_filter1d(active, 2 * NEAR_FRAMES + 1)
    followed = [train for train in follow(active, likely_periods(active)) if len(train) >= LEAST_BEATS]
    trains: list[Doubles] = []
    for train in [*followed, *_joined(followed, near)]:
        for other in _related(train, near):
            trimmed = _supported(other, near)
            if (
                len(trimmed) >= LEAST_BEATS
                and _in_range(trimmed)
                and not any(_same(trimmed, t) for t in trains)
            ):
                trains.append(trimmed)
    return trains


def _related(train: Doubles, near: Doubles) -> Iterator[Doubles]:
    """A train, its off-beats, doubles and halves, and what lies a third or a quarter beside it."""
    between = train[:-1] + np.diff(train) / 2
    yield from (train, between, np.sort(np.concatenate([train, between])))
    yield from (train[::2], train[1::2], between[::2], between[1::2])
    # Where every other note swings, the train may have caught the notes between the beats.
    usual = float(_values(near, train, 0.0).mean())
    for place in (1 / 4, 1 / 3, 2 / 3, 3 / 4):
        beside = train[:-1] + place * np.diff(train)
        found = [float(_values(near, beside + off, 0.0).mean()) for off in BESIDE_FRAMES]
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
    found[train.astype(int)] = _values(near, train, 0.0)
    beats, found = np.cumsum(beats), np.cumsum(found)
    enough = (beats >= TURNED_BEATS) & (beats[-1] - beats >= TURNED_BEATS)
    left = found / np.maximum(beats, 1) - (found[-1] - found) / np.maximum(beats[-1] - beats, 1)
    more: Doubles = np.where(enough, left, 0.0)
    return more


def describe(train: Doubles, bands: Bands) -> Doubles:
    """What begins on and between the beats of a train, shape (features,)."""
    octaves = np.log2(60 * FRAME_RATE / period(train) / TYPICAL_BPM)
    parts = [octaves, octaves**2, max(0.0, octaves - 0.35), max(0.0, -octaves - 0.45)]
    frames = np.array([_frames(train, place, len(bands["full"])) for place in PLACES])
    for name in BANDS:
        at = bands[name][frames]
        parts += list(at.mean(axis=1))
        on = at[0]
        parts.append(abs(on[::2].mean() - on[1::2].mean()))
        parts.append(abs(_pair_difference(at[3])))
        parts += [_best_phase(on, meter) - on.mean() for meter in METERS]
        parts.append(_best_phase(at[3], 4) - at[3].mean())
    first = int(np.argmax(bands["full"] > 0.6))
    distance = np.abs(train - first).min() / period(train)
    slow, fast = np.percentile(np.diff(train), [95, 5])
    turned = float(np.log2(slow / fast))
    return np.array([*parts, float(distance < 0.12), len(train) * period(train) / len(bands["full"]), turned])


def _pair_difference(values: Doubles) -> float:
    return float(values[::2].mean() - values[1::2].mean()) if len(values) > 1 else 0.0


def bars(train: Doubles, bands: Bands, weights: Weights) -> tuple[int, int, float]:
    """The likeliest (beats a bar, index of the first downbeat) of a train, and how likely that is."""
    choices = bar_choices()
    chances = _softmax(weights.score("bar", describe_bars(train, bands)))
    best = int(np.argmax(chances))
    return (*choices[best], float(chances[best]))


def bar_choices() -> list[tuple[int, int]]:
    """All (beats a bar, index of the first downbeat)."""
    return [(meter, phase) for meter in METERS for phase in range(meter)]


def describe_bars(train: Doubles, bands: Bands) -> Doubles:
    """What begins on the beats of the bar, against the mean, shape (choices, features)."""
    turns = _turns(train, bands)
    return np.array([_describe_bar(train, bands, turns, *choice) for choice in bar_choices()])


def _describe_bar(train: Doubles, bands: Bands, turns: Doubles, meter: int, phase: int) -> Doubles:
    three = float(meter == 3)
    parts = [three]
    frames = [_frames(train, place, len(bands["full"])) for place in (0.0, 0.5)]
    for name in BANDS:
        on, off = (bands[name][at] for at in frames)
        first = [_phase_mean(on, meter, phase + step) - on.mean() for step in (0, 1, meter - 1)]
        later = [_phase_mean(off, meter, phase + step) - off.mean() for step in (0, meter - 1)]
        both = [*first, *later, _phase_mean(on, meter, phase + 2) - on.mean()]
        parts += [value * (1 - three) for value in both] + [value * three for value in both]
    share = float(turns[phase::meter].sum()) - 1 / meter
    parts += [share * (1 - three), share * three]
    start = np.abs(train - int(np.argmax(bands["full"] > 0.6))).argmin()
    parts.append(float(start % meter == phase))
    return np.array(parts)


def _turns(train: Doubles, bands: Bands) -> Doubles:
    """How much of the turns, where what is played changes for long, falls on each beat; together 1."""
    edges = np.clip(np.round(train).astype(int), 0, len(bands["full"]))
    played = np.array([_means(bands[name], edges) for name in BANDS])
    total = np.cumsum(np.pad(played, ((0, 0), (1, 0))), axis=1)
    beats = np.arange(TURN_BEATS, played.shape[1] - TURN_BEATS)
    if len(beats) == 0:
        return np.full(len(train), 1 / len(train))
    after = total[:, beats + TURN_BEATS] - total[:, beats]
    before = total[:, beats] - total[:, beats - TURN_BEATS]
    change = np.linalg.norm(after - before, axis=0)
    sharp = np.zeros(len(train))
    sharp[beats] = np.where(change == maximum_filter1d(change, TURN_BEATS), change, 0) ** 2
    turns: Doubles = sharp / max(sharp.sum(), 1e-9)
    return turns


def _means(band: Doubles, edges: NDArray[np.intp]) -> Doubles:
    """The mean of a band over each beat between two edges."""
    total = np.concatenate([[0.0], np.cumsum(band)])
    means: Doubles = np.diff(total[edges]) / np.maximum(np.diff(edges), 1)
    return means


def _phase_mean(values: Doubles, meter: int, phase: int) -> float:
    chosen = values[phase % meter :: meter]
    return float(chosen.mean()) if len(chosen) else float(values.mean())


def _best_phase(values: Doubles, meter: int) -> float:
    return max(_phase_mean(values, meter, phase) for phase in range(meter))


def _values(band: Doubles, train: Doubles, place: float) -> Doubles:
    """The band at a part of each beat, shape (beats,)."""
    values: Doubles = band[_frames(train, place, len(band))]
    return values


def _frames(train: Doubles, place: float, count: int) -> NDArray[np.intp]:
    """The frame of ``count`` at a part of each beat; for the last beat the one before gives the length."""
    lengths = np.diff(train, append=2 * train[-1] - train[-2])
    return np.clip(np.round(train + place * lengths).astype(np.intp), 0, count - 1)


def _supported(train: Doubles, near: Doubles) -> Doubles:
    """The train without the beats at either end that no onset supports."""
    if len(train) < LEAST_BEATS:
        return train[:0]
    strong = np.flatnonzero(_values(near, train, 0.0) > SUPPORTED)
    return train[strong[0] : strong[-1] + 1] if len(strong) else train[:0]


def _in_range(train: Doubles) -> bool:
    return bool(SLOWEST_BPM <= 60 * FRAME_RATE / period(train) <= FASTEST_BPM)


def _same(one: Doubles, other: Doubles) -> bool:
    if abs(period(one) / period(other) - 1) > 0.1:
        return False
    at = np.clip(np.searchsorted(other, one), 1, len(other) - 1)
    apart = np.minimum(np.abs(one - other[at - 1]), np.abs(one - other[at]))
    return float(np.mean(apart <= SAME_FRAMES)) > 0.9


def _softmax(scores: Doubles) -> Doubles:
    powers = np.exp(scores - scores.max())
    result: Doubles = powers / powers.sum()
    return result
