"""How does the whole frame move: shaken, grown, shrunk?

Movements of one frame add up. Moved and turned, the picture grows by the least scale at which all four
corners of the frame still lie in it; where it is meant to shrink, its mirrored edges fill the rest.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from random import Random
from typing import Self

import numpy as np

from izmet.core.document.accents import Shake
from izmet.core.document.edit import Edit
from izmet.core.memo import Memo
from izmet.core.retime.profile import Floats
from izmet.core.shown.courses import Course
from izmet.core.shown.framemap import REMEMBERED_BYTES, RUN_BYTES, Look, Run

LEAST_SWING, SPREAD = 0.6, 0.6
"""How large the least swing is, of the largest; and by how many radians each goes another way."""
LEAST_GROWN, MOST_GROWN = -0.9, 2.0
"""What punches come to at most, however many there are: the picture never turns inside out."""


@dataclass(frozen=True, eq=False)
class Move(Run):
    """How the frame moves: columns of shape (4, count), in parts of its width, of its height, in degrees
    clockwise, and by how much it grows."""

    columns: Floats

    @classmethod
    def of(cls, first: int, **columns: Floats) -> Self:
        """A movement of which some columns are said; ``x``, ``y``, ``turn`` and ``punch``."""
        still = np.zeros(len(next(iter(columns.values()))))
        return cls(first, np.array([columns.get(name, still) for name in ("x", "y", "turn", "punch")]))

    def __len__(self) -> int:
        return int(self.columns.shape[1])

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return self.columns.nbytes + RUN_BYTES


def shaken(edit: Edit, shake: Shake, course: Course, nth: int) -> Move:
    """The movement of a shake at its ``nth`` spot. It swings fullest on the spot itself."""
    n = np.arange(course.first, course.first + len(course), dtype=np.float64)
    swings = 2 * shake.rate / float(edit.rate) * (n - course.spot)
    x, y, turn = _swung(f"{shake.seed} {nth}", swings)
    far = shake.amount * course.part
    return Move.of(
        course.first, x=far * x, y=far * edit.width / edit.height * y, turn=shake.turn * course.part * turn
    )


def _swung(seed: str, swings: Floats) -> tuple[Floats, Floats, Floats]:
    """How far it is across, down and turned at counts of swings, each −1 to 1."""
    low, high = int(np.floor(swings.min())), int(np.ceil(swings.max())) + 1
    drawn = []
    for swing in range(low, high + 1):
        draw = Random(f"{seed} {swing}")
        size, tilt, way = draw.uniform(LEAST_SWING, 1), draw.uniform(LEAST_SWING, 1), draw.gauss(0, SPREAD)
        way += Random(seed).uniform(0, 2 * np.pi)
        side = 1 if swing % 2 == 0 else -1
        drawn.append((side * size * np.cos(way), side * size * np.sin(way), side * tilt))
    places, at = np.arange(low, high + 1), swings
    part = at - np.floor(at)
    soft = np.floor(at) + part * part * (3 - 2 * part)
    x, y, turn = (np.interp(soft, places, column) for column in zip(*drawn, strict=True))
    return x, y, turn


def stepped(amount: float, courses: Sequence[Course]) -> list[Move]:
    """A growth that goes on by ``amount`` at each spot, and comes back as the last of them does."""
    if not courses:
        return []
    first = min(course.first for course in courses)
    grown = np.zeros(max(course.first + len(course) for course in courses) - first)
    for course in courses:
        grown[course.first - first :] += np.concatenate(
            [
                np.maximum.accumulate(course.part),
                np.full(len(grown) - (course.first - first) - len(course), course.part.max()),
            ]
        )
    last = max(courses, key=lambda course: course.first + len(course))
    peak = int(last.part.argmax())
    back = last.part[peak:] / last.part[peak] if last.part[peak] else np.zeros(len(last) - peak)
    grown[len(grown) - len(back) :] *= back
    return [Move.of(first, punch=amount * grown)]


def moved_by(moves: Sequence[Move], sides: float) -> Iterator[Look]:
    """All movements as looks, one for each stretch in which something moves.

    Args:
        sides: width of the frame over its height.
    """
    runs: list[list[Move]] = []
    end = 0
    for move in sorted(moves, key=lambda each: each.first):
        if runs and move.first < end:
            runs[-1].append(move)
        else:
            runs.append([move])
        end = max(end, move.first + len(move))
    yield from (_KEPT.recall(tuple(run), sides, partial(_moved, run, sides)) for run in runs)


_KEPT: Memo[Look] = Memo(REMEMBERED_BYTES, lambda look: look.nbytes)


def _moved(run: Sequence[Move], sides: float) -> Look:
    first = run[0].first
    columns = np.zeros((4, max(each.first + len(each) for each in run) - first))
    for each in run:
        columns[:, each.first - first : each.first - first + len(each)] += each.columns
    x, y, turn = columns[:3]
    punch = np.clip(columns[3], LEAST_GROWN, MOST_GROWN)
    return Look(first, "move", {"x": x, "y": y, "scale": scaled(x, y, turn, punch, sides), "turn": turn})


def scaled(x: Floats, y: Floats, turn: Floats, punch: Floats, sides: float) -> Floats:
    """How much the picture grows: as far as it is meant to, and no less than what covers the frame."""
    angle = np.deg2rad(turn)
    cos, sin = np.cos(angle), np.sin(angle)
    needed = np.ones(len(x))
    for across, down in ((-1, -1), (1, -1), (-1, 1), (1, 1)):
        right, below = sides * (across / 2 - x), down / 2 - y
        own_x, own_y = right * cos + below * sin, below * cos - right * sin
        needed = np.maximum(needed, np.maximum(2 * np.abs(own_x) / sides, 2 * np.abs(own_y)))
    return np.where(punch < 0, (1 + punch) * needed, np.maximum(1 + punch, needed))
