"""What does one pulse do at each of its cues, whatever it does it to?

Every pattern is a sum of moves: from output frame b on, over l output frames, the picture moves
on by a source frames, along the clip's way of travel:

    D(n) = Σ a · E((n − b) / l),   E an easing from 0 to 1, a hard step where l is 0

``again`` alone depends on what is beneath it: from each of its cues on the clip shows anew what it
showed from the first one on.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from random import Random
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Pulse
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.values import Easing
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats

Ints = NDArray[np.int64]

MOST_GROWN = math.log(1e6)
"""No tooth is larger than so many times the first, however many there are: no take is."""


class Tooth(NamedTuple):
    """What a pulse does at one cue: from output frame ``n`` on it moves by so many source frames."""

    cue: str
    n: int
    amount: float
    silent: bool


class Move(NamedTuple):
    """One move: where it begins, how long it lasts, how far it goes, and its course."""

    begin: float
    length: float
    amount: float
    easing: Easing


@dataclass(frozen=True, eq=False)
class Moves:
    """The moves of so many pulses in columns, each of shape (moves,), grouped by their course: whose they
    are, where they begin, how long they last, how far they go."""

    pulses: int
    groups: tuple[tuple[Easing, Ints, Floats, Floats, Floats], ...]

    @classmethod
    def of(cls, moves: Sequence[Sequence[Move]]) -> Moves:
        """The moves of each pulse, in any order."""
        every = [(whose, move) for whose, mine in enumerate(moves) for move in mine]
        groups = []
        for easing in dict.fromkeys(move.easing for _, move in every):
            alike = [(whose, *move[:3]) for whose, move in every if move.easing == easing]
            whose, begin, length, amount = np.array(alike, np.float64).T
            groups.append((easing, whose.astype(np.int64), begin, length, amount))
        return cls(len(moves), tuple(groups))

    def at(self, n: Floats) -> tuple[Floats, Floats]:
        """How far each has come at instants, and how fast, a frame of the edit; of shape (pulses, count)."""
        shape = (self.pulses, len(n))
        moved, speed = np.zeros(shape), np.zeros(shape)
        order = np.argsort(n, kind="stable")
        rising = n[order] + FRAME_TOLERANCE

        def summed(whose: Ints, place: Ints, values: Floats, count: int) -> Floats:
            size = self.pulses * count
            sums: Floats = np.bincount(whose * count + place, values, size).astype(np.float64)
            return sums.reshape(self.pulses, count)

        for easing, whose, begin, length, amount in self.groups:
            first, last = (rising.searchsorted(edge) for edge in (begin, begin + length))
            # What is over counts in full; only what a move lasts is asked of its course.
            done = summed(whose, last, amount, len(n) + 1)
            moved[:, order] += np.cumsum(done, axis=1)[:, :-1]
            move = np.repeat(np.arange(len(begin)), last - first)
            place = order[np.arange(len(move)) - np.repeat(np.cumsum(last - first) - last, last - first)]
            course, slope = eased(easing, (n[place] - begin[move]) / length[move])
            moved += summed(whose[move], place, amount[move] * course, len(n))
            speed += summed(whose[move], place, amount[move] / length[move] * slope, len(n))
        return moved, speed

    def jumps_back(self) -> Floats:
        """Where one jumps against the way of travel, in output frames."""
        found = [begin[(length == 0) & (amount < 0)] for _, _, begin, length, amount in self.groups]
        return np.concatenate([np.empty(0), *found])


Room = Callable[[bool], float]
"""How many source frames the take has beyond what is shown, ahead or behind, along the way of travel."""


def teeth_of(
    pulse: Pulse, cues: Sequence[tuple[str, int, float]], per_second: float, room: Room
) -> tuple[Tooth, ...]:
    """The teeth of a pulse.

    Args:
        cues: id, output frame and strength of each cue that lies on the clip, in order.
        per_second: source frames a second.
        room: asked where amounts are shares of what is there.
    """
    strong = [cue for cue in cues if cue[2] >= pulse.least][pulse.first - 1 : pulse.last : pulse.every]
    own, silent = {each.cue: each.amount for each in pulse.own}, set(pulse.silent)
    said = [
        own.get(cue, value * (1 - pulse.by_strength * (1 - strength)))
        for value, (cue, _, strength) in zip(_values(pulse, len(strong)), strong, strict=True)
    ]
    sounding = sum(abs(value) for value, cue in zip(said, strong, strict=True) if cue[0] not in silent)

    def unit(value: float) -> float:
        if pulse.unit != "share":
            return per_second if pulse.unit == "seconds" else 1.0
        # Steps add up: together they take their share.
        part = abs(pulse.amounts[0]) / sounding if pulse.pattern == "step" and sounding else 1.0
        return part * room(value >= 0)

    return tuple(
        Tooth(cue, n - pulse.early, value * unit(value), cue in silent)
        for value, (cue, n, _) in zip(said, strong, strict=True)
    )


def _values(pulse: Pulse, count: int) -> list[float]:
    """What a pulse says of each tooth, in its own unit."""
    amounts = pulse.amounts
    grown = [
        amounts[k % len(amounts)] * math.exp(min(k * math.log(pulse.growth), MOST_GROWN))
        for k in range(count)
    ]
    if pulse.pattern != "wander":
        return grown
    chance = Random(pulse.seed)
    return [value * (2 * chance.random() - 1) for value in grown]


def moves_of(pulse: Pulse, teeth: Sequence[Tooth], end: float) -> tuple[Move, ...]:
    """The moves of a pulse on a clip that ends on output frame ``end``; none where each cue starts again."""
    if pulse.pattern == "again":
        return ()
    return tuple(_moves(pulse, [tooth for tooth in teeth if not tooth.silent], end))


def _moves(pulse: Pulse, teeth: Sequence[Tooth], end: float) -> Iterator[Move]:
    nexts = [*(tooth.n for tooth in teeth[1:]), end]
    before = [0.0, *(tooth.amount for tooth in teeth)] if pulse.pattern == "wander" else [0.0] * len(nexts)
    for tooth, until, left in zip(teeth, nexts, before, strict=False):
        risen = tooth.n + pulse.attack
        yield Move(tooth.n, pulse.attack, tooth.amount - left, pulse.rise)
        if pulse.pattern == "push":
            yield Move(risen, pulse.release, -tooth.amount, pulse.fall)
        if pulse.pattern == "dash":
            yield Move(risen, max(0.0, until - risen), -tooth.amount, "straight")
