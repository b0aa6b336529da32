"""The edit: one immutable document that holds all that a person decided.

What can be computed (curves, frame maps, landings) is not in it. Ids are short
words, unique in the edit and never reused for a second meaning while something
refers to them. docs/edit-format.md describes the document for people, and
docs/edit.schema.json, generated from these models, for programs.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from hashlib import sha256
from typing import Annotated, Literal, Self, TypeVar

from pydantic import (
    Field,
    ValidationError,
    field_validator,
    model_validator,
)

from izmet.core.document.accents import Accent, TieAccent
from izmet.core.document.cuekinds import CueKind
from izmet.core.document.framing import Framing, Inset, Track, Tracks
from izmet.core.document.limits import (
    MOST_CLIPS,
    MOST_CUES,
    MOST_FRAMES,
    MOST_KNOTS,
    MOST_MOMENTS,
    MOST_NOTES,
    MOST_PASSES,
    MOST_PINS,
    MOST_SAMPLE_RATE,
    MOST_SECONDS,
    MOST_SELECTS,
    MOST_SIDE,
    MOST_SPEED,
    MOST_TAGS,
    MOST_TAKES,
)
from izmet.core.document.notes import Note
from izmet.core.document.overlaps import Overlap
from izmet.core.document.places import Pin, Stretch
from izmet.core.document.rates import LandingRule, Rate, frame_at
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import LevelKey, Recorded, Seconds, Sound
from izmet.core.document.titles import Ending, Lettering
from izmet.core.document.upgrade import upgraded
from izmet.core.document.values import (
    CueIds,
    Easing,
    EffectFrames,
    Frozen,
    Id,
    Identity,
    Label,
    Level,
    Media,
    Name,
    Pace,
    Reach,
    Seed,
    Share,
    Side,
    Speed,
    Title,
)

CHANGE_LIMITS = (0.02, 0.98)
"""How early and how late in its span a build may change speed."""

range_ = range
"""The built-in one: an edit has a range of its own."""

T = TypeVar("T", "Take", "Clip", "Moment", Track)

SectionKind = Literal["build", "break", "roll"]
MomentKind = Literal["impact", "start", "end", "action", "hand"]


class Cue(Frozen):
    """An instant in the song, in seconds, where something may land."""

    id: Id
    time: Annotated[float, Field(ge=0)]
    kind: CueKind = "hand"
    strength: Share = 1.0
    made: Literal["auto", "hand"] = "hand"


class Section(Frozen):
    """A stretch of the song, in seconds: what builds up to a drop, a break, or a roll."""

    kind: SectionKind
    start: Annotated[float, Field(ge=0)]
    end: Annotated[float, Field(ge=0)]


class CueSelection(Frozen):
    """Which cues something works on: a rule, and cues picked or left out by hand.

    The rule takes cues of ``kinds`` from ``least`` strength on, between ``begin`` and
    ``end`` (seconds of the song), and of those every ``every``-th from the
    ``phase``-th on. ``extra`` cues are in whatever the rule says, ``without`` are not.
    """

    id: Id
    name: Name
    kinds: tuple[CueKind, ...] = ()
    least: Share = 0.0
    every: Annotated[int, Field(ge=1, le=64)] = 1
    phase: Annotated[int, Field(ge=0, le=63)] = 0
    begin: Annotated[float, Field(ge=0)] | None = None
    end: Annotated[float, Field(ge=0)] | None = None
    extra: tuple[Id, ...] = ()
    without: tuple[Id, ...] = ()


class Song(Frozen):
    """The music and its cues, in order of time.

    Times of cues, of sections and of the part that is heard are seconds of the song
    itself; ``start`` is the second of the edit at which the song's 0 lies. Over ``level`` its ``levels`` and
    fades are laid, which lie at the ends of the part that is heard; after it the song dies away like in a
    room for ``ring_out`` seconds. ``struck`` are automatic cues that a person took away: a new analysis does
    not bring them back.
    """

    media: Media
    duration: Annotated[float, Field(gt=0, le=MOST_SECONDS, description="seconds")]
    sample_rate: Annotated[int, Field(gt=0, le=MOST_SAMPLE_RATE)]
    start: Annotated[float, Field(ge=-MOST_SECONDS, le=MOST_SECONDS, description="seconds")] = 0.0
    level: Level = 1.0
    levels: Annotated[tuple[LevelKey, ...], Field(max_length=MOST_PINS)] = ()
    fade_in: Seconds = 0.0
    fade_out: Seconds = 0.0
    ring_out: Seconds = 0.0
    heard_from: Annotated[float, Field(ge=0)] = 0.0
    heard_to: Annotated[float, Field(gt=0)] | None = None
    meter: Annotated[int, Field(ge=1, le=16, description="beats a bar")] = 4
    cues: Annotated[tuple[Cue, ...], Field(max_length=MOST_CUES)] = ()
    sections: Annotated[tuple[Section, ...], Field(max_length=MOST_CUES)] = ()
    selections: Annotated[tuple[CueSelection, ...], Field(max_length=1000)] = ()
    struck: Annotated[tuple[Cue, ...], Field(max_length=MOST_CUES)] = ()

    @field_validator("cues", mode="after")
    @classmethod
    def _in_order(cls, cues: tuple[Cue, ...]) -> tuple[Cue, ...]:
        times = [cue.time for cue in cues]
        return cues if times == sorted(times) else tuple(sorted(cues, key=lambda cue: cue.time))

    @model_validator(mode="after")
    def _something_heard(self) -> Song:
        if self.cues and self.cues[-1].time > self.duration:
            last = self.cues[-1]
            raise ValueError(
                f"cue {last.id} at {last.time:.3f} s lies after the song's end at {self.duration:.3f} s"
            )
        if self.heard_from >= min(self.heard_to or self.duration, self.duration):
            raise ValueError("the part of the song that is heard must have a length")
        return self

    @cached_property
    def by_id(self) -> dict[str, Cue]:
        """The cues by their ids: a song has thousands, and a drag looks up a few at every step."""
        return {cue.id: cue for cue in self.cues}


class Moment(Frozen):
    """One source frame that matters. An impact is the first frame of the hit."""

    id: Id
    frame: Annotated[int, Field(ge=0, lt=MOST_FRAMES)]
    kind: MomentKind = "impact"
    label: Label = ""
    weight: Share = 1.0


def moment_name(moment: Moment) -> str:
    """What to call a moment when speaking to a person: its label, or what it is and where."""
    return moment.label or f"{moment.kind} at frame {moment.frame}"


class Select(Frozen):
    """A stretch of a take that is worth using: source frames ``begin`` to ``end``, both included."""

    id: Id
    begin: Annotated[int, Field(ge=0, lt=MOST_FRAMES)]
    end: Annotated[int, Field(ge=0, lt=MOST_FRAMES)]
    name: Label = ""
    tags: Annotated[tuple[Label, ...], Field(max_length=MOST_TAGS)] = ()

    @model_validator(mode="after")
    def _in_order(self) -> Select:
        if self.end < self.begin:
            raise ValueError(f"a select ends at frame {self.end}, before it begins at frame {self.begin}")
        return self


class Bundle(Frozen):
    """The edit whose picture a take is. ``shows`` tells one state of its picture from another.

    ``landings`` are the take's moments that are landings of that edit; the others are a person's.
    """

    edit: Identity
    shows: Annotated[str, Field(max_length=64)] = ""
    landings: Annotated[tuple[Id, ...], Field(max_length=MOST_MOMENTS)] = ()


class Take(Frozen):
    """A source clip: its native rate, its count of frames, its moments and selects.

    ``distinct`` is the rate of pictures that differ from the one before, ``held`` the source
    frames for which one picture is usually shown at the most; None where it was not counted. ``dismissed``
    are frames at which a person wants nothing proposed, ``breaks`` those over which nothing is to be mixed
    from the frame before. ``tracks`` are points followed through its pictures. ``tags`` and ``notes`` are a
    person's.
    A ``bundle`` is the picture of another edit.
    """

    id: Id
    media: Media
    rate: Rate
    frames: Annotated[int, Field(gt=0, le=MOST_FRAMES)]
    distinct: Rate
    held: Annotated[int, Field(gt=0, le=MOST_FRAMES)] | None = None
    width: Annotated[int, Field(gt=0, le=MOST_SIDE)]
    height: Annotated[int, Field(gt=0, le=MOST_SIDE)]
    moments: Annotated[tuple[Moment, ...], Field(max_length=MOST_MOMENTS)] = ()
    selects: Annotated[tuple[Select, ...], Field(max_length=MOST_SELECTS)] = ()
    dismissed: Annotated[tuple[int, ...], Field(max_length=MOST_MOMENTS)] = ()
    breaks: Annotated[tuple[int, ...], Field(max_length=MOST_MOMENTS)] = ()
    tracks: Tracks = ()
    tags: Annotated[tuple[Label, ...], Field(max_length=MOST_TAGS)] = ()
    notes: Annotated[str, Field(max_length=2000)] = ""
    bundle: Bundle | None = None

    @cached_property
    def by_id(self) -> dict[str, Moment]:
        """The moments by their ids."""
        return {moment.id: moment for moment in self.moments}


Flowing = Literal["draft", "fine"]
Between = Literal["held", "blended", "draft", "fine", "automatic"]
Degrees = Annotated[float, Field(ge=0, le=360)]


class Motion(Frozen):
    """What is seen where a clip's pictures are too few, or too many.

    Where fewer pictures pass than output frames, ``between`` two of them the first is held, or
    one is blended into the next, or each is moved along its way to the other (optical flow), as a
    ``draft`` or as ``fine`` as can be. The ``shutter`` is open for so many degrees of an output frame,
    360 for all of it, and all that passes by then is seen at once; 0 is no motion blur. ``automatic`` is
    a draft of flow where pictures are too few, and opens the shutter by itself where they are too many.
    """

    between: Between = "held"
    shutter: Degrees = 0.0

    @property
    def as_it_is(self) -> bool:
        """Whether each output frame shows one picture as it is in the take."""
        return self.between == "held" and self.shutter == 0


class Span(Frozen):
    """Base of all shapes. What a span says of itself settles what the pins beside it leave open.

    ``speed`` is its mean speed, ``frames`` its length in output frames; both are left out
    where the pins tell them. ``motion`` None is the clip's.
    """

    speed: Speed | None = None
    frames: Annotated[int, Field(ge=1, le=MOST_FRAMES)] | None = None
    motion: Motion | None = None


class Steady(Span):
    """One speed all through."""

    shape: Literal["steady"] = "steady"


class Bent(Span):
    """Base of shapes with two like ends around a middle.

    ``reach`` is the part of the span that the two ends fill together. What is slow runs at
    ``1 − strength`` of the mean.
    """

    strength: Share = 0.5
    reach: Reach = 0.5
    softness: Share = 1.0


class Dip(Bent):
    """Fast ends around a slow middle."""

    shape: Literal["dip"] = "dip"


class Swell(Bent):
    """Slow ends around a fast middle."""

    shape: Literal["swell"] = "swell"


class Rewind(Bent):
    """Back to an earlier picture, slow where it turns; a ``mirror`` of the span before it runs that back."""

    shape: Literal["rewind"] = "rewind"
    strength: Share = 0.0
    mirror: bool = False

    @model_validator(mode="after")
    def _one_way(self) -> Rewind:
        if self.mirror and (self.speed is not None or self.frames is not None):
            raise ValueError("a mirrored rewind takes its speed and its length from the span before it")
        return self


class Turned(Span):
    """Base of shapes with two plateaus. One of ``start``, ``end`` and ``change`` is left to be solved."""

    start: Pace | None = None
    end: Pace | None = None
    change: (
        Annotated[
            float,
            Field(ge=CHANGE_LIMITS[0], le=CHANGE_LIMITS[1], description="part of the span before the change"),
        ]
        | None
    ) = None
    softness: Share = 0.5

    @model_validator(mode="after")
    def _one_open(self) -> Self:
        if [self.start, self.end, self.change].count(None) != 1:
            raise ValueError("give exactly two of start, end and change; the third is solved")
        return self


class Build(Turned):
    """A slow plateau, then a fast one."""

    shape: Literal["build"] = "build"


class Brake(Turned):
    """A fast plateau, then a slow one; with an end speed of 0 it settles to a still picture."""

    shape: Literal["brake"] = "brake"


class Hold(Span):
    """The picture stands still."""

    shape: Literal["hold"] = "hold"

    @model_validator(mode="after")
    def _still(self) -> Hold:
        if self.speed is not None:
            raise ValueError("a hold has no speed")
        return self


class Knot(Frozen):
    """A speed at a part ``at`` of a span, and how it is joined to the knot after it.

    A locked knot keeps its speed; the others are scaled together until the span fits.
    """

    at: Share
    speed: Annotated[float, Field(ge=-MOST_SPEED, le=MOST_SPEED, description="below 0 backwards")]
    locked: bool = False
    join: Literal["hard", "straight", "soft"] = "soft"


class Custom(Span):
    """Speeds set knot by knot. Knots below 0 are refused unless it ``turns``."""

    shape: Literal["custom"] = "custom"
    knots: Annotated[tuple[Knot, ...], Field(min_length=1, max_length=MOST_KNOTS)]
    turns: bool = False

    @model_validator(mode="after")
    def _in_order(self) -> Custom:
        places = [knot.at for knot in self.knots]
        if places != sorted(places):
            raise ValueError("knots come in the order of their places")
        if not self.turns and any(knot.speed < 0 for knot in self.knots):
            raise ValueError("a knot runs backwards: allow it with turns, or set it to 0 or more")
        return self


Shape = Annotated[Steady | Dip | Swell | Build | Brake | Hold | Rewind | Custom, Field(discriminator="shape")]
ShapeName = Literal["steady", "dip", "swell", "build", "brake", "hold", "rewind", "custom"]


class Pass(Frozen):
    """Base of what is repeated at each of some cues along a clip: those named, or all of a kept selection.

    A pass works on what the spans and the passes before it lay out, and moves no pin.
    """

    id: Id
    on: bool = True
    cues: Annotated[tuple[Id, ...], Field(max_length=MOST_PINS)] = ()
    selection: Id | None = None

    @model_validator(mode="after")
    def _one_choice(self) -> Self:
        if self.cues and self.selection is not None:
            raise ValueError("a pass takes its cues by name or from a selection, not both")
        return self


class Jumps(Pass):
    """Source frames left out at each cue: ``leave`` at the first, ``more`` more at each one after it.

    Below 0 the picture goes back by so many. What shrinks ends at none. All the rest of each
    span runs quicker or slower, so that its ends stay.
    """

    kind: Literal["jumps"] = "jumps"
    leave: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] = 6
    more: Annotated[int, Field(ge=-1000, le=1000)] = 0


class Alternation(Pass):
    """Slow, fast, slow, fast from cue to cue, ``ratio`` times as fast; each span's ends stay.

    The change comes ``early`` output frames before each cue.
    """

    kind: Literal["alternation"] = "alternation"
    ratio: Annotated[float, Field(gt=0, le=100)] = 4.0
    early: Annotated[int, Field(ge=0, le=1000)] = 0
    first: Literal["slow", "fast"] = "slow"


class Bends(Pass):
    """A bend of its own from each cue to the next, and beside the first and the last one.

    A ``dip`` is slow in its middle, a ``swell`` is quick there; their values are those of the
    shapes. What is seen on each cue stays.
    """

    kind: Literal["bends"] = "bends"
    shape: Literal["dip", "swell"] = "dip"
    strength: Share = 0.4
    reach: Reach = 0.5
    softness: Share = 1.0


PulsePattern = Literal["step", "push", "to-and-fro", "wander", "again", "dash"]
PulseUnit = Literal["frames", "seconds", "share"]
PulseAmount = Annotated[float, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]
Amounts = Annotated[tuple[PulseAmount, ...], Field(min_length=1, max_length=16)]


class ToothAmount(Frozen):
    """What one tooth of a pulse moves by, in place of what the pulse says of it; in the pulse's unit."""

    cue: Id
    amount: PulseAmount


