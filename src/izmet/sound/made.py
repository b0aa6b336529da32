"""What do the sounds that come along consist of?

Each is made anew, as long as it is asked to be, mono at ``RATE``, and the same again for the same seed.
Those of a hit begin at full strength on their very first sample; a riser and a swell end at theirs; a whoosh
is at its fullest at ``sounds.PEAK`` of its length. Noise is shaped in short overlapping windows (Griffin &
Lim 1984, weighted overlap-add), whose weights follow a band that moves. How each is built is common practice,
no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.sounds import Made, MadeName
from izmet.core.shown.sounds import PEAK, Heard
from izmet.sound.source import Source
from izmet.sound.track import Samples

Wave = NDArray[np.float64]
RATE = 48_000
LOUDEST = 0.7
"""The peak of each: about −3 dBFS."""
KEPT = 24
"""How many of them are at hand, each of 12 MB at most."""
WINDOW, HOP = 1024, 256
LAST_SECONDS = 0.004
"""Over so much each of them ends."""


def sources_of(sounds: Iterable[Heard]) -> dict[str, Source]:
    """What the laid sounds that come along are heard from, by the names of their sources."""
    return {
        each.source: made(each.sound.what.name, each.duration, each.sound.what.seed)
        for each in sounds
        if isinstance(each.sound.what, Made)
    }


def made(name: MadeName, seconds: float, seed: int) -> Source:
    """A sound of a name, ``seconds`` long; it is made when it is first heard."""
    count = max(2, round(seconds * RATE))

    def read(start: int, wanted: int) -> Samples:
        return _samples(name, count, seed)[start : start + wanted]

    return Source(read, RATE, 1, count)


@lru_cache(KEPT)
def _samples(name: MadeName, count: int, seed: int) -> Samples:
    wave: Wave = MAKERS[name](count, np.random.default_rng(seed))
    last = min(count, round(LAST_SECONDS * RATE))
    wave[-last:] *= np.linspace(1, 0, last)
    samples: Samples = (LOUDEST * wave / np.abs(wave).max()).astype(np.float32)[:, None]
    return samples


def _boom(count: int, rng: np.random.Generator) -> Wave:
    """A low blow: a tone that falls, and a burst of noise on its first sample."""
    t = np.arange(count) / RATE
    fall = np.exp(-5 * t / t[-1])
    tone: Wave = _tone(42 + 70 * np.exp(-t / 0.06), np.pi / 2) * fall
    blow: Wave = tone + 0.5 * rng.normal(0, 0.4, count) * np.exp(-t / 0.012)
    return blow


def _drop(count: int, rng: np.random.Generator) -> Wave:
    """A bass tone that sinks all the way."""
    x = np.linspace(0, 1, count)
    return _tone(110 * (28 / 110) ** x, np.pi / 2) * (1 - x) ** 0.7


def _click(count: int, rng: np.random.Generator) -> Wave:
    """A short tick."""
    t = np.arange(count) / RATE
    tone = np.cos(2 * np.pi * 2300 * t) * np.exp(-t / 0.006)
    return tone + 0.6 * rng.normal(0, 0.4, count) * np.exp(-t / 0.002)


def _whoosh(count: int, rng: np.random.Generator) -> Wave:
    """Air that comes and goes by: its band rises to the peak, and falls."""
    x = np.linspace(0, 1, count)
    near = np.where(x < PEAK, x / PEAK, (1 - x) / (1 - PEAK))
    air = _noise(count, rng, 250 * 14**near, 0.9)
    return _even(air) * near**2.5


def _riser(count: int, rng: np.random.Generator) -> Wave:
    """Noise and a tone that rise together, and break off."""
    x = np.linspace(0, 1, count)
    air = _even(_noise(count, rng, 300 * 25**x, 0.7))
    return (air + 0.35 * _tone(110 * 8**x, 0.0)) * x**1.6


def _swell(count: int, rng: np.random.Generator) -> Wave:
    """A cymbal backwards: bright noise that grows ever faster, and breaks off."""
    x = np.linspace(0, 1, count)
    return _even(_noise(count, rng, np.full(count, 7000.0), 0.8)) * np.exp(5 * (x - 1))


MAKERS: dict[MadeName, Callable[[int, np.random.Generator], Wave]] = {
    "boom": _boom, "drop": _drop, "click": _click, "whoosh": _whoosh, "riser": _riser, "swell": _swell,
}  # fmt: skip


def _tone(frequency: Wave, phase: float) -> Wave:
    """A sine of a frequency that moves, in Hz for each sample."""
    turned: Wave = np.sin(phase + 2 * np.pi * (np.cumsum(frequency) - frequency[0]) / RATE)
    return turned


def _noise(count: int, rng: np.random.Generator, middle: Wave, octaves: float) -> Wave:
    """Noise in a band whose middle moves, in Hz for each sample; of so many octaves to either side."""
    frames = count // HOP + 1 + WINDOW // HOP
    noise = rng.normal(0, 1, (frames - 1) * HOP + WINDOW)
    window = np.hanning(WINDOW + 1)[:-1]
    frequency = np.maximum(np.fft.rfftfreq(WINDOW, 1 / RATE), 1.0)
    out = np.zeros(len(noise))
    for k in range(frames):
        here = slice(k * HOP, k * HOP + WINDOW)
        at = middle[min(max(0, k * HOP - WINDOW // 2), count - 1)]
        weight = np.exp(-0.5 * (np.log2(frequency / at) / octaves) ** 2)
        out[here] += window * np.fft.irfft(np.fft.rfft(window * noise[here]) * weight)
    return out[WINDOW : WINDOW + count]


def _even(wave: Wave) -> Wave:
    """The same, as strong all through: its power in the course of a tenth of a second is brought to 1."""
    wide = min(len(wave), RATE // 10)
    power = np.convolve(np.square(wave), np.ones(wide) / wide, "same")
    evened: Wave = wave / np.sqrt(np.maximum(power, 1e-12))
    return evened
