"""How loud is each band of the music at each moment, in the middle and at the sides?

So the net that tells kinds of hits sees a song. It sees the low bands through two windows,
for a kick is told from a bass by its pitch as much as by its attack, and the high bands in
the middle and at the sides of a stereo song, where hats often are and snares seldom.

Conventions
    Frame k is centred on sample ``k · HOP`` at ``RATE``. Levels are ``log10(1 + power)``,
    the power of a song's loudest being ``1 / FLOOR``.
"""

from __future__ import annotations

import numpy as np
import soxr
from numpy.typing import NDArray
from scipy.fft import rfft
from scipy.signal import get_window

from izmet.sound.onsets import RATE
from izmet.sound.track import Floats, Signal, blocks, held, sampled

Doubles = NDArray[np.float64]

HOP = 220
FRAME_RATE = RATE / HOP
LOWEST, HIGHEST, BANDS = 32.0, 16000.0, 36
EDGES = np.geomspace(LOWEST, HIGHEST, BANDS + 1)
WINDOW = 1024
SPLIT = 14
"""How many bands, those below 350 Hz, need longer windows; a quarter of the rate is enough for them."""
LOW_RATE, LOW_WINDOW, LOWEST_WINDOW = RATE // 4, 512, 1024
SIDES_LOUDER = 4.0
"""What is at the sides is softer as a rule: so much louder it is listened to."""
FLOOR = 1e-6
"""The power, 1 for the song's loudest, below which a band is silent."""
BLOCK = 1024
"""Frames whose spectra are held at once: memory stays flat however long the song."""
MOMENTS = np.concatenate([np.arange(-8, 17), np.arange(18, 42, 3)])
"""Frames around a hit that the net looks at: each one near the attack, some of its dying away."""


def band_levels(mono: Signal, sides: Signal) -> Floats:
    """Log levels every ``HOP`` samples, shape (frames, bands, 2), 0 in silence.

    First of each band in the middle; then, of the first ``SPLIT`` bands the same through a
    window twice as long, of the others what is at the sides.
    """
    # Some hundred thousand samples tell how loud a song is as well as all of them.
    loudest = max(float(np.percentile(np.abs(sampled(mono, 100_000)), 99.5)), 1e-6)
    low = _low(mono)
    count = len(mono) // HOP + 1
    levels = np.empty((count, BANDS, 2), np.float32)
    for begin in range(0, count, BLOCK):
        frames = np.arange(begin, min(begin + BLOCK, count))
        levels[frames] = _levels(mono, low, sides, frames, loudest)
    return levels


def _low(mono: Signal) -> Floats:
    """The low end at ``LOW_RATE``."""
    stream = soxr.ResampleStream(RATE, LOW_RATE, 1)
    parts = [stream.resample_chunk(np.ascontiguousarray(block)) for block in blocks(mono)]
    low = np.concatenate([*parts, stream.resample_chunk(np.zeros(0, np.float32), last=True)])
    return low if len(low) else mono[:1]  # a sample or two are none at the lower rate


def _levels(mono: Signal, low: Signal, sides: Signal, frames: NDArray[np.intp], loudest: float) -> Floats:
    lower, upper = EDGES[: SPLIT + 1], EDGES[SPLIT:]
    near = [_power(low, LOW_RATE, LOW_WINDOW, frames, lower), _power(mono, RATE, WINDOW, frames, upper)]
    beside = [
        _power(low, LOW_RATE, LOWEST_WINDOW, frames, lower),
        _power(sides, RATE, WINDOW, frames, upper) * SIDES_LOUDER**2,
    ]
    power = np.stack([np.concatenate(near, axis=1), np.concatenate(beside, axis=1)], axis=2)
    levels: Floats = np.log10(1 + power / np.float32(FLOOR * loudest**2))
    return levels


def _power(samples: Signal, rate: int, size: int, frames: NDArray[np.intp], edges: Doubles) -> Floats:
    """Power between edges in Hz around each of some frames that follow each other, shape (frames, bands)."""
    hop = HOP * rate // RATE
    first, last = frames[0] * hop - size // 2, frames[-1] * hop + size // 2
    around = held(samples, int(first), int(last))
    window = get_window("hann", size).astype(np.float32)
    windows = np.lib.stride_tricks.sliding_window_view(around, size)[::hop]
    spectrum = rfft(windows * (window * (2 / window.sum())), axis=1)
    begins = np.round(edges[:-1] * size / rate).astype(int)
    ends = np.maximum(begins + 1, np.round(edges[1:] * size / rate).astype(int))
    bins = np.arange(spectrum.shape[1])[:, None]
    bank = ((begins <= bins) & (bins < ends)).astype(np.float32)
    power: Floats = (spectrum.real**2 + spectrum.imag**2) @ bank
    return power


class Pictures:
    """The levels around each frame for the net to look at; a slice is of shape (hits, moments, bands, 2)."""

    def __init__(self, logs: Floats, frames: NDArray[np.intp]):
        self._logs = logs
        self._frames = frames

    def __len__(self) -> int:
        return len(self._frames)

    def __getitem__(self, hits: slice, /) -> Floats:
        at = self._frames[hits, None] + MOMENTS
        seen: Floats = self._logs[np.clip(at, 0, len(self._logs) - 1)]
        seen[at < 0] = 0
        return seen