Growth = Annotated[float, Field(ge=0.1, le=10)]
Shift = Annotated[int, Field(ge=-1000, le=1000)]
Every = Annotated[int, Field(ge=1, le=1000)]
NthCue = Annotated[int, Field(ge=1, le=MOST_PINS)]
AtEnd = Literal["stop", "turn"]
OwnAmounts = Annotated[tuple[ToothAmount, ...], Field(max_length=MOST_PINS)]


class PulseValues(Frozen):
    """What a pulse does at each of its cues.

    A ``step`` moves on and stays, a ``push`` comes back, ``to-and-fro`` steps by each of its ``amounts`` in
    turn, ``wander`` steps to a place by chance, up to its amount from the run on either side, the same
    for one ``seed``; with ``again`` each cue starts anew what was seen from the first one on; a ``dash`` runs
    ahead and waits for the run until the next cue. Amounts are source frames, seconds of the take, or
    shares of what the take has left; below 0 they go against the clip's way. They are ``growth`` times as
    large from tooth to tooth, and follow the strength of their cues ``by_strength``.

    A move begins ``early`` output frames before its cue, takes ``attack`` frames along ``rise``, and
    a push comes back over ``release`` along ``fall``. Of the cues those of ``least`` strength count, and of
    those every ``every``-th from the ``first`` to the ``last``, counted from 1; ``silent`` ones rest.
    """

    pattern: PulsePattern = "step"
    amounts: Amounts = (6.0,)
    unit: PulseUnit = "frames"
    attack: EffectFrames = 5
    release: EffectFrames = 10
    rise: Easing = "soft"
    fall: Easing = "soft"
    by_strength: Share = 0.0
    growth: Growth = 1.0
    early: Shift = 0
    least: Share = 0.0
    every: Every = 1
    first: NthCue = 1
    last: NthCue = MOST_PINS
    seed: Seed = 0
    at_end: AtEnd = "stop"
    silent: CueIds = ()
    own: OwnAmounts = ()


