"""On which output frames is an accent there, and how much?

At a place it has a course: it rises, is full, and falls. A lead of two frames has a third of it and two
thirds; in a stretch the last frame of the lead is full. Where courses of one accent meet, the fuller one
counts. A song without beats counts two a second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache, partial
from typing import NamedTuple

import numpy as np

from izmet.core.document.accents import Accent, OnCues, OnCuts, OnFrame, OnRange, OnSide
from izmet.core.document.edit import Clip, Edit
from izmet.core.document.rates import nearest_frame
from izmet.core.document.values import Easing
from izmet.core.memo import Memo
from izmet.core.music.lengths import Length, beat_scale, frames_of
from izmet.core.music.selection import cues_of
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK, FrameMap, Run

FAST, SLOW = 1.05, 0.95
"""From where on a picture runs fast, and slow; 1 is real time."""
FULL_SPEED = 3.0
"""From where on an accent that follows the speed is full. Common practice, no source."""
BEATS_A_SECOND = 2.0
FARTHEST = 1200
"""Output frames around a clip whose speed may make a difference to an accent on it; longer ones are rare."""


class Spot(NamedTuple):
    """Where an accent stands: on output frame ``n``, or in a stretch before ``end``; its cue's strength."""

    n: int
    end: int | None = None
    strength: float = 1.0


Spots = Callable[[], Iterable[Spot]]


@dataclass(frozen=True, eq=False)
class Course(Run):
    """How far an accent is there on each output frame from ``first`` on, 0 to 1; and its spot."""

    part: Floats
    spot: int

    def __len__(self) -> int:
        return len(self.part)

    @cached_property
    def fullest(self) -> tuple[int, int]:
        """The first and the last output frame on which it is fullest."""
        full = np.flatnonzero(self.part >= self.part.max())
        return self.first + int(full[0]), self.first + int(full[-1])


def courses_of(edit: Edit, curves: Sequence[Curve], ground: FrameMap, accent: Accent) -> list[Course]:
    """The courses of an accent at all its spots, in order, as far as the edit is shown.

    A course is the same object for as long as nothing changes that it depends on.
    """
    if not accent.on:
        return []
    facts = (edit.rate.numerator, edit.rate.denominator, edit.landing, ground.first, len(ground))
    follows = accent.runs != "any" or accent.by_speed > 0
    found: list[Course] = []
    for curve, spots in _spots(edit, curves, accent):
        make = partial(_courses, edit, ground, accent, spots)
        if not follows:
            found += _KEPT.recall((accent, edit.song, curve), (*facts, None), make)
        elif curve is None:
            found += make()
        else:
            far = range(curve.first - FARTHEST, curve.last + 1 + FARTHEST)
            runs = ground.speed[ground.part_of(far)].tobytes()
            found += _KEPT.recall((accent, edit.song, curve), (*facts, runs), make)
    return sorted(found, key=lambda course: course.spot)


_KEPT: Memo[list[Course]] = Memo(20_000)


def _courses(edit: Edit, ground: FrameMap, accent: Accent, spots: Spots) -> list[Course]:
    found = []
    for spot in spots():
        first, part = _course(edit, accent, spot)
        begin, end = max(first, ground.first), min(first + len(part), ground.first + len(ground))
        if begin >= end:
            continue
        here = slice(begin - ground.first, end - ground.first)
        scale = (1 - accent.by_strength * (1 - spot.strength)) * _by_speed(accent, ground, here)
        found.append(Course(begin, part[begin - first : end - first] * scale, spot.n))
    return found


def joined(courses: Sequence[Course]) -> Iterator[Course]:
    """Courses that meet made one, by the fuller of them; where nothing is there it ends."""
    runs: list[list[Course]] = []
    end = 0
    for course in sorted(courses, key=lambda each: each.first):
        if runs and course.first <= end:
            runs[-1].append(course)
        else:
            runs.append([course])
            end = course.first
        end = max(end, course.first + len(course))
    for run in runs:
        yield from _JOINED.recall(tuple(run), None, partial(_as_one, run))


_JOINED: Memo[list[Course]] = Memo(20_000)


def _as_one(run: Sequence[Course]) -> list[Course]:
    first = run[0].first
    part = np.zeros(max(each.first + len(each) for each in run) - first)
    for each in run:
        here = slice(each.first - first, each.first - first + len(each))
        part[here] = np.maximum(part[here], each.part)
    return list(_where_there(first, part, run[0].spot))


def _where_there(first: int, part: Floats, spot: int) -> Iterator[Course]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], part > 0, [0]]).astype(np.int8)))
    for begin, end in edges.reshape(-1, 2).tolist():
        yield Course(first + begin, part[begin:end], spot)


