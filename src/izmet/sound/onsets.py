"""How strongly does something begin, at each short step of the music?

Conventions
    The strength is sampled every ``HOP`` samples of a signal at ``RATE``; frame k is
    centred on the instant ``k · HOP / RATE``.

Source: S. Böck, G. Widmer, "Maximum filter vibrato suppression for onset detection",
DAFx 2013 (spectral flux of a log-band spectrum against the maximum of neighbouring
bands one frame before).
"""

from __future__ import annotations

import numpy as np
import soxr
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d
from scipy.signal import get_window

Floats = NDArray[np.float32]

RATE = 44100
HOP = 441
WINDOW = 2048
BANDS_PER_OCTAVE = 12
LOWEST, HIGHEST = 30.0, 16000.0
BLOCK = 2048
"""Frames whose spectra are held at once: memory stays flat however long the song."""


def to_mono(samples: Floats, rate: int) -> Floats:
    """Mono samples at ``RATE``, shape (count,), from (count, channels) at any rate."""
    mono: Floats = samples.mean(axis=1, dtype=np.float32)
    if rate != RATE:
        mono = soxr.resample(mono, rate, RATE).astype(np.float32)
    return mono


def onset_strength(mono: Floats, lowest: float = LOWEST, highest: float = HIGHEST) -> Floats:
    """Onset strength of mono samples at ``RATE`` between two frequencies in Hz, shape (frames,)."""
    bands = _filterbank(lowest, highest)
    window = get_window("hann", WINDOW).astype(np.float32)
    padded = np.pad(mono, (WINDOW // 2, WINDOW // 2))
    frames = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[::HOP]
    strength = np.zeros(len(frames), np.float32)
    last: Floats | None = None
    for begin in range(0, len(frames), BLOCK):
        spectrum = np.abs(np.fft.rfft(frames[begin : begin + BLOCK] * window, axis=1)).astype(np.float32)
        logs = np.log10(1 + spectrum @ bands)
        before = np.concatenate([logs[:1] if last is None else last, logs[:-1]])
        rise = logs - maximum_filter1d(before, 3, axis=1)
        strength[begin : begin + len(logs)] = np.maximum(rise, 0).sum(axis=1)
        last = logs[-1:]
    return strength


def _filterbank(lowest: float, highest: float) -> Floats:
    """Triangles on a log scale, shape (bins, bands); bands narrower than a bin are left out."""
    count = int(np.log2(highest / lowest) * BANDS_PER_OCTAVE) + 2
    edges = lowest * 2 ** (np.arange(count) / BANDS_PER_OCTAVE)
    bins = np.unique(np.round(edges * WINDOW / RATE).astype(int))
    bank = np.zeros((WINDOW // 2 + 1, max(1, len(bins) - 2)), np.float32)
    for band, (low, middle, high) in enumerate(zip(bins, bins[1:], bins[2:], strict=False)):
        bank[low : middle + 1, band] = np.linspace(0, 1, middle - low + 1)
        bank[middle : high + 1, band] = np.linspace(1, 0, high - middle + 1)
    return bank
