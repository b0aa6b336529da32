"""What does sound come to that is read at any speed, either way?

The value between samples is the sum of the samples around it, weighted by a windowed
sinc; where the sound is read quicker, the sinc is as much wider, so that what would lie
above the highest frequency is left out instead of coming back as another tone. What
stands still is silent.

Source: Smith & Gossett, "A flexible sampling-rate conversion method", ICASSP 1984; the
window is Kaiser's, its parameter after Oppenheim & Schafer, "Discrete-Time Signal
Processing".
"""

from __future__ import annotations

import numpy as np

from izmet.compiling import compiled
from izmet.core.retime.profile import Floats
from izmet.sound.track import Samples

CROSSINGS = 32
"""Of the sinc with nought, to either side."""
FINE = 512
"""Values of it between two of them; the error of the line between two values is at −106 dB."""
BETA = 9.0
"""Of Kaiser's window: what is to be left out is 90 dB down."""
FADING = 0.05
"""Speed below which sound fades, to silence where it rests: a sample held is a step, not a tone."""
FADE_SECONDS = 0.005


def _sinc() -> Floats:
    x = np.arange(CROSSINGS * FINE + 2) / FINE
    inside = np.clip(1 - (x / CROSSINGS) ** 2, 0, None)
    return np.asarray(np.sinc(x) * np.i0(BETA * np.sqrt(inside)) / np.i0(BETA) * (x <= CROSSINGS), np.float64)


SINC = _sinc()


def reach(step: Floats) -> Floats:
    """How many samples to either side a value is made of, read at ``step`` samples a value."""
    return CROSSINGS * np.maximum(1.0, np.abs(step))


def read_at(samples: Samples, at: Floats, step: Floats) -> Samples:
    """The values of a sound between its samples.

    Args:
        samples: shape (count, channels), with all that is within ``reach``; silent beyond.
        at: where to read, in samples, shape (wanted,).
        step: by how many samples ``at`` goes on there from one value to the next, shape (wanted,).

    Returns:
        Shape (wanted, channels).
    """
    out = np.zeros((len(at), samples.shape[1]), np.float32)
    _add_up(np.ascontiguousarray(samples), at, 1 / np.maximum(1.0, np.abs(step)), SINC, out)
    return out


@compiled
def _add_up(samples: Samples, at: Floats, cutoff: Floats, sinc: Floats, out: Samples) -> None:
    weights = np.empty(2 * int(np.ceil(CROSSINGS / cutoff.min())) + 1)
    for index in range(at.size):
        here, part = at[index], cutoff[index]
        first = max(0, int(np.ceil(here - CROSSINGS / part)))
        last = min(samples.shape[0] - 1, int(np.floor(here + CROSSINGS / part)))
        for k in range(last + 1 - first):
            x = abs(here - first - k) * part * FINE
            below = int(x)
            weights[k] = part * (sinc[below] + (x - below) * (sinc[below + 1] - sinc[below]))
        for channel in range(samples.shape[1]):
            value = 0.0
            for k in range(last + 1 - first):
                value += weights[k] * samples[first + k, channel]
            out[index, channel] = value


def loudness(speed: Floats, settle: int) -> Floats:
    """By what to multiply sound that is read at these speeds, so that a rest is silent without a click.

    Args:
        speed: relative to real time, shape (settle + count + settle,).
        settle: how many values the fade is spread over, to either side.

    Returns:
        0..1, shape (count,).
    """
    gain = np.minimum(1.0, np.abs(speed) / FADING)
    if (gain == 1).all():
        return np.ones(len(speed) - 2 * settle)
    window = np.hanning(2 * settle + 3)[1:-1]
    return np.convolve(gain, window / window.sum(), mode="valid")
