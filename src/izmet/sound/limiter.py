"""How is a mix kept below full scale without a crackle?

A look-ahead limiter: the gain goes down a little before a peak and comes back a little
after it, so that no wave is cut off. Each sample needs a gain of at most 1 over its peak;
the gain is the smallest that is needed within reach, averaged over the same reach, so no
sample can pass full scale. It depends only on the samples near by, so any block of a mix
comes out as the whole would.

Source: D. Giannoulis, M. Massberg and J. D. Reiss, "Digital Dynamic Range Compressor
Design", J. Audio Eng. Soc. 60(6), 2012, for look-ahead; the window is ours.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import minimum_filter1d, uniform_filter1d

from izmet.sound.track import Samples

REACH_SECONDS = 0.01
"""How far around a sample its loudness counts: shorter than the ear notices ahead of a hit, longer than
half a wave of 50 Hz, whose shape it keeps."""


def spare(rate: int) -> int:
    """How many samples before and after a block are needed to limit it."""
    return 2 * _reach(rate)


def limited(samples: Samples, rate: int) -> Samples:
    """A block within −1..1, shape (count − 2 spare, channels).

    Args:
        samples: the block with ``spare`` samples before and after it, shape (count, channels).
    """
    inside = slice(spare(rate), len(samples) - spare(rate))
    peak = np.abs(samples).max(axis=1, initial=0.0)
    if peak.max(initial=0.0) <= 1:
        return samples[inside]
    reach = _reach(rate)
    held = minimum_filter1d(1 / np.maximum(peak.astype(np.float64), 1), 2 * reach + 1, mode="nearest")
    # Two flat windows, one after the other, are a triangle as wide as what was held.
    drawn = uniform_filter1d(uniform_filter1d(held, reach + 1, mode="nearest"), reach + 1, mode="nearest")
    turned_down = (samples[inside] * drawn[inside, None]).astype(np.float32)
    return np.clip(turned_down, -1, 1)  # of rounding


def _reach(rate: int) -> int:
    return 2 * round(REACH_SECONDS * rate / 2)  # even: a flat window then has a middle