class Pulse(Pass, PulseValues):
    """A move of the picture at each cue, on top of the run: ``p(n) = base(n) + Σ pulses``."""

    kind: Literal["pulse"] = "pulse"


AnyPass = Annotated[Jumps | Alternation | Bends | Pulse, Field(discriminator="kind")]


class Clip(Frozen):
    """A stretch of a take in the edit: pins in order, and a shape for each span between two.

    ``level`` is that of the take's own sound, heard where the clip is seen, or also ``under`` others, at the
    pitch of its speed, or with its own ``pitch_kept`` as far as that goes. A
    ``reversed`` clip runs from later pictures to earlier ones,
    and its rewinds forward again. ``recipe`` is the one that it was made by,
    ``made`` tells how it ran then, so that what was changed by hand since is known.
    Of all that the pins lay out, only what lies from ``since`` on and before ``until`` is in
    the edit: where a clip was cut, its curve stays. Where the take's picture has other
    proportions than the edit's it is cut to ``fill``, or fitted into black; ``across`` and
    ``down`` say which part stays, 0 the left or the top. From there ``framing`` moves it; as an ``inset``
    all that is seen in a part of the frame. ``overlap`` is with the clip that
    is seen before it; without one it waits. ``motion`` None is the edit's. ``passes`` repeat
    something at cues, one on top of the other.
    """

    id: Id
    take: Id
    level: Level = 0.0
    heard_before: Seconds = 0.0
    heard_after: Seconds = 0.0
    pitch_kept: bool = False
    under: bool = False
    reversed: bool = False
    recipe: Id | None = None
    made: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")] | None = None
    since: Pin | None = None
    until: Pin | None = None
    fit: Literal["fill", "fit"] = "fill"
    across: Share = 0.5
    down: Share = 0.5
    framing: Framing | None = None
    inset: Inset | None = None
    overlap: Overlap | None = None
    motion: Motion | None = None
    pins: Annotated[tuple[Pin, ...], Field(min_length=2, max_length=MOST_PINS)]
    spans: tuple[Shape, ...]
    passes: Annotated[tuple[AnyPass, ...], Field(max_length=MOST_PASSES)] = ()

    @cached_property
    def places(self) -> tuple[Pin, ...]:
        """Its pins, where it is cut, and where the keys of its framing stand."""
        edges = (edge for edge in (self.since, self.until) if edge is not None)
        return (*self.pins, *edges, *(key.at for key in (self.framing.keys if self.framing else ())))

    @cached_property
    def run(self) -> str:
        """How it runs, as a short hash. Where its ties land is not part of it: they follow their cues; nor is
        what is seen between its pictures."""
        pins = [(pin.p, pin.through, pin.skip, pin.open_n) for pin in self.pins]
        spans = [span.model_dump_json(exclude={"motion"}) for span in self.spans]
        passes = [each.model_dump_json() for each in self.passes]
        said = f"{self.reversed} {pins} {spans}" + (f" {passes}" if passes else "")
        return sha256(said.encode()).hexdigest()[:16]

    @cached_property
    def ways(self) -> tuple[int, ...]:
        """Which way each span runs through the take: 1 forward, −1 backwards, 0 for a hold."""
        ways: list[int] = []
        for shape in self.spans:
            mirrors_a_hold = isinstance(shape, Rewind) and shape.mirror and ways[-1] == 0
            still = isinstance(shape, Hold) or mirrors_a_hold
            ways.append(0 if still else -1 if isinstance(shape, Rewind) != self.reversed else 1)
        return tuple(ways)

    @cached_property
    def spans_move(self) -> bool:
        """Whether any of its spans has a motion of its own. A drag asks it of every clip."""
        return any(span.motion is not None for span in self.spans)

    @property
    def changed_by_hand(self) -> bool:
        """Whether it runs otherwise than its recipe made it."""
        return self.recipe is not None and self.made is not None and self.made != self.run

    @cached_property
    def cue_ids(self) -> tuple[str, ...]:
        """The cues that these follow, in order."""
        return tuple(pin.cue for pin in self.places if pin.cue is not None)

    @model_validator(mode="after")
    def _fits(self) -> Clip:
        if len(self.spans) != len(self.pins) - 1:
            raise ValueError(f"{len(self.pins)} pins need {len(self.pins) - 1} spans, not {len(self.spans)}")
        if not any(pin.is_fixed for pin in self.pins):
            raise ValueError("at least one pin must be fixed at both ends")
        for edge in (self.since, self.until):
            if edge is not None and (edge.open_n or not edge.open_p):
                raise ValueError("where a clip is cut is an output frame or a cue")
        if self.spans[0].shape == "rewind" and self.spans[0].mirror:
            raise ValueError("a clip's first span has none before it that it could mirror")
        return self


