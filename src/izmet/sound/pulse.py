"""With which periods does this music come again, and where do the beats of each fall?

Each likely period of the onset strength is followed through the song by a small
hidden Markov model: its state is how far the beat has come and how long it lasts,
the period may change a little at each beat, and an onset is likely just after a
beat begins.

Source: F. Krebs, S. Böck, G. Widmer, "An efficient state-space model for joint tempo
and meter tracking", ISMIR 2015, held near one period each; the observation model is
that of S. Böck, F. Krebs, G. Widmer, "A multi-model approach to beat tracking",
ISMIR 2014.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from izmet.compiling import compiled
from izmet.sound.onsets import FRAME_RATE
from izmet.sound.track import Floats

Doubles = NDArray[np.float64]

SHORTEST, LONGEST = 0.28, 1.2
"""Periods that are looked for, in seconds."""
MOST_PERIODS = 6
LEAST_PULSE = 0.16
"""Peak of the normalised autocorrelation below which there is no pulse to follow (noise stays below)."""
SAME_PERIOD = 0.05
SPREAD = 0.09
"""How far a period may drift to either side, as a part of it."""
STIFFNESS = 60.0
STEADY_SPREAD = 0.04
"""The same for one length that all beats share."""
HARMONICS = 4
FINENESS = 8
"""How many lines of the spectrum there are to one of the song's own."""
BEAT_PART = 16
"""An onset belongs to the beat in the first 1/BEAT_PART of it."""
LOCAL_SECONDS = 4.0
LOUDEST = 1.5
"""Onsets count up to this much of the strong ones: one bang, such as a cut beginning, drowns no others."""
LEAST_CHANCE = 1e-3


def activation(strength: Floats) -> Doubles:
    """Onset strength as a likeness to an onset, 0..1, the same in loud and in quiet passages."""
    rise = np.maximum(strength - uniform_filter1d(strength, round(FRAME_RATE)), 0.0).astype(np.float64)
    if len(rise):
        strong = np.percentile(rise, 98) or rise.max()  # few and short onsets are all beyond it
        rise = np.minimum(rise, LOUDEST * strong)
    level = np.sqrt(gaussian_filter1d(rise**2, LOCAL_SECONDS / 2 * FRAME_RATE)) + 0.1 * np.sqrt(
        np.mean(rise**2)
    )
    likeness: Doubles = np.tanh(rise / np.maximum(3 * level, 1e-12))
    return likeness


def likely_periods(active: Doubles) -> Doubles:
    """Periods in frames at which onsets come again, the likeliest first; empty where none do."""
    smooth = gaussian_filter1d(active, 2.0)
    centred = smooth - smooth.mean()
    size = 1 << (2 * len(centred)).bit_length()
    spectrum = np.abs(np.fft.rfft(centred, size)) ** 2
    correlation = np.fft.irfft(spectrum)[: len(centred)]
    if len(centred) < 2 * SHORTEST * FRAME_RATE or correlation[0] <= 0:
        return np.empty(0)
    correlation /= correlation[0]
    # A period is also heard at its multiples: a comb of four tells it from chance.
    lags = np.arange(round(SHORTEST * FRAME_RATE), round(LONGEST * FRAME_RATE) + 1)
    comb = np.zeros(len(lags))
    for multiple in range(1, 5):
        at = lags * multiple
        wide = np.stack(
            [
                correlation[np.clip(at + off, 0, len(correlation) - 1)]
                for off in range(-multiple, multiple + 1)
            ]
        )
        comb += wide.max(axis=0) / 4
    inner = (comb[1:-1] >= comb[:-2]) & (comb[1:-1] > comb[2:])
    peaks = np.flatnonzero(np.concatenate([[False], inner, [False]]))
    peaks = peaks[comb[peaks] >= max(LEAST_PULSE, 0.35 * comb.max())]
    order = peaks[np.argsort(-comb[peaks], kind="stable")][:MOST_PERIODS]
    likely: Doubles = lags[order].astype(np.float64)
    return np.concatenate([likely, _three_four(likely)])