def _spots(edit: Edit, curves: Sequence[Curve], accent: Accent) -> Iterator[tuple[Curve | None, Spots]]:
    """Where an accent stands, clip by clip: the curve that this follows, and what tells it."""
    at = accent.at
    if isinstance(at, OnFrame):
        n = at.n
        yield None, lambda: [Spot(n)]
    elif isinstance(at, OnCues):
        cues = cues_of(edit, at)
        yield None, lambda: (Spot(edit.frame_of(cue), None, edit.cue(cue).strength) for cue in cues)
    elif isinstance(at, OnRange):
        frames = edit.frames_in(at.stretch)
        yield None, lambda: [Spot(frames.start, frames.stop)] if frames else []
    elif isinstance(at, OnCuts):
        wanted = set(at.clips)
        for clip, curve in zip(edit.clips, curves, strict=True):
            if clip.id in wanted:
                yield curve, partial(_at_cut, curve)
    else:
        pins: dict[str, list[str]] = {}
        for tie in at.ties:
            pins.setdefault(tie.clip, []).append(tie.pin)
        for clip, curve in zip(edit.clips, curves, strict=True):
            if clip.id in pins:
                yield curve, partial(_at_pins, edit, clip, curve, pins[clip.id], at.side)


def _at_cut(curve: Curve) -> list[Spot]:
    return [Spot(curve.first)]


def _at_pins(edit: Edit, clip: Clip, curve: Curve, ids: Sequence[str], side: OnSide) -> Iterator[Spot]:
    """The spots of a clip's pins that are there."""
    frame = [nearest_frame(pin.n) for pin in curve.pins]
    for place, pin in enumerate(clip.pins):
        if pin.id not in ids:
            continue
        strength = 1.0 if pin.cue is None else edit.cue(pin.cue).strength
        if side == "moment":
            yield Spot(frame[place], None, strength)
        elif side == "into" and place > 0:
            yield Spot(max(frame[place - 1], curve.first), frame[place], strength)
        elif side == "out of" and place + 1 < len(frame):
            yield Spot(frame[place], min(frame[place + 1], curve.last + 1), strength)


def _course(edit: Edit, accent: Accent, spot: Spot) -> tuple[int, Floats]:
    """The first output frame of a course, and how far it is on each."""
    if spot.end is not None:
        count = max(0, spot.end - spot.n)
        lead, tail = (_frames(edit, accent, length, spot.n, count) for length in (accent.lead, accent.tail))
        return spot.n, _within(accent.rise, accent.fall, lead, tail, count)
    lead, tail, hold = (
        _frames(edit, accent, length, spot.n, 0, back)
        for length, back in ((accent.lead, True), (accent.tail, False), (accent.hold, False))
    )
    part = _around(accent.rise, accent.fall, lead, hold, tail)
    begin = {"before": spot.n - len(part), "on": spot.n - lead, "after": spot.n}[accent.phase]
    return begin, part


@lru_cache(4096)
def _within(rise: Easing, fall: Easing, lead: int, tail: int, count: int) -> Floats:
    """A course inside a stretch of so many frames."""
    if lead + tail > count:
        lead = round(count * lead / (lead + tail))
        tail = count - lead
    part = np.ones(count)
    part[:lead] = _risen(rise, lead, lead)
    part[count - tail :] = np.minimum(part[count - tail :], _fallen(fall, tail, tail))
    return part


@lru_cache(4096)
def _around(rise: Easing, fall: Easing, lead: int, hold: int, tail: int) -> Floats:
    """A course at a place."""
    return np.concatenate([_risen(rise, lead, lead + 1), np.ones(hold + 1), _fallen(fall, tail, tail + 1)])


def _risen(rise: Easing, count: int, of: int) -> Floats:
    return eased(rise, np.arange(1, count + 1) / max(of, 1))[0]


def _fallen(fall: Easing, count: int, of: int) -> Floats:
    """How far it is still there: what is left of it comes down along its course."""
    return 1 - eased(fall, np.arange(of - count, of) / max(of, 1))[0]


def _frames(edit: Edit, accent: Accent, length: float, at: int, stretch: int, back: bool = False) -> int:
    """A length of an accent in output frames."""
    if length == 0:
        return 0
    if accent.unit == "share":
        return min(stretch, nearest_frame(stretch * length))
    if accent.unit == "beats" and beat_scale(edit) is None:
        return frames_of(edit, Length(count=length / BEATS_A_SECOND, unit="seconds"), at)
    return frames_of(edit, Length(count=length, unit=accent.unit), at, back=back)


def _by_speed(accent: Accent, ground: FrameMap, here: slice) -> Floats | float:
    """What speed makes of an accent on some frames."""
    if accent.runs == "any" and not accent.by_speed:
        return 1.0
    speed = np.where(ground.clip[here] == BLACK, 0, np.abs(ground.speed[here]))
    follows: Floats = 1 - accent.by_speed * (1 - np.clip(speed / FULL_SPEED, 0, 1))
    if accent.runs == "fast":
        return follows * (speed > FAST)
    return follows * (speed < SLOW) if accent.runs == "slow" else follows
