"""What a person can do to an edit: pure functions ``edit -> edit``, one class each.

``apply`` runs a command and checks the result, so every edit that leaves this
module can be solved. Undo is not here: the store keeps every revision.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Annotated, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.edit import (
    Clip,
    Cue,
    CueKind,
    Dip,
    Edit,
    Id,
    Label,
    Media,
    Moment,
    MomentKind,
    Pin,
    Shape,
    Side,
    Song,
    Speed,
    Steady,
    Take,
)
from izmet.core.rates import LandingRule, Rate, frame_at
from izmet.core.refusal import Refusal
from izmet.core.retime.solve import solve

M = TypeVar("M", bound=BaseModel)
Part = TypeVar("Part", Take, Cue, Moment, Pin)


class _Command(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Configure(_Command):
    """Change the edit's own settings. A new rate keeps pinned instants, not pinned frame numbers."""

    do: Literal["configure"] = "configure"
    title: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    rate: Rate | None = None
    width: Side | None = None
    height: Side | None = None
    landing: LandingRule | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(exclude={"do"}, exclude_none=True)
        if self.rate is not None:
            scale = self.rate / edit.rate
            changes["rate"] = self.rate
            changes["clips"] = [
                _with(
                    clip,
                    pins=[pin if pin.n is None else _with(pin, n=round(pin.n * scale)) for pin in clip.pins],
                )
                for clip in edit.clips
            ]
        return _with(edit, **changes)


class UseSong(_Command):
    """Choose the music, with the cues found in it. Ties to the old song's cues become pins that stay put."""

    do: Literal["use-song"] = "use-song"
    song: Song

    def on(self, edit: Edit) -> Edit:
        for cue in edit.song.cues if edit.song else ():
            edit = _let_go_of_cue(edit, cue.id)
        return _with(edit, song=self.song)


class AddCue(_Command):
    """Set a cue by hand."""

    do: Literal["add-cue"] = "add-cue"
    time: float
    kind: CueKind = "hand"
    strength: float = 1.0

    def on(self, edit: Edit) -> Edit:
        song = _song(edit)
        id = _new_id("cue", song.cues)
        return _with_cues(
            edit, [*song.cues, Cue(id=id, time=self.time, kind=self.kind, strength=self.strength)]
        )


class ChangeCue(_Command):
    """Move a cue or change its kind. It then counts as made by hand."""

    do: Literal["change-cue"] = "change-cue"
    cue: Id
    time: float | None = None
    kind: CueKind | None = None

    def on(self, edit: Edit) -> Edit:
        edit.cue(self.cue)
        changes = self.model_dump(include={"time", "kind"}, exclude_none=True) | {"made": "hand"}
        return _with_cues(edit, _changed(_song(edit).cues, self.cue, changes))


class RemoveCue(_Command):
    """Delete a cue. What was tied to it stays on its frame, as a pin."""

    do: Literal["remove-cue"] = "remove-cue"
    cue: Id

    def on(self, edit: Edit) -> Edit:
        edit.cue(self.cue)
        edit = _let_go_of_cue(edit, self.cue)
        return _with_cues(edit, [cue for cue in _song(edit).cues if cue.id != self.cue])


class UseTake(_Command):
    """Bring a take into the edit."""

    do: Literal["use-take"] = "use-take"
    take: Take

    def on(self, edit: Edit) -> Edit:
        if any(take.id == self.take.id for take in edit.takes):
            raise Refusal("take-in-use", f"A take {self.take.id} is in the edit already.", where=self.take.id)
        return _with(edit, takes=[*edit.takes, self.take])


class Relink(_Command):
    """Point a take, or the song when no take is named, to another file. Marks and ties stay."""

    do: Literal["relink"] = "relink"
    take: Id | None = None
    media: Media
    frames: int | None = None
    duration: float | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"frames", "duration"}, exclude_none=True) | {"media": self.media}
        if self.take is None:
            return _with(edit, song=_with(_song(edit), **changes))
        edit.take(self.take)
        return _with(edit, takes=_changed(edit.takes, self.take, changes))


class AddMoment(_Command):
    """Mark a source frame that matters."""

    do: Literal["add-moment"] = "add-moment"
    take: Id
    frame: int
    kind: MomentKind = "impact"
    label: Label = ""

    def on(self, edit: Edit) -> Edit:
        moments = edit.take(self.take).moments
        moment = Moment(id=_new_id("moment", moments), frame=self.frame, kind=self.kind, label=self.label)
        return _with_moments(edit, self.take, [*moments, moment])


class ChangeMoment(_Command):
    """Move a moment to another source frame, or rename it. Its ties follow."""

    do: Literal["change-moment"] = "change-moment"
    take: Id
    moment: Id
    frame: int | None = None
    kind: MomentKind | None = None
    label: Label | None = None

    def on(self, edit: Edit) -> Edit:
        edit.moment(self.take, self.moment)
        changes = self.model_dump(include={"frame", "kind", "label"}, exclude_none=True)
        return _with_moments(edit, self.take, _changed(edit.take(self.take).moments, self.moment, changes))


