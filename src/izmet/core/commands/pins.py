"""Commands about pins: ties, open ends, holds, turns, what is left out."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, Field

from izmet.core.commands.common import (
    Asking,
    AskingIfCut,
    EditCommand,
    changed,
    map_pins,
    new_id,
    new_ids,
    pin_of,
    source_of,
    unclear,
    with_,
    with_clip,
)
from izmet.core.document.edit import Bent, Clip, Edit, Hold, Rewind, Shape, Steady
from izmet.core.document.limits import MOST_FRAMES, MOST_PINS
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id, Speed
from izmet.core.retime.loose import loose_ties
from izmet.core.retime.solve import solve

Count = Annotated[int, Field(ge=1, le=MOST_FRAMES)]


class AddTie(EditCommand):
    """Tie a further moment of a clip's take to a cue.

    An open end that the moment reaches or passes gives way to the tie. A shape with like
    ends is kept on both sides of it; one whose speeds fitted the whole span is not.
    """

    do: Literal["add-tie"] = "add-tie"
    said: ClassVar[str] = "Tie a moment"
    clip: Id
    moment: Id
    cue: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        frame = edit.moment(clip.take, self.moment).frame
        edit.cue(self.cue)
        tie = Pin(id=new_id("pin", clip.pins), cue=self.cue, moment=self.moment)
        way = -1 if clip.reversed else 1
        pins, spans = list(clip.pins), list(clip.spans)
        first, last = source_of(edit, clip, pins[0]), source_of(edit, clip, pins[-1])
        if pins[0].open_n and first is not None and (frame - first) * way <= 0:
            pins[0], spans[0] = tie, with_(spans[0], speed=None, frames=None)
        elif pins[-1].open_n and last is not None and (frame - last) * way >= 0:
            pins[-1], spans[-1] = tie, with_(spans[-1], speed=None, frames=None)
        else:
            index = _place_of(edit, clip, frame * way, way)
            pins.insert(index, tie)
            spans[index - 1 : index] = halves(clip, index - 1)
        return with_clip(edit, clip, pins=pins, spans=spans)


class ChangeTie(EditCommand):
    """Tie a pin to another cue, or to another moment. An end that was open is so no longer."""

    do: Literal["change-tie"] = "change-tie"
    said: ClassVar[str] = "Move a tie"
    clip: Id
    pin: Id
    cue: Id | None = None
    moment: Id | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        pin = pin_of(clip, self.pin)
        changes: dict[str, object] = {}
        if self.cue is not None:
            edit.cue(self.cue)
            changes |= {"cue": self.cue, "n": None, "loose": None}
        if self.moment is not None:
            edit.moment(clip.take, self.moment)
            changes |= {"moment": self.moment, "p": None}
        after = with_clip(edit, clip, pins=changed(clip.pins, pin.id, changes))
        opened = (pin.open_n and self.cue) or (pin.open_p and self.moment)
        return _closed_beside(after, clip.id, pin.id) if opened else after


class TieLoose(Asking):
    """Tie every loose tie to the cue that is proposed for it."""

    do: Literal["tie-loose"] = "tie-loose"
    said: ClassVar[str] = "Tie what was loose"
    keeps: ClassVar[bool] = True

    def on(self, edit: Edit) -> Edit:
        cues = {(tie.clip, tie.pin): tie.proposed for tie in loose_ties(edit) if tie.proposed}

        def tied(clip: Clip, pin: Pin) -> Pin:
            cue = cues.get((clip.id, pin.id))
            return with_(pin, cue=cue, n=None, loose=None) if cue else pin

        return map_pins(edit, tied)


class ChangeEdge(EditCommand):
    """Set a clip's first or last pin: how far it reaches, and the speed to it while it is open."""

    do: Literal["change-edge"] = "change-edge"
    said: ClassVar[str] = "Move a clip's end"
    clip: Id
    pin: Id
    n: int | None = None
    p: float | None = None
    speed: Speed | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        edge = Pin(id=pin_of(clip, self.pin).id, n=self.n, p=self.p)
        if (self.n is None or self.p is None) != (self.speed is not None):
            raise unclear("Give a speed exactly when n or p is left open.")
        spans = list(clip.spans)
        beside = 0 if edge.id == clip.pins[0].id else -1
        spans[beside] = with_(spans[beside], speed=self.speed, frames=None)
        pins = [edge if pin.id == edge.id else pin for pin in clip.pins]
        return with_clip(edit, clip, pins=pins, spans=spans)