class Black(Stretch):
    """A stretch in which nothing is seen, whatever is laid there."""

    id: Id


class Leg(Frozen):
    """One stretch of a recipe: its length, or None for as far as the take goes, and its shape.

    Speeds in the shape are relative to real time, or to the smooth floor of the take.
    """

    length: Annotated[float, Field(gt=0, le=MOST_SECONDS)] | None = None
    unit: Literal["frames", "seconds", "beats"] = "seconds"
    of: Literal["real-time", "floor"] = "real-time"
    shape: Shape


class RecipePulse(PulseValues):
    """A pulse of a recipe: on all cues of some kinds that lie on the clip."""

    kinds: Annotated[tuple[CueKind, ...], Field(min_length=1, max_length=20)]


class Recipe(Frozen):
    """A retiming measured from the moment outward: what comes before it, and what after.

    With ``through``, speeds are shared at the pins between the stretches. ``pulses`` take the
    place of those that a clip has, ``accents`` of those at the moment or beside it.
    """

    id: Id
    name: Name
    before: Annotated[tuple[Leg, ...], Field(max_length=20)] = ()
    after: Annotated[tuple[Leg, ...], Field(max_length=20)] = ()
    through: bool = False
    pulses: Annotated[tuple[RecipePulse, ...], Field(max_length=20)] = ()
    accents: Annotated[tuple[TieAccent, ...], Field(max_length=20)] = ()

    @model_validator(mode="after")
    def _whole(self) -> Recipe:
        if not self.before and not self.after:
            raise ValueError("a recipe has at least one stretch before or after the moment")
        for legs in (self.before, self.after):
            for leg in legs[:-1]:
                if leg.length is None and not getattr(leg.shape, "mirror", False):
                    raise ValueError("only the outermost stretch of a recipe reaches as far as the take goes")
            for leg in legs:
                if leg.shape.frames is not None:
                    raise ValueError("a stretch says its length in its own unit, its shape does not")
                bare = isinstance(leg.shape, Hold) or getattr(leg.shape, "mirror", False)
                if leg.shape.speed is None and not bare:
                    raise ValueError("each stretch of a recipe says its mean speed")
        if any(isinstance(leg.shape, Rewind) and leg.shape.mirror for leg in self.before):
            raise ValueError("only a stretch after the moment can mirror the one before it")
        return self


