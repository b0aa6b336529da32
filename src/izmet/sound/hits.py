"""Which single hits stand out, when exactly, and what kind are they?

Hits are local peaks of onset strength that rise above the level around them. The
kind follows from where the energy of the first 60 ms lies; the bounds are common
practice, no source, and only propose: a person corrects them with one key.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter

from izmet.sound.attack import refine
from izmet.sound.onsets import HOP, RATE, Floats

HitKind = Literal["kick", "snare", "hat", "bass"]

APART_SECONDS = 0.05
LOCAL_SECONDS = 0.8
ABOVE_LOCAL = 1.6
LISTEN_SECONDS = 0.06
LEAST_STRENGTH = 0.12
LOW_HZ, HIGH_HZ = 160.0, 5000.0
LOW_SHARE, HAT_SHARE = 0.55, 0.7
SILENT = 1e-5


@dataclass(frozen=True)
class Hit:
    """A hit: its instant in seconds, its kind, and its strength, 1 for the song's strongest."""

    time: float
    kind: HitKind
    strength: float


def find_hits(mono: Floats, strength: Floats, native: Floats, native_rate: int) -> list[Hit]:
    """All hits, in order of time.

    Args:
        mono: mono samples at ``RATE``, and ``strength`` their onset strength.
        native: the same music at the song's own rate: resampling rings before an
            attack, so the attack is looked for here.
    """
    if len(strength) == 0 or strength.max() <= 0:
        return []
    reach = round(APART_SECONDS * RATE / HOP)
    local = median_filter(strength, round(LOCAL_SECONDS * RATE / HOP))
    peaks = strength == maximum_filter1d(strength, 2 * reach + 1)
    top = float(np.percentile(strength[peaks], 98)) or 1.0
    chosen = np.flatnonzero(peaks & (strength > ABOVE_LOCAL * local) & (strength > LEAST_STRENGTH * top))
    hits: list[Hit] = []
    for frame in chosen:
        time = refine(native, native_rate, frame * HOP / RATE)
        kind = _kind(mono, time)
        if kind is not None and (not hits or time - hits[-1].time >= APART_SECONDS / 2):
            hits.append(Hit(time, kind, min(1.0, float(strength[frame]) / top)))
    return hits


def _kind(mono: Floats, time: float) -> HitKind | None:
    """The kind of the hit at an instant, None in silence."""
    begin = round(time * RATE)
    piece = mono[begin : begin + round(LISTEN_SECONDS * RATE)]
    if len(piece) < 64 or np.abs(piece).max() < SILENT:
        return None
    power = np.abs(np.fft.rfft(piece * np.hanning(2 * len(piece))[len(piece) :])) ** 2
    at = np.fft.rfftfreq(len(piece), 1 / RATE)
    low, high = power[at < LOW_HZ].sum(), power[at >= HIGH_HZ].sum()
    share_low, share_high = low / power.sum(), high / power.sum()
    if share_low > LOW_SHARE:
        return "kick" if share_high > 1e-4 or _dies_away(mono, begin) else "bass"
    return "hat" if share_high > HAT_SHARE else "snare"


def _dies_away(mono: Floats, begin: int) -> bool:
    """Whether the sound a fifth of a second later is much weaker: a drum rather than a bass note."""
    span, later = round(LISTEN_SECONDS * RATE), begin + round(0.2 * RATE)
    first, then = mono[begin : begin + span], mono[later : later + span]
    return len(then) < span or float(np.mean(then**2)) < 0.1 * float(np.mean(first**2))
