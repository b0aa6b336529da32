"""Commands about slots: stretches between chosen cues that are filled with shots, and whole-edit moves."""

from __future__ import annotations

import random
from bisect import bisect_left
from collections import defaultdict
from itertools import pairwise
from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.commands.common import Asking, new_ids, with_, with_clips, with_places
from izmet.core.commands.keeping import SLOWEST
from izmet.core.commands.recipes import ApplyRecipe
from izmet.core.commands.stretches import AddBlack
from izmet.core.document.cuekinds import BEATS, LANDED_ON
from izmet.core.document.edit import Clip, Cue, Edit, Steady
from izmet.core.document.limits import MOST_CLIPS
from izmet.core.document.places import Pin
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id
from izmet.core.retime.solve import solve
from izmet.core.shown.framemap import BLACK, FrameMap
from izmet.core.shown.stack import frames_shown

HARDLY_SECONDS = 0.1
"""So much farther away a cue may be for being of the right kind."""

BEGIN, REAL_TIME = Pin(id="begin", p=0), Steady(speed=1)
"""What most clips that fill a slot have in common."""

How = Literal["cut", "inside", "begin", "end", "stretch"]


class Shot(BaseModel):
    """What can fill a slot: a take, whole or a select of it, with the moment that is to land; or black."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    take: Id | None = None
    select: Id | None = None
    moment: Id | None = None


class FillSlots(Asking):
    """Fill the stretches between neighbouring cues with shots, one after another, from the first again.

    Each clip is cut on its two cues and follows them. ``how`` says what stands where: the
    moment on the first cue (cut) or on the strongest cue inside; the shot's first picture on
    the first cue (begin), its last on the second (end), or both (stretch). What is shorter than
    its slot by less than half runs slower, to fill it. Clips in which a
    moment lands are retimed by the ``recipe``. With ``only_empty``, slots in which something is
    seen already stay as they are.
    """

    do: Literal["fill-slots"] = "fill-slots"
    said: ClassVar[str] = "Fill slots"
    cues: Annotated[tuple[Id, ...], Field(min_length=2, max_length=MOST_CLIPS)]
    shots: Annotated[tuple[Shot, ...], Field(min_length=1, max_length=MOST_CLIPS)]
    how: How = "cut"
    order: Literal["given", "weight", "random"] = "given"
    seed: Annotated[int, Field(ge=0, le=2**31)] = 0
    recipe: Id | None = None
    only_empty: bool = False

    def on(self, edit: Edit) -> Edit:
        cues = sorted(set(self.cues), key=edit.frame_of)
        slots = [(a, b) for a, b in pairwise(cues) if edit.frame_of(a) < edit.frame_of(b)]
        if self.only_empty:
            shown = frames_shown(edit)
            slots = [(a, b) for a, b in slots if not _is_seen(shown, edit.frame_of(a), edit.frame_of(b))]
        if not slots:
            raise Refusal(
                "no-slots", "These cues leave no stretch between them.", remedy="Choose two or more."
            )
        shots = self._ordered(edit, len(slots))
        clips, ids = list(edit.clips), new_ids("clip", edit.clips)
        for (begin, end), shot in zip(slots, shots, strict=True):
            if shot.take is None:
                edit = AddBlack(since=begin, until=end).on(edit)
            else:
                clips.append(_filled(edit, next(ids), shot.take, shot, begin, end, self.how))
        new = tuple(clip.id for clip in clips[len(edit.clips) :] if any(pin.is_tie for pin in clip.pins))
        edit = with_clips(edit, clips)
        return ApplyRecipe(recipe=self.recipe, clips=new).on(edit) if self.recipe and new else edit

    def _ordered(self, edit: Edit, count: int) -> list[Shot]:
        shots = list(self.shots)
        if self.order == "weight":
            shots.sort(key=lambda shot: -_weight(edit, shot))
        chance = random.Random(self.seed)
        found: list[Shot] = []
        while len(found) < count:
            if self.order == "random":
                chance.shuffle(shots)
            found += shots
        return found[:count]


class SwapClips(Asking):
    """Exchange what two clips show; each place keeps its cues."""

    do: Literal["swap-clips"] = "swap-clips"
    said: ClassVar[str] = "Swap two clips"
    clip: Id
    other: Id

    def on(self, edit: Edit) -> Edit:
        one, two = edit.clip(self.clip), edit.clip(self.other)
        where = {"since", "until", "id"}
        ones, others = ([pin for pin in clip.pins if pin.cue is not None] for clip in (one, two))
        if len(ones) != len(others):
            raise Refusal(
                "not-alike",
                f"One clip follows {len(ones)} cues, the other {len(others)}.",
                where=Place.of(one.id, two.id),
                remedy="Swap clips that are tied alike.",
            )
        changes = {
            one.id: _placed(two, one, [pin.cue for pin in ones], where),
            two.id: _placed(one, two, [pin.cue for pin in others], where),
        }
        return with_clips(edit, (changes.get(clip.id, clip) for clip in edit.clips))


class CloseGaps(Asking):
    """Close all gaps of the edit's range: a clip is shown on to the next one, as far as it is laid out."""

    do: Literal["close-gaps"] = "close-gaps"
    said: ClassVar[str] = "Close gaps"

    def on(self, edit: Edit) -> Edit:
        seen = sorted(edit.clips, key=lambda clip: solve(edit, clip).first)
        inside = edit.frames_in(edit.range) if edit.range else None
        changes: dict[str, Clip] = {}
        for clip, after in pairwise(seen):
            last, begin = solve(edit, clip).last, solve(edit, after).first
            if inside is not None and begin not in inside:
                continue
            whole = with_(clip, until=None)
            if begin > last + 1 and solve(edit, whole).last > last:
                edge = after.since or Pin(id="cut", n=begin)
                changes[clip.id] = with_(clip, until=edge)
        if not changes:
            raise Refusal("no-gaps", "There is no gap that a clip could fill.", remedy="Lay clips there.")
        return with_clips(edit, (changes.get(clip.id, clip) for clip in edit.clips))


