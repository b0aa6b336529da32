"""How does a song ring out where it is cut off?

As if its last half second had been played in a room: what was heard there, the later the louder, is spread
by noise that dies away by 60 dB over the time that is asked for, its high tones sooner than its low ones. The
tail begins half as loud as what it follows. Common practice, no source; that a room dies away like noise
under an exponential is Moorer's, "About this reverberation business", Computer Music Journal 1979.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from scipy.signal import butter, fftconvolve, sosfilt

from izmet.core.document.edit import Song
from izmet.core.music.facts import heard
from izmet.sound.source import Source
from izmet.sound.track import Samples

HEARD_SECONDS, LEVEL_SECONDS, LAST_SECONDS = 0.5, 0.15, 0.05
"""What the tail is made of; over how much it is as loud as that; over how much it ends."""
SOFTER = 0.5
DULLER, DULL_HERTZ = 2.5, 3000.0
"""What lies above ``DULL_HERTZ`` dies away so much sooner."""
KEPT = 8


def ring_of(song: Song, sound: Source) -> Source:
    """The tail of a song that is cut off, from its first sample after the cut on."""
    at = heard(song)[1] - song.start
    count = round(song.ring_out * sound.rate)
    return Source(
        lambda start, wanted: _tail(sound, round(at * sound.rate), count)[start : start + wanted],
        sound.rate,
        sound.channels,
        count,
    )


@lru_cache(KEPT)
def _tail(sound: Source, at: int, count: int) -> Samples:
    length, level = (round(seconds * sound.rate) for seconds in (HEARD_SECONDS, LEVEL_SECONDS))
    dry = sound.stretch(at - length, length).astype(np.float64)
    wet = fftconvolve(dry * np.linspace(0, 1, length)[:, None], _room(count, sound), axes=0)
    tail = wet[length : length + count]
    loud, now = (float(np.sqrt(np.square(each).mean())) for each in (dry[-level:], tail[:level]))
    last = min(count, round(LAST_SECONDS * sound.rate))
    tail[-last:] *= np.linspace(1, 0, last)[:, None]
    samples: Samples = (SOFTER * loud / max(now, 1e-9) * tail).astype(np.float32)
    return samples


def _room(count: int, sound: Source) -> np.ndarray:
    """Noise that dies away by 60 dB over ``count`` samples, another one for each channel."""
    noise = np.random.default_rng(0).standard_normal((count, sound.channels))
    fall = 10 ** (-3 * np.linspace(0, 1, count))[:, None]
    low = sosfilt(butter(2, min(DULL_HERTZ, 0.4 * sound.rate), fs=sound.rate, output="sos"), noise, axis=0)
    return np.asarray(low * fall + (noise - low) * fall**DULLER)
