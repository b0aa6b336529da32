"""Synthesised drums and basses for practice songs, each kit with random pitch, length and colour.

Machines play half of all modern music, and no two sound alike: a net that has heard
only sampled kits does not know them.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from scripts.learning import grooves

RATE = 44100
Doubles = NDArray[np.float64]
Random = np.random.Generator


def synth_kit(rng: Random) -> dict[int, Doubles]:
    """A sound for every drum key, shape (count,), the loudest sample 1."""
    hat = _noise(rng, rng.uniform(0.015, 0.06), float(rng.choice([0.0, rng.uniform(4000, 9000)])))
    makers: dict[int, Callable[[], Doubles]] = {
        grooves.KICK: lambda: _kick(rng),
        grooves.SNARE: lambda: _snare(rng),
        grooves.CLAP: lambda: _clap(rng),
        grooves.SIDE: lambda: _tone(rng, rng.uniform(400, 900), 0.02),
        grooves.HAT: lambda: hat,
        grooves.PEDAL: lambda: hat,
        grooves.OPEN: lambda: _noise(rng, rng.uniform(0.12, 0.35), rng.uniform(4000, 9000)),
        grooves.CRASH: lambda: _noise(rng, rng.uniform(0.6, 1.2), rng.uniform(2500, 6000)),
        grooves.RIDE: lambda: _noise(rng, 0.3, 5000) * 0.6 + _tone(rng, rng.uniform(2500, 4500), 0.3),
        grooves.SHAKER: lambda: _noise(rng, 0.05, 5000, rise=0.02),
        grooves.TAMBOURINE: lambda: _noise(rng, 0.1, 7000),
        grooves.CLAVES: lambda: _tone(rng, rng.uniform(1800, 2600), 0.04),
        grooves.TOM_LOW: lambda: _kick(rng, rng.uniform(70, 100)),
        grooves.TOM_HIGH: lambda: _kick(rng, rng.uniform(110, 180)),
    }
    return {key: _full(make()) for key, make in makers.items()}


def synth_bass(rng: Random) -> Callable[[int, float], Doubles]:
    """A bass: from a key and a length in seconds to its sound."""
    wave, cutoff = int(rng.integers(4)), rng.uniform(200, 1500)
    rise, decay = rng.uniform(0.001, 0.008), rng.uniform(0.15, 2.0)

    def play(key: int, seconds: float) -> Doubles:
        hertz = 440 * 2 ** ((key - 69) / 12)
        t = _time(seconds)
        phase = hertz * t % 1
        raw = [
            np.sin(2 * np.pi * phase),
            2 * phase - 1,
            np.sign(phase - 0.5),
            np.sin(2 * np.pi * phase) + 0.4 * np.sin(4 * np.pi * phase),
        ][wave]
        heard = sosfilt(butter(2, cutoff, fs=RATE, output="sos"), raw)
        return _full(
            heard * np.minimum(1, t / rise) * np.exp(-t / decay) * np.minimum(1, (seconds - t) / 0.02)
        )

    return play


def _time(seconds: float) -> Doubles:
    return np.arange(max(64, round(seconds * RATE))) / RATE


def _full(sound: Doubles) -> Doubles:
    return sound / max(float(np.abs(sound).max()), 1e-9)


def _kick(rng: Random, low: float | None = None) -> Doubles:
    decay = rng.uniform(0.04, 0.25)
    t = _time(5 * decay)
    low = low or rng.uniform(38, 62)
    sweep = low + rng.uniform(60, 350) * np.exp(-t / rng.uniform(0.008, 0.04))
    body = np.sin(2 * np.pi * np.cumsum(sweep) / RATE) * np.exp(-t / decay)
    click = rng.uniform(0, 0.4) * rng.standard_normal(len(t)) * np.exp(-t / rng.uniform(0.001, 0.006))
    return body + click


def _snare(rng: Random) -> Doubles:
    decay = rng.uniform(0.03, 0.16)
    t = _time(6 * decay)
    noise = rng.standard_normal(len(t))
    if rng.random() < 0.6:
        noise = sosfilt(butter(1, rng.uniform(400, 2500), "highpass", fs=RATE, output="sos"), noise)
    tone = np.sin(2 * np.pi * rng.uniform(150, 260) * t) * np.exp(-t / rng.uniform(0.02, 0.1))
    return noise * np.exp(-t / decay) / 2 + rng.uniform(0.1, 1.0) * tone


def _clap(rng: Random) -> Doubles:
    t = _time(0.3)
    noise = sosfilt(butter(1, [800, 4000], "bandpass", fs=RATE, output="sos"), rng.standard_normal(len(t)))
    return noise * np.exp(-t / rng.uniform(0.03, 0.09))


def _noise(rng: Random, decay: float, highpass: float, rise: float = 0.0005) -> Doubles:
    t = _time(5 * decay)
    noise = rng.standard_normal(len(t))
    if highpass:
        noise = sosfilt(butter(2, highpass, "highpass", fs=RATE, output="sos"), noise)
    else:
        noise = np.diff(noise, prepend=0)
    return noise * np.exp(-t / decay) * np.minimum(1, t / rise)


def _tone(rng: Random, hertz: float, decay: float) -> Doubles:
    t = _time(5 * decay)
    return np.sin(2 * np.pi * hertz * t + rng.uniform(0, 6)) * np.exp(-t / decay)
