"""Where does a drum roll: a dense or quickening run of hits?

A run of one drum whose gaps are short for the ear and short for that drum in this
song: sixteenth notes on a hat that go on all the time are its groove, not a roll.
Slower hits that lead into the run, each gap shorter than the one before, belong to it.

Source: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from izmet.sound.hits import KINDS, Hit, HitKind

Doubles = NDArray[np.float64]

LONGEST_GAP = 0.26
PART_OF_USUAL = 0.62
"""A roll's gaps, against the usual gap of its drum."""
FEWEST = 6
SHORTEST_SECONDS = 0.35
EASES = 1.5
"""How much longer than the gap after it a gap of the run may be (a hit was missed, or the roll quickens)."""
MAYBE = 0.25
"""From which likelihood a hit may be a stroke of the roll's drum."""
LEADS_IN = 2.4
LONGEST_LEAD = 0.7
DRUMS: tuple[HitKind, ...] = ("snare", "kick", "hat", "note")


@dataclass(frozen=True)
class Roll:
    """A roll: its first and last hit in seconds, all its hits, and how strong its strongest is."""

    start: float
    end: float
    hits: tuple[float, ...]
    strength: float


def find_rolls(hits: list[Hit]) -> list[Roll]:
    """The rolls of a song, in order of time, overlapping ones joined."""
    found: list[Roll] = []
    for kind in DRUMS:
        maybe = [hit for hit in hits if hit.chances[KINDS.index(kind)] >= MAYBE]
        of_kind = [hit for hit in maybe if kind != "note" or hit.kinds == ("note",)]
        found += _runs(np.array([hit.time for hit in of_kind]), np.array([hit.strength for hit in of_kind]))
    joined: list[Roll] = []
    for roll in sorted(found, key=lambda roll: roll.start):
        if joined and roll.start <= joined[-1].end:
            last = joined.pop()
            every = tuple(sorted({*last.hits, *roll.hits}))
            joined.append(Roll(last.start, max(last.end, roll.end), every, max(last.strength, roll.strength)))
        else:
            joined.append(roll)
    return joined


def _runs(times: Doubles, strengths: Doubles) -> list[Roll]:
    if len(times) < FEWEST:
        return []
    gaps = np.diff(times)
    unusual = PART_OF_USUAL * _usual(gaps)
    dense = gaps <= min(LONGEST_GAP, unusual)
    runs = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], dense, [False]])))
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        first, within = int(begin), float(np.median(gaps[begin:end]))
        while gaps[end - 1] > EASES * within:  # the groove goes on where the roll has ended
            end -= 1
        while first > 0 and within <= gaps[first - 1] <= min(LONGEST_LEAD, LEADS_IN * gaps[first], unusual):
            first -= 1
        if end - begin + 1 >= FEWEST and times[end] - times[begin] >= SHORTEST_SECONDS:
            here = slice(first, int(end) + 1)
            heard = tuple(times[here].tolist())
            runs.append(Roll(float(times[first]), float(times[end]), heard, float(strengths[here].max())))
    return _bridged(runs)


def _usual(gaps: Doubles) -> float:
    """The gap that most of the time is filled with: the median weighted by the gaps themselves."""
    order = np.sort(gaps)
    total = np.cumsum(order)
    return float(order[np.searchsorted(total, total[-1] / 2)])


def _bridged(runs: list[Roll]) -> list[Roll]:
    """Runs joined where only one hit was missed between them."""
    if not runs:
        return []
    joined = [runs[0]]
    for run in runs[1:]:
        last = joined[-1]
        step = float(np.median([b - a for a, b in pairwise(last.hits)]))
        if run.start - last.end <= (1 + EASES) * step:
            joined[-1] = Roll(last.start, run.end, (*last.hits, *run.hits), max(last.strength, run.strength))
        else:
            joined.append(run)
    return joined
