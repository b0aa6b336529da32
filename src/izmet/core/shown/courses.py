"""On which output frames is an accent there, and how much?

At a place it has a course: it rises, is full, and falls. A lead of two frames has a third of it and two
thirds; in a stretch the last frame of the lead is full. Where courses of one accent meet, the fuller one
counts. A song without beats counts two a second.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import NamedTuple

import numpy as np

from izmet.core.document.accents import Accent, Anchor, OnCues, OnCuts, OnFrame, OnRange, OnSide
from izmet.core.document.edit import Clip, Edit
from izmet.core.document.rates import nearest_frame
from izmet.core.document.values import Easing
from izmet.core.memo import Memo
from izmet.core.music.lengths import beat_scale, counted_out
from izmet.core.music.selection import cues_of
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK, REMEMBERED_BYTES, RUN_BYTES, FrameMap, Run

FAST, SLOW = 1.05, 0.95
"""From where on a picture runs fast, and slow; 1 is real time."""
FULL_SPEED = 3.0
"""From where on an accent that follows the speed is full. Common practice, no source."""
BEATS_A_SECOND = 2.0


class Spot(NamedTuple):
    """Where something stands: on output frame ``n``, or in a stretch before ``end``; the strength of its cue,
    and which that is."""

    n: int
    end: int | None = None
    strength: float = 1.0
    cue: str | None = None


@dataclass(frozen=True, eq=False)
class Course(Run):
    """How far an accent is there on each output frame from ``first`` on, 0 to 1; and its spot."""

    part: Floats
    spot: int

    def __len__(self) -> int:
        return len(self.part)

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return self.part.nbytes + RUN_BYTES

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
    found = []
    for spot in spots_of(edit, curves, accent.at):
        lengths = _lengths(edit, accent, spot)
        course = _KEPT.recall((accent,), (spot, lengths), partial(_course, accent, spot, lengths))
        begin = max(course.first, ground.first)
        end = min(course.first + len(course), ground.first + len(ground))
        if begin >= end:
            continue
        if (begin, end) != (course.first, course.first + len(course)):
            course = _KEPT.recall((course,), (begin, end), partial(_between, course, begin, end))
        if accent.runs != "any" or accent.by_speed:
            here = slice(begin - ground.first, end - ground.first)
            speed = np.where(ground.clip[here] == BLACK, 0, np.abs(ground.speed[here]))
            course = _KEPT.recall((accent, course), speed.tobytes(), partial(_along, accent, course, speed))
        found.append(course)
    return found


_KEPT: Memo[Course] = Memo(REMEMBERED_BYTES, lambda course: course.nbytes)


def _between(course: Course, begin: int, end: int) -> Course:
    """A course from an output frame on and before another one."""
    return Course(begin, course.part[begin - course.first : end - course.first], course.spot)


def _along(accent: Accent, course: Course, speed: Floats) -> Course:
    """What the picture's speed on each frame makes of a course."""
    part = course.part * (1 - accent.by_speed * (1 - np.clip(speed / FULL_SPEED, 0, 1)))
    if accent.runs != "any":
        part = part * (speed > FAST if accent.runs == "fast" else speed < SLOW)
    return Course(course.first, part, course.spot)


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


_JOINED: Memo[list[Course]] = Memo(REMEMBERED_BYTES, lambda found: sum(each.nbytes for each in found))


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


def spots_of(edit: Edit, curves: Sequence[Curve], at: Anchor) -> list[Spot]:
    """All places of what stands somewhere, in order."""
    return sorted(_spots(edit, curves, at), key=lambda spot: spot[:2])


def _spots(edit: Edit, curves: Sequence[Curve], at: Anchor) -> Iterator[Spot]:
    if isinstance(at, OnFrame):
        yield Spot(at.n)
    elif isinstance(at, OnCues):
        yield from (Spot(edit.frame_of(cue), None, edit.cue(cue).strength, cue) for cue in cues_of(edit, at))
    elif isinstance(at, OnRange):
        if frames := edit.frames_in(at.stretch):
            yield Spot(frames.start, frames.stop)
    elif isinstance(at, OnCuts):
        wanted = set(at.clips)
        both = zip(edit.clips, curves, strict=True)
        yield from (Spot(curve.first) for clip, curve in both if clip.id in wanted)
    else:
        pins: dict[str, list[str]] = {}
        for tie in at.ties:
            pins.setdefault(tie.clip, []).append(tie.pin)
        for clip, curve in zip(edit.clips, curves, strict=True):
            if clip.id in pins:
                yield from _at_pins(edit, clip, curve, pins[clip.id], at.side)


def _at_pins(edit: Edit, clip: Clip, curve: Curve, ids: Sequence[str], side: OnSide) -> Iterator[Spot]:
    """The spots of a clip's pins that are there."""
    frame = [nearest_frame(pin.n) for pin in curve.pins]
    for place, pin in enumerate(clip.pins):
        if pin.id not in ids:
            continue
        strength = 1.0 if pin.cue is None else edit.cue(pin.cue).strength
        if side == "moment":
            yield Spot(frame[place], None, strength, pin.cue)
        elif side == "into" and place > 0:
            yield Spot(max(frame[place - 1], curve.first), frame[place], strength, pin.cue)
        elif side == "out of" and place + 1 < len(frame):
            yield Spot(frame[place], min(frame[place + 1], curve.last + 1), strength, pin.cue)


def _lengths(edit: Edit, accent: Accent, spot: Spot) -> tuple[int, int, int]:
    """The lead, the hold and the tail of an accent at a spot, in output frames."""
    if spot.end is not None:
        count = max(0, spot.end - spot.n)
        lead, tail = (_frames(edit, accent, each, spot.n, count) for each in (accent.lead, accent.tail))
        if lead + tail > count:
            lead = round(count * lead / (lead + tail))
            tail = count - lead
        return lead, count - lead - tail, tail
    return (
        _frames(edit, accent, accent.lead, spot.n, 0, back=True),
        _frames(edit, accent, accent.hold, spot.n, 0),
        _frames(edit, accent, accent.tail, spot.n, 0),
    )


def _course(accent: Accent, spot: Spot, lengths: tuple[int, int, int]) -> Course:
    lead, hold, tail = lengths
    # In a stretch the last frame of the lead is full; at a place that is the frame after it.
    whole = spot.end is not None
    of = (lead, tail) if whole else (lead + 1, tail + 1)
    full = np.ones(hold if whole else hold + 1)
    part = np.concatenate([_risen(accent.rise, lead, of[0]), full, _fallen(accent.fall, tail, of[1])])
    begin = {"before": spot.n - len(part), "on": spot.n - lead, "after": spot.n}[accent.phase]
    weight = 1 - accent.by_strength * (1 - spot.strength)
    return Course(spot.n if whole else begin, part * weight, spot.n)


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
        return counted_out(edit, length / BEATS_A_SECOND, "seconds", at)
    return counted_out(edit, length, accent.unit, at, back=back)
