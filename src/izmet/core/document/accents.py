"""What makes a hit felt: accents over the picture, what they stand on, and how they come and go."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from izmet.core.document.limits import LONGEST_EFFECT, LONGEST_TURN, MOST_FRAMES, MOST_PINS, WIDEST_SPACING
from izmet.core.document.places import Stretch
from izmet.core.document.values import (
    Amount,
    BlendMode,
    Colour,
    CueIds,
    Easing,
    Frozen,
    Id,
    Seed,
    Share,
)

OnSide = Literal["moment", "into", "out of"]
"""Of a tie: its frame, the span that leads into it, or the one that leads out of it."""
Phase = Literal["before", "on", "after"]
AccentUnit = Literal["frames", "seconds", "beats", "share"]
AccentLength = Annotated[float, Field(ge=0, le=LONGEST_EFFECT)]
Runs = Literal["any", "fast", "slow"]


class OnFrame(Frozen):
    """An output frame."""

    to: Literal["frame"] = "frame"
    n: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]


class OnCues(Frozen):
    """Cues of the song: those named, or all of a kept selection."""

    to: Literal["cues"] = "cues"
    cues: CueIds = ()
    selection: Id | None = None

    @model_validator(mode="after")
    def _one_choice(self) -> Self:
        if bool(self.cues) == (self.selection is not None):
            raise ValueError("an accent takes its cues by name or from a selection")
        return self


class TieOf(Frozen):
    """A pin of a clip."""

    clip: Id
    pin: Id


class OnTies(Frozen):
    """Pins of clips, or the spans beside them."""

    to: Literal["ties"] = "ties"
    ties: Annotated[tuple[TieOf, ...], Field(min_length=1, max_length=MOST_PINS)]
    side: OnSide = "moment"


class OnCuts(Frozen):
    """The first frames of clips."""

    to: Literal["cuts"] = "cuts"
    clips: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_PINS)]


class OnRange(Frozen):
    """A stretch of the edit."""

    to: Literal["range"] = "range"
    stretch: Stretch


Anchor = Annotated[OnFrame | OnCues | OnTies | OnCuts | OnRange, Field(discriminator="to")]


class Flash(Frozen):
    """Light of a colour over all that is seen, so that no spot has less ``light`` than this: CIE L*."""

    kind: Literal["flash"] = "flash"
    colour: Colour = "#ffffff"
    light: Annotated[float, Field(gt=0, le=100)] = 80.0


class Fade(Frozen):
    """All goes into a colour, ``amount`` of it."""

    kind: Literal["fade"] = "fade"
    colour: Colour = "#000000"
    amount: Amount = 1.0


class Tint(Frozen):
    """A colour over the picture, blended with it; ``amount`` is its part of what is seen."""

    kind: Literal["tint"] = "tint"
    colour: Colour = "#e07a2f"
    blend: BlendMode = "soft-light"
    amount: Amount = 0.6


class Dim(Frozen):
    """Light is taken away, ``amount`` of it: brightness(1 − amount) of CSS Filter Effects."""

    kind: Literal["dim"] = "dim"
    amount: Amount = 0.4


class Drain(Frozen):
    """Colour is taken away, ``amount`` of it: saturate(1 − amount) of CSS Filter Effects."""

    kind: Literal["drain"] = "drain"
    amount: Amount = 0.67


class Shake(Frozen):
    """The frame shakes: by up to ``amount`` of its width and ``turn`` degrees, back and forth ``rate`` times
    a second, each time otherwise, the same for one ``seed``. It grows just so far that no edge is seen."""

    kind: Literal["shake"] = "shake"
    amount: Annotated[float, Field(ge=0, le=0.25)] = 0.02
    turn: Annotated[float, Field(ge=0, le=30, description="degrees")] = 1.0
    rate: Annotated[float, Field(gt=0, le=30, description="a second")] = 9.0
    seed: Seed = 0


class Punch(Frozen):
    """The frame grows by ``amount``, below 0 it shrinks, its edges mirrored. In ``steps`` it grows on at each
    place, and comes back after the last."""

    kind: Literal["punch"] = "punch"
    amount: Annotated[float, Field(ge=-0.5, le=1)] = 0.12
    steps: bool = False


class Trail(Frozen):
    """Earlier pictures of the clip over it: ``copies`` of them, each ``spacing`` output frames before the
    last, with ``decay`` of its part."""

    kind: Literal["trail"] = "trail"
    copies: Annotated[int, Field(ge=1, le=7)] = 5
    decay: Annotated[float, Field(ge=0.1, le=1)] = 0.6
    spacing: Annotated[int, Field(ge=1, le=WIDEST_SPACING)] = 2
    blend: Literal["normal", "lighten", "screen", "darken"] = "normal"


class ZoomBlur(Frozen):
    """Blurred towards a point, by up to ``amount`` of the way there; ``x``, ``y`` are parts of the frame."""

    kind: Literal["zoom-blur"] = "zoom-blur"
    amount: Annotated[float, Field(gt=0, le=0.5)] = 0.12
    x: Share = 0.5
    y: Share = 0.5


class Letterbox(Frozen):
    """Black above and below, ``amount`` of the frame in all."""

    kind: Literal["letterbox"] = "letterbox"
    amount: Annotated[float, Field(gt=0, le=0.9)] = 0.24


class Strobe(Frozen):
    """The picture and a colour in turn, for so many ``frames`` each; the picture first."""

    kind: Literal["strobe"] = "strobe"
    frames: Annotated[int, Field(ge=1, le=LONGEST_TURN)] = 2
    colour: Colour = "#000000"
    amount: Amount = 1.0


AnyLook = Annotated[
    Flash | Fade | Tint | Dim | Drain | Shake | Punch | Trail | ZoomBlur | Letterbox | Strobe,
    Field(discriminator="kind"),
]


class AccentValues(Frozen):
    """How an accent comes and goes.

    At a place it rises over ``lead`` along ``rise``, is full there and for ``hold`` more, and falls over
    ``tail`` along ``fall``. By its ``phase`` it is full from the place's frame on, or begins there, or has
    ended before it. In a stretch it rises, is full, and falls within it. Lengths are output frames, seconds,
    beats, or shares of the stretch. It follows the strength of its cue ``by_strength``, and how fast the
    picture runs ``by_speed``; it may be there only while the picture ``runs`` fast, or slow.
    """

    what: AnyLook
    phase: Phase = "on"
    lead: AccentLength = 0.0
    hold: AccentLength = 0.0
    tail: AccentLength = 8.0
    unit: AccentUnit = "frames"
    rise: Easing = "straight"
    fall: Easing = "straight"
    by_strength: Share = 0.0
    by_speed: Share = 0.0
    runs: Runs = "any"


class Accent(AccentValues):
    """Something seen over the picture, at one place or at many."""

    id: Id
    at: Anchor
    on: bool = True

    @model_validator(mode="after")
    def _measured(self) -> Self:
        if self.unit == "share" and not self.is_stretch:
            raise ValueError("a length can be a share only in a span or a range")
        return self

    @property
    def may_hide(self) -> bool:
        """Whether nothing may be seen beneath it, where a clip that runs otherwise may have brought it."""
        covers = isinstance(self.what, Fade | Strobe) or (
            isinstance(self.what, Tint) and self.what.blend == "normal"
        )
        return covers and (isinstance(self.at, OnTies | OnCuts) or self.runs != "any" or self.by_speed > 0)

    @property
    def is_stretch(self) -> bool:
        """Whether it lies in stretches, not at single frames."""
        return isinstance(self.at, OnRange) or (isinstance(self.at, OnTies) and self.at.side != "moment")


def staying(
    at: Anchor, tie_stays: Callable[[TieOf], bool], clip_stays: Callable[[str], bool]
) -> Anchor | None:
    """Where something stands, on those of its ties and cuts that stay; None where none of them does."""
    if isinstance(at, OnTies):
        ties = tuple(filter(tie_stays, at.ties))
        if ties != at.ties:
            return OnTies(ties=ties, side=at.side) if ties else None
    elif isinstance(at, OnCuts):
        clips = tuple(filter(clip_stays, at.clips))
        if clips != at.clips:
            return OnCuts(clips=clips) if clips else None
    return at


class TieAccent(AccentValues):
    """An accent of a recipe or a set: at its moment, or in the span beside it."""

    side: OnSide = "moment"
