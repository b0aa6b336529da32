"""Commands about clips: laying takes on the music, ties, edges, shapes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from izmet.core.commands.parts import Step, changed, map_pins, new_id, pin_of, source_of, with_, with_clip
from izmet.core.edit import Clip, Dip, Edit, Id, Level, Pin, Shape, Speed, Steady
from izmet.core.loose import loose_ties
from izmet.core.refusal import Refusal
from izmet.core.retime.handles import ValueName, new_shape, with_value
from izmet.core.retime.solve import solve


class LayTake(Step):
    """Lay a take on the music so that a moment lands on a cue; it runs at real time from start to end."""

    do: Literal["lay-take"] = "lay-take"
    take: Id
    moment: Id
    cue: Id

    def on(self, edit: Edit) -> Edit:
        take, moment = edit.take(self.take), edit.moment(self.take, self.moment)
        edit.cue(self.cue)
        starts = [m.frame for m in take.moments if m.kind == "start" and m.frame < moment.frame]
        ends = [m.frame for m in take.moments if m.kind == "end" and m.frame > moment.frame]
        pins = (
            Pin(id="pin-1", p=max(starts, default=0), speed=1),
            Pin(id="pin-2", cue=self.cue, moment=self.moment),
            Pin(id="pin-3", p=min(ends, default=take.frames - 1), speed=1),
        )
        clip = Clip(id=new_id("clip", edit.clips), take=self.take, pins=pins, spans=(Steady(), Steady()))
        return with_(edit, clips=[*edit.clips, clip])


class RemoveClip(Step):
    """Take a clip out of the edit."""

    do: Literal["remove-clip"] = "remove-clip"
    clip: Id

    def on(self, edit: Edit) -> Edit:
        edit.clip(self.clip)
        return with_(edit, clips=[clip for clip in edit.clips if clip.id != self.clip])


class AddTie(Step):
    """Tie a further moment of a clip's take to a cue.

    An open edge that the moment reaches or passes gives way to the tie. A dip is
    kept on both sides of it; a build, whose speeds fitted the whole span, is not.
    """

    do: Literal["add-tie"] = "add-tie"
    clip: Id
    moment: Id
    cue: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        frame = edit.moment(clip.take, self.moment).frame
        edit.cue(self.cue)
        tie = Pin(id=new_id("pin", clip.pins), cue=self.cue, moment=self.moment)
        pins, spans = list(clip.pins), list(clip.spans)
        if pins[0].open_n and frame <= (source_of(edit, clip, pins[0]) or 0):
            pins[0] = tie
        elif pins[-1].open_n and frame >= (source_of(edit, clip, pins[-1]) or 0):
            pins[-1] = tie
        else:
            index = _place_of(edit, clip, frame)
            halved: Shape = spans[index - 1] if isinstance(spans[index - 1], Dip) else Steady()
            pins.insert(index, tie)
            spans[index - 1 : index] = [halved, halved]
        return with_clip(edit, clip, pins=pins, spans=spans)


class ChangeTie(Step):
    """Tie a pin to another cue, or to another moment."""

    do: Literal["change-tie"] = "change-tie"
    clip: Id
    pin: Id
    cue: Id | None = None
    moment: Id | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        changes: dict[str, object] = {}
        if self.cue is not None:
            edit.cue(self.cue)
            changes |= {"cue": self.cue, "n": None, "loose": None}
        if self.moment is not None:
            edit.moment(clip.take, self.moment)
            changes |= {"moment": self.moment, "p": None}
        return with_clip(edit, clip, pins=changed(clip.pins, pin_of(clip, self.pin).id, changes))


class TieLoose(Step):
    """Tie every loose tie to the cue that is proposed for it."""

    do: Literal["tie-loose"] = "tie-loose"

    def on(self, edit: Edit) -> Edit:
        cues = {(tie.clip, tie.pin): tie.proposed for tie in loose_ties(edit) if tie.proposed}

        def tied(clip: Clip, pin: Pin) -> Pin:
            cue = cues.get((clip.id, pin.id))
            return with_(pin, cue=cue, n=None, loose=None) if cue else pin

        return map_pins(edit, tied)


class ChangeEdge(Step):
    """Set a clip's first or last pin: how far it reaches, and the speed to it while it is open."""

    do: Literal["change-edge"] = "change-edge"
    clip: Id
    pin: Id
    n: int | None = None
    p: float | None = None
    speed: Speed | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        edge = Pin(id=pin_of(clip, self.pin).id, n=self.n, p=self.p, speed=self.speed)
        return with_clip(edit, clip, pins=[edge if pin.id == edge.id else pin for pin in clip.pins])


