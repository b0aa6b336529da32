"""How loud is the song in three bands, at every zoom?

A pyramid of peaks: the first level holds, for every ``BASE`` samples, the greatest
absolute sample of the low, middle and high band; each further level holds the
greatest of ``FACTOR`` entries of the one before. Values are uint8, 255 for the
loudest sample of the song.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from izmet.sound.mono import mixed_down, split
from izmet.sound.source import Source
from izmet.sound.track import blocks

BASE = 64
FACTOR = 4
LEVELS = 7
EDGES_HZ = (180.0, 2500.0)
BLOCK = BASE * 16384
SETTLE_SAMPLES = 8192


def band_peaks(sound: Source) -> list[NDArray[np.uint8]]:
    """The levels of the pyramid, each of shape (entries, 3)."""
    mono, _ = split(sound, sound.rate)
    filters = _bands(sound.rate)
    states = [np.zeros((len(sos), 2)) for sos in filters]
    rows = []
    for block in blocks(mono, BLOCK):
        row = np.zeros((-(-len(block) // BASE), len(filters)), np.float32)
        for band, sos in enumerate(filters):
            heard, states[band] = sosfilt(sos, block, zi=states[band])
            padded = np.pad(np.abs(heard), (0, -len(heard) % BASE))
            row[:, band] = padded.reshape(-1, BASE).max(axis=1)
        rows.append(row)
    peaks = np.concatenate(rows) if rows else np.zeros((0, len(filters)), np.float32)
    scale = 255 / max(float(peaks.max(initial=0)), 1e-9)
    levels = [np.round(peaks * scale).astype(np.uint8)]
    while len(levels) < LEVELS:
        last = levels[-1]
        padded = np.pad(last, ((0, -len(last) % FACTOR), (0, 0)))
        levels.append(padded.reshape(-1, FACTOR, last.shape[1]).max(axis=1))
    return levels


def band_samples(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Single samples in three bands, shape (count, 3), from samples of shape (count, channels).

    The filters need some ``SETTLE_SAMPLES`` before what is to be looked at.
    """
    mono = mixed_down(samples)
    bands = np.stack([sosfilt(sos, mono) for sos in _bands(rate)], axis=1)
    clipped: NDArray[np.float32] = np.clip(bands, -1, 1).astype(np.float32)
    return clipped


def _bands(rate: int) -> list[NDArray[np.float64]]:
    low, high = (min(edge, 0.45 * rate) for edge in EDGES_HZ)
    return [
        butter(2, low, "lowpass", fs=rate, output="sos"),
        butter(2, (low, high), "bandpass", fs=rate, output="sos"),
        butter(2, high, "highpass", fs=rate, output="sos"),
    ]
