"""Commands about spans: their shapes, the values of a shape, how strong it may be."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from izmet.core.commands.common import AskingIfCut, EditCommand, with_, with_clip
from izmet.core.document.edit import (
    Bent,
    Clip,
    Custom,
    Dip,
    Edit,
    Hold,
    Knot,
    Rewind,
    Shape,
    ShapeName,
    Steady,
    Turned,
)
from izmet.core.document.limits import MOST_FRAMES, MOST_SPEED
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id, Share, Speed
from izmet.core.document.words import counted
from izmet.core.retime.floor import smooth_floor
from izmet.core.retime.handles import new_shape, with_value
from izmet.core.retime.segment import Segment
from izmet.core.retime.shapes import solve_turned, strength_under, strongest_smooth, with_strength
from izmet.core.retime.solve import solve
from izmet.core.shown.pictures import pictures_of

NUDGE = 0.05
TRIES = 12
"""Halvings until a strength is known to a part in four thousand."""


class ShapeSpan(EditCommand):
    """Give a span its shape. Spans count from 0. What the old one said of itself stays unless said anew."""

    do: Literal["shape-span"] = "shape-span"
    said: ClassVar[str] = "Shape a span"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    shape: Shape

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        return shaped(edit, clip, self.span, saying(self.shape, span_of(clip, self.span)))


class BeginShape(EditCommand):
    """Give a span another shape, with the values to start from.

    A span that becomes a hold lets go of the source frame it led to, unless that is a moment.
    """

    do: Literal["begin-shape"] = "begin-shape"
    said: ClassVar[str] = "Begin a shape"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    shape: ShapeName

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        old = span_of(clip, self.span)
        segment = solve(edit, clip).segments[self.span]
        if self.shape == "hold":
            return _held(edit, clip, self.span, int(segment.end.n))
        mean = segment.mean
        if isinstance(old, Hold):
            # Nothing but the hold said where its second pin stands in the take: real time does now.
            mean = 1.0
            old = Steady(speed=mean, frames=old.frames)
        return shaped(edit, clip, self.span, new_shape(self.shape, mean, old))


class AddKnot(EditCommand):
    """Put a knot on a span, locked to a speed: the one given, or the one that runs there.

    A span of another shape becomes one of knots first.
    """

    do: Literal["add-knot"] = "add-knot"
    said: ClassVar[str] = "Add a knot"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    at: Share
    speed: Annotated[float, Field(ge=-MOST_SPEED, le=MOST_SPEED)] | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        if not isinstance(span_of(clip, self.span), Custom):
            edit = BeginShape(clip=self.clip, span=self.span, shape="custom").on(edit)
        shape = span_of(edit.clip(self.clip), self.span)
        assert isinstance(shape, Custom)
        speed = self._running(solve(edit, clip).segments[self.span]) if self.speed is None else self.speed
        knots = sorted([*shape.knots, Knot(at=self.at, speed=speed, locked=True)], key=lambda knot: knot.at)
        return shaped(edit, edit.clip(self.clip), self.span, with_(shape, knots=knots))

    def _running(self, segment: Segment) -> float:
        _, speeds = segment.at(np.array([segment.start.n + self.at * segment.length]))
        return abs(float(speeds[0]))


class SetValue(EditCommand):
    """Set one value of a span's shape; what the shape leaves open is solved again."""

    do: Literal["set-value"] = "set-value"
    said: ClassVar[str] = "Bend a span"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    name: Annotated[str, Field(max_length=40)]
    value: Annotated[float, Field(allow_inf_nan=False)]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        shape = span_of(clip, self.span)
        mean = solve(edit, clip).segments[self.span].mean
        return shaped(edit, clip, self.span, with_value(shape, mean, self.name, self.value))


class SetSpan(AskingIfCut):
    """Set what a span says of itself while a pin beside it is open: its mean speed, or its length."""

    do: Literal["set-span"] = "set-span"
    said: ClassVar[str] = "Set a span's speed"
    keeps: ClassVar[bool] = True
    span: Annotated[int, Field(ge=0)]
    speed: Speed | None = None
    frames: Annotated[int, Field(ge=1, le=MOST_FRAMES)] | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        said = self.model_dump(include={"speed", "frames"}, exclude_none=True)
        return shaped(edit, clip, self.span, with_(span_of(clip, self.span), **said))


def bent_spans(clip: Clip) -> list[int]:
    """The spans of a clip that bend as strongly as one likes, by their places in it."""
    return [
        index
        for index, shape in enumerate(clip.spans)
        if isinstance(shape, Bent | Turned) and not getattr(shape, "mirror", False)
    ]


