"""Another song: which of its cues takes the part of each cue that the edit hangs on?

A cue's part is told in beats from an anchor: the strongest drops are paired in order, as many
as both songs have, and where there is none the first downbeats are. Counted on the other
song's beats from the paired anchor this gives an instant; the cue of the same kind nearest to
it, within REACH of a beat, takes the part, else any that something usually lands on. How sure:
1 where it stands exactly there. Cues on one frame, such as a drop and its downbeat, go together.

What has no part in the other song keeps its place in the order all the same, so that no clip
ends before it begins: it lies where its beats say, past the end and before the beginning too,
or, where that is before what came before it or after what comes next, between these as it lay
between them.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Container, Mapping, Sequence
from fractions import Fraction
from itertools import groupby, pairwise
from typing import NamedTuple

from pydantic import BaseModel

from izmet.core.document.accents import OnCues
from izmet.core.document.cuekinds import LANDED_ON, CueKind
from izmet.core.document.edit import Cue, CueSelection, Edit, Pulse, Song
from izmet.core.document.rates import frame_at
from izmet.core.music.counting import BeatScale, beats_of
from izmet.core.music.joining import Join, joined, taking_its_place
from izmet.core.music.selection import Choice, chosen, cues_of
from izmet.core.retime.pins import pin_name

REACH = 0.5
EDGE = 1 / 8
"""So near to where a selection begins or ends, as a part of a beat, a cue is within it."""
OTHER_KIND = 0.6
"""How sure a cue of another kind can be."""


class Carried(BaseModel):
    """A cue of the old song, what hangs on it, and the cue of the new one that takes its part; None: loose.

    Times are seconds of each song; ``place`` is where in the new one its part lies, cue or not;
    below 0 before it begins.
    """

    cue: str
    kind: CueKind
    time: float
    holds: list[str]
    to: str | None
    to_kind: CueKind | None
    to_time: float | None
    place: float
    sure: float


class Counterpart(NamedTuple):
    """A cue of the old song, and the one that takes its part; None: none does."""

    cue: Cue
    found: Cue | None
    sure: float


def carry(edit: Edit, song: Song) -> list[Carried]:
    """What would go where, in order of time."""
    assert edit.song is not None
    kept = {each.id for each in carried_selections(edit, song)}
    held = _held(edit, kept)
    old, new = _counts(edit.song, song)
    parts = (_counterpart(edit.cue(id), old, new, song) for id in held)
    rows: list[Carried] = []
    before: Counterpart | None = None
    for each in sorted(parts, key=lambda part: (frame_at(part.cue.time, edit.rate), -part.sure)):
        part = each if before is None else _in_turn(before, each, edit.rate)
        before = part if part.found else before
        cue, found, sure = part
        rows.append(
            Carried(
                cue=cue.id,
                kind=cue.kind,
                time=cue.time,
                holds=held[cue.id],
                to=found and found.id,
                to_kind=found and found.kind,
                to_time=found and found.time,
                place=found.time if found else new.instant(_at(cue.time, old, new)),
                sure=sure,
            )
        )
    return _in_order(rows)


def carried_selections(
    edit: Edit, song: Song, to: Mapping[str, str | None] | None = None
) -> list[CueSelection]:
    """The kept selections as they go along to another song: the same rule, between the same beats.

    One whose rule finds no cue there, or found none before, does not.

    Args:
        to: the cues that take the parts of those that were picked or left out by hand, where that is told.
    """
    assert edit.song is not None
    old, new = _counts(edit.song, song)

    def part(id: str) -> str | None:
        if to is not None and id in to:
            return to[id]
        found = _counterpart(edit.cue(id), old, new, song).found
        return None if found is None else found.id

    def edge(time: float | None, kinds: Container[CueKind], outermost: Callable[..., float]) -> float | None:
        if time is None:
            return None
        at = _at(time, old, new)
        # A cue on the edge is in, also where the other song has it a little beside its beat.
        beside = [
            cue.time for cue in song.cues if cue.kind in kinds and abs(new.count(cue.time) - at) <= EDGE
        ]
        return max(0.0, outermost([new.instant(at), *beside]))

    def carried(each: CueSelection) -> CueSelection:
        changes = {
            "begin": edge(each.begin, each.kinds, min),
            "end": edge(each.end, each.kinds, max),
            "extra": tuple(now for id in each.extra if (now := part(id)) is not None),
            "without": tuple(now for id in each.without if (now := part(id)) is not None),
        }
        return each.model_copy(update=changes)

    found = ((each, carried(each)) for each in edit.song.selections)
    return [now for was, now in found if chosen(edit.song, was) and chosen(song, now)]


def places_left(edit: Edit, join: Join) -> dict[str, float]:
    """Where what is tied to cues that a join leaves out would stand, in seconds of the joined song: where it
    stands now, or between what is tied before and after it."""
    assert edit.song is not None
    song = joined(edit.song, join)
    cues = sorted(map(edit.cue, _held(edit, ())), key=lambda cue: cue.time)
    rows = [_kept_in(song, cue, join) for cue in cues]
    return {row.cue: row.place for row in _in_order(rows) if row.to is None}


def _kept_in(song: Song, cue: Cue, join: Join) -> Carried:
    found = taking_its_place(song, cue, join)
    return Carried(
        cue=cue.id,
        kind=cue.kind,
        time=cue.time,
        holds=[],
        to=found and found.id,
        to_kind=found and found.kind,
        to_time=found and found.time,
        place=found.time if found else cue.time,
        sure=1.0,
    )


def _in_turn(before: Counterpart, part: Counterpart, rate: Fraction) -> Counterpart:
    """A part after another: what stood on one frame goes to one frame, all else to cues in their order."""
    assert before.found is not None
    if frame_at(part.cue.time, rate) == frame_at(before.cue.time, rate):
        if part.found and frame_at(part.found.time, rate) == frame_at(before.found.time, rate):
            return part
        return part._replace(found=before.found, sure=before.sure)
    if part.found and part.found.time <= before.found.time:
        return part._replace(found=None, sure=0.0)
    return part


def _in_order(rows: list[Carried]) -> list[Carried]:
    """The rows with places in their order, each lost one between those beside it that were found."""
    placed: list[Carried] = []
    low: Carried | None = None
    for found, run in groupby(rows, key=lambda row: row.to is not None):
        here = list(run)
        if found:
            low = here[-1]
        else:
            here = _between(here, low, next(iter(rows[len(placed) + len(here) :]), None))
        placed += here
    return placed


def _between(rows: list[Carried], low: Carried | None, high: Carried | None) -> list[Carried]:
    """Lost rows between two that were found; None where none was."""
    ends = (low.place if low else -math.inf, high.place if high else math.inf)
    if all(before < after for before, after in pairwise([ends[0], *(row.place for row in rows), ends[1]])):
        return rows
    beside, scale = low or high or rows[0], 1.0
    if low and high and low.time < high.time:
        scale = (high.place - low.place) / (high.time - low.time)
    return [row.model_copy(update={"place": beside.place + scale * (row.time - beside.time)}) for row in rows]


def _counts(old: Song, new: Song) -> tuple[_Count, _Count]:
    """The beats of two songs, anchored at as many drops as both have."""
    many = min(len(_drops(old)), len(_drops(new)))
    return _Count(old, many), _Count(new, many)


class _Count(BeatScale):
    """A song's beats as a scale, with the anchors from which parts are told."""

    def __init__(self, song: Song, drops: int):
        beats = [cue.time for cue in beats_of(song.cues)]
        if len(beats) < 2:
            beats = [0.0, 0.5]
        super().__init__(beats)
        first = next((cue.time for cue in song.cues if cue.kind == "downbeat"), beats[0])
        strongest = sorted(_drops(song), key=lambda cue: -cue.strength)[:drops]
        self.anchors = sorted(cue.time for cue in strongest) or [first]


