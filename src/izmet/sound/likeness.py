"""How alike is the music about two of its bars?

Each quarter of a bar is heard as the levels of bands in its two halves, and as the strengths of the twelve
tones; two places are as alike as what comes in the quarters before and after them, those beside the join
counting most. And at which very sample does one place go on into the other?

Source: Foote, "Visualizing music and audio using self-similarity", ACM Multimedia 1999; tones whatever their
octave after Bartsch & Wakefield, "To catch a chorus", WASPAA 2001.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
import soxr
from scipy.signal import get_window

from izmet.core.music.joining import Join, Places
from izmet.core.retime.profile import Floats
from izmet.sound.source import Source

RATE = 22_050
QUARTERS = 4
"""Of each bar, whatever its meter: what is compared need not be beats."""
AROUND = 8
"""Quarters looked at to either side of a join: two bars."""
WINDOW, HOP = 4096, 1024
BAND_EDGES = np.geomspace(60, 10_000, 25)
LOWEST_TONE, HIGHEST_TONE = 65.0, 2100.0
FLOOR = 60.0
"""dB below the loudest that count as silence."""
UNLIKE_DB = 9.0
"""So far apart the levels of bands are when two places are no more alike than 1/e."""
ALIGN_SECONDS, LISTEN_SECONDS = 0.01, 0.15


class Heard:
    """What is heard in each quarter of a song's bars, two at least.

    Args:
        sound: the song.
        bars: the instants at which its bars begin, rising, in seconds.
    """

    def __init__(self, sound: Source, bars: Sequence[float]):
        steps = np.linspace(0, 1, QUARTERS, endpoint=False)
        ends = np.append(np.asarray(bars), 2 * bars[-1] - bars[-2])
        edges = np.append((ends[:-1, None] + np.diff(ends)[:, None] * steps).ravel(), ends[-1])
        heard = [(_bands(spectra), _tones(spectra)) for spectra in _each(sound, edges)]
        self._bands = _decibels(np.array([bands for bands, _ in heard]))
        tones = np.array([tones for _, tones in heard])
        self._tones = tones / np.maximum(np.linalg.norm(tones, axis=1, keepdims=True), 1e-9)

    def alike(self, leave: Places, enter: Places) -> Floats:
        """How alike the music is about two bars, 0..1, by their places, each of shape (count,)."""
        total, weight = np.zeros(len(leave)), np.zeros(len(leave))
        for offset in range(-AROUND, AROUND):
            one, other = leave * QUARTERS + offset, enter * QUARTERS + offset
            inside = (np.minimum(one, other) >= 0) & (np.maximum(one, other) < len(self._bands))
            one, other = np.clip(one, 0, len(self._bands) - 1), np.clip(other, 0, len(self._bands) - 1)
            apart = np.sqrt(np.square(self._bands[one] - self._bands[other]).mean(axis=(1, 2)))
            tones = np.sum(self._tones[one] * self._tones[other], axis=1)
            share = inside / (1 + min(abs(offset), abs(offset + 1)))
            total += share * np.exp(-apart / UNLIKE_DB) * tones
            weight += share
        return total / np.maximum(weight, 1e-9)


def aligned(sound: Source, join: Join) -> Join:
    """A join whose place to go on from is where the waves fit best, within ``ALIGN_SECONDS``."""
    reach, about = (round(seconds * sound.rate) for seconds in (ALIGN_SECONDS, LISTEN_SECONDS))
    leave, enter = (round(at * sound.rate) for at in (join.leave, join.enter))
    wanted = sound.stretch(leave - about, 2 * about).mean(axis=1, dtype=np.float64)
    heard = sound.stretch(enter - about - reach, 2 * (about + reach)).mean(axis=1, dtype=np.float64)
    fit = np.correlate(heard, wanted, mode="valid")
    power = np.cumsum(np.concatenate([[0.0], np.square(heard)]))
    loud = np.sqrt(np.maximum(power[2 * about :] - power[: -2 * about], 1e-12))
    lag = int(np.argmax(fit / loud)) - reach
    return join._replace(leave=leave / sound.rate, enter=max(0, enter + lag) / sound.rate)


def _each(sound: Source, edges: Floats) -> Iterator[Floats]:
    return (_spectra(sound, begin, end) for begin, end in pairwise(edges.tolist()))


def _spectra(sound: Source, begin: float, end: float) -> Floats:
    """Powers in the course of a stretch, shape (frames, frequencies)."""
    first, count = round(begin * sound.rate), max(1, round((end - begin) * sound.rate))
    heard = sound.stretch(first, count).mean(axis=1)
    samples = np.asarray(soxr.resample(heard, sound.rate, RATE, quality="MQ"), np.float64)
    samples = np.pad(samples, (0, max(0, WINDOW - len(samples))))
    frames = np.lib.stride_tricks.sliding_window_view(samples, WINDOW)[::HOP]
    return np.square(np.abs(np.fft.rfft(frames * get_window("hann", WINDOW), axis=1)))


def _bands(spectra: Floats) -> Floats:
    """The power of each band in the first and in the second half of a stretch, shape (2, bands)."""
    places = np.searchsorted(np.fft.rfftfreq(WINDOW, 1 / RATE), BAND_EDGES)
    power = np.add.reduceat(spectra, places, axis=1)[:, :-1]
    half = (len(power) + 1) // 2
    return np.array([power[:half].mean(axis=0), power[len(power) // 2 :].mean(axis=0)])


def _decibels(power: Floats) -> Floats:
    loudest = max(float(power.max()), 1e-12)
    return 10 * np.log10(np.maximum(power / loudest, 10 ** (-FLOOR / 10)))


def _tones(spectra: Floats) -> Floats:
    """The strengths of the twelve tones, whatever their octave, shape (12,)."""
    hertz = np.fft.rfftfreq(WINDOW, 1 / RATE)
    here = (hertz >= LOWEST_TONE) & (hertz <= HIGHEST_TONE)
    tone = np.round(12 * np.log2(hertz[here] / LOWEST_TONE)).astype(int) % 12
    return np.asarray(np.bincount(tone, np.sqrt(spectra.mean(axis=0)[here]), minlength=12), np.float64)
