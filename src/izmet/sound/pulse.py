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

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

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


def follow(active: Doubles, periods: Doubles) -> list[Doubles]:
    """For each period (in frames), the train of beats near it that best explains the onsets, in frames.

    All periods are followed at once, each in states of its own: a row of ``places``
    for each length that a beat may have.
    """
    if len(periods) == 0:
        return []
    lengths, start = _states(periods)
    size = int(lengths.sum())
    first, last = start, start + lengths - 1
    on_beat = np.zeros(size)
    for begin, length in zip(first[lengths > 0], lengths[lengths > 0], strict=True):
        on_beat[begin : begin + max(1, length // BEAT_PART)] = 1.0
    change = _changes(lengths)
    rest = np.log(np.maximum((1 - active) / (BEAT_PART - 1), LEAST_CHANCE))
    gain = np.log(np.maximum(active, LEAST_CHANCE)) - rest
    score = np.zeros(size + 1)  # the last entry stands for lengths that are not there
    came = np.zeros((len(active), *lengths.shape), np.int8)
    present = lengths > 0
    enter, leave = np.where(present, first, size), np.where(present, last, size)
    for frame in range(len(active)):
        entering = score[leave][:, :, None] + change
        came[frame] = entering.argmax(axis=1)
        score[1:size] = score[: size - 1]
        score[enter] = entering.max(axis=1)
        score[:size] += on_beat * gain[frame]
        score[size] = -np.inf
    return [_trace(came[:, row], score, first[row], lengths[row]) for row in range(len(periods))]


def _states(periods: Doubles) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The lengths that beats near each period may have, 0 for none, and where each one's states begin."""
    reach = np.maximum(1, np.ceil(SPREAD * periods)).astype(int)
    lengths = np.zeros((len(periods), 2 * int(reach.max()) + 1), int)
    for row, (period, far) in enumerate(zip(np.round(periods).astype(int), reach, strict=True)):
        lengths[row, : 2 * far + 1] = np.arange(period - far, period + far + 1)
    start = np.concatenate([[0], np.cumsum(lengths.ravel())[:-1]]).reshape(lengths.shape)
    return lengths, start


def _changes(lengths: NDArray[np.intp]) -> Doubles:
    """Log-probability of each next length after each length, shape (periods, from, to)."""
    ratio = lengths[:, None, :] / np.maximum(lengths[:, :, None], 1)
    change = np.where((lengths > 0)[:, None, :], -STIFFNESS * np.abs(ratio - 1), -np.inf)
    total: Doubles = np.logaddexp.reduce(change, axis=2, keepdims=True)
    return change - total


def _trace(
    came: NDArray[np.int8], score: Doubles, first: NDArray[np.intp], lengths: NDArray[np.intp]
) -> Doubles:
    """The beats of the best way through one period's states, from its end back."""
    ends = [
        score[begin : begin + length].max(initial=-np.inf)
        for begin, length in zip(first, lengths, strict=True)
    ]
    which = int(np.argmax(ends))
    frame = len(came) - 1 - int(np.argmax(score[first[which] : first[which] + lengths[which]]))
    beats = []
    while frame >= 0:
        beats.append(frame)
        which = int(came[frame, which])
        frame -= int(lengths[which])
    return np.array(beats[::-1], dtype=np.float64)
