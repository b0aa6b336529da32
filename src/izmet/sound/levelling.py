"""By how much is a mix turned up or down, so that a stretch of it comes to a wanted loudness?

The loudness of what is heard in the end counts: where the limiter holds peaks back, the rest is turned up for
it. A mix that hardly sounds is not turned up without end.
"""

from __future__ import annotations

from dataclasses import replace

from izmet.sound.loudness import Loudness
from izmet.sound.mixer import Excerpt
from izmet.sound.track import BLOCK

NEAR = 0.1
"""LU that it may be off."""
TRIES = 4
MOST_GAIN = 10 ** (24 / 20)


def levelled(heard: Excerpt, wanted: float) -> Excerpt:
    """A stretch of a mix at a loudness in LUFS, as near as its limiter lets it come."""
    for _ in range(TRIES):
        found = measured(heard).integrated
        if found == float("-inf") or abs(wanted - found) <= NEAR:
            break
        gain = min(MOST_GAIN, heard.mixer.gain * 10 ** ((wanted - found) / 20))
        if gain == heard.mixer.gain:
            break
        heard = replace(heard, mixer=replace(heard.mixer, gain=gain))
    return heard


def measured(heard: Excerpt) -> Loudness:
    """How loud a stretch of a mix is."""
    meter = Loudness(heard.mixer.rate, heard.mixer.channels)
    for start in range(0, heard.count, BLOCK):
        meter.add(heard.block(start, BLOCK))
    return meter
