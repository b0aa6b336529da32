"""Of which kinds is a hit, by the look of the spectrum around it?

A small convolutional net looks at a picture of each hit, ``bands.Pictures``: moments by
bands, twice, as they are and against the song's strong hits. Three layers of 3 × 3
kernels find edges and how they go together, whatever their pitch; two dense layers tell
the kinds, having heard what is struck before and after. Hits that look alike are told
alike.

Source: nets of this form for drums, R. Vogl, M. Dorfer, G. Widmer, P. Knees, "Drum
transcription via joint beat and drum modeling using convolutional recurrent neural
networks", ISMIR 2017; size and input are our own. ``scripts/learning`` trains it.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from izmet.sound.bands import Pictures
from izmet.sound.track import Floats

Doubles = NDArray[np.float64]

KERNEL = (3, 3)
POOLS = ((1, 2), (3, 2), (1, 1))
"""Moments and bands of which the greatest value is kept after each layer."""
BLOCK = 32
"""Pictures looked at together: as many as the processor's cache holds."""
ALIKE, ALIKE_PART, ALIKE_COUNTS = 9, 0.1, 0.5
"""How many hits that look alike have a say about each, which part of all at most, and how much it counts."""
REACH = 8
"""How many hits before and after one are heard with it."""
NEAREST_SECONDS, FARTHEST_SECONDS = 0.01, 10.0
"""Between which distances of two hits matter."""
AROUND = 1024
"""How many hits before and after one are compared with it, some minutes of music."""
STRUCK, STRONG_PERCENT = slice(8, 13), 90.0
"""The moments in which a hit is loudest; how many hits of a hundred are softer than a song's strong ones."""


def chances(pictures: Floats | Pictures, times: Doubles, arrays: Mapping[str, Doubles]) -> Doubles:
    """How likely each hit is of each kind, and (the last column) a hit at all, shape (hits, kinds + 1).

    A drum sounds the same whenever it is struck: the hits that look most like one have a say about it.

    Args:
        pictures: shape (hits, moments, bands, 2), in order of time.
        times: of the hits, in seconds.
        arrays: the weights named ``kind_*`` of ``learned``.
    """
    strong = strong_levels(pictures)
    blocks = [
        _look(pictures[begin : begin + BLOCK], strong, arrays) for begin in range(0, len(pictures), BLOCK)
    ]
    seen = np.concatenate(blocks)
    told = seen @ arrays["kind_told"] + arrays["kind_told_bias"]
    told += _heard_around(seen, times, arrays) @ arrays["kind_tells"]
    told += ALIKE_COUNTS * (told[_alike(seen)].mean(axis=1) - told)
    result: Doubles = 1 / (1 + np.exp(-told))
    return result


def strong_levels(pictures: Floats | Pictures) -> Floats:
    """The level that the strong hits of a song reach in each band, shape (bands, 2)."""
    blocks = range(0, len(pictures), BLOCK)
    loudest = np.concatenate([pictures[begin : begin + BLOCK][:, STRUCK].max(axis=1) for begin in blocks])
    result: Floats = np.percentile(loudest, STRONG_PERCENT, axis=0).astype(np.float32)
    return result


def both_ways(pictures: Floats, strong: Floats, mean: Floats, scale: Floats) -> Floats:
    """Pictures as they are and against strong hits, shape (..., moments, bands, 4)."""
    result: Floats = np.concatenate([(pictures - mean) / scale, (pictures - strong) / scale], axis=-1)
    return result


def _look(pictures: Floats, strong: Floats, arrays: Mapping[str, Doubles]) -> Doubles:
    """What the net sees in each picture, shape (hits, units)."""
    mean, scale = (arrays[f"kind_{name}"].astype(np.float32) for name in ("mean", "scale"))
    seen = both_ways(pictures, strong, mean, scale)
    for layer, pool in enumerate(POOLS, start=1):
        kernels, gain, bias = (
            arrays[f"kind_{name}_{layer}"].astype(np.float32) for name in ("kernels", "gain", "kernel_bias")
        )
        seen = np.maximum(_pooled(_convolved(seen, kernels), pool) * gain + bias, 0)
    flat = seen.reshape(len(seen), -1).astype(np.float64)
    hidden: Doubles = np.maximum(flat @ arrays["kind_hidden"] + arrays["kind_hidden_bias"], 0)
    return hidden


def _heard_around(seen: Doubles, times: Doubles, arrays: Mapping[str, Doubles]) -> Doubles:
    """What the net makes of the hits before and after each, and of how far away they are."""
    said = np.maximum(seen @ arrays["kind_said"] + arrays["kind_said_bias"], 0)
    padded = np.pad(said, ((REACH, REACH), (0, 0)))
    window = np.concatenate([padded[place : place + len(said)] for place in range(2 * REACH + 1)], axis=1)
    heard = np.concatenate([window, gaps(times)], axis=1) @ arrays["kind_around"] + arrays["kind_around_bias"]
    result: Doubles = np.maximum(heard, 0)
    return result


def gaps(times: Doubles) -> Doubles:
    """How far each hit is from each of those around it, as a logarithm, shape (hits, 2 · REACH + 1)."""
    padded = np.pad(times, REACH, constant_values=np.inf)
    apart = np.lib.stride_tricks.sliding_window_view(padded, 2 * REACH + 1) - times[:, None]
    result: Doubles = np.log10(np.minimum(np.abs(apart), FARTHEST_SECONDS) + NEAREST_SECONDS)
    return result


def _alike(seen: Doubles) -> NDArray[np.intp]:
    """Those of the hits around each in which the net sees most the same, itself among them."""
    unit = (seen / np.maximum(np.linalg.norm(seen, axis=1, keepdims=True), 1e-9)).astype(np.float32)
    most = max(1, min(ALIKE, int(ALIKE_PART * len(seen))))
    found = np.empty((len(seen), most), np.intp)
    for begin in range(0, len(seen), AROUND):
        first = max(0, begin - AROUND)
        near = unit[begin : begin + AROUND] @ unit[first : begin + 2 * AROUND].T
        found[begin : begin + AROUND] = first + np.argpartition(-near, most - 1, axis=1)[:, :most]
    return found


def _convolved(seen: Floats, kernels: Floats) -> Floats:
    """(count, moments, bands, channels) through kernels of shape (channels, *KERNEL, new channels)."""
    high, wide = seen.shape[1] - KERNEL[0] + 1, seen.shape[2] - KERNEL[1] + 1
    shifted = [seen[:, i : i + high, j : j + wide] for i in range(KERNEL[0]) for j in range(KERNEL[1])]
    around = np.concatenate(shifted, axis=3)
    flat = np.ascontiguousarray(kernels.transpose(1, 2, 0, 3)).reshape(around.shape[3], -1)
    result: Floats = (around.reshape(-1, around.shape[3]) @ flat).reshape(*around.shape[:3], -1)
    return result


def _pooled(seen: Floats, pool: tuple[int, int]) -> Floats:
    """The greatest value of each patch; what does not fill a patch is left out."""
    high, wide = seen.shape[1] // pool[0] * pool[0], seen.shape[2] // pool[1] * pool[1]
    parts = [seen[:, i : high : pool[0], j : wide : pool[1]] for i in range(pool[0]) for j in range(pool[1])]
    return reduce(np.maximum, parts)
