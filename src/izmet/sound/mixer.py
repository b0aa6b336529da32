"""Adds up what is heard, block by block.

A source answers for any stretch of its own samples, as a file or an array does, so the
mixer holds no more than the block at hand. What is played and what is exported are
pulled from the same mixer. Samples are float32 of shape (count, channels).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from math import gcd

import numpy as np
import soxr
from numpy.typing import NDArray

from izmet.core.mix import SONG, Voice
from izmet.sound.track import BLOCK

Samples = NDArray[np.float32]
RATE = 48_000
"""Of a mix without a song, in Hz."""
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
        shared = gcd(rate, self.rate)
        theirs, mine = rate // shared, self.rate // shared
        settle = -(-round(SETTLE_SECONDS * rate) // theirs)
        first = start // theirs - settle
        periods = -(-(start + count) // theirs) + settle - first
        long = soxr.resample(self.stretch(first * mine, periods * mine), self.rate, rate, quality="VHQ")
        ahead = start - first * theirs
        return np.asarray(long[ahead : ahead + count], np.float32)


@dataclass(frozen=True)
class Mixer:
    """The mix of voices at one rate, each heard from the source of its name."""

    voices: Sequence[Voice]
    sources: Mapping[str, Source]
    rate: int
    channels: int

    @classmethod
    def of(cls, voices: Sequence[Voice], sources: Mapping[str, Source]) -> Mixer:
        """A mixer at the song's rate, with as many channels as its widest source needs.

        A voice without a source is silent: a take that has no sound.
        """
        heard = [voice for voice in voices if voice.source in sources and voice.level > 0]
        rate = sources[SONG].rate if SONG in sources else RATE
        channels = max((sources[voice.source].channels for voice in heard), default=1)
        return cls(heard, sources, rate, channels)

    def block(self, start: int, count: int) -> Samples:
        """What is heard from sample ``start`` of the edit on, within −1..1, shape (count, channels)."""
        out = np.zeros((count, self.channels), np.float32)
        for voice in self.voices:
            begin = max(start, round(voice.begin * self.rate))
            end = min(start + count, round(voice.end * self.rate))
            if begin < end:
                source, origin = self.sources[voice.source], round(voice.origin * self.rate)
                heard = source.at_rate(self.rate, begin - origin, end - begin)
                out[begin - start : end - start] += np.float32(voice.level) * heard
        return np.clip(out, -1, 1, out=out)


@dataclass(frozen=True)
class Stretch:
    """What is heard of a mix in a file: ``count`` samples from ``start`` of the edit on."""

    mixer: Mixer
    start: int
    count: int

    def block(self, start: int, count: int) -> Samples:
        """Samples ``start`` to ``start + count`` of the stretch, fewer at its end."""
        return self.mixer.block(self.start + start, max(0, min(count, self.count - start)))
