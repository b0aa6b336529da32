"""What is found in a take: how it moves and how light it is, what it sounds like, what is worth looking at.

One value a source frame each. Movement is the content's since the frame before, in
source pixels, right and down positive; ``to`` of a stretch is the frame after its last.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from izmet.media.pack import Looked
from izmet.picture.cadence import held
from izmet.picture.courses import movement_of
from izmet.picture.local import Floats
from izmet.picture.proposal import Proposal
from izmet.picture.proposing import propose
from izmet.picture.steadying import steadied
from izmet.picture.watching import SPAN
from izmet.sound.mono import split
from izmet.sound.onsets import RATE, attacks, find_onsets
from izmet.sound.source import Source

DECIMALS = 3
COLUMNS = ("light", "dx", "dy", "moves", "loud", "across", "down")
LONGEST_HEARD = 3600.0
"""Seconds of a take's own sound in which attacks are looked for."""


@dataclass(frozen=True)
class TakeMeasures:
    """What is found in a take; ``loud`` is the loudest sample of each frame's own sound, 0..1.

    ``moves`` is how much the picture of each frame moves, whether the frame is its first or repeats it;
    ``across`` and ``down`` are where in the picture that is which goes its own way.
    """

    light: Floats
    dx: Floats
    dy: Floats
    moves: Floats
    loud: Floats
    across: Floats
    down: Floats
    distinct: tuple[tuple[int, Fraction], ...]
    proposals: tuple[Proposal, ...]

    @classmethod
    def of(cls, looked: Looked, width: int, own: Source | None) -> TakeMeasures:
        """All that follows from one pass over a take.

        Args:
            width: of its pictures, upright.
            own: its own sound, sample 0 with its first picture.
        """
        table, seen = looked.table, looked.seen
        is_new = np.diff(table.distinct_of, prepend=-1) > 0
        found = propose(seen, is_new, float(table.rate), _attacks(own) if own else ())
        since = np.searchsorted(table.picture, table.picture - SPAN)
        dx, dy = steadied(seen, table.distinct_of, since)
        return cls(
            light=seen.light,
            dx=dx * width,
            dy=dy * width,
            moves=held(movement_of(seen), is_new),
            loud=_loud(own, len(table), float(table.rate)),
            across=seen.across,
            down=seen.down,
            distinct=table.stretches,
            proposals=tuple(found),
        )

    def save(self, path: Path) -> None:
        """Write it to a file."""
        columns = {name: getattr(self, name) for name in COLUMNS}
        told = {
            "distinct": [(begin, str(rate)) for begin, rate in self.distinct],
            "proposals": [each._asdict() for each in self.proposals],
        }
        with path.open("wb") as file:
            np.savez_compressed(file, told=json.dumps(told), **columns)

    @classmethod
    def load(cls, path: Path) -> TakeMeasures:
        """Read what ``save`` wrote."""
        with np.load(path) as held:
            told = json.loads(str(held["told"]))
            columns = {name: held[name] for name in COLUMNS}
        return cls(
            **columns,
            distinct=tuple((begin, Fraction(rate)) for begin, rate in told["distinct"]),
            proposals=tuple(Proposal(**each) for each in told["proposals"]),
        )

    def as_json(self) -> dict[str, Any]:
        """As JSON values, for other programs."""
        ends = [*(begin for begin, _ in self.distinct[1:]), len(self.light)]
        return {
            "distinct": [
                {"from": begin, "to": end, "rate": str(rate)}
                for (begin, rate), end in zip(self.distinct, ends, strict=True)
            ],
            "motion": {"dx": _rounded(self.dx), "dy": _rounded(self.dy)},
            "light": _rounded(self.light),
            "proposals": [each._asdict() for each in self.proposals],
        }


def _rounded(values: Floats) -> list[float]:
    found: list[float] = np.round(values.astype(np.float64), DECIMALS).tolist()
    return found


def _attacks(own: Source) -> Sequence[float]:
    """Instants at which a sound begins anew."""
    heard = own.first(LONGEST_HEARD)
    return attacks(find_onsets(split(heard, RATE)[0]))


def _loud(own: Source | None, frames: int, rate: float) -> Floats:
    loud = np.zeros(frames, np.float32)
    if own is None:
        return loud
    at = 0
    for block in own.blocks():
        levels = np.abs(block).max(axis=1, initial=0)
        frame = np.minimum(((at + np.arange(len(block))) / own.rate * rate).astype(np.int64), frames - 1)
        np.maximum.at(loud, frame, levels)
        at += len(block)
    return loud