class RemovePin(EditCommand):
    """Take a pin between two spans away; they become one. The clip's last tie stays."""

    do: Literal["remove-pin"] = "remove-pin"
    said: ClassVar[str] = "Remove a pin"
    clip: Id
    pin: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        pin = pin_of(clip, self.pin)
        index = clip.pins.index(pin)
        fixed = [other for other in clip.pins if other.is_fixed]
        if len(clip.pins) == 2 or fixed == [pin]:
            raise Refusal(
                "last-pin",
                "This is the only pin that holds the clip in place.",
                where=Place.of(clip.id, pin=self.pin),
                remedy="Remove the clip instead, or tie another moment first.",
            )
        pins = [other for other in clip.pins if other.id != pin.id]
        spans = list(clip.spans)
        if 0 < index < len(clip.pins) - 1:
            spans[index - 1 : index + 1] = [_joined(clip, index)]
        else:
            spans.pop(0 if index == 0 else -1)
        return with_clip(edit, clip, pins=pins, spans=spans)


class HoldPicture(AskingIfCut):
    """Hold the picture of a pin, for so many output frames or up to a cue, and go on from it."""

    do: Literal["hold-picture"] = "hold-picture"
    said: ClassVar[str] = "Freeze a picture"
    keeps: ClassVar[bool] = True
    pin: Id
    frames: Count | None = None
    cue: Id | None = None

    def on(self, edit: Edit) -> Edit:
        if (self.cue is None) == (self.frames is None):
            raise unclear("Say for how many frames the picture is held, or up to which cue.")
        clip = edit.clip(self.clip)
        held = Pin(id=new_id("pin", clip.pins), cue=self.cue)
        return _after(edit, clip, self.pin, held, Hold(frames=self.frames))


class TurnBack(AskingIfCut):
    """Run back from a pin, ``back`` source frames in ``frames`` output frames, and on again.

    With neither, the way back mirrors the way there: the span before the pin, backwards.
    """

    do: Literal["turn-back"] = "turn-back"
    said: ClassVar[str] = "Reverse from a hit"
    keeps: ClassVar[bool] = True
    pin: Id
    back: Count | None = None
    frames: Count | None = None

    def on(self, edit: Edit) -> Edit:
        if (self.back is None) != (self.frames is None):
            raise unclear("Say both how many source frames it runs back and in how many output frames.")
        clip = edit.clip(self.clip)
        new = Pin(id=new_id("pin", clip.pins))
        if self.back is None:
            return _after(edit, clip, self.pin, new, Rewind(mirror=True))
        index = clip.pins.index(pin_of(clip, self.pin))
        at = solve(edit, clip).pins[index].p
        earlier = with_(new, p=at + self.back if clip.reversed else at - self.back)
        return _after(edit, clip, self.pin, earlier, Rewind(frames=self.frames, strength=0.5))


class SetPin(EditCommand):
    """Set whether the speed passes through a pin, how many source frames are left out after it, and whether
    it is guarded: its moment is mixed into no other frame.
    """

    do: Literal["set-pin"] = "set-pin"
    said: ClassVar[str] = "Set a pin"
    clip: Id
    pin: Id
    through: bool | None = None
    skip: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] | None = None
    guarded: bool | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        changes = self.model_dump(include={"through", "skip", "guarded"}, exclude_none=True)
        return with_clip(edit, clip, pins=changed(clip.pins, pin_of(clip, self.pin).id, changes))


class Pair(BaseModel):
    """A moment and the cue it is to land on."""

    moment: Id
    cue: Id


