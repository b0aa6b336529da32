"""What is heard of a take that runs slower or faster at its own pitch?

The way through the sound is cut into pieces of nearly one speed. A piece is first read along the way, as
if its speed were even, and then stretched as a whole; what is left of the change of speed within a piece is
under half a semitone. Where the take is struck on a cue a piece begins with some milliseconds as they were
recorded, so that the attack is whole, and on its sample; nothing of it is heard before. Outside half and
twice the speed the pitch goes along with the speed, as in all sound whose pitch is not kept.

Source: the phase vocoder of the Signalsmith Stretch library (python-stretch).
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from python_stretch import Signalsmith

from izmet.core.memo import Memo
from izmet.core.retime.profile import Floats
from izmet.core.shown.mix import Bent
from izmet.sound.source import Source
from izmet.sound.track import Samples

SLOWEST, FASTEST = 0.5, 2.0
"""Between these the pitch is kept."""
LIKE = 1.06
"""How far apart two speeds of one piece may be: a semitone, half of it to either side."""
SHORTEST, LONGEST = 0.08, 4.0
"""Seconds of a piece; a change of speed that is over sooner is not followed by pieces of its own."""
LOOK_SECONDS = 0.01
FADE_SECONDS = 0.03
"""Over which one piece becomes the next."""
STRIKE_SECONDS = 0.004
"""The same where the next one begins with an attack, before it."""
RECORDED_SECONDS = 0.03
"""So much of an attack is heard as it was recorded."""
BLOCK_SECONDS, STEP_SECONDS = 0.12, 0.02
"""What the vocoder looks at, and how often."""
SETTLE_SECONDS = 0.2
"""Sound around a piece that the vocoder hears as well, and that is thrown away."""
KEPT_WAYS, KEPT_BYTES = 64, 64 * 2**20


class Piece(NamedTuple):
    """Seconds of the edit, from ``begin`` to ``end``. It runs at about ``speed``, None where the pitch is not
    kept; it may begin with an attack (``struck``), and end before one (``broken``)."""

    begin: float
    end: float
    speed: float | None
    struck: bool
    broken: bool

    @property
    def since(self) -> float:
        """When it begins to be heard."""
        return self.begin - (STRIKE_SECONDS if self.struck else FADE_SECONDS / 2)

    @property
    def until(self) -> float:
        """When it is over."""
        return self.end + (0.0 if self.broken else FADE_SECONDS / 2)

    def part(self, instants: Floats) -> Floats:
        """How much of it is heard, 0..1; that of two neighbours is 1 in all."""
        rise = STRIKE_SECONDS if self.struck else FADE_SECONDS
        fall = STRIKE_SECONDS if self.broken else FADE_SECONDS
        edges = np.minimum((instants - self.since) / rise, (self.until - instants) / fall)
        return np.clip(edges, 0.0, 1.0)


def pieces_of(way: Bent, begin: float, end: float) -> tuple[Piece, ...]:
    """The pieces of a way from ``begin`` to ``end``, in seconds of the edit, without gaps."""
    facts = (way.rate, way.take_rate, way.hits, begin, end)
    return _PIECES.recall((way.curve,), facts, lambda: _cut(way, begin, end))


_PIECES: Memo[tuple[Piece, ...]] = Memo(KEPT_WAYS)


def _cut(way: Bent, begin: float, end: float) -> tuple[Piece, ...]:
    struck = sorted({at for at in way.hits if begin < at < end})
    found: list[Piece] = []
    for since, until in pairwise([begin, *struck, end]):
        found += _at_one_speed(way, since, until, since in struck, until in struck)
    return tuple(found)


def _at_one_speed(way: Bent, begin: float, end: float, struck: bool, broken: bool) -> Iterator[Piece]:
    """Pieces of nearly one speed."""
    count = max(1, round((end - begin) / LOOK_SECONDS))
    middles = begin + (np.arange(count) + 0.5) * (end - begin) / count
    speed = way.at(middles)[1]
    with np.errstate(divide="ignore"):
        kept = (np.abs(speed) >= SLOWEST) & (np.abs(speed) <= FASTEST)
        class_ = np.where(kept, np.sign(speed) * (100 + np.round(np.log(np.abs(speed)) / np.log(LIKE))), 0)
    edges = [0]
    least, most = (max(1, round(seconds / LOOK_SECONDS)) for seconds in (SHORTEST, LONGEST))
    for place in (*(np.flatnonzero(np.diff(class_)) + 1).tolist(), count):
        while place - edges[-1] > most:
            edges.append(edges[-1] + most)
        if min(place - edges[-1], count - place) >= least:
            edges.append(place)
    for first, last in pairwise([*edges, count]):
        # The pitch is kept in a piece that can be kept all through.
        mean = float(np.abs(np.mean(speed[first:last])))
        can = bool(kept[first:last].all()) and len(set(np.sign(speed[first:last]))) == 1
        since, until = (begin + n * (end - begin) / count for n in (first, last))
        yield Piece(since, until, mean if can else None, struck and first == 0, broken and last == count)


def kept_sound(source: Source, way: Bent, piece: Piece, rate: int) -> tuple[int, Samples]:
    """A piece at its own pitch.

    Args:
        piece: one with a speed.
        rate: of the samples wanted, in Hz.

    Returns:
        The sample of the edit at which it begins to be heard, and all its samples, shape (count, channels).
    """
    return _KEPT.recall(
        (source, way.curve), (way.rate, way.take_rate, piece, rate), lambda: _made(source, way, piece, rate)
    )


_KEPT: Memo[tuple[int, Samples]] = Memo(KEPT_BYTES, weigh=lambda kept: kept[1].nbytes)


def _made(source: Source, way: Bent, piece: Piece, rate: int) -> tuple[int, Samples]:
    assert piece.speed is not None
    first, last = (round(at * rate) for at in (piece.since, piece.until))
    settle = round(SETTLE_SECONDS * rate)
    count = round((last - first + 2 * settle) * piece.speed)
    instants = (first - settle) / rate + np.arange(count) / (piece.speed * rate)
    position, speed = way.at(instants)
    heard = source.along(position * source.rate, speed / piece.speed * source.rate / rate)
    if piece.broken:
        # What comes after it would be heard before its time: a vocoder looks ahead.
        heard *= np.clip((piece.end - instants) / STRIKE_SECONDS, 0, 1)[:, None].astype(np.float32)
    long = _stretched(heard, rate, piece.speed)[settle : settle + last - first]
    long = np.pad(long, ((0, last - first - len(long)), (0, 0)))
    if piece.struck:
        _strike(long, source, way, piece, rate, first)
    return first, long


def _strike(long: Samples, source: Source, way: Bent, piece: Piece, rate: int, first: int) -> None:
    """Put the attack with which a piece begins there as it was recorded."""
    count = min(len(long), round((STRIKE_SECONDS + RECORDED_SECONDS) * rate))
    after = (first + np.arange(count)) / rate - piece.begin
    position, speed = (float(value[0]) for value in way.at(np.array([piece.begin])))
    sign = np.sign(speed)
    recorded = source.along(
        (position + sign * after) * source.rate, np.full(count, sign * source.rate / rate)
    )
    part = np.clip((RECORDED_SECONDS - after) / (RECORDED_SECONDS / 2), 0, 1)[:, None].astype(np.float32)
    long[:count] = long[:count] * (1 - part) + recorded * part


def _stretched(samples: Samples, rate: int, speed: float) -> Samples:
    stretch = Signalsmith.Stretch(1)
    stretch.configure(samples.shape[1], round(BLOCK_SECONDS * rate), round(STEP_SECONDS * rate))
    stretch.timeFactor = speed
    return np.asarray(stretch.process(np.ascontiguousarray(samples.T)), np.float32).T