class ReverseOrder(Asking):
    """Show clips that are tied alike in the opposite order; each place keeps its cues."""

    do: Literal["reverse-order"] = "reverse-order"
    said: ClassVar[str] = "Reverse the order"
    clips: Annotated[tuple[Id, ...], Field(min_length=2, max_length=MOST_CLIPS)]

    def on(self, edit: Edit) -> Edit:
        order = sorted(set(self.clips), key=lambda id: solve(edit, edit.clip(id)).first)
        for left, right in zip(order[: len(order) // 2], reversed(order), strict=False):
            edit = SwapClips(clip=left, other=right).on(edit)
        return edit


class RepeatSection(Asking):
    """Lay clips once more on another part of the song: each cue becomes one of its kind as much later.

    The first cue of the earliest clip becomes ``cue``; how much later that is counts for all.
    With ``move`` they are laid there instead.
    """

    do: Literal["repeat-section"] = "repeat-section"
    said: ClassVar[str] = "Repeat a section"
    clips: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_CLIPS)]
    cue: Id
    move: bool = False

    def on(self, edit: Edit) -> Edit:
        chosen = sorted((edit.clip(id) for id in set(self.clips)), key=lambda clip: solve(edit, clip).first)
        used = [cue for clip in chosen for cue in clip.cue_ids]
        if not used:
            raise Refusal("no-ties", "These clips follow no cue.", remedy="Tie them to cues first.")
        first = min(used, key=edit.instant)
        by = edit.instant(self.cue) - edit.instant(first)
        nearest = _Nearest(edit, by)
        to = {cue: nearest.to(cue) for cue in set(used)}
        frames = nearest_frame(by * edit.rate)
        if self.move:
            moved = {clip.id: _moved(clip, clip.id, to, frames) for clip in chosen}
            return with_clips(edit, (moved.get(clip.id, clip) for clip in edit.clips))
        laid = (
            _moved(clip, id, to, frames)
            for clip, id in zip(chosen, new_ids("clip", edit.clips), strict=False)
        )
        return with_clips(edit, [*edit.clips, *laid])


def _is_seen(shown: FrameMap, begin: int, end: int) -> bool:
    """Whether a clip is seen in a slot; on its first frame the clip before it may end."""
    return bool((shown.clip[shown.part_of(range(begin + 1, end))] != BLACK).any())