def _drops(song: Song) -> list[Cue]:
    return [cue for cue in song.cues if cue.kind == "drop"]


def _counterpart(cue: Cue, old: _Count, new: _Count, song: Song) -> Counterpart:
    at = _at(cue.time, old, new)
    same = _near([each for each in song.cues if each.kind == cue.kind], new, at)
    if same is not None:
        return Counterpart(cue, same[0], 1 - same[1])
    other = _near([each for each in song.cues if each.kind in LANDED_ON], new, at)
    if other is None:
        return Counterpart(cue, None, 0.0)
    return Counterpart(cue, other[0], OTHER_KIND * (1 - other[1]))


def _anchor(time: float, old: _Count) -> int:
    """The number of the anchor before an instant, or of the first."""
    return max(0, bisect_right(old.anchors, time + 1e-6) - 1)


def _at(time: float, old: _Count, new: _Count) -> float:
    """How many beats the part of an instant lies after the new song's first one."""
    which = _anchor(time, old)
    return new.count(new.anchors[which]) + old.count(time) - old.count(old.anchors[which])


def _near(cues: Sequence[Cue], new: _Count, at: float) -> tuple[Cue, float] | None:
    """The cue nearest to a count of beats, and how far it lies in parts of REACH."""
    wanted = new.instant(at)
    best = min(cues, key=lambda each: abs(each.time - wanted), default=None)
    if best is None:
        return None
    off = abs(new.count(best.time) - at)
    return (best, off / REACH) if off < REACH else None


def _held(edit: Edit, kept: Container[str]) -> dict[str, list[str]]:
    """What hangs on each cue, in words; what a ``kept`` selection finds hangs on its rule."""

    def named(choice: Choice) -> tuple[str, ...]:
        return () if choice.selection is not None and choice.selection in kept else cues_of(edit, choice)

    found: dict[str, list[str]] = {}
    for clip in edit.clips:
        for pin in clip.pins:
            if pin.cue is not None:
                found.setdefault(pin.cue, []).append(pin_name(edit, clip, pin))
        for edge, name in ((clip.since, "a cut"), (clip.until, "a cut")):
            if edge is not None and edge.cue is not None:
                names = found.setdefault(edge.cue, [])
                if name not in names:
                    names.append(name)
        for key in clip.framing.keys if clip.framing else ():
            if key.at.cue is not None:
                found.setdefault(key.at.cue, []).append("framing")
        for each in clip.passes:
            for cue in named(each):
                found.setdefault(cue, []).append(each.kind)
            if isinstance(each, Pulse) and each.selection in kept:
                for cue in (*each.silent, *(tooth.cue for tooth in each.own)):
                    found.setdefault(cue, []).append(each.kind)
    places = [(edge, name) for stretch, name in edit.stretches for edge in (stretch.since, stretch.until)]
    for accent in edit.accents:
        if isinstance(accent.at, OnCues):
            for cue in named(accent.at):
                found.setdefault(cue, []).append(accent.what.kind)
    for sound in edit.sounds:
        if isinstance(sound.at, OnCues):
            for cue in named(sound.at):
                found.setdefault(cue, []).append("a sound")
    if edit.ending is not None:
        places.append((edit.ending.at, "the end"))
    places += [(key.at, "a level") for key in edit.levels]
    for place, name in places:
        if place.cue is not None:
            found.setdefault(place.cue, []).append(name)
    return found
