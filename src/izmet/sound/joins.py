"""A song that is made of stretches of itself, one after the other.

Each stretch begins on its very sample; within a few milliseconds the one before it goes over into it.
"""

from __future__ import annotations

import numpy as np

from izmet.core.music.joining import Join, pieces
from izmet.sound.source import Source
from izmet.sound.track import Samples

FADE_SECONDS = 0.02
"""Half of it before a join, half of it after."""


def joined_source(sound: Source, join: Join) -> Source:
    """A song as it is heard with a join."""
    parts = [[round(at * sound.rate) for at in piece] for piece in pieces(sound.duration, join)]
    begins = [begin for begin, _ in parts]
    starts = np.cumsum([0, *(end - begin for begin, end in parts)]).tolist()
    half = max(1, round(FADE_SECONDS * sound.rate / 2))

    def read(start: int, count: int) -> Samples:
        count = max(0, min(count, starts[-1] - start))
        places = np.arange(start, start + count)
        out = np.zeros((count, sound.channels), np.float32)
        for begin, since, until in zip(begins, starts, starts[1:], strict=False):
            # Each comes over what came before it, and goes on until the next one is all that is heard.
            if since - half < start + count and until + half > start:
                part = np.clip((places - since + half) / (2 * half), 0, 1) if since else np.ones(count)
                here = part[:, None].astype(np.float32)
                out = out * (1 - here) + here * sound.stretch(begin + start - since, count)
        return out

    return Source(read, sound.rate, sound.channels, starts[-1])
