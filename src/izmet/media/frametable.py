"""Which picture does each source frame of a take hold?

Source frames count on a steady grid of the take's native rate. In a file of steady
rate, source frame and decoded picture are one; in a file whose rate varies, a grid
frame holds the last picture that has appeared by then. Different decoded pictures
may also look the same (a 60 fps file that holds 30 pictures a second), so there is
a second count, of distinct pictures.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from izmet.core.rates import nearest_standard

Ints = NDArray[np.int64]

STEADY_ERROR = 0.6
"""Part of a frame by which a steady file's stamps may stray (containers round to ms)."""
LONGEST_STILL = 4
"""Equal pictures in a row that still count as a low rate; more are a still picture."""
USUAL_SHARE = 0.15
"""How often a gap between new pictures must occur to be part of the take's pattern: of 24 pictures in 30
frames every fourth gap is a long one. Common practice, no source."""
LOWEST_GRID = Fraction(1)
HIGHEST_GRID = 240
HIGHEST_STEADY = 1000
"""Rates that an edit can say; a take beyond them is read on a grid, as one whose rate varies."""


@dataclass(frozen=True)
class FrameTable:
    """The frames of one take.

    Attributes:
        rate: native rate of the grid, frames a second.
        distinct: rate of pictures that differ from the one before.
        steady: whether the file's own rate is steady.
        stamps: presentation stamp of each decoded picture, in the stream's own
            ticks, rising, shape (pictures,).
        picture: decoded picture of each source frame, shape (frames,).
        looks: number of the distinct picture that each source frame shows, shape (frames,).
        motion: how much each source frame differs from the one before, 0..255 for the
            take's greatest change, shape (frames,).
    """

    rate: Fraction
    distinct: Fraction
    steady: bool
    stamps: Ints
    picture: Ints
    looks: Ints
    motion: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.picture)

    def save(self, path: Path) -> None:
        """Write the table to a file."""
        rates = [
            self.rate.numerator,
            self.rate.denominator,
            self.distinct.numerator,
            self.distinct.denominator,
        ]
        with path.open("wb") as file:
            np.savez(
                file,
                rates=rates,
                steady=self.steady,
                stamps=self.stamps,
                picture=self.picture,
                looks=self.looks,
                motion=self.motion,
            )

    @classmethod
    def load(cls, path: Path) -> FrameTable:
        """Read a table that ``save`` wrote."""
        with np.load(path) as held:
            a, b, c, d = held["rates"].tolist()
            return cls(
                rate=Fraction(a, b),
                distinct=Fraction(c, d),
                steady=bool(held["steady"]),
                stamps=held["stamps"],
                picture=held["picture"],
                looks=held["looks"],
                motion=held["motion"],
            )


def build_table(
    stamps: Ints, tick: Fraction, is_new: NDArray[np.bool_], change: NDArray[np.float64]
) -> FrameTable:
    """The table of a decoded take.

    Args:
        stamps: stamp of each decoded picture, rising, shape (pictures,).
        tick: seconds per stamp unit.
        is_new: whether each picture looks different from the one before, shape (pictures,).
        change: how much it differs, in any unit, shape (pictures,).
    """
    times = (stamps - stamps[0]) * float(tick)
    rate, steady = _native_rate(times)
    if steady:
        picture = np.arange(len(stamps))
    else:
        frames = int(np.floor(times[-1] * float(rate) + 0.5)) + 1
        due = (np.arange(frames) + 0.25) / float(rate)
        picture = np.searchsorted(times, due, side="right") - 1
    looks = (np.cumsum(is_new, dtype=np.int64) - 1)[picture]
    motion = np.round(255 * change / max(change.max(), 1e-9)).astype(np.uint8)[picture]
    return FrameTable(rate, distinct_rate(looks, rate), steady, stamps, picture, looks, motion)


def _native_rate(times: NDArray[np.float64]) -> tuple[Fraction, bool]:
    if len(times) < 2 or times[-1] <= 0:
        return Fraction(25), True
    mean = nearest_standard(
        Fraction((len(times) - 1) / times[-1]), tolerance=0.004 if len(times) < 100 else 0.0008
    )
    strayed = np.abs(times * float(mean) - np.arange(len(times)))
    if strayed.max() <= STEADY_ERROR and LOWEST_GRID <= mean <= HIGHEST_STEADY:
        return mean, True
    short = float(np.percentile(np.diff(times), 10))
    quickest = max(LOWEST_GRID, min(Fraction(1 / max(short, 1e-6)), Fraction(HIGHEST_GRID)))
    return nearest_standard(quickest, tolerance=0.15), False


def distinct_rate(looks: Ints, rate: Fraction) -> Fraction:
    """The rate of distinct pictures, from the number of the picture on each frame of the grid.

    A lower rate repeats pictures in a pattern, so its gaps come again and again; a picture
    held now and then, as in a still stretch, is no lower rate.
    """
    gaps = np.diff(np.flatnonzero(np.diff(looks, prepend=looks[0] - 1)))
    moving = gaps[gaps <= LONGEST_STILL]
    if len(moving) == 0:
        return rate
    counts = np.bincount(moving)
    usual = moving[counts[moving] >= USUAL_SHARE * len(moving)]
    return rate / Fraction(float(usual.mean())).limit_denominator(20)
