"""Which source frame does a clip show at each output frame, and how fast does it run there?

Conventions
    ``n`` output frames (int), ``p`` source frames (float), speeds relative to real
    time, below 0 backwards. Positions come from the analytic integral of each
    segment's profile, never from adding up frames, and every pin is hit exactly. A
    clip covers the output frames from its first pin to its last, both included.
    Which picture is seen at a position is told by ``sampling``.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np

from izmet.core.edit import Clip, Edit
from izmet.core.memo import Memo
from izmet.core.retime.pins import Fixed, fixed_pins, known_pins
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.sampling import Directions, Frames, directions, pictures_shown
from izmet.core.retime.shapes import profile_of

Travel = Literal["forward", "rest", "backward"]
REMEMBERED = 1024
"""Curves that are kept for the next look: some edits of hundreds of clips, in some 100 MB at most."""


@dataclass(frozen=True, eq=False)
class Segment:
    """What lies between two pins: a signed displacement, and the profile that brings it about.

    ``per_frame`` source frames pass per output frame at real time. ``mean`` is the
    profile's area; an open edge without room covers no frame and keeps its speed.
    """

    start: Fixed
    end: Fixed
    per_frame: float
    mean: float
    profile: Profile

    @property
    def count(self) -> int:
        """Output frames from the first pin up to the second, which is not counted."""
        return self.end.n - self.start.n

    @property
    def displacement(self) -> float:
        """Source frames from the first pin to the second, below 0 backwards."""
        return self.end.p - self.start.p

    @property
    def travel(self) -> Travel:
        """Where the segment leads as a whole; inside, its speed may turn."""
        if self.displacement == 0:
            return "rest"
        return "forward" if self.displacement > 0 else "backward"

    @property
    def speed_in(self) -> float:
        """Speed where the segment begins."""
        return float(self.profile.v[0])

    @property
    def speed_out(self) -> float:
        """Speed where it ends."""
        return float(self.profile.v[-1])

    def evaluate(self) -> tuple[Floats, Floats]:
        """Source positions and speeds at its output frames, each of shape (count,)."""
        speed, passed = self.profile.speed_and_advance(np.arange(self.count) / max(1, self.count))
        return self.start.p + self.per_frame * self.count * passed, speed


@dataclass(frozen=True, eq=False)
class Curve:
    """A clip's retiming: one segment for each span, one after the other."""

    segments: tuple[Segment, ...]

    @cached_property
    def pins(self) -> tuple[Fixed, ...]:
        """Where the pins stand, one more than there are segments."""
        return (self.segments[0].start, *(segment.end for segment in self.segments))

    @property
    def first(self) -> int:
        """The first output frame that the clip covers."""
        return self.segments[0].start.n

    @property
    def frames(self) -> Frames:
        """The output frames that the clip covers, shape (count,)."""
        return np.arange(self.first, self.segments[-1].end.n + 1)

    @property
    def source(self) -> Floats:
        """Source positions at ``frames``, shape (count,), in source frames. Exact at every pin."""
        return self._evaluated[0]

    @property
    def speed(self) -> Floats:
        """Speed at ``frames``, shape (count,); at a pin, that of the span which begins there."""
        return self._evaluated[1]

    @cached_property
    def way(self) -> Directions:
        """The way of travel into each of ``frames``, shape (count,): 1 forward, −1 backward."""
        return directions(self.source)

    @cached_property
    def shown(self) -> Frames:
        """The source frame that is seen at each of ``frames``, shape (count,)."""
        return pictures_shown(self.source, self.way)

    @cached_property
    def _evaluated(self) -> tuple[Floats, Floats]:
        parts = [segment.evaluate() for segment in self.segments]
        last = self.segments[-1]
        source = np.concatenate([*(source for source, _ in parts), [last.end.p]])
        speed = np.concatenate([*(speed for _, speed in parts), [last.speed_out]])
        for segment in self.segments:
            source[segment.start.n - self.first] = segment.start.p
        return source, speed

    def speeds_beside(self, pin: int) -> tuple[float | None, float | None]:
        """Speed into and out of the pin with this index; None where the clip begins or ends."""
        into = self.segments[pin - 1].speed_out if pin > 0 else None
        out = self.segments[pin].speed_in if pin < len(self.segments) else None
        return into, out


def solve(edit: Edit, clip: Clip) -> Curve:
    """The curve of a clip. Solved once for as long as nothing that it depends on changes.

    Raises:
        Refusal: pins out of order or outside the take, or a shape that cannot be.
    """
    return _KEPT.recall(*surroundings(edit, clip), lambda: _solved(edit, clip))


_KEPT: Memo[Curve] = Memo(REMEMBERED)


def surroundings(edit: Edit, clip: Clip) -> tuple[tuple[object, ...], tuple[object, ...]]:
    """The parts and the facts on which a clip's curve depends. Raises Refusal when a part is not there."""
    song, rate = edit.song, edit.rate
    facts = (rate.numerator, rate.denominator, edit.landing, song.start if song else 0.0)
    return (clip, edit.take(clip.take), *map(edit.cue, clip.cue_ids)), facts


def _solved(edit: Edit, clip: Clip) -> Curve:
    take = edit.take(clip.take)
    step = float(take.rate / edit.rate)
    pins = fixed_pins(clip, known_pins(edit, clip), step, take.frames)
    segments = []
    for index, (left, right) in enumerate(pairwise(pins)):
        mean = _given_speed(clip, index) or (right.p - left.p) / (step * (right.n - left.n))
        profile = profile_of(clip.spans[index], mean, where=f"clip {clip.id}, span {index + 1}")
        segments.append(Segment(left, right, step, mean, profile))
    return Curve(tuple(segments))


def _given_speed(clip: Clip, span: int) -> float | None:
    """The mean speed that an open edge gives to the span beside it."""
    first = clip.pins[0].speed if span == 0 else None
    return first or (clip.pins[-1].speed if span == len(clip.spans) - 1 else None)