class RemoveMoment(_Command):
    """Delete a moment. What was tied to it keeps its source frame, as a pin."""

    do: Literal["remove-moment"] = "remove-moment"
    take: Id
    moment: Id

    def on(self, edit: Edit) -> Edit:
        frame = float(edit.moment(self.take, self.moment).frame)

        def let_go(clip: Clip, pin: Pin) -> Pin:
            mine = clip.take == self.take and pin.moment == self.moment
            return _with(pin, moment=None, p=frame) if mine else pin

        edit = _map_pins(edit, let_go)
        left = [moment for moment in edit.take(self.take).moments if moment.id != self.moment]
        return _with_moments(edit, self.take, left)


class LayTake(_Command):
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
        clip = Clip(id=_new_id("clip", edit.clips), take=self.take, pins=pins, spans=(Steady(), Steady()))
        return _with(edit, clips=[*edit.clips, clip])


class RemoveClip(_Command):
    """Take a clip out of the edit."""

    do: Literal["remove-clip"] = "remove-clip"
    clip: Id

    def on(self, edit: Edit) -> Edit:
        edit.clip(self.clip)
        return _with(edit, clips=[clip for clip in edit.clips if clip.id != self.clip])


class AddTie(_Command):
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
        tie = Pin(id=_new_id("pin", clip.pins), cue=self.cue, moment=self.moment)
        pins, spans = list(clip.pins), list(clip.spans)
        if pins[0].open_n and frame <= (_source_of(edit, clip, pins[0]) or 0):
            pins[0] = tie
        elif pins[-1].open_n and frame >= (_source_of(edit, clip, pins[-1]) or 0):
            pins[-1] = tie
        else:
            index = _place_of(edit, clip, frame)
            halved: Shape = spans[index - 1] if isinstance(spans[index - 1], Dip) else Steady()
            pins.insert(index, tie)
            spans[index - 1 : index] = [halved, halved]
        return _with_clip(edit, clip, pins=pins, spans=spans)


class ChangeTie(_Command):
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
            changes |= {"cue": self.cue, "n": None}
        if self.moment is not None:
            edit.moment(clip.take, self.moment)
            changes |= {"moment": self.moment, "p": None}
        return _with_clip(edit, clip, pins=_changed(clip.pins, _pin(clip, self.pin).id, changes))


class ChangeEdge(_Command):
    """Set a clip's first or last pin: how far it reaches, and the speed to it while it is open."""

    do: Literal["change-edge"] = "change-edge"
    clip: Id
    pin: Id
    n: int | None = None
    p: float | None = None
    speed: Speed | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        edge = Pin(id=_pin(clip, self.pin).id, n=self.n, p=self.p, speed=self.speed)
        return _with_clip(edit, clip, pins=[edge if pin.id == edge.id else pin for pin in clip.pins])


class RemovePin(_Command):
    """Take a pin between two spans away; they become one. The clip's last tie stays."""

    do: Literal["remove-pin"] = "remove-pin"
    clip: Id
    pin: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        index = clip.pins.index(_pin(clip, self.pin))
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
        return _with_clip(edit, clip, pins=pins, spans=spans)


class ShapeSpan(_Command):
    """Give a span its shape. Spans count from 0."""

    do: Literal["shape-span"] = "shape-span"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    shape: Shape

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        if self.span >= len(clip.spans):
            raise Refusal("no-such-span", f"The clip has {len(clip.spans)} spans.", where=f"clip {clip.id}")
        spans = list(clip.spans)
        spans[self.span] = self.shape
        return _with_clip(edit, clip, spans=spans)


Command = Annotated[
    Configure
    | UseSong
    | AddCue
    | ChangeCue
    | RemoveCue
    | UseTake
    | Relink
    | AddMoment
    | ChangeMoment
    | RemoveMoment
    | LayTake
    | RemoveClip
    | AddTie
    | ChangeTie
    | ChangeEdge
    | RemovePin
    | ShapeSpan,
    Field(discriminator="do"),
]


def apply(edit: Edit, command: Command) -> Edit:
    """The edit after a command.

    Raises:
        Refusal: the command names something that is not there, or what it asks
            for cannot be solved.
    """
    changed = attempt(edit, command)
    check(changed)
    return changed


def attempt(edit: Edit, command: Command) -> Edit:
    """The edit after a command, not yet solved: for a dry run, whose derivation solves it next.

    Raises:
        Refusal: the command names something that is not there.
    """
    try:
        return command.on(edit)
    except ValueError as error:
        raise _as_refusal(error) from None


