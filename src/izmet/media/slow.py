"""A song played slowly with its pitch kept, to listen closely.

Stretched in pieces that overlap and fade into each other where the song is softest, so
that the work can tell how far it is and each piece begins at its exact place.

Source: the phase vocoder of the Signalsmith Stretch library (python-stretch); hits
stay within some 5 ms of their place.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from python_stretch import Signalsmith

from izmet.media.songfile import Sound
from izmet.sound.mixer import Samples

PIECE_SECONDS = 12.0
"""The longest piece; it may end up to ``SEEK_SECONDS`` earlier."""
SEEK_SECONDS = 2.0
FADE_SECONDS = 0.08
BLOCK_SECONDS, STEP_SECONDS = 0.12, 0.02
"""What the vocoder looks at, and how often: with longer steps hits stray by up to 10 ms."""
SETTLE_SECONDS = 0.5
"""Sound before a piece that the vocoder hears first, and that is thrown away."""

Progress = Callable[[int, int], None]


def slowed(sound: Sound, factor: int, progress: Progress = lambda done, total: None) -> Sound:
    """The sound ``factor`` times as long, 2 or 4, at its own pitch. ``progress`` may raise to cancel."""
    rate, channels = sound.rate, sound.samples.shape[1]
    fade, settle = round(FADE_SECONDS / factor * rate), round(SETTLE_SECONDS * rate)
    out = np.zeros((len(sound.samples) * factor, channels), np.float32)
    starts = _starts(sound, fade)
    for done, (start, end) in enumerate(pairwise([*starts, len(sound.samples)])):
        before = min(settle, start)
        heard = sound.samples[start - before : end + fade]
        long = _stretched(heard, rate, factor)[before * factor :]
        here = out[start * factor : start * factor + len(long)]
        long = long[: len(here)]
        if start:
            ramp = np.linspace(0, 1, min(fade * factor, len(here)), dtype=np.float32)[:, None]
            here[: len(ramp)] *= 1 - ramp
            long[: len(ramp)] *= ramp
        here += long
        progress(done + 1, len(starts))
    return Sound(out, rate)


def _starts(sound: Sound, fade: int) -> list[int]:
    """Where pieces begin: at the softest ``fade`` samples of the last stretch that a piece may end in."""
    piece, seek = round(PIECE_SECONDS * sound.rate), round(SEEK_SECONDS * sound.rate)
    starts = [0]
    while len(sound.samples) - starts[-1] > piece:
        late = sound.samples[starts[-1] + piece - seek : starts[-1] + piece]
        loud = np.cumsum(np.square(late, dtype=np.float64).sum(axis=1))
        starts.append(starts[-1] + piece - seek + int(np.argmin(loud[fade:] - loud[:-fade])))
    return starts


def _stretched(samples: Samples, rate: int, factor: int) -> Samples:
    """Twice as long as often as it takes: stretched more at once, held tones come and go."""
    while factor > 1:
        stretch = Signalsmith.Stretch()
        stretch.configure(samples.shape[1], round(BLOCK_SECONDS * rate), round(STEP_SECONDS * rate))
        stretch.timeFactor = 0.5
        long = np.asarray(stretch.process(np.ascontiguousarray(samples.T)), np.float32)
        samples, factor = long.T[: 2 * len(samples)].copy(), factor // 2
    return samples
