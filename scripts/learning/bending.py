"""How would another kit in another mix show the same hits?

Their tone is bent, their pitch moved by a band, what lies at the sides of the song made
wider, narrower or none, and some are laid over each other, for drums fall together. The
song's strong hits are bent with them. Pictures and levels are those of
``izmet.sound.bands``: logarithms of 1 and power.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.sound.bands import SPLIT

Floats = NDArray[np.float32]

TONE_DB, LEVEL_DB, KNOTS = 4.0, 3.0, 5
"""How far the tone at each of some knots strays, and the whole level."""
WIDTH_DB, NARROW = 4.0, 0.2
"""How far the level of the sides strays, and the part of runs whose sides are silent."""
MIX_DB = (-8.0, 4.0)
"""How loud a picture laid over another is against it."""


def bent(
    pictures: Floats,
    strong: Floats,
    kinds: NDArray[np.bool_] | Floats,
    mixed: float,
    rng: np.random.Generator,
) -> tuple[Floats, Floats, Floats]:
    """Runs of pictures, the strong levels of each run's song, and the kinds, as they might have been.

    Args:
        pictures: shape (runs, hits, moments, bands, 2).
        strong: shape (runs, bands, 2).
        kinds: shape (runs, hits, kinds).
        mixed: the part of pictures that another one is laid over.
    """
    runs, hits, moments, bands, layers = pictures.shape
    gains, moved = _gains(runs, bands, rng), _moved(bands, int(rng.integers(-1, 2)))
    power = _power(pictures)[..., moved, (0, 1)] * gains[:, None, None]
    strong = _levels(_power(strong)[:, moved, (0, 1)] * gains)
    power = power.reshape(runs * hits, moments, bands, layers)
    kinds = kinds.reshape(runs * hits, -1).astype(np.float32)
    chosen = np.flatnonzero(rng.random(len(power)) < mixed)
    other = rng.permutation(len(power))[: len(chosen)]
    gain = (10 ** (rng.uniform(*MIX_DB, len(chosen)) / 10)).astype(np.float32)
    over, both = power[other] * gain[:, None, None, None], np.maximum(kinds[chosen], kinds[other])
    power[chosen] += over
    kinds[chosen] = both
    return _levels(power).reshape(pictures.shape), strong, kinds.reshape(runs, hits, -1)


def _gains(runs: int, bands: int, rng: np.random.Generator) -> Floats:
    """How much louder each band of each run becomes, shape (runs, bands, 2)."""
    knots = rng.normal(0, TONE_DB, (runs, KNOTS))
    place = np.linspace(0, KNOTS - 1, bands)
    tone = np.array([np.interp(place, np.arange(KNOTS), each) for each in knots])
    decibels = tone + rng.normal(0, LEVEL_DB, (runs, 1))
    gains = np.repeat(10 ** (decibels[:, :, None] / 10), 2, axis=2)
    wide = 10 ** (rng.normal(0, WIDTH_DB, (runs, 1)) / 10)
    gains[:, SPLIT:, 1] *= np.where(rng.random((runs, 1)) < NARROW, 0.0, wide)
    return gains.astype(np.float32)


def _moved(bands: int, higher: int) -> NDArray[np.intp]:
    """From which band each is taken when all are moved, shape (bands, 2): low ones and sides stay apart."""
    taken = np.arange(bands) - higher
    beside = np.concatenate([np.clip(taken[:SPLIT], 0, SPLIT - 1), np.clip(taken[SPLIT:], SPLIT, bands - 1)])
    return np.stack([np.clip(taken, 0, bands - 1), beside], axis=1)


# By powers of e and natural logarithms: numpy is slow with any others.
def _power(levels: Floats) -> Floats:
    power: Floats = np.exp(levels * np.float32(np.log(10))) - 1
    return power


def _levels(power: Floats) -> Floats:
    levels: Floats = np.log(power + 1) * np.float32(1 / np.log(10))
    return levels
