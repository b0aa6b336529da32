"""How much does each moment sound like a beat, and like the beginning of a bar?

A small temporal convolutional net hears the whole song: 40 bands and what rises in each, a hundred
times a second. Each of its layers looks twice as far to either side as the one before, so that a
moment is judged by twenty seconds of music around it. It also says which tempo it hears.

Conventions
    Frames are those of ``onsets``; arrays are named ``beatnet_*`` and written by ``scripts/learning``.

Source: M. Davies, S. Böck, "Temporal convolutional networks for musical audio beat tracking", EUSIPCO
2019; S. Böck, M. Davies, "Deconstruct, analyse, reconstruct: how to improve tempo, beat, and downbeat
estimation", ISMIR 2020. Size and input are our own.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from izmet.sound.track import Floats

Doubles = NDArray[np.float64]

DILATIONS = tuple(2**layer for layer in range(10))
TAPS, FIRST_TAPS = 5, 3
REACH = TAPS // 2 * sum(DILATIONS) + FIRST_TAPS // 2 + 1
"""How many frames to either side are heard."""
BLOCK = 1 << 14
"""Frames judged at once: memory stays flat however long the song."""
LOUD_PERCENT, LEAST_LEVEL = 95.0, 0.02
"""How many frames of a hundred are softer than the level that counts as 1, and the least such level."""
TEMPOS = 40.0 * 2 ** (np.arange(61) / 20)
"""The tempos told apart, in beats a minute."""


@dataclass(frozen=True)
class Heard:
    """Likeness to a beat and a downbeat, 0..1, of shape (frames,), and how likely each of ``TEMPOS`` is."""

    beat: Doubles
    downbeat: Doubles
    tempo: Doubles


def hear(picture: Floats, arrays: Mapping[str, Doubles]) -> Heard:
    """Judge all moments of a song by its ``onsets.Onsets.picture``."""
    weights = {
        name.removeprefix("beatnet_"): array.astype(np.float32)
        for name, array in arrays.items()
        if name.startswith("beatnet_")
    }
    seen = shown(picture)
    told, sums = [], np.zeros(weights["tempo"].shape[0], np.float64)
    for begin in range(0, len(seen), BLOCK):
        end = min(begin + BLOCK, len(seen))
        before, after = max(0, begin - REACH), min(len(seen), end + REACH)
        units = _units(seen[before:after], weights)[begin - before : end - before]
        told.append(units @ weights["told"] + weights["told_bias"])
        sums += units.sum(axis=0)
    scores = np.concatenate(told) if told else np.zeros((0, 2), np.float32)
    likeness = 1 / (1 + np.exp(-scores.astype(np.float64)))
    tempo = sums / max(1, len(seen)) @ weights["tempo"] + weights["tempo_bias"]
    chances = np.exp(tempo - tempo.max())
    return Heard(likeness[:, 0], likeness[:, 1], chances / chances.sum())


def shown(picture: Floats) -> Floats:
    """What the net sees, of shape (frames, 2 · bands): the bands against the song's level, and their rise."""
    level = 0.0 if len(picture) == 0 else float(np.percentile(picture.mean(axis=1), LOUD_PERCENT))
    bands = picture / np.float32(max(level, LEAST_LEVEL))
    rise = np.maximum(np.diff(bands, axis=0, prepend=bands[:1]), 0)
    return np.concatenate([bands, rise], axis=1)


def _units(seen: Floats, weights: Mapping[str, Floats]) -> Floats:
    """The last layer's units at each frame, of shape (frames, units)."""
    units = _bent(_taps(seen, weights["first"], 1) + weights["first_bias"])
    units = _bent(units @ weights["second"] + weights["second_bias"])
    for layer, dilation in enumerate(DILATIONS):
        far = _bent(_taps(units, weights[f"far_{layer}"], dilation) + weights[f"far_bias_{layer}"])
        units = units + far @ weights[f"mixed_{layer}"]
    return _bent(units)


def _taps(units: Floats, kernel: Floats, dilation: int) -> Floats:
    """A dilated convolution; beyond the ends there is nothing. The kernel has shape (taps, in, out)."""
    count, middle = len(units), len(kernel) // 2
    sums = np.zeros((count, kernel.shape[2]), np.float32)
    for tap, part in enumerate(kernel):
        by = (tap - middle) * dilation
        if abs(by) < count:
            sums[max(0, -by) : count - max(0, by)] += units[max(0, by) : count + min(0, by)] @ part
    return sums


def _bent(values: Floats) -> Floats:
    """The exponential linear unit."""
    bent: Floats = np.where(values > 0, values, np.expm1(np.minimum(values, 0)))
    return bent
