"""A song played slowly with its pitch kept, to listen closely.

Stretched in pieces that overlap and fade into each other where the song is softest, so
that the work can tell how far it is and each piece begins at its exact place.

Source: the phase vocoder of the Signalsmith Stretch library (python-stretch); hits
stay within some 5 ms of their place.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import pairwise

import numpy as np
from python_stretch import Signalsmith

from izmet.sound.source import Source
from izmet.sound.track import Samples

PIECE_SECONDS = 12.0
"""The longest piece; it may end up to ``SEEK_SECONDS`` earlier."""
SEEK_SECONDS = 2.0
FADE_SECONDS = 0.08
BLOCK_SECONDS, STEP_SECONDS = 0.12, 0.02
"""What the vocoder looks at, and how often: with longer steps hits stray by up to 10 ms."""
SETTLE_SECONDS = 0.5
"""Sound before a piece that the vocoder hears first, and that is thrown away."""

Progress = Callable[[int, int], None]


def slowed(sound: Source, factor: int, progress: Progress = lambda done, total: None) -> Iterator[Samples]:
    """The sound ``factor`` times as long, 2 or 4, at its own pitch, piece by piece.

    ``progress`` may raise to cancel.
    """
    fade, settle = round(FADE_SECONDS / factor * sound.rate), round(SETTLE_SECONDS * sound.rate)
    starts = _starts(sound, fade)
    tail = np.zeros((0, sound.channels), np.float32)
    for done, (start, end) in enumerate(pairwise([*starts, sound.count])):
        before = min(settle, start)
        heard = sound.stretch(start - before, min(end + fade, sound.count) - start + before)
        long = _stretched(heard, sound.rate, factor)[before * factor :]
        ramp = np.linspace(0, 1, min(len(tail), len(long)), dtype=np.float32)[:, None]
        long[: len(ramp)] = long[: len(ramp)] * ramp + tail[: len(ramp)] * (1 - ramp)
        piece, tail = np.split(long, [(end - start) * factor])
        short = (end - start) * factor - len(piece)
        yield np.pad(piece, ((0, short), (0, 0)))
        progress(done + 1, len(starts))


def _starts(sound: Source, fade: int) -> list[int]:
    """Where pieces begin: at the softest ``fade`` samples of the last stretch that a piece may end in."""
    piece, seek = round(PIECE_SECONDS * sound.rate), round(SEEK_SECONDS * sound.rate)
    starts = [0]
    while sound.count - starts[-1] > piece:
        late = sound.stretch(starts[-1] + piece - seek, seek)
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
