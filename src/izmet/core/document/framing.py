"""How a clip's picture lies in the frame: moved along keys, held at a point, inset, cut out by colour."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from izmet.core.document.limits import LONGEST_TRACK, MOST_FRAMES, MOST_PINS, MOST_TRACKS
from izmet.core.document.places import Pin
from izmet.core.document.values import Colour, Easing, EffectFrames, Frozen, Id, Name, Share

Across = Annotated[float, Field(ge=-2, le=2, description="parts of the frame")]
Within = Annotated[float, Field(ge=-1, le=2, description="parts of the picture")]
Scale = Annotated[float, Field(ge=0.05, le=10)]
Turn = Annotated[float, Field(ge=-3600, le=3600, description="degrees clockwise")]
Part = Annotated[float, Field(ge=0.02, le=1, description="part of the frame")]
SourceFrame = Annotated[int, Field(ge=0, lt=MOST_FRAMES)]


class TrackPoint(Frozen):
    """Where a point is in the picture of a source frame: parts of its width from the left, of its height from
    the top."""

    frame: SourceFrame
    x: Within
    y: Within


class Track(Frozen):
    """A point of a take's picture, followed from frame to frame: straight between its points, and where it
    is first and last, before and after them."""

    id: Id
    name: Name
    points: Annotated[tuple[TrackPoint, ...], Field(min_length=1, max_length=LONGEST_TRACK)]

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        frames = [point.frame for point in self.points]
        if frames != sorted(set(frames)):
            raise ValueError("the points of a track come in the order of their frames, one a frame")
        return self


Tracks = Annotated[tuple[Track, ...], Field(max_length=MOST_TRACKS)]


class Bend(Frozen):
    """The course of a span of this shape: what is slow in it is so much slower than its mean."""

    shape: Literal["dip", "swell", "build", "brake"]
    strength: Share = 0.5


class FramingKey(Frozen):
    """How the picture lies at one place of a clip: an output frame, a cue, or what is seen of the take.

    It is moved by parts of the frame, grown and turned about its middle, and comes there from the key
    before along ``ease``: a published easing, or the course of a span.
    """

    id: Id
    at: Pin
    x: Across = 0.0
    y: Across = 0.0
    scale: Scale = 1.0
    turn: Turn = 0.0
    ease: Easing | Bend = "soft"

    @model_validator(mode="after")
    def _placed(self) -> Self:
        if self.at.open_n == self.at.open_p:
            raise ValueError("a key stands on an output frame, on a cue, or on a frame of the take")
        return self


class KeptPoint(Frozen):
    """A tracked point of the take that stays in one place of the frame: all ``through`` the clip, or where
    it is seen on the clip's first frame.

    Without a place it is that at which the point of the clip before it is last seen.
    """

    track: Id
    x: Share | None = None
    y: Share | None = None
    through: bool = True

    @model_validator(mode="after")
    def _both(self) -> Self:
        if (self.x is None) != (self.y is None):
            raise ValueError("a place is given by both of its numbers")
        return self


class Framing(Frozen):
    """How a clip's picture lies in the frame. Of one that fills it no edge is ever seen: it grows as far as
    that takes."""

    keys: Annotated[tuple[FramingKey, ...], Field(max_length=MOST_PINS)] = ()
    kept: KeptPoint | None = None


class Keying(Frozen):
    """The colour of a background that is not seen.

    How much of it is in a spot: its colour along that of the background, less what it has across, 1 for
    the background's own and 0 for grey. What has ``near`` less than 1 is gone, and over ``soft`` less it
    comes back; of what is left ``spill`` of the background's colour is taken off.
    """

    colour: Colour
    near: Annotated[float, Field(ge=0, le=1)] = 0.25
    soft: Annotated[float, Field(ge=0.01, le=1)] = 0.15
    spill: Share = 0.8


class Inset(Frozen):
    """A clip in a part of the frame, over what lies beneath it: so large, its middle there.

    It comes and goes over ``fade`` output frames, or as many as there are beside its ties. A ``border`` is a
    part of the frame's height.
    """

    x: Share = 0.76
    y: Share = 0.26
    width: Part = 0.4
    height: Part = 0.4
    shape: Literal["box", "ellipse"] = "box"
    border: Annotated[float, Field(ge=0, le=0.1)] = 0.0
    border_colour: Colour = "#ffffff"
    fade: EffectFrames = 6
    keying: Keying | None = None
