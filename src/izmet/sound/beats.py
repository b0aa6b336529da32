"""Where are the beats?

Tempo from the autocorrelation of onset strength under a log-normal prior, then the
chain of beats that best joins strong onsets at that tempo.

Source: D. Ellis, "Beat tracking by dynamic programming", J. New Music Research 36(1),
2007; the prior's centre and width are common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from izmet.sound.onsets import HOP, RATE, Floats

FRAME_RATE = RATE / HOP
PRIOR_BPM, PRIOR_OCTAVES = 115.0, 0.7
SLOWEST_BPM, FASTEST_BPM = 50.0, 220.0
TIGHTNESS = 400.0
LEAST_PULSE = 0.12
"""Peak of the normalised autocorrelation below which there is no pulse to follow (noise stays below)."""


@dataclass(frozen=True)
class Beats:
    """Tempo in beats a minute (0 when there is no pulse) and beat instants in seconds, shape (beats,)."""

    tempo: float
    times: NDArray[np.float64]


def find_beats(strength: Floats) -> Beats:
    """The beats in onset strength sampled at ``FRAME_RATE``; none in silence or noise."""
    none = Beats(0.0, np.empty(0))
    if len(strength) < 2 * FRAME_RATE or strength.max() <= 0:
        return none
    level = gaussian_filter1d(strength.astype(np.float64), FRAME_RATE)
    novelty = gaussian_filter1d(np.maximum(strength - level, 0.0), 1.5)
    novelty /= novelty.std() or 1.0
    period = _period(novelty)
    if period is None:
        return none
    frames = _chain(novelty, period)
    frames = frames[_trimmed(novelty[frames])]
    if len(frames) < 2:
        return none
    beat = (frames[-1] - frames[0]) / (len(frames) - 1)
    return Beats(60 * FRAME_RATE / float(beat), frames / FRAME_RATE)


def _period(novelty: NDArray[np.float64]) -> float | None:
    """The beat's length in frames, or None where nothing repeats."""
    centred = novelty - novelty.mean()
    size = 1 << (2 * len(centred)).bit_length()
    power = np.abs(np.fft.rfft(centred, size)) ** 2
    correlation = np.fft.irfft(power)[: len(centred)] / power.mean()
    lags = np.arange(
        int(60 * FRAME_RATE / FASTEST_BPM), min(len(centred), int(60 * FRAME_RATE / SLOWEST_BPM) + 1)
    )
    if len(lags) == 0 or correlation[lags].max() < LEAST_PULSE:
        return None
    octaves = np.log2(60 * FRAME_RATE / lags / PRIOR_BPM) / PRIOR_OCTAVES
    return float(lags[np.argmax(correlation[lags] * np.exp(-0.5 * octaves**2))])


def _chain(novelty: NDArray[np.float64], period: float) -> NDArray[np.intp]:
    """The best chain of frames: strong ones, about one period apart."""
    steps = np.arange(-round(2 * period), -round(period / 2) + 1)
    cost = -TIGHTNESS * np.log(-steps / period) ** 2
    score = novelty.copy()
    link = np.full(len(novelty), -1)
    for frame in range(-steps[-1], len(novelty)):
        before = frame + steps
        valid = before >= 0
        candidates = cost[valid] + score[before[valid]]
        best = int(np.argmax(candidates))
        if candidates[best] > 0:
            score[frame] += candidates[best]
            link[frame] = before[valid][best]
    tail = max(0, len(score) - round(period))
    frames = [tail + int(np.argmax(score[tail:]))]
    while link[frames[-1]] >= 0:
        frames.append(int(link[frames[-1]]))
    return np.array(frames[::-1])


def _trimmed(at_beats: NDArray[np.float64]) -> slice:
    """Without the beats at either end that no onset supports."""
    strong = np.flatnonzero(at_beats > 0.5 * np.sqrt(np.mean(at_beats**2)))
    return slice(int(strong[0]), int(strong[-1]) + 1) if len(strong) else slice(0, 0)