class Strengthen(AskingIfCut):
    """Bend a span, or all spans of a clip, as strongly as it stays smooth.

    At most ``repeats`` pictures may repeat in each, and no speed may pass ``top``.
    """

    do: Literal["strengthen"] = "strengthen"
    said: ClassVar[str] = "Bend as far as it stays smooth"
    keeps: ClassVar[bool] = True
    span: Annotated[int, Field(ge=0)] | None = None
    repeats: Annotated[int, Field(ge=0, le=MOST_FRAMES)] = 0
    top: Speed | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        if self.span is not None:
            span_of(clip, self.span)
        bent = [index for index in bent_spans(clip) if self.span in (None, index)]
        if not bent:
            raise Refusal(
                "no-strength",
                "Nothing is bent here.",
                where=Place.of(self.clip),
                remedy="Give a span a shape such as a dip or a build first.",
            )
        for index in bent:
            edit = self._strengthened(edit, index)
        return edit

    def _strengthened(self, edit: Edit, index: int) -> Edit:
        clip = edit.clip(self.clip)
        mean = solve(edit, clip).segments[index].mean
        shape, floor = clip.spans[index], smooth_floor(edit, edit.take(clip.take))
        if self.top is not None and mean > self.top:
            raise Refusal(
                "over-top",
                f"This span runs at {mean:.1%} on average, faster than the limit of {self.top:.1%}.",
                where=Place.of(clip.id, span=index + 1),
                remedy="Lift the limit, or leave frames out.",
                nearest=mean,
            )
        if self.span is not None and self.repeats == 0 and mean <= floor:
            raise Refusal(
                "at-the-floor",
                f"This span runs at {mean:.1%} on average, and pictures repeat below {floor:.1%}: "
                "any bend repeats some.",
                where=Place.of(clip.id, span=index + 1),
                remedy="Allow a few repeats, or give the span more of the take.",
            )

        def at(strength: float) -> Edit:
            return shaped(edit, clip, index, with_strength(shape, mean, strength))

        if self.span is not None and (least := repeats_in(at(0), clip.id, index)) > self.repeats:
            raise Refusal(
                "at-the-floor",
                f"This span runs at {mean:.1%} on average: {least} pictures repeat, bent or not.",
                where=Place.of(clip.id, span=index + 1),
                remedy=f"Allow {counted(least, 'repeat')}, or give the span more of the take.",
                nearest=least,
            )
        most = 1.0 if self.top is None else strength_under(shape, mean, self.top)
        smooth = min(most, strongest_smooth(shape, mean, floor) or 0.0)

        def fits(strength: float) -> bool:
            return repeats_in(at(strength), clip.id, index) <= self.repeats

        # On the floor no picture repeats, unless the take itself stands still there.
        low, high = (smooth, most) if fits(smooth) else (0.0, smooth)
        if low == smooth and (self.repeats == 0 or smooth == most):
            return at(smooth)
        if fits(high):
            return at(high)
        for _ in range(TRIES):
            middle = (low + high) / 2
            low, high = (middle, high) if fits(middle) else (low, middle)
        return at(low)


class Nudge(EditCommand):
    """A little slower or a little faster where it is slow; what lands goes on landing.

    A span with an open end changes its mean speed, others how far they are bent.
    """

    do: Literal["nudge"] = "nudge"
    said: ClassVar[str] = "More or less ramp"
    clip: Id
    span: Annotated[int, Field(ge=0)]
    way: Literal["slower", "faster"]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        shape = span_of(clip, self.span)
        by = -NUDGE if self.way == "slower" else NUDGE
        if shape.speed is not None:
            return shaped(edit, clip, self.span, with_(shape, speed=shape.speed * (1 + by)))
        mean = solve(edit, clip).segments[self.span].mean
        if isinstance(shape, Steady | Hold | Custom):
            if self.way == "faster":
                raise Refusal(
                    "pins-say",
                    "The pins say how fast this span runs, and it is not bent.",
                    where=Place.of(clip.id, span=self.span + 1),
                    remedy="Move a pin, or give the span a shape.",
                )
            shape = Dip(strength=0.0, frames=shape.frames)
        if isinstance(shape, Turned):
            start, end, _ = solve_turned(shape, mean)
            strength = 1 - min(start, end) / mean
        else:
            strength = shape.strength
        bent = with_strength(shape, mean, min(1.0, max(0.0, strength - by)))
        return shaped(edit, clip, self.span, bent)


def span_of(clip: Clip, index: int) -> Shape:
    """The shape of a span. Raises Refusal when there is none."""
    if index >= len(clip.spans):
        raise Refusal(
            "no-such-span",
            f"The clip has {len(clip.spans)} spans; none has the index {index}.",
            where=Place.of(clip.id),
            remedy="Count them from 0.",
        )
    return clip.spans[index]


def saying(shape: Shape, old: Shape) -> Shape:
    """The shape, with the speed and the length that another one said of itself, unless it says its own."""
    itself = shape.speed is not None or shape.frames is not None
    if itself or isinstance(shape, Hold) or (isinstance(shape, Rewind) and shape.mirror):
        return shape
    return with_(shape, speed=old.speed, frames=old.frames)


def shaped(edit: Edit, clip: Clip, index: int, shape: Shape) -> Edit:
    """The edit with another shape for a span, which keeps its motion."""
    old = span_of(clip, index)
    spans = list(clip.spans)
    spans[index] = shape if old.motion is None else with_(shape, motion=old.motion)
    return with_clip(edit, clip, spans=spans)


def _held(edit: Edit, clip: Clip, index: int, n: int) -> Edit:
    pin = clip.pins[index + 1]
    if pin.moment is not None:
        raise Refusal(
            "hold-moves",
            "This span leads to a moment, and a hold leads nowhere.",
            where=Place.of(clip.id, span=index + 1),
            remedy="Hold the picture after a pin instead.",
        )
    place = {"n": n} if pin.open_n else {}
    freed: Pin = with_(pin, p=None, **place)
    pins = [freed if other.id == pin.id else other for other in clip.pins]
    spans = list(clip.spans)
    spans[index] = Hold()
    return with_clip(edit, clip, pins=pins, spans=spans)


def repeats_in(edit: Edit, clip: str, index: int) -> int:
    """How many output frames of a span show the picture of the frame before."""
    found = edit.clip(clip)
    take, curve = edit.take(found.take), solve(edit, found)
    segment = curve.segments[index]
    begin = max(0, math.ceil(segment.start.n) - curve.first)
    end = math.ceil(segment.end.n) - curve.first
    pictures = pictures_of(take).distinct[curve.shown[begin : end + 1]]
    return int(np.count_nonzero(np.diff(pictures) == 0))