class RemovePin(Step):
    """Take a pin between two spans away; they become one. The clip's last tie stays."""

    do: Literal["remove-pin"] = "remove-pin"
    clip: Id
    pin: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        index = clip.pins.index(pin_of(clip, self.pin))
        fixed = [pin for pin in clip.pins if pin.speed is None]
        if len(clip.pins) == 2 or len(fixed) == 1:
            raise Refusal(
                "last-pin",
                "This is the only pin that holds the clip in place.",
                where=f"clip {clip.id}, pin {self.pin}",
                remedy="Remove the clip instead, or tie another moment first.",
            )
        pins = [pin for pin in clip.pins if pin.id != self.pin]
        spans = list(clip.spans)
        if 0 < index < len(clip.pins) - 1:
            spans[index - 1 : index + 1] = [spans[index] if spans[index - 1] == spans[index] else Steady()]
        else:
            spans.pop(0 if index == 0 else -1)
        return with_clip(edit, clip, pins=pins, spans=spans)


class SetLevel(Step):
    """Set how loud a clip's own sound is, 0 mute."""

    do: Literal["set-level"] = "set-level"
    clip: Id
    level: Level

    def on(self, edit: Edit) -> Edit:
        return with_clip(edit, edit.clip(self.clip), level=self.level)


class ShapeSpan(Step):
    """Give a span its shape. Spans count from 0."""

    do: Literal["shape-span"] = "shape-span"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    shape: Shape

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        return _shaped(edit, clip, self.span, self.shape)


class BeginShape(Step):
    """Give a span another shape, with the values to start from."""

    do: Literal["begin-shape"] = "begin-shape"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    shape: Literal["steady", "dip", "build"]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        _span(clip, self.span)
        mean = solve(edit, clip).segments[self.span].mean
        return _shaped(edit, clip, self.span, new_shape(self.shape, mean))


class SetValue(Step):
    """Set one value of a span's shape; what the shape leaves open is solved again."""

    do: Literal["set-value"] = "set-value"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    name: ValueName
    value: Annotated[float, Field(allow_inf_nan=False)]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        shape = _span(clip, self.span)
        mean = solve(edit, clip).segments[self.span].mean
        return _shaped(edit, clip, self.span, with_value(shape, mean, self.name, self.value))


def _span(clip: Clip, index: int) -> Shape:
    """The shape of a span. Raises Refusal when there is none."""
    if index >= len(clip.spans):
        raise Refusal(
            "no-such-span",
            f"The clip has {len(clip.spans)} spans; none has the index {index}.",
            where=f"clip {clip.id}",
            remedy="Count them from 0.",
        )
    return clip.spans[index]


def _shaped(edit: Edit, clip: Clip, index: int, shape: Shape) -> Edit:
    _span(clip, index)
    spans = list(clip.spans)
    spans[index] = shape
    return with_clip(edit, clip, spans=spans)


def _place_of(edit: Edit, clip: Clip, frame: int) -> int:
    """Where a pin at this source frame belongs among a clip's inner pins."""
    for index, pin in enumerate(clip.pins[:-1]):
        source = source_of(edit, clip, pin)
        if index > 0 and source is not None and frame < source:
            return index
    return len(clip.pins) - 1
