"""How loud is it, and how far do its waves reach between the samples?

ITU-R BS.1770-5. Each channel is weighted by two filters (a shelf for the head, and a high-pass), squared
and averaged over blocks of 400 ms that begin every 100 ms: the momentary loudness. Its greatest value is
looked for in blocks that begin every 10 ms, so that none falls between two. The integrated loudness is that
of all blocks above −70 LUFS whose mean is then gated again, 10 LU below it. True peak is the greatest value
of the sound at four times its rate (annex 2).

Conventions
    Loudness in LUFS, peaks as parts of full scale; silence is −inf and 0. Channels are in the order of files:
    left, right, centre, low frequencies (which do not count), and those behind. All is taken block by block.

The filters are given for 48 kHz; for other rates they are the same analogue ones, by the bilinear
transform: their corner, gain and quality are those of De Man, "Evaluation of implementations of the EBU
R128 loudness measurement" (AES 2018), from memory, and come out as the printed coefficients at 48 kHz.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample_poly, sosfilt

from izmet.sound.track import Samples

Doubles = NDArray[np.float64]
Places = NDArray[np.int64]
HOPS_A_SECOND, HOPS, EVERY = 100, 40, 10
"""Powers are kept so many times a second; a block is so many of them, and the next begins so many later."""
OFFSET = -0.691
SILENT, GATE = -70.0, -10.0
SHELF = (1681.974450955533, 3.999843853973347, 0.7071752369554196)
HIGH_PASS = (38.13547087602444, 0.5003270373238773)
WEIGHTS = (1.0, 1.0, 1.0, 0.0, 1.41, 1.41)
"""Of channels; more than these count as those behind, and of four the last two are those behind."""
OVERSAMPLED, SPARE = 4, 32
"""How much finer true peak is read, and how many samples around are heard for it."""


def filters(rate: int) -> Doubles:
    """Both filters in second-order sections, shape (2, 6)."""
    corner, gain, quality = SHELF
    k, high = np.tan(np.pi * corner / rate), 10 ** (gain / 20)
    band = high**0.4996667741545416
    scale = 1 + k / quality + k * k
    shelf = [
        (high + band * k / quality + k * k) / scale,
        2 * (k * k - high) / scale,
        (high - band * k / quality + k * k) / scale,
        1,
        2 * (k * k - 1) / scale,
        (1 - k / quality + k * k) / scale,
    ]
    corner, quality = HIGH_PASS
    k = np.tan(np.pi * corner / rate)
    scale = 1 + k / quality + k * k
    passed = [1, -2, 1, 1, 2 * (k * k - 1) / scale, (1 - k / quality + k * k) / scale]
    return np.array([shelf, passed])


class Loudness:
    """Measures a sound that comes block by block."""

    def __init__(self, rate: int, channels: int):
        self._filters = filters(rate)
        self._state = np.zeros((len(self._filters), 2, channels))
        self._rate = rate
        self._rest = np.zeros((0, channels))
        self._powers: list[float] = []
        self._peak = 0.0
        self._tail = np.zeros((2 * SPARE, channels), np.float32)
        places = [0, 1, 4, 5] if channels == 4 else list(range(channels))
        self._weights = np.array([WEIGHTS[min(place, len(WEIGHTS) - 1)] for place in places])

    def add(self, samples: Samples) -> None:
        """Hear the next block, shape (count, channels)."""
        weighted, self._state = sosfilt(self._filters, samples, axis=0, zi=self._state)
        held = np.concatenate([self._rest, weighted])
        edges = self._edges(len(held))
        if len(edges) > 1:
            sums = np.add.reduceat(held[: edges[-1]] ** 2, edges[:-1], axis=0) @ self._weights
            self._powers += (sums / np.diff(edges)).tolist()
        self._rest = held[edges[-1] :]
        near = np.concatenate([self._tail, samples])
        self._peak = max(self._peak, _inner_peak(near))
        self._tail = near[-2 * SPARE :]

    def _edges(self, count: int) -> Places:
        """Where the next hops begin and the last one ends, among so many samples that are held."""
        done = len(self._powers)
        most = done + count * HOPS_A_SECOND // self._rate + 2
        edges = np.rint(np.arange(done, most) * self._rate / HOPS_A_SECOND).astype(np.int64)
        edges -= edges[0]
        return edges[edges <= count]

    @property
    def true_peak(self) -> float:
        """The greatest value between the samples so far, 1 for full scale."""
        return max(self._peak, _inner_peak(np.concatenate([self._tail, np.zeros_like(self._tail)])))

    @property
    def momentary(self) -> Doubles:
        """The loudness of each block of 400 ms, ten a second."""
        return self._blocks()[::EVERY]

    @property
    def loudest(self) -> float:
        """The loudness of the loudest 400 ms; −inf where there are none."""
        return float(self._blocks().max(initial=float("-inf")))

    def _blocks(self) -> Doubles:
        """The loudness of blocks that begin at each hop."""
        if len(self._powers) < HOPS:
            return np.empty(0)
        return _lufs(np.convolve(self._powers, np.full(HOPS, 1 / HOPS), "valid"))

    @property
    def integrated(self) -> float:
        """The loudness of all that was heard; −inf where it is silent or shorter than a block."""
        blocks = self.momentary
        loud = blocks[blocks > SILENT]
        if len(loud) == 0:
            return float("-inf")
        loud = loud[loud > _mean(loud) + GATE]
        return _mean(loud)


def true_peaks(samples: Samples) -> Samples:
    """How far the sound reaches about each sample, of all channels, shape (count,)."""
    fine = resample_poly(samples, OVERSAMPLED, 1, axis=0)
    around = np.abs(fine).max(axis=1, initial=0.0).reshape(-1, OVERSAMPLED).max(axis=1)
    found: Samples = np.maximum(around, np.abs(samples).max(axis=1, initial=0.0)).astype(np.float32)
    return found


def _inner_peak(samples: Samples) -> float:
    """The true peak of what is not near either end: there a sound seems to begin or break off."""
    return float(true_peaks(samples)[SPARE:-SPARE].max(initial=0.0))


def decibels(part: float) -> float:
    """A part of full scale in dB; −inf for nothing."""
    return 20 * float(np.log10(part)) if part > 0 else float("-inf")


def told(level: float) -> float | None:
    """A level to a hundredth, None for silence."""
    return round(level, 2) if np.isfinite(level) else None


def _lufs(power: Doubles) -> Doubles:
    with np.errstate(divide="ignore"):
        return np.asarray(OFFSET + 10 * np.log10(power), np.float64)


def _mean(blocks: Doubles) -> float:
    powers = 10 ** ((blocks - OFFSET) / 10)
    return float(_lufs(np.array([powers.mean()]))[0])
