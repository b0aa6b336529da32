"""Which picture does each source frame of a take hold?

Source frames count on a steady grid of the take's native rate. In a file of steady
rate, source frame and decoded picture are one; in a file whose rate varies, the grid
is that of its quickest pictures and each picture stands on the frame nearest to its
real time. Different decoded pictures may also look the same (a 60 fps file that holds
30 pictures a second), so there is a second count, of distinct pictures.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.rates import nearest_standard
from izmet.core.shown.pictures import NO_FRAMES, TakePictures
from izmet.picture.cadence import cadence, held
from izmet.picture.local import Floats

Ints = NDArray[np.int64]

STEADY_ERROR = 0.6
"""Part of a frame by which a steady file's stamps may stray (containers round to ms)."""
LOWEST_GRID = Fraction(1)
HIGHEST_GRID = 240
HIGHEST_STEADY = 1000
"""Rates that an edit can say; a take beyond them is read on a grid, as one whose rate varies."""


@dataclass(frozen=True)
class FrameTable:
    """The frames of one take.

    Attributes:
        rate: native rate of the grid, frames a second.
        distinct: rate of pictures that differ from the one before, as it is for most of the take.
        stretches: first frame and rate of distinct pictures of each stretch.
        steady: whether the file's own rate is steady.
        stamps: presentation stamp of each decoded picture, in the stream's own
            ticks, rising, shape (pictures,).
        picture: decoded picture of each source frame, shape (frames,).
        distinct_of: number of the distinct picture that each source frame shows, shape (frames,).
        motion: how much the picture of each source frame differs from the picture before,
            0..255 for the take's greatest change, shape (frames,).
        restarts: whether the file's own clock starts again somewhere, and the stamps go on.
        breaks: source frames on which another scene begins, or light comes at once, rising.
        still, far: which source frames hold a picture that hardly differs from the one before it, or
            has moved far since, shape (frames,).
    """

    rate: Fraction
    distinct: Fraction
    stretches: tuple[tuple[int, Fraction], ...]
    steady: bool
    stamps: Ints
    picture: Ints
    distinct_of: Ints
    motion: NDArray[np.uint8]
    breaks: Ints
    still: NDArray[np.bool_]
    far: NDArray[np.bool_]
    restarts: bool = False

    def __len__(self) -> int:
        return len(self.picture)

    @property
    def pictures(self) -> TakePictures:
        """What an edit is told of its pictures."""
        return TakePictures(self.distinct_of, self.breaks, self.still, self.far)

    @property
    def left_out(self) -> int:
        """How many decoded pictures no source frame holds, for they come quicker than any that is read."""
        return len(self.stamps) - len(np.unique(self.picture))

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
                stretches=[(begin, rate.numerator, rate.denominator) for begin, rate in self.stretches],
                steady=self.steady,
                stamps=self.stamps,
                picture=self.picture,
                looks=self.distinct_of,
                motion=self.motion,
                breaks=self.breaks,
                still=self.still,
                far=self.far,
                restarts=self.restarts,
            )

    @classmethod
    def load(cls, path: Path) -> FrameTable:
        """Read a table that ``save`` wrote."""
        with np.load(path) as held:
            a, b, c, d = held["rates"].tolist()
            return cls(
                rate=Fraction(a, b),
                distinct=Fraction(c, d),
                stretches=tuple((begin, Fraction(m, n)) for begin, m, n in held["stretches"].tolist()),
                steady=bool(held["steady"]),
                stamps=held["stamps"],
                picture=held["picture"],
                distinct_of=held["looks"],
                motion=held["motion"],
                restarts=bool(held["restarts"]),
                breaks=held["breaks"],
                still=held["still"],
                far=held["far"],
            )


def build_table(stamps: Ints, tick: Fraction, change: Floats, most: Floats) -> FrameTable:
    """The table of a decoded take.

    Args:
        stamps: stamp of each decoded picture, rising, shape (pictures,).
        tick: seconds per stamp unit.
        change: how much each differs from the one before, in levels, shape (pictures,).
        most: how much that part of it differs that changes most, in levels, shape (pictures,).
    """
    times = (stamps - stamps[0]) * float(tick)
    rate, steady = _native_rate(times)
    picture = np.arange(len(stamps)) if steady else _held(times * float(rate))
    again = np.diff(picture, prepend=-1) == 0
    changes, mosts = change[picture], most[picture]
    changes[again] = mosts[again] = 0
    parts, is_new = cadence(changes, mosts, float(rate))
    stretches = tuple((part.begin, rate * part.part) for part in parts)
    lengths: dict[Fraction, int] = {}
    for part in parts:
        lengths[part.part] = lengths.get(part.part, 0) + part.end - part.begin
    longest = max(lengths, key=lambda part: lengths[part])
    distinct_of = np.cumsum(is_new, dtype=np.int64) - 1
    motion = np.round(255 * held(changes, is_new) / max(changes.max(), 1e-9)).astype(np.uint8)
    never = np.zeros(len(picture), bool)
    return FrameTable(
        rate, rate * longest, stretches, steady, stamps, picture, distinct_of, motion, NO_FRAMES, never, never
    )


def _held(places: NDArray[np.float64]) -> Ints:
    """The picture that each grid frame holds: the last one that stands on it or before.

    A picture whose frame is taken stands on the one after, while that is within a frame of its
    real time; so hardly any is lost where a few come quicker than the grid.

    Args:
        places: of the pictures on the grid, in frames, rising from 0, shape (pictures,).
    """
    slots = np.floor(places + 0.5).astype(np.int64)
    for index in range(1, len(slots)):
        if slots[index] <= slots[index - 1]:
            slots[index] = min(slots[index - 1] + 1, int(places[index]) + 1)
    return np.searchsorted(slots, np.arange(slots[-1] + 1), side="right") - 1


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
