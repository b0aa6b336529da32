"""Commands about passes: what is repeated at cues along a clip, changed and taken away again at any time."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from izmet.core.arrange.oncues import cues_on, kinds_of
from izmet.core.commands.common import Asking, new_id, new_ids, settled, unclear, with_, with_clip
from izmet.core.document.edit import (
    Alternation,
    Amounts,
    AnyPass,
    AtEnd,
    Bends,
    Clip,
    Custom,
    Edit,
    Every,
    Growth,
    Jumps,
    Knot,
    NthCue,
    OwnAmounts,
    Pulse,
    PulsePattern,
    PulseUnit,
    PulseValues,
    Shape,
    Shift,
    Steady,
)
from izmet.core.document.limits import MOST_CLIPS, MOST_FRAMES, MOST_PINS
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import CueIds, Easing, EffectFrames, Frozen, Id, Reach, Seed, Share
from izmet.core.music.selection import cues_of
from izmet.core.retime.passes import works_on
from izmet.core.retime.segment import Segment
from izmet.core.retime.solve import solve

LEAST_JUMP = 0.001
"""Source frames; less is no jump but rounding."""
SAMPLED = 65
"""Knots that follow a bend."""

Leave = Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]
More = Annotated[int, Field(ge=-1000, le=1000)]
Ratio = Annotated[float, Field(gt=0, le=100)]
Early = Annotated[int, Field(ge=0, le=1000)]
First = Literal["slow", "fast"]
Cues = Annotated[tuple[Id, ...], Field(max_length=MOST_PINS)]


class OnPass(Asking):
    """Base of commands that say how a pass of a clip is to be."""

    keeps: ClassVar[bool] = True
    clip: Id

    def asked(self, clip: Clip) -> tuple[AnyPass, list[AnyPass]]:
        """The pass as it is asked for, and all passes of the clip with it, whether they can be or not."""
        raise NotImplementedError

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        each, passes = self.asked(clip)
        _check_cues(edit, clip, each)
        return with_clip(edit, clip, passes=passes)


class OnCues(OnPass):
    """Base of commands that add a pass: on cues by name, or on those of a kept selection."""

    adds: ClassVar[type[Jumps | Alternation | Bends | Pulse]]
    cues: Cues = ()
    selection: Id | None = None

    def asked(self, clip: Clip) -> tuple[AnyPass, list[AnyPass]]:
        said = self.model_dump(exclude={"do", "clip"})
        values = {"id": new_id("pass", clip.passes), **said.pop("values", {}), **said}
        new = self.adds.model_validate(values)
        return new, [*clip.passes, new]


class JumpCuts(OnCues):
    """Leave source frames out at each of some cues; what ends each span still lands.

    ``leave`` frames go at the first cue, ``more`` more at each one after it. Below 0 the
    picture goes back by so many instead. What shrinks ends at none.
    """

    do: Literal["jump-cuts"] = "jump-cuts"
    said: ClassVar[str] = "Jump cuts"
    adds = Jumps
    leave: Leave = 6
    more: More = 0


class Alternate(OnCues):
    """From cue to cue a clip runs slow, fast, slow, fast; the ends of its spans stay.

    ``ratio`` is fast to slow; the change comes ``early`` output frames before each cue.
    """

    do: Literal["alternate"] = "alternate"
    said: ClassVar[str] = "Alternate slow and fast"
    adds = Alternation
    ratio: Ratio = 4.0
    early: Early = 0
    first: First = "slow"


class BendBetween(OnCues):
    """A bend of its own from cue to cue: slow in the middle, or quick there. What each cue shows stays."""

    do: Literal["bend-between"] = "bend-between"
    said: ClassVar[str] = "Bend from cue to cue"
    adds = Bends
    shape: Literal["dip", "swell"] = "dip"
    strength: Share = 0.4
    reach: Reach = 0.5
    softness: Share = 1.0


class AddPulse(OnCues):
    """Move the picture at each of some cues, on top of its run. Ties still land."""

    do: Literal["add-pulse"] = "add-pulse"
    said: ClassVar[str] = "Add a pulse"
    adds = Pulse
    values: PulseValues = PulseValues()


class PulseChange(Frozen):
    """What of a pulse changes; null stays."""

    pattern: PulsePattern | None = None
    amounts: Amounts | None = None
    unit: PulseUnit | None = None
    attack: EffectFrames | None = None
    release: EffectFrames | None = None
    rise: Easing | None = None
    fall: Easing | None = None
    by_strength: Share | None = None
    growth: Growth | None = None
    early: Shift | None = None
    least: Share | None = None
    every: Every | None = None
    first: NthCue | None = None
    last: NthCue | None = None
    seed: Seed | None = None
    at_end: AtEnd | None = None
    silent: CueIds | None = None
    own: OwnAmounts | None = None

    @property
    def said(self) -> dict[str, object]:
        """The values that change, by name."""
        values = ((name, getattr(self, name)) for name in type(self).model_fields)
        return {name: value for name, value in values if value is not None}


class ChangePass(OnPass):
    """Change some values of a pass, the cues that it works on, whether it works, or its place in the list."""

    do: Literal["change-pass"] = "change-pass"
    said: ClassVar[str] = "Change what is repeated at cues"
    id: Id
    works: bool | None = None
    cues: Cues | None = None
    selection: Id | None = None
    leave: Leave | None = None
    more: More | None = None
    ratio: Ratio | None = None
    early: Early | None = None
    first: First | None = None
    shape: Literal["dip", "swell"] | None = None
    strength: Share | None = None
    reach: Reach | None = None
    softness: Share | None = None
    pulse: PulseChange | None = None
    place: Annotated[int, Field(ge=0, le=MOST_PINS)] | None = None

    def asked(self, clip: Clip) -> tuple[AnyPass, list[AnyPass]]:
        before = _find(clip, self.id)
        changes = self.model_dump(exclude={"do", "clip", "id", "works", "pulse", "place"}, exclude_none=True)
        if self.pulse is not None:
            changes |= self.pulse.said
        if self.works is not None:
            changes["on"] = self.works
        if (not changes and self.place is None) or not changes.keys() <= type(before).model_fields.keys():
            raise unclear("Say what of the pass changes, of what it has.")
        if self.selection is not None:
            changes["cues"] = ()
        if self.cues is not None:
            changes["selection"] = None
        after = with_(before, **changes)
        passes = [after if each is before else each for each in clip.passes]
        if self.place is not None:
            passes.remove(after)
            passes.insert(self.place, after)
        return after, passes


class CopyPass(Asking):
    """Put a pass of a clip on other clips too: on the same kept selection, on other cues, or, where it names
    its cues, on those of the same kinds that lie on each clip."""

    do: Literal["copy-pass"] = "copy-pass"
    said: ClassVar[str] = "Copy what is repeated at cues"
    keeps: ClassVar[bool] = True
    clip: Id
    id: Id
    clips: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_CLIPS)]
    cues: Cues | None = None
    selection: Id | None = None

    def on(self, edit: Edit) -> Edit:
        copied = _find(edit.clip(self.clip), self.id)
        if self.cues is not None or self.selection is not None:
            copied = with_(copied, cues=self.cues or (), selection=self.selection)
        for id in self.clips:
            clip = edit.clip(id)
            each = with_(copied, id=new_id("pass", clip.passes))
            if each.selection is None and self.cues is None:
                each = with_(each, cues=cues_on(edit, clip, kinds_of(edit, copied)))
            _check_cues(edit, clip, each)
            edit = with_clip(edit, clip, passes=[*clip.passes, each])
        return edit


class RemovePass(Asking):
    """Take a pass away; the clip runs as it did without it."""

    do: Literal["remove-pass"] = "remove-pass"
    said: ClassVar[str] = "Take away what is repeated at cues"
    keeps: ClassVar[bool] = True
    clip: Id
    id: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        gone = _find(clip, self.id)
        return with_clip(edit, clip, passes=[each for each in clip.passes if each is not gone])


class FixPasses(Asking):
    """Make plain pins of the passes of a clip that are on. It runs as it did, tied to their cues no more.

    Pulses stay what they are.
    """

    do: Literal["fix-passes"] = "fix-passes"
    said: ClassVar[str] = "Make pins of what is repeated at cues"
    clip: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        kept = [each for each in clip.passes if not each.on or isinstance(each, Pulse)]
        if len(kept) == len(clip.passes):
            raise Refusal(
                "no-passes",
                "No pass of this clip that can become pins is on.",
                Place.of(clip.id),
                "Switch it on first.",
            )
        curve, ids = solve(edit, clip), new_ids("pin", clip.pins)
        pins, spans = [clip.pins[0]], list[Shape]()
        for index, segment in enumerate(curve.segments):
            end = clip.pins[index + 1]
            if segment.passes:
                pins[-1], end = settled(pins[-1], segment.start), settled(end, segment.end)
                _fix(pins, spans, clip.spans[index], segment, ids)
            else:
                spans.append(clip.spans[index])
            pins.append(end)
        return with_clip(edit, clip, pins=pins, spans=spans, passes=kept)


def _check_cues(edit: Edit, clip: Clip, each: AnyPass) -> None:
    """Refuse cues that are not there, or of which none lies inside a span that a pass works on."""
    frames = [edit.frame_of(cue) for cue in cues_of(edit, each)]
    bare = clip.model_copy(update={"passes": ()})
    if isinstance(each, Pulse):
        curve = solve(edit, bare)
        if not any(curve.first <= n <= curve.last for n in frames):
            raise Refusal(
                "no-cue-there",
                "None of these cues lies on the clip.",
                where=Place.of(clip.id),
                remedy="Choose cues between its first frame and its last.",
            )
        return
    worked = [
        segment
        for shape, segment in zip(clip.spans, solve(edit, bare).segments, strict=True)
        if works_on(shape)
    ]
    if not any(segment.start.n < n < segment.end.n for segment in worked for n in frames):
        raise Refusal(
            "no-cue-there",
            "None of these cues lies inside a span of the clip.",
            where=Place.of(clip.id),
            remedy="Choose cues between two of its pins.",
        )


def _find(clip: Clip, id: str) -> AnyPass:
    found = next((each for each in clip.passes if each.id == id), None)
    if found is None:
        raise Refusal("no-such-pass", f"There is no pass {id}.", Place.of(clip.id), "Reload the edit.")
    return found


def _fix(pins: list[Pin], spans: list[Shape], shape: Shape, segment: Segment, ids: Iterator[str]) -> None:
    """Put pins where the passes of a span begin something, and the shapes between them.

    What is jumped over is the way of one frame; a jump back is left out below 0.
    """
    at = segment.start.n
    for n, jump in _edges(segment):
        if jump and n - 1 > at:
            spans.append(_piece(shape, segment, at, n - 1))
            pins.append(_pin(segment, next(ids), n - 1))
        if jump < 0:
            pins[-1] = with_(pins[-1], skip=pins[-1].skip + math.floor(jump))
        spans.append(Steady() if jump else _piece(shape, segment, at, n))
        pins.append(_pin(segment, next(ids), n))
        at = n
    spans.append(_piece(shape, segment, at, segment.end.n))


def _edges(segment: Segment) -> Iterator[tuple[int, float]]:
    """The output frames at which passes begin something in a span, and how far the picture jumps there."""
    for n in sorted({float(n) for steps in segment.passes for n in steps.edges}):
        before, after = segment.travelled(np.array([n - 2 * FRAME_TOLERANCE, n]))[0].tolist()
        jump = after - before
        yield round(n), jump if abs(jump) > LEAST_JUMP else 0.0


def _pin(segment: Segment, id: str, n: int) -> Pin:
    return Pin(id=id, n=n, p=float(segment.at(np.array([float(n)]))[0][0]))


def _piece(shape: Shape, segment: Segment, begin: float, end: float) -> Shape:
    """The shape of a part of a span: steady where that was, else with the knots that lie there."""
    if any(steps.bend is not None for steps in segment.passes):
        return _sampled(segment, begin, end)
    if isinstance(shape, Steady):
        return Steady()
    piece = segment.profile.between(*((n - segment.start.n) / segment.length for n in (begin, end)))
    knots = [Knot(at=u, speed=v) for u, v in zip(piece.u.tolist(), piece.v.tolist(), strict=True)]
    return Custom(knots=knots)


def _sampled(segment: Segment, begin: float, end: float) -> Shape:
    """The speeds of a part of a span, as knots joined by lines."""
    u = np.linspace(0, 1, SAMPLED)
    n = np.clip(begin + u * (end - begin), begin, end - 2 * FRAME_TOLERANCE)
    speeds = np.maximum(segment.way * segment.at(n)[1], 0)
    return Custom(knots=[Knot(at=at, speed=v, join="straight") for at, v in zip(u, speeds, strict=True)])
