"""Sound that can be read in stretches, at any rate, and along any way through it.

A source answers for any stretch of its own samples, as a file or an array does, so nobody
holds more of it than the block at hand. Samples are float32 of shape (count, channels).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import soxr

from izmet.core.retime.profile import Floats
from izmet.sound.track import BLOCK, Samples
from izmet.sound.varispeed import reach, read_at

SETTLE_SECONDS = 0.05
"""What a resampler hears around a block, so that blocks join without a seam."""


@dataclass(frozen=True)
class Source:
    """Sound that can be read in stretches.

    ``read(start, count)`` gives the samples from ``start`` ≥ 0 on, fewer where the sound ends, after
    ``count`` in all.
    """

    read: Callable[[int, int], Samples]
    rate: int
    channels: int
    count: int

    @classmethod
    def of(cls, samples: Samples, rate: int) -> Source:
        """A source from an array."""
        return cls(lambda start, count: samples[start : start + count], rate, samples.shape[1], len(samples))

    @property
    def duration(self) -> float:
        """Length in seconds."""
        return self.count / self.rate

    def count_at(self, rate: int) -> int:
        """How many samples it has at another rate."""
        return round(self.count * rate / self.rate)

    def first(self, seconds: float) -> Source:
        """The beginning of the sound."""
        most = min(self.count, round(seconds * self.rate))
        return replace(
            self, read=lambda start, count: self.read(start, min(count, max(0, most - start))), count=most
        )

    def blocks(self, size: int = BLOCK) -> Iterator[Samples]:
        """The sound from its beginning to its end, ``size`` samples at a time."""
        return (self.stretch(begin, min(size, self.count - begin)) for begin in range(0, self.count, size))

    def stretch(self, start: int, count: int) -> Samples:
        """Samples ``start`` to ``start + count``, silent before the sound begins and after it ends."""
        out = np.zeros((count, self.channels), np.float32)
        skipped = min(count, max(0, -start))
        found = self.read(start + skipped, count - skipped)
        out[skipped : skipped + len(found)] = found
        return out

    def at_rate(self, rate: int, start: int, count: int) -> Samples:
        """The same, counted in samples of another rate."""
        if rate == self.rate:
            return self.stretch(start, count)
        # Whole periods of the two rates keep every block on the same grid.
        shared = math.gcd(rate, self.rate)
        theirs, mine = rate // shared, self.rate // shared
        settle = -(-round(SETTLE_SECONDS * rate) // theirs)
        first = start // theirs - settle
        periods = -(-(start + count) // theirs) + settle - first
        long = soxr.resample(self.stretch(first * mine, periods * mine), self.rate, rate, quality="VHQ")
        ahead = start - first * theirs
        return np.asarray(long[ahead : ahead + count], np.float32)

    def along(self, at: Floats, step: Floats) -> Samples:
        """Its values at any places, read as ``varispeed.read_at`` does, shape (len(at), channels)."""
        edges = [0, *(np.flatnonzero(np.abs(np.diff(at)) > self.rate) + 1), len(at)]
        return np.concatenate([self._along(at[a:b], step[a:b]) for a, b in pairwise(edges)])

    def _along(self, at: Floats, step: Floats) -> Samples:
        most = float(reach(step).max())
        first, last = math.floor(at.min() - most), math.ceil(at.max() + most)
        return read_at(self.stretch(first, last - first + 1), at - first, step)