class Edit(Frozen):
    """One piece of work. Later clips lie over earlier ones, and ``blacks`` over all.

    ``motion`` is that of all clips that have none of their own.
    ``accents`` are seen over all that, and ``titles`` over these; ``sounds`` are heard with it, and no clip's
    own sound while it is ``muted``; ``own_levels`` say how loud that is in the course of the edit. Without an
    ``ending`` it ends with its last clip or title. ``notes`` are what people say of it. ``range`` is the
    stretch that is worked on: what is played, exported, filled.
    ``identity`` tells it from all other edits, wherever it is opened; bundles name their edit by it.
    """

    version: Literal[18] = 18
    identity: Identity | None = None
    title: Title = "Untitled edit"
    rate: Rate
    width: Side = 1280
    height: Side = 720
    landing: LandingRule = "nearest"
    motion: Motion = Motion()
    song: Song | None = None
    takes: Annotated[tuple[Take, ...], Field(max_length=MOST_TAKES)] = ()
    clips: Annotated[tuple[Clip, ...], Field(max_length=MOST_CLIPS)] = ()
    blacks: Annotated[tuple[Black, ...], Field(max_length=MOST_CLIPS)] = ()
    accents: Annotated[tuple[Accent, ...], Field(max_length=MOST_CLIPS)] = ()
    sounds: Annotated[tuple[Sound, ...], Field(max_length=MOST_CLIPS)] = ()
    muted: bool = False
    own_levels: Annotated[tuple[LevelKey, ...], Field(max_length=MOST_PINS)] = ()
    titles: Annotated[tuple[Lettering, ...], Field(max_length=MOST_CLIPS)] = ()
    ending: Ending | None = None
    notes: Annotated[tuple[Note, ...], Field(max_length=MOST_NOTES)] = ()
    range: Stretch | None = None
    recipes: Annotated[tuple[Recipe, ...], Field(max_length=1000)] = ()

    @property
    def media(self) -> list[Media]:
        """All files that it is made of."""
        files = [sound.what.media for sound in self.sounds if isinstance(sound.what, Recorded)]
        song = [self.song.media] if self.song else []
        return [*song, *(take.media for take in self.takes), *files]

    @property
    def stretches(self) -> list[tuple[Stretch, str]]:
        """All stretches that it names, and what each is."""
        blacks = [(black, "black") for black in self.blacks]
        titles = [(title, "a title") for title in self.titles]
        return [*blacks, *titles, *([(self.range, "the range")] if self.range else [])]

    def motion_of(self, clip: Clip) -> Motion:
        """How a clip's pictures follow one another, on spans that do not say so themselves."""
        return self.motion if clip.motion is None else clip.motion

    def motions_of(self, clip: Clip) -> tuple[Motion, ...]:
        """How a clip's pictures follow one another on each of its spans."""
        whole = self.motion_of(clip)
        return tuple(whole if span.motion is None else span.motion for span in clip.spans)

    def take(self, id: str) -> Take:
        """The take with this id. Raises Refusal when there is none."""
        return self._take_by_id.get(id) or _find(self.takes, id, "take")

    @cached_property
    def _take_by_id(self) -> dict[str, Take]:
        return {take.id: take for take in self.takes}

    def clip(self, id: str) -> Clip:
        """The clip with this id. Raises Refusal when there is none."""
        found = self._clip_by_id.get(id)
        if found is None:
            raise _none(id, "clip")
        return found

    @cached_property
    def _clip_by_id(self) -> dict[str, Clip]:
        return {clip.id: clip for clip in self.clips}

    def cue(self, id: str) -> Cue:
        """The cue with this id. Raises Refusal when there is none."""
        found = self.song.by_id.get(id) if self.song else None
        if found is None:
            raise _none(id, "cue")
        return found

    @property
    def levels(self) -> tuple[LevelKey, ...]:
        """All keys of levels: the song's, and those of the clips' own sound."""
        return (*(self.song.levels if self.song else ()), *self.own_levels)

    def instant(self, cue: str) -> float:
        """When a cue is heard, in seconds of the edit. Raises Refusal when there is none."""
        found = self.cue(cue)
        assert self.song is not None
        return found.time + self.song.start

    def frame_of(self, cue: str) -> int:
        """The output frame on which a cue lands. Raises Refusal when there is none."""
        return frame_at(self.instant(cue), self.rate, self.landing)

    def place_of(self, pin: Pin) -> int:
        """The output frame of a pin that says it. Raises Refusal when its cue is not there."""
        if pin.cue is not None:
            return self.frame_of(pin.cue)
        assert pin.n is not None
        return pin.n

    def frames_in(self, stretch: Stretch) -> range_:
        """The output frames of a stretch; none when its cues have changed places."""
        return range_(self.place_of(stretch.since), self.place_of(stretch.until))

    def track(self, take: str, id: str) -> Track:
        """The track of a take. Raises Refusal when there is none."""
        return _find(self.take(take).tracks, id, "track")

    def moment(self, take: str, id: str) -> Moment:
        """The moment of a take. Raises Refusal when there is none."""
        return _find(self.take(take).moments, id, "moment")


def _find(parts: Iterable[T], id: str, kind: str) -> T:
    for part in parts:
        if part.id == id:
            return part
    raise _none(id, kind)


def _none(id: str, kind: str) -> Refusal:
    return Refusal(f"no-such-{kind}", f"There is no {kind} {id}.", where=id, remedy="Reload the edit.")


def parse_edit(document: object) -> Edit:
    """An edit from a decoded JSON document.

    Raises:
        Refusal: an unknown version, or a field that is missing, unknown or out of
            bounds, named by its path in the document.
    """
    document = upgraded(document)
    try:
        return Edit.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal(
            "bad-document",
            f"{first['msg'].removeprefix('Value error, ')}.",
            where=".".join(str(part) for part in first["loc"]),
            remedy="Correct this field; docs/edit-format.md describes it.",
        ) from None