def _three_four(likely: Doubles) -> Doubles:
    """Periods that beat three against two or four with the likeliest, unless they are among the likely."""
    if len(likely) == 0:
        return likely
    related = likely[0] * np.array([2 / 3, 3 / 4, 4 / 3, 3 / 2])
    inside = (related >= SHORTEST * FRAME_RATE) & (related <= LONGEST * FRAME_RATE)
    known = (np.abs(related[:, None] / likely - 1) < SAME_PERIOD).any(axis=1)
    missing: Doubles = np.round(related[inside & ~known])
    return missing


def steady_train(active: Doubles, period: float) -> Doubles:
    """The beats of constant length near a period that all of a song fits best, in frames.

    Where the length is right, each beat of the song adds to one line of the spectrum and to its
    harmonics: how high they are together is the vote of all, and their phases say where beats begin.
    """
    size = FINENESS << (len(active) - 1).bit_length()
    spectrum = np.fft.rfft(active - active.mean(), size)
    harmonics = np.arange(1, HARMONICS + 1)
    low, high = (round(size / (period * (1 + by * STEADY_SPREAD))) for by in (1, -1))
    lines = np.arange(low, high + 1)
    line = lines[np.argmax(np.abs(spectrum[lines[:, None] * harmonics]).sum(axis=1))]
    length = size / line
    parts = np.arange(round(length)) / round(length)
    turned = np.exp(2j * np.pi * parts[:, None] * harmonics)
    first = parts[np.argmax((turned * spectrum[line * harmonics]).real.sum(axis=1))] * length
    train: Doubles = np.arange(first, len(active) - 0.5, length)
    return train


def follow(active: Doubles, periods: Doubles) -> list[Doubles]:
    """For each period (in frames), the train of beats near it that best explains the onsets, in frames."""
    rest = np.log(np.maximum((1 - active) / (BEAT_PART - 1), LEAST_CHANCE))
    gain = np.log(np.maximum(active, LEAST_CHANCE)) - rest
    total = np.concatenate([[0.0], np.cumsum(gain)])
    return [_best_train(total, _lengths(period)) for period in periods]


def _lengths(period: float) -> NDArray[np.int64]:
    """The lengths that beats near a period may have."""
    middle = round(period)
    far = max(1, math.ceil(SPREAD * period))
    return np.arange(middle - far, middle + far + 1)


def _best_train(total: Doubles, lengths: NDArray[np.int64]) -> Doubles:
    """The beats of the likeliest way through a song, given what its frames gain up to each by being on one.

    A beat begins with any length; how likely is only what its first part gains, and the change from the
    length before.
    """
    change = -STIFFNESS * np.abs(lengths[None, :] / lengths[:, None] - 1)
    change -= np.logaddexp.reduce(change, axis=1, keepdims=True)
    count = len(total) - 1
    score, came = np.empty((count, len(lengths))), np.empty((count, len(lengths)), np.int64)
    _scored(total, lengths, np.maximum(1, lengths // BEAT_PART), change, score, came)
    ends = np.arange(count)[:, None] + lengths > count - 1
    frame, which = np.unravel_index(np.argmax(np.where(ends, score, -np.inf)), score.shape)
    beats = []
    while frame >= 0:
        beats.append(frame)
        which = came[frame, which]
        frame -= lengths[which]
    return np.array(beats[::-1], dtype=np.float64)


@compiled
def _scored(
    total: Doubles,
    lengths: NDArray[np.int64],
    wide: NDArray[np.int64],
    change: Doubles,
    score: Doubles,
    came: NDArray[np.int64],
) -> None:
    """Fill in how good it is that a beat of each length begins on each frame, and the length before it.

    Both of shape (frames, lengths); a beat that begins before the song gains by what is heard of it.
    """
    count = len(score)
    for frame in range(count):
        for now in range(len(lengths)):
            best, before = -np.inf, 0
            for last in range(len(lengths)):
                since = frame - lengths[last]
                until = score[since, last] if since >= 0 else total[max(0, since + wide[last])]
                if until + change[last, now] > best:
                    best, before = until + change[last, now], last
            score[frame, now] = best + total[min(count, frame + wide[now])] - total[frame]
            came[frame, now] = before