class TieMoments(AskingIfCut):
    """Tie several moments of a clip's take to cues at once. Other ties of the clip give way."""

    do: Literal["tie-moments"] = "tie-moments"
    said: ClassVar[str] = "Tie moments, worked backwards"
    keeps: ClassVar[bool] = True
    ties: Annotated[tuple[Pair, ...], Field(min_length=1, max_length=MOST_PINS)]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        wanted = {pair.moment: pair.cue for pair in self.ties}
        order = sorted(wanted, key=lambda id: edit.moment(clip.take, id).frame, reverse=clip.reversed)
        kept = {pin.moment: pin for pin in clip.pins if pin.moment in wanted}
        ties: list[Pin] = []
        ids = new_ids("pin", clip.pins)
        for moment in order:
            edit.cue(wanted[moment])
            old = kept.get(moment)
            id = old.id if old else next(ids)
            ties.append(Pin(id=id, cue=wanted[moment], moment=moment))
        head = [clip.pins[0]] if clip.pins[0].open_n else []
        tail = [clip.pins[-1]] if clip.pins[-1].open_n else []
        first = [clip.spans[0]] if head else []
        last = [clip.spans[-1]] if tail else []
        between = [Steady()] * (len(ties) - 1)
        return with_clip(edit, clip, pins=[*head, *ties, *tail], spans=[*first, *between, *last])


def halves(clip: Clip, index: int) -> tuple[Shape, Shape]:
    """What a span becomes on both sides of a fixed pin put into it.

    What the span says of itself stays where a pin is open, and would be said twice elsewhere.
    """
    shape = clip.spans[index]
    alike = isinstance(shape, Bent | Steady)
    plain = with_(shape, speed=None, frames=None) if alike else Steady(motion=shape.motion)
    if isinstance(plain, Rewind):
        plain = with_(plain, mirror=False)
    left = with_(plain, speed=shape.speed) if not clip.pins[index].is_fixed else plain
    right = with_(plain, speed=shape.speed) if not clip.pins[index + 1].is_fixed else plain
    return left, right


def _joined(clip: Clip, index: int) -> Shape:
    """The span that two become when the pin between them goes."""
    left, right = clip.spans[index - 1], clip.spans[index]
    plain = [with_(each, speed=None, frames=None) for each in (left, right)]
    shape: Shape = plain[1] if plain[0] == plain[1] and not isinstance(left, Hold) else Steady()
    speed = None
    if not clip.pins[index - 1].is_fixed:
        speed = left.speed
    elif not clip.pins[index + 1].is_fixed:
        speed = right.speed
    return with_(shape, speed=speed)


def _after(edit: Edit, clip: Clip, pin: str, new: Pin, shape: Shape) -> Edit:
    """The clip with a span and its end pin put in after a pin; at the clip's end it grows."""
    index = clip.pins.index(pin_of(clip, pin))
    pins, spans = list(clip.pins), list(clip.spans)
    pins.insert(index + 1, new)
    spans.insert(index, shape)
    return with_clip(edit, clip, pins=pins, spans=spans)


def _closed_beside(edit: Edit, clip_id: str, pin: str) -> Edit:
    """What the span beside a pin says of itself is taken away, now that the pin says it."""
    clip = edit.clip(clip_id)
    index = clip.pins.index(pin_of(clip, pin))
    beside = index if index < len(clip.spans) and clip.spans[index].speed is not None else index - 1
    beside = max(0, beside)
    spans = list(clip.spans)
    spans[beside] = with_(spans[beside], speed=None, frames=None)
    return with_clip(edit, clip, spans=spans)


def _place_of(edit: Edit, clip: Clip, frame: int, way: int) -> int:
    """Where a pin at this source frame, counted along the way, belongs among a clip's inner pins."""
    for index, pin in enumerate(clip.pins[:-1]):
        source = source_of(edit, clip, pin)
        if index > 0 and source is not None and clip.ways[index - 1] == way and frame < source * way:
            return index
    return len(clip.pins) - 1
