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

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from izmet.sound.beatnet import TEMPOS, Heard
from izmet.sound.hits import Hit, HitKind
from izmet.sound.learned import Weights
from izmet.sound.onsets import FRAME_RATE, Onsets
from izmet.sound.pulse import activation
from izmet.sound.trains import NEAR_FRAMES, candidates, frames_at, period

Doubles = NDArray[np.float64]

PLACES = (0.0, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4)
"""Parts of a beat at which onsets are looked for."""
METERS = (4, 3)
TYPICAL_BPM = 115.0
LEAST_TEMPO = 1e-4
"""No tempo is less likely than that."""
TURN_BEATS = 8
"""How long, to both sides of a turn, what is played is compared."""
STRUCK: tuple[HitKind, ...] = ("kick", "snare", "bass")
BANDS = ("any", "low", "mid", "high", "chord", "beat", "downbeat", *STRUCK)
"""What is listened to on and between beats."""
BAR_BANDS = tuple(name for name in BANDS if name not in ("beat", "downbeat"))
"""The same where bars are told: what is played tells them better than what sounds like a downbeat."""


@dataclass(frozen=True)
class Music:
    """What was heard of a song: by name bands of shape (frames,), and how likely each of ``TEMPOS`` is.

    ``full`` is likeness to an onset and ``sounding`` likeness to a beat; ``BANDS`` are the greatest values
    near each frame.
    """

    bands: dict[str, Doubles]
    tempo: Doubles

    def __getitem__(self, name: str) -> Doubles:
        return self.bands[name]


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


def readings(music: Music, weights: Weights) -> list[Reading]:
    """All ways to hear the beat, the likeliest first; empty where nothing beats."""
    trains = candidates(music["full"], music["sounding"])
    if not trains:
        return []
    chances = _softmax(weights.score("beat", np.array([describe(train, music) for train in trains])))
    order = np.argsort(-chances, kind="stable")
    return [Reading(trains[index], float(chances[index])) for index in order]


def heard(onsets: Onsets, hits: list[Hit], sounding: Heard) -> Music:
    """What is heard of a song, from what begins, its hits, and what sounds like a beat."""

    def near(band: Doubles) -> Doubles:
        spread: Doubles = maximum_filter1d(band, 2 * NEAR_FRAMES + 1)
        return spread

    strengths = {
        "any": onsets.full,
        "low": onsets.low,
        "mid": onsets.mid,
        "high": onsets.high,
        "chord": onsets.chord,
    }
    return Music(
        {
            "full": activation(onsets.full),
            "sounding": sounding.beat,
            "beat": near(sounding.beat),
            "downbeat": near(sounding.downbeat),
            **{name: near(activation(strength)) for name, strength in strengths.items()},
            **{kind: near(_struck(hits, kind, len(onsets))) for kind in STRUCK},
        },
        sounding.tempo,
    )


def _struck(hits: list[Hit], kind: HitKind, count: int) -> Doubles:
    """Where hits of a kind are, as a band of shape (count,)."""
    band = np.zeros(count)
    for hit in hits:
        if kind in hit.kinds:
            frame = min(count - 1, round(hit.time * FRAME_RATE))
            band[frame] = max(band[frame], 0.5 + hit.strength / 2)
    return band


def describe(train: Doubles, music: Music) -> Doubles:
    """What begins on and between the beats of a train, shape (features,)."""
    octaves = np.log2(60 * FRAME_RATE / period(train) / TYPICAL_BPM)
    parts = [octaves, octaves**2, max(0.0, octaves - 0.35), max(0.0, -octaves - 0.45)]
    frames = np.array([frames_at(train, place, len(music["full"])) for place in PLACES])
    for name in BANDS:
        at = music[name][frames]
        parts += list(at.mean(axis=1))
        on = at[0]
        parts.append(abs(on[::2].mean() - on[1::2].mean()))
        parts.append(abs(_pair_difference(at[3])))
        parts += [_best_phase(on, meter) - on.mean() for meter in METERS]
        parts.append(_best_phase(at[3], 4) - at[3].mean())
    first = int(np.argmax(music["full"] > 0.6))
    distance = np.abs(train - first).min() / period(train)
    slow, fast = np.percentile(np.diff(train), [95, 5])
    turned = float(np.log2(slow / fast))
    parts += [float(distance < 0.12), len(train) * period(train) / len(music["full"]), turned]
    # How much of all that sounds like a beat the train takes, and how likely its tempo is by itself.
    taken = np.zeros(len(music["full"]), bool)
    taken[frames[0]] = True
    taken = maximum_filter1d(taken, 2 * NEAR_FRAMES + 1)
    parts.append(float(music["sounding"][taken].sum() / max(music["sounding"].sum(), 1e-9)))
    tempo = np.interp(np.log2(60 * FRAME_RATE / period(train)), np.log2(TEMPOS), music.tempo)
    return np.array([*parts, float(np.log(max(tempo, LEAST_TEMPO)))])


def _pair_difference(values: Doubles) -> float:
    return float(values[::2].mean() - values[1::2].mean()) if len(values) > 1 else 0.0


def bars(train: Doubles, music: Music, weights: Weights) -> tuple[int, int, float]:
    """The likeliest (beats a bar, index of the first downbeat) of a train, and how likely that is."""
    choices = bar_choices()
    chances = _softmax(weights.score("bar", describe_bars(train, music)))
    best = int(np.argmax(chances))
    return (*choices[best], float(chances[best]))


def bar_choices() -> list[tuple[int, int]]:
    """All (beats a bar, index of the first downbeat)."""
    return [(meter, phase) for meter in METERS for phase in range(meter)]


def describe_bars(train: Doubles, music: Music) -> Doubles:
    """What begins on the beats of the bar, against the mean, shape (choices, features)."""
    on, off = (frames_at(train, place, len(music["full"])) for place in (0.0, 0.5))
    heard = [(music[name][on], music[name][off]) for name in BAR_BANDS]
    turns = _turns(train, music)
    start = int(np.abs(train - int(np.argmax(music["full"] > 0.6))).argmin())
    return np.array([_describe_bar(heard, turns, start, *choice) for choice in bar_choices()])


def _describe_bar(
    heard: list[tuple[Doubles, Doubles]], turns: Doubles, start: int, meter: int, phase: int
) -> Doubles:
    """One choice, from what is heard on and between all beats; ``start`` is the beat with which it begins."""
    three = float(meter == 3)
    parts = [three]
    for on, off in heard:
        first = [_phase_mean(on, meter, phase + step) - on.mean() for step in (0, 1, meter - 1)]
        later = [_phase_mean(off, meter, phase + step) - off.mean() for step in (0, meter - 1)]
        both = [*first, *later, _phase_mean(on, meter, phase + 2) - on.mean()]
        parts += [value * (1 - three) for value in both] + [value * three for value in both]
    share = float(turns[phase::meter].sum()) - 1 / meter
    return np.array([*parts, share * (1 - three), share * three, float(start % meter == phase)])


def _turns(train: Doubles, music: Music) -> Doubles:
    """How much of the turns, where what is played changes for long, falls on each beat; together 1."""
    edges = np.clip(np.round(train).astype(int), 0, len(music["full"]))
    played = np.array([_means(music[name], edges) for name in BAR_BANDS])
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


def _softmax(scores: Doubles) -> Doubles:
    powers = np.exp(scores - scores.max())
    result: Doubles = powers / powers.sum()
    return result