def check(edit: Edit) -> None:
    """Refuse an edit whose parts do not fit together. A document from outside passes here first."""
    for parts, kind in (
        (edit.takes, "take"),
        (edit.clips, "clip"),
        (edit.song.cues if edit.song else (), "cue"),
    ):
        _check_unique(parts, kind, kind)
    for take in edit.takes:
        _check_unique(take.moments, "moment", f"take {take.id}")
        for moment in take.moments:
            if moment.frame >= take.frames:
                raise Refusal(
                    "moment-outside-take",
                    f"Frame {moment.frame} is outside the take, which has frames 0 to {take.frames - 1}.",
                    where=f"take {take.id}, moment {moment.id}",
                    remedy="Mark a frame inside the take.",
                    nearest=take.frames - 1,
                )
    for clip in edit.clips:
        _check_unique(clip.pins, "pin", f"clip {clip.id}")
        solve(edit, clip)


def _as_refusal(error: ValueError) -> Refusal:
    details = getattr(error, "errors", None)
    if details is None:
        return Refusal("bad-command", f"{error}.")
    first = details()[0]
    where = ".".join(str(part) for part in first["loc"])
    return Refusal("bad-command", f"{first['msg'].removeprefix('Value error, ')}.", where=where)


def _check_unique(parts: Iterable[Take | Clip | Cue | Moment | Pin], kind: str, where: str) -> None:
    seen: set[str] = set()
    for part in parts:
        if part.id in seen:
            raise Refusal(
                "id-twice",
                f"Two parts have the id {part.id}.",
                where=where,
                remedy=f"Give each {kind} its own.",
            )
        seen.add(part.id)


def _with(model: M, **changes: object) -> M:
    """A validated copy with some fields changed; parts that stay are not validated again."""
    fields = {name: getattr(model, name) for name in type(model).model_fields}
    return type(model).model_validate(fields | changes)


def _changed(parts: Iterable[Part], id: str, changes: dict[str, object]) -> list[Part]:
    return [_with(part, **changes) if part.id == id else part for part in parts]


def _new_id(prefix: str, parts: Iterable[Take | Clip | Cue | Moment | Pin]) -> str:
    numbers = [int(part.id.rpartition("-")[2]) for part in parts if part.id.rpartition("-")[2].isdigit()]
    return f"{prefix}-{max(numbers, default=0) + 1}"


def _song(edit: Edit) -> Song:
    if edit.song is None:
        raise Refusal("no-song", "The edit has no song yet.", remedy="Choose the music first.")
    return edit.song


def _with_cues(edit: Edit, cues: Iterable[Cue]) -> Edit:
    song = _song(edit)
    ordered = sorted(cues, key=lambda cue: cue.time)
    if ordered and ordered[-1].time > song.duration:
        raise Refusal(
            "cue-outside-song",
            f"A cue at {ordered[-1].time:.3f} s lies after the song's end at {song.duration:.3f} s.",
            where=ordered[-1].id,
            remedy="Set it inside the song.",
            nearest=song.duration,
        )
    return _with(edit, song=_with(song, cues=ordered))


def _with_moments(edit: Edit, take: str, moments: Iterable[Moment]) -> Edit:
    ordered = sorted(moments, key=lambda moment: moment.frame)
    return _with(edit, takes=_changed(edit.takes, take, {"moments": ordered}))


def _with_clip(edit: Edit, clip: Clip, **changes: object) -> Edit:
    changed = _with(clip, **changes)
    return _with(edit, clips=[changed if other.id == clip.id else other for other in edit.clips])


def _map_pins(edit: Edit, change: Callable[[Clip, Pin], Pin]) -> Edit:
    clips = [_with(clip, pins=[change(clip, pin) for pin in clip.pins]) for clip in edit.clips]
    return _with(edit, clips=clips)


def _let_go_of_cue(edit: Edit, cue: str) -> Edit:
    n = frame_at(edit.cue(cue).time, edit.rate, edit.landing)
    return _map_pins(edit, lambda _, pin: _with(pin, cue=None, n=n) if pin.cue == cue else pin)


def _pin(clip: Clip, id: str) -> Pin:
    for pin in clip.pins:
        if pin.id == id:
            return pin
    raise Refusal(
        "no-such-pin", f"The clip has no pin {id}.", where=f"clip {clip.id}", remedy="Reload the edit."
    )


def _source_of(edit: Edit, clip: Clip, pin: Pin) -> float | None:
    return pin.p if pin.moment is None else float(edit.moment(clip.take, pin.moment).frame)


def _place_of(edit: Edit, clip: Clip, frame: int) -> int:
    """Where a pin at this source frame belongs among a clip's inner pins."""
    for index, pin in enumerate(clip.pins[:-1]):
        source = _source_of(edit, clip, pin)
        if index > 0 and source is not None and frame < source:
            return index
    return len(clip.pins) - 1
