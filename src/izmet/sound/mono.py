"""One channel of many: what they have in common, and what lies at the sides."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from izmet.sound.source import Source
from izmet.sound.track import Floats, Track

CANCELLED = 1e-4
"""Channels whose mean has less than this part of their power take each other away."""


def mixed_down(samples: Floats) -> Floats:
    """The mean of all channels, shape (count,), from (count, channels).

    Where one is another turned over, as a cable wired wrongly makes it, it is the first.
    """
    return _middle(samples, _cancelled(Source.of(samples, 1)))


def split(source: Source, rate: int) -> tuple[Track, Track]:
    """What the channels of a sound have in common, and half of what left and right differ by, at a rate.

    What lies at the sides is 0 of one channel, and of channels that are each other turned over.
    """
    turned = _cancelled(source)

    def track(part: Callable[[Floats, bool], Floats]) -> Track:
        return Track(
            source.count_at(rate), lambda start, count: part(source.at_rate(rate, start, count), turned)
        )

    return track(_middle), track(_sides)


def _cancelled(source: Source) -> bool:
    """Whether the channels of a sound take each other away."""
    together = apart = 0.0
    for samples in source.blocks():
        mean, flat = _mean(samples), samples.ravel()
        together += float(np.vdot(mean, mean))
        apart += float(np.vdot(flat, flat))
    return source.channels * together < CANCELLED * apart


def _middle(samples: Floats, cancelled: bool) -> Floats:
    return samples[:, 0] if cancelled else _mean(samples)


def _sides(samples: Floats, cancelled: bool) -> Floats:
    if samples.shape[1] < 2 or cancelled:
        return np.zeros(len(samples), np.float32)
    difference: Floats = (samples[:, 0] - samples[:, 1]) * np.float32(0.5)
    return difference


def _mean(samples: Floats) -> Floats:
    channels = samples.shape[1]
    # As a product of matrices it takes a tenth of the time of numpy's mean.
    mono: Floats = samples @ np.full(channels, 1 / channels, np.float32)
    return mono
