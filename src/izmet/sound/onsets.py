"""How strongly does something begin, at each short step of the music?

Conventions
    Everything is sampled every ``HOP`` samples of a mono signal at ``RATE``; frame k is
    centred on the instant ``k · HOP / RATE``.

Source: S. Böck, G. Widmer, "Maximum filter vibrato suppression for onset detection",
DAFx 2013 (spectral flux of a log-band spectrum against the maximum of neighbouring
bands one frame before).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d
from scipy.signal import get_window

from izmet.sound.track import Floats, Signal, held

RATE = 44100
HOP = 441
FRAME_RATE = RATE / HOP
WINDOW = 2048
BANDS_PER_OCTAVE = 12
LOWEST, HIGHEST = 30.0, 16000.0
LOW_HZ, HIGH_HZ = 160.0, 5000.0
"""Where the low band ends and the high band begins."""
TONES_HZ = (110.0, 2200.0)
"""Where chords are heard."""
CHORD_SECONDS = 0.25
PICTURED = 40
"""Bands of the picture: neighbours of the finer ones, together."""
ATTACK_AROUND, ATTACK_APART, ATTACK_PART = 21, 7, 0.3
"""Frames of the local mean and of the local maximum, and how far above the one, as part of the strongest."""
BLOCK = 2048
"""Frames whose spectra are held at once: memory stays flat however long the song."""


@dataclass(frozen=True)
class Onsets:
    """What begins at each frame: in all, in three bands, as a change of chord; each of shape (frames,).

    ``picture`` is how loud each of ``PICTURED`` bands is, as a logarithm, of shape (frames, PICTURED).
    """

    full: Floats
    low: Floats
    mid: Floats
    high: Floats
    chord: Floats
    picture: Floats

    def __len__(self) -> int:
        return len(self.full)


def find_onsets(mono: Signal) -> Onsets:
    """Onset strengths of mono samples at ``RATE``."""
    bank, centres = _filterbank()
    window = get_window("hann", WINDOW).astype(np.float32)
    count = len(mono) // HOP + 1
    parts = [
        np.ones(len(centres), bool),
        centres < LOW_HZ,
        (centres >= LOW_HZ) & (centres < HIGH_HZ),
        centres >= HIGH_HZ,
    ]
    tones = (centres >= TONES_HZ[0]) & (centres < TONES_HZ[1])
    strengths = np.zeros((len(parts), count), np.float32)
    heard = np.zeros((count, int(tones.sum())), np.float32)
    picture = np.zeros((count, PICTURED), np.float32)
    edges = np.linspace(0, len(centres), PICTURED + 1).astype(int)
    last = np.zeros((1, len(centres)), np.float32)  # before the song there is silence
    for begin in range(0, count, BLOCK):
        end = min(begin + BLOCK, count)
        around = held(mono, begin * HOP - WINDOW // 2, (end - 1) * HOP + WINDOW // 2)
        frames = np.lib.stride_tricks.sliding_window_view(around, WINDOW)[::HOP]
        spectrum = np.abs(np.fft.rfft(frames * window, axis=1)).astype(np.float32)
        logs = np.log10(1 + spectrum @ bank)
        before = np.concatenate([last, logs[:-1]])
        rise = np.maximum(logs - maximum_filter1d(before, 3, axis=1), 0)
        here = slice(begin, begin + len(logs))
        for row, part in enumerate(parts):
            strengths[row, here] = rise[:, part].sum(axis=1)
        heard[here] = logs[:, tones]
        picture[here] = np.add.reduceat(logs, edges[:-1], axis=1) / np.diff(edges)
        last = logs[-1:]
    full, low, mid, high = strengths
    return Onsets(full, low, mid, high, _chord_change(heard), picture)


def attacks(onsets: Onsets) -> list[float]:
    """Instants at which something begins clearly, in seconds.

    Source: peak picking of S. Böck, F. Krebs, M. Schedl, "Evaluating the online capabilities of onset
    detection methods", ISMIR 2012, with a part of the loudest as its threshold.
    """
    flux = onsets.full
    if len(flux) == 0:
        return []
    local = uniform_filter1d(flux, ATTACK_AROUND)
    least = ATTACK_PART * float(np.percentile(flux, 99.5))
    peaks = (flux == maximum_filter1d(flux, ATTACK_APART)) & (flux > local + least) & (flux > 0)
    return [float(frame) / FRAME_RATE for frame in np.flatnonzero(peaks)]


def _chord_change(heard: Floats) -> Floats:
    """How differently the tones sound after each frame from before it, 0..1."""
    reach = round(CHORD_SECONDS * FRAME_RATE)
    padded = np.pad(heard, ((reach + 1, reach), (0, 0)), mode="edge")
    change = np.empty(len(heard), np.float32)
    for begin in range(0, len(heard), BLOCK):
        here = slice(begin, begin + BLOCK)
        total = np.cumsum(padded[begin : begin + BLOCK + 2 * reach + 1], axis=0, dtype=np.float64)[:-1]
        before = total[reach:-reach] - total[: -2 * reach]
        after = total[2 * reach :] - total[reach:-reach]
        size = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
        change[here] = 1 - np.divide(
            (before * after).sum(axis=1), size, out=np.ones(len(size)), where=size > 0
        )
    return change


def _filterbank() -> tuple[Floats, Floats]:
    """Triangles on a log scale, shape (bins, bands), and their centres in Hz.

    Bands narrower than a bin are left out.
    """
    count = int(np.log2(HIGHEST / LOWEST) * BANDS_PER_OCTAVE) + 2
    edges = LOWEST * 2 ** (np.arange(count) / BANDS_PER_OCTAVE)
    bins = np.unique(np.round(edges * WINDOW / RATE).astype(int))
    bank = np.zeros((WINDOW // 2 + 1, len(bins) - 2), np.float32)
    for band, (low, middle, high) in enumerate(zip(bins, bins[1:], bins[2:], strict=False)):
        bank[low : middle + 1, band] = np.linspace(0, 1, middle - low + 1)
        bank[middle : high + 1, band] = np.linspace(1, 0, high - middle + 1)
    return bank, (bins[1:-1] * RATE / WINDOW).astype(np.float32)
