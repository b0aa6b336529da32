"""One channel of sound, read in stretches: an hour costs no more memory than a minute."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
Samples = NDArray[np.float32]
"""Of several channels, shape (count, channels)."""

BLOCK = 1 << 20
"""Samples that are held at once."""


class Signal(Protocol):
    """Samples of one channel: an array of shape (count,), or what answers slices as one does."""

    def __len__(self) -> int: ...

    def __getitem__(self, stretch: slice, /) -> Floats: ...


class Track:
    """A signal of ``count`` samples that are read when they are asked for.

    ``read(start, count)`` gives them, start ≥ 0 and start + count within the signal.
    """

    def __init__(self, count: int, read: Callable[[int, int], Floats]):
        self._count = count
        self._read = read

    def __len__(self) -> int:
        return self._count

    def __getitem__(self, stretch: slice, /) -> Floats:
        start, end, step = stretch.indices(self._count)
        return self._read(start, max(0, end - start))[::step]


def blocks(signal: Signal, size: int = BLOCK) -> Iterator[Floats]:
    """The signal from its beginning to its end, ``size`` samples at a time."""
    return (signal[begin : begin + size] for begin in range(0, len(signal), size))


def held(signal: Signal, begin: int, end: int) -> Floats:
    """Samples ``begin`` to ``end``; before a signal begins its first sample is held, after its end its last.

    So an offset is no onset. The stretch must touch the signal.
    """
    found = signal[max(0, begin) : end]
    ahead, after = max(0, -begin), max(0, end - len(signal))
    return np.pad(found, (ahead, after), mode="edge") if ahead or after else found


def sampled(signal: Signal, most: int) -> Floats:
    """Samples at even distances, some ``most`` of them."""
    step = max(1, len(signal) // most)
    return np.concatenate([block[::step] for block in blocks(signal, max(1, BLOCK // step) * step)])