def _filled(edit: Edit, id: str, of: str, shot: Shot, begin: str, end: str, how: How) -> Clip:
    take = edit.take(of)
    select = next((each for each in take.selects if each.id == shot.select), None)
    low, high = (select.begin, select.end) if select else (0, take.frames - 1)
    window = {"since": Pin(id="since", cue=begin), "until": Pin(id="until", cue=end)}
    moment = shot.moment or _best_moment(edit, of, low, high)
    if how == "stretch":
        pins = [Pin(id="begin", cue=begin, p=low), Pin(id="end", cue=end, p=high)]
        return Clip(id=id, take=take.id, pins=pins, spans=[Steady()], **window)
    if moment is None or how in ("begin", "end"):
        middle = Pin(id="tie", cue=end, p=high) if how == "end" else Pin(id="tie", cue=begin, p=low)
    else:
        cue = begin if how == "cut" else _inside(edit, begin, end)
        middle = Pin(id="tie", cue=cue, moment=moment)
    p = middle.p if middle.moment is None else edit.moment(take.id, middle.moment).frame
    first, last, at = (edit.frame_of(cue) for cue in (begin, end, middle.cue or begin))
    pace = float(take.rate / edit.rate)
    before = _speed_to_fill((p or 0) / pace, at - first)
    after = _speed_to_fill((take.frames - 1 - (p or 0)) / pace, last - at)
    pins = [BEGIN, middle, Pin(id="end", p=take.frames - 1)]
    spans = [REAL_TIME if speed == 1 else Steady(speed=speed) for speed in (before, after)]
    return Clip(id=id, take=take.id, pins=pins, spans=spans, **window)


def _speed_to_fill(there: float, room: int) -> float:
    """How fast one side of a shot runs to fill its slot: in real time where it has the frames for that.

    Args:
        there: output frames of the take on that side, in real time.
        room: output frames of the slot on that side.
    """
    speed = there / room if room > 0 else 1
    return speed if SLOWEST <= speed < 1 else 1


def _best_moment(edit: Edit, take: str, low: int, high: int) -> str | None:
    """The weightiest moment of a stretch of a take, an impact before others."""
    found = [moment for moment in edit.take(take).moments if low <= moment.frame <= high]
    best = max(found, key=lambda moment: (moment.kind == "impact", moment.weight), default=None)
    return best.id if best else None


def _weight(edit: Edit, shot: Shot) -> float:
    if shot.take is None:
        return 0.0
    take = edit.take(shot.take)
    moment = shot.moment or _best_moment(edit, shot.take, 0, take.frames)
    return edit.moment(shot.take, moment).weight if moment else 0.0


def _inside(edit: Edit, begin: str, end: str) -> str:
    """The strongest cue between two, the first when there is none."""
    song = edit.song
    first, last = edit.frame_of(begin), edit.frame_of(end)
    inside = [cue for cue in (song.cues if song else ()) if first < edit.frame_of(cue.id) < last]
    return max(inside, key=lambda cue: cue.strength).id if inside else begin


def _placed(content: Clip, place: Clip, cues: list[str | None], where: set[str]) -> Clip:
    """A clip with the pictures of one and the cues of another."""
    fields = {name: getattr(place if name in where else content, name) for name in Clip.model_fields}
    left = iter(cues)
    fields["pins"] = [pin if pin.cue is None else with_(pin, cue=next(left)) for pin in content.pins]
    return Clip.model_validate(fields)


class _Nearest:
    """The cues nearest to where others would be moved by some seconds; of their kind, if hardly farther."""

    def __init__(self, edit: Edit, by: float):
        self._edit, self._by = edit, by
        cues = edit.song.cues if edit.song else ()
        self._rows: dict[frozenset[str], list[Cue]] = defaultdict(list)
        for cue in cues:
            self._rows[_alike(cue)].append(cue)
        self._any = [cue for cue in cues if cue.kind in LANDED_ON]

    def to(self, id: str) -> str:
        cue = self._edit.cue(id)
        at = cue.time + self._by
        alike, any_kind = (_closest(row, at) for row in (self._rows[_alike(cue)], self._any or [cue]))
        hardly = abs(alike.time - at) <= abs(any_kind.time - at) + HARDLY_SECONDS
        return alike.id if hardly else any_kind.id


def _alike(cue: Cue) -> frozenset[str]:
    return frozenset(BEATS if cue.kind in BEATS else (cue.kind,))


def _closest(row: list[Cue], at: float) -> Cue:
    """The cue of a row, in order of time, that is nearest to an instant; the earlier one of two."""
    after = bisect_left(row, at, key=lambda cue: cue.time)
    beside = row[max(0, after - 1) : after + 1]
    return min(beside, key=lambda cue: abs(cue.time - at))


def _moved(clip: Clip, id: str, to: dict[str, str], frames: int) -> Clip:
    def moved(pin: Pin) -> Pin:
        if pin.open_n:
            return pin
        return with_(pin, cue=to[pin.cue]) if pin.cue else with_(pin, n=(pin.n or 0) + frames)

    return with_(with_places(clip, moved), id=id)
