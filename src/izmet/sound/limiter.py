"""How is a mix kept below its ceiling without a crackle?

A look-ahead limiter: the gain goes down a little before a peak and comes back a little after it, so
that no wave is cut off. Each sample needs a gain of at most the ceiling over its true peak
(``loudness``), for a wave may reach higher between two samples than at either; the gain is the
smallest that is needed within reach, averaged over the same reach, so no sample can pass the
ceiling. It depends only on the samples near by, so any block of a mix comes out as the whole would.

Source: D. Giannoulis, M. Massberg and J. D. Reiss, "Digital Dynamic Range Compressor
Design", J. Audio Eng. Soc. 60(6), 2012, for look-ahead; the window is ours.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import minimum_filter1d, uniform_filter1d

from izmet.sound.loudness import SPARE, true_peaks
from izmet.sound.track import Samples

CEILING = 10 ** (-1 / 20)
"""−1 dBTP, of full scale: room for codecs, whose waves are not quite those that they are given. Common
practice, no source."""
SURELY = 1 / 2
"""Samples that all lie below that part of the ceiling do not reach it between them: in music they never do so
by 6 dB."""
REACH_SECONDS = 0.01
"""How far around a sample its loudness counts: shorter than the ear notices ahead of a hit, longer than
half a wave of 50 Hz, whose shape it keeps."""


def spare(rate: int) -> int:
    """How many samples before and after a block are needed to limit it."""
    return 2 * _reach(rate) + SPARE


def limited(samples: Samples, rate: int, ceiling: float = CEILING) -> Samples:
    """A block within the ceiling, shape (count − 2 spare, channels).

    Args:
        samples: the block with ``spare`` samples before and after it, shape (count, channels).
        ceiling: a part of full scale.
    """
    inside = slice(spare(rate), len(samples) - spare(rate))
    if np.abs(samples).max(initial=0.0) <= SURELY * ceiling:
        return samples[inside]
    peak = true_peaks(samples)
    if peak.max(initial=0.0) <= ceiling:
        return samples[inside]
    reach = _reach(rate)
    needed = ceiling / np.maximum(peak.astype(np.float64), ceiling)
    held = minimum_filter1d(needed, 2 * reach + 1, mode="nearest")
    # Two flat windows, one after the other, are a triangle as wide as what was held.
    drawn = uniform_filter1d(uniform_filter1d(held, reach + 1, mode="nearest"), reach + 1, mode="nearest")
    turned_down = (samples[inside] * drawn[inside, None]).astype(np.float32)
    return np.clip(turned_down, -ceiling, ceiling)  # of rounding


def _reach(rate: int) -> int:
    return 2 * round(REACH_SECONDS * rate / 2)  # even: a flat window then has a middle
