"""What does an amplifier do to a guitar, and a room to a band?

An amplifier presses waves flat, one side sooner than the other, and its box passes the
middle alone. A room adds a few reflections and a tail of noise that dies away as fast at
each instant (J. A. Moorer, *About this reverberation business*, 1979, from memory; values are
common practice, no source). What comes straight stays the first, so hits keep their instants.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

Samples = NDArray[np.float64]
"""Shape (samples, channels)."""

DRIVE_DB, LEAN = (16.0, 44.0), (0.0, 0.4)
"""How hard the amplifier is driven; how far its rest lies from the middle."""
BOX_HERTZ = (90.0, 4800.0)
DECAY_SECONDS, WET_DB = (0.2, 1.4), (-16.0, -3.0)
"""In which the tail falls by 60 dB; the room's loudness against what comes straight."""
WALLS, WALL_SECONDS, MUFFLED_HERTZ = 6, (0.004, 0.045), (2500.0, 9000.0)


def amplify(samples: Samples, rate: int, rng: np.random.Generator) -> Samples:
    """The same through an amplifier, as loud as before."""
    level = float(np.sqrt(np.mean(samples**2)))
    if level == 0:
        return samples
    drive, lean = 10 ** (rng.uniform(*DRIVE_DB) / 20), rng.uniform(*LEAN)
    pressed = np.tanh(samples / level * drive * 0.2 + lean) - np.tanh(lean)
    boxed: Samples = sosfilt(butter(2, BOX_HERTZ, "bandpass", fs=rate, output="sos"), pressed, axis=0)
    return boxed * level / float(np.sqrt(np.mean(boxed**2)))


def in_room(samples: Samples, rate: int, rng: np.random.Generator) -> Samples:
    """The same in a room; it goes on for as long as before."""
    straight = np.zeros((1, samples.shape[1]))
    straight[0] = 1.0
    heard = fftconvolve(samples, np.concatenate([straight, _reflected(rate, samples.shape[1], rng)]), axes=0)
    kept: Samples = heard[: len(samples)]
    return kept


def _reflected(rate: int, channels: int, rng: np.random.Generator) -> Samples:
    """The room's answer to a click, without the click: its energy against that is drawn at random."""
    decay = float(np.exp(rng.uniform(*np.log(DECAY_SECONDS))))
    times = np.arange(1, round(decay * rate))[:, None] / rate
    tail = rng.normal(size=(len(times), channels)) * 10 ** (-3 * times / decay)
    for channel in range(channels):
        walls = (rng.uniform(*WALL_SECONDS, WALLS) * rate).astype(int)
        tail[walls, channel] += rng.choice([-1, 1], WALLS) * rng.uniform(2, 6, WALLS)
    muffled = butter(1, rng.uniform(*MUFFLED_HERTZ), "lowpass", fs=rate, output="sos")
    answer: Samples = sosfilt(muffled, tail, axis=0)
    wet = 10 ** (rng.uniform(*WET_DB) / 20)
    return answer * wet / np.sqrt(np.sum(answer**2, axis=0))
