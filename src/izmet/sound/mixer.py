"""Adds up what is heard, block by block.

What is played and what is exported are pulled from the same mixer, which holds no more
than the block at hand.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from izmet.core.shown.mix import SONG, Bent, Plain, Voice
from izmet.sound.limiter import CEILING, limited, spare
from izmet.sound.pitched import Piece, kept_sound, pieces_of
from izmet.sound.source import Source
from izmet.sound.track import Samples
from izmet.sound.varispeed import FADE_SECONDS, loudness

RATE = 48_000
"""Of a mix without a song, in Hz."""
EDGE_SECONDS = 0.004
"""Over so much before a sound begins and after it ends it comes and goes: cut off at once it would click, and
cut later an attack on its first sample would be blunted."""
PIECE = 1 << 14
"""Samples for which the way through a bent sound is worked out at once."""


@dataclass(frozen=True)
class Mixer:
    """The mix of voices at one rate, each heard from the source of its name, ``gain`` times as loud; no wave
    reaches over the ``ceiling``, a part of full scale."""

    voices: Sequence[Voice]
    sources: Mapping[str, Source]
    rate: int
    channels: int
    gain: float = 1.0
    ceiling: float = CEILING

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
        """What is heard from sample ``start`` of the edit on, under the ceiling, shape (count, channels)."""
        more = spare(self.rate)
        added = np.float32(self.gain) * self._added(start - more, count + 2 * more)
        return limited(added, self.rate, self.ceiling)

    def _added(self, start: int, count: int) -> Samples:
        out = np.zeros((count, self.channels), np.float32)
        edge = max(1, round(EDGE_SECONDS * self.rate))
        for voice in self.voices:
            first, last = (round(at * self.rate) for at in (voice.begin, voice.end))
            begin, end = max(start, first - edge), min(start + count, last + edge)
            if begin < end:
                heard = self._heard(voice, begin, end - begin)
                n = np.arange(begin, end)
                far = np.minimum(n - first + edge, last + edge - 1 - n) / edge
                part = voice.level * np.clip(far, 0, 1)
                if voice.gains is not None:
                    part = part * voice.gains.along(n / self.rate)
                out[begin - start : end - start] += part[:, None].astype(np.float32) * heard
        return out

    def _heard(self, voice: Voice, begin: int, count: int) -> Samples:
        source, way = self.sources[voice.source], voice.way
        if isinstance(way, Plain):
            return source.at_rate(self.rate, begin - round(way.origin * self.rate), count)
        if way.pitch_kept:
            return self._pitched(source, voice, way, begin, count)
        return self._along(source, way, begin, count)

    def _pitched(self, source: Source, voice: Voice, way: Bent, begin: int, count: int) -> Samples:
        """The sound of a clip at its own pitch, piece by piece."""
        out = np.zeros((count, source.channels), np.float32)
        instants = np.arange(begin, begin + count) / self.rate
        for piece in pieces_of(way, voice.begin - EDGE_SECONDS, voice.end + EDGE_SECONDS):
            here = slice(*np.searchsorted(instants, (piece.since, piece.until)))
            if here.start < here.stop:
                part = piece.part(instants[here])[:, None].astype(np.float32)
                first = begin + here.start
                out[here] += part * self._piece(source, way, piece, first, here.stop - here.start)
        return out

    def _piece(self, source: Source, way: Bent, piece: Piece, first: int, count: int) -> Samples:
        if piece.speed is None:
            return self._along(source, way, first, count)
        since, samples = kept_sound(source, way, piece, self.rate)
        found = samples[max(0, first - since) : first - since + count]
        return np.pad(found, ((count - len(found), 0), (0, 0)))

    def _along(self, source: Source, way: Bent, begin: int, count: int) -> Samples:
        pieces = (range(at, min(at + PIECE, begin + count)) for at in range(begin, begin + count, PIECE))
        return np.concatenate([self._bent(source, way, piece) for piece in pieces])

    def _bent(self, source: Source, way: Bent, piece: range) -> Samples:
        settle = round(FADE_SECONDS / 2 * self.rate)
        position, speed = way.at(np.arange(piece.start - settle, piece.stop + settle) / self.rate)
        here = slice(settle, settle + len(piece))
        heard = source.along(position[here] * source.rate, speed[here] * source.rate / self.rate)
        return np.asarray(heard * loudness(speed, settle)[:, None], np.float32)


@dataclass(frozen=True)
class Excerpt:
    """What is heard of a mix in a file: ``count`` samples from ``start`` of the edit on."""

    mixer: Mixer
    start: int
    count: int

    def block(self, start: int, count: int) -> Samples:
        """Samples ``start`` to ``start + count`` of the stretch, fewer at its end."""
        return self.mixer.block(self.start + start, max(0, min(count, self.count - start)))
