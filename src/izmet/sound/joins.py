"""A song that is made of stretches of itself, one after the other.

Each stretch begins on its very sample; within a few milliseconds the one before it goes over into it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from izmet.core.music.joining import Join, pieces
from izmet.sound.source import Source
from izmet.sound.track import Samples

FADE_SECONDS = 0.02
"""Half of it before a join, half of it after."""


@dataclass(frozen=True)
class _Stretch:
    """Samples ``begin`` on of a song, heard from sample ``start`` on."""

    begin: int
    start: int


def joined_source(sound: Source, join: Join) -> Source:
    """A song as it is heard with a join."""
    edges = [tuple(round(at * sound.rate) for at in piece) for piece in pieces(sound.duration, join)]
    starts = np.cumsum([0, *(end - begin for begin, end in edges)]).tolist()
    parts = [_Stretch(begin, start) for (begin, _), start in zip(edges, starts, strict=False)]
    fade = max(1, round(FADE_SECONDS * sound.rate / 2))

    def read(start: int, count: int) -> Samples:
        count = max(0, min(count, starts[-1] - start))
        out = sound.stretch(parts[0].begin + start, count)
        places = np.arange(start, start + count)
        for after in parts[1:]:
            # What comes after a join lies over what came before it: past the fade, that alone.
            if after.start - fade < start + count:
                part = np.clip((places - after.start + fade) / (2 * fade), 0, 1)[:, None].astype(np.float32)
                out = out * (1 - part) + part * sound.stretch(after.begin + start - after.start, count)
        return out

    return Source(read, sound.rate, sound.channels, starts[-1])
