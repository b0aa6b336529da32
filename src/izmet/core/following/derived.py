"""All that follows from an edit: what the screen draws and the exporter reads.

Nothing here is stored. ``following`` works it out; ``changes`` tells what of it is not
the same as before, so that a drag of one tie among hundreds of clips sends the one.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, PlainSerializer, SkipValidation, WithJsonSchema

from izmet.core.document.framing import Keying
from izmet.core.document.overlaps import Corners
from izmet.core.document.values import BlendMode
from izmet.core.retime.handles import SpanValue
from izmet.core.retime.loose import LooseTie
from izmet.core.shown.framemap import LookKind, Mask, Place
from izmet.core.shown.landing import Landing
from izmet.core.shown.smoothness import Smoothness

T = TypeVar("T")
AS_LIST = PlainSerializer(lambda column: column.tolist(), when_used="json")
Numbers = Annotated[
    SkipValidation[NDArray[np.float32]],
    AS_LIST,
    WithJsonSchema({"type": "array", "items": {"type": "number"}}),
]
Counts = Annotated[
    SkipValidation[NDArray[np.integer[Any]]],
    AS_LIST,
    WithJsonSchema({"type": "array", "items": {"type": "integer"}}),
]


class Columns(BaseModel):
    """Base of models that hold long columns of numbers."""

    model_config = ConfigDict(arbitrary_types_allowed=True, frozen=True)


class DerivedPin(BaseModel):
    """A pin with both ends resolved; one that a clip solves for may lie between two output frames."""

    id: str
    n: float
    p: float


class DerivedSpan(BaseModel):
    """What one span came to: speeds relative to real time, and the values that can be set.

    ``way`` is 1 forward, −1 backwards, 0 for a hold. ``smooth_strength`` is the strongest
    that stays smooth, null where nothing is bent.
    """

    mean: float
    lowest: float
    highest: float
    way: int
    repeats: int
    smooth_strength: float | None
    values: list[SpanValue]


class DerivedTooth(BaseModel):
    """What a pulse does at one cue: from output frame ``n`` on, by so many source frames along the clip's
    way; one that is ``silent`` would."""

    cue: str
    n: int
    amount: float
    silent: bool


class DerivedPulse(BaseModel):
    """A pulse that is on: its teeth, how many ``times`` as large its amounts may be, the other pulses as they
    are, and the cue at which the take runs out then; null where it never does."""

    id: str
    teeth: list[DerivedTooth]
    times: float
    runs_out: str | None


class DerivedPulses(BaseModel):
    """All pulses of a clip that are on, and the source frames that they leave ``before`` and ``after``.

    ``runs_back``: somewhere the picture runs against the clip's way.
    """

    before: float
    after: float
    runs_back: bool
    pulses: list[DerivedPulse]


class DerivedMix(Columns):
    """Which pictures of a clip are seen together, for each output frame from ``first``: columns of source
    frames, and as many of their weights, which add up to 1. ``how`` is what each frame is made of: 0 one
    picture as it is, 1 one because nothing of the next may be mixed in, 2 a blend, 3 a blur, 4 a draft of
    optical flow, 5 fine flow."""

    first: int
    sources: list[Counts]
    weights: list[Numbers]
    how: Counts


class DerivedClip(Columns):
    """A clip's curve, sampled at each output frame from ``first`` on, and where its ties landed.

    ``source`` and ``speed`` are rounded, for drawing; the frame map has what is shown.
    ``steps`` are the distinct pictures passed since the frame before: 0 is a repeat, −1 a
    frame on which the clip lies under another one. ``mix`` is null where each frame shows one
    picture, the one of the frame map. ``changed_by_hand``: its recipe made it otherwise.
    """

    id: str
    first: int
    pins: list[DerivedPin]
    spans: list[DerivedSpan]
    floor: float
    source: Numbers
    speed: Numbers
    steps: Counts
    mix: DerivedMix | None
    smoothness: Smoothness
    changed_by_hand: bool
    pulses: DerivedPulses | None
    landings: list[Landing]


class DerivedPlacing(Columns):
    """Where a picture is moved, and what of it is seen, for each output frame from ``first``.

    All are parts of the frame's width or height, but for the turn, in degrees clockwise. Of what
    lies within the sides all is seen, or what is in the ellipse that fills them, or outside of it, or in the
    polygon with these ``corners``, beside the middle in halves of the sides.
    """

    first: int
    mask: Mask
    corners: Corners
    x: Numbers
    y: Numbers
    scale: Numbers
    turn: Numbers
    left: Numbers
    top: Numbers
    right: Numbers
    bottom: Numbers


class DerivedFramed(Columns):
    """How the whole picture of a clip lies in the frame, for each output frame from ``first``: moved by parts
    of the frame, grown about its middle, and turned by degrees clockwise. ``keys`` are the output frames of
    its keys, by their ids."""

    clip: str
    keys: dict[str, int]
    first: int
    x: Numbers
    y: Numbers
    scale: Numbers
    turn: Numbers


class DerivedLayer(Columns):
    """A clip's picture, or a plain colour, over what lies beneath it, for each output frame from ``first``.

    Without a ``placing`` it lies as its clip does. An ``echo`` is what the clip showed before, ``framed`` as
    it was then; an ``accent`` what accents lay over it. The background of a ``keying`` is not seen.
    """

    clip: str | None
    colour: str
    blend: BlendMode
    echo: bool
    accent: bool
    first: int
    source: Counts
    opacity: Numbers
    placing: DerivedPlacing | None
    framed: DerivedFramed | None
    keying: Keying | None


class DerivedLook(Columns):
    """What is done to the whole picture, for each output frame from ``first``: parameters by name."""

    kind: LookKind
    colour: str
    first: int
    values: dict[str, Numbers]


class DerivedTitle(Columns):
    """A title for each output frame from ``first``: how much of it is seen, and how far it is from its place,
    in parts of the frame, grown and turned. Two that are ``drawn`` alike are the same picture."""

    id: str
    drawn: str
    first: int
    opacity: Numbers
    x: Numbers
    y: Numbers
    scale: Numbers
    turn: Numbers


class DerivedMap(Columns):
    """For each output frame from ``first``, which of ``clips`` is seen (−1: black), and its source frame.

    Clips lie in it as their ``framings`` say; what fills it is moved by ``placings``. Over it lie
    ``layers``, then ``looks``, and over all ``titles``, in order.
    """

    first: int
    clips: list[str]
    clip: Counts
    source: Counts
    framings: list[DerivedFramed]
    placings: list[DerivedPlacing]
    layers: list[DerivedLayer]
    looks: list[DerivedLook]
    titles: list[DerivedTitle]


class DerivedAccent(Columns):
    """Where an accent is: for each of its spots the first output frame, how many, the spot's own, and the
    first and the last on which it is fullest."""

    id: str
    first: Counts
    count: Counts
    spot: Counts
    since: Counts
    until: Counts


class HeardAt(BaseModel):
    """When a laid sound is heard at one of its places, in seconds of the edit; what of it lands is at
    ``at``."""

    begin: float
    at: float
    end: float


class DerivedSound(BaseModel):
    """When a laid sound is heard, at all of its places."""

    id: str
    heard: list[HeardAt]


class DerivedEnd(BaseModel):
    """Where the edit ends: dark but for titles from one output frame on, and nothing from another one on."""

    dark: int
    stop: int


class Derived(Columns):
    """Everything that follows from one edit."""

    clips: list[DerivedClip]
    map: DerivedMap
    loose: list[LooseTie]
    accents: list[DerivedAccent]
    sounds: list[DerivedSound]
    end: DerivedEnd | None

    @property
    def landings(self) -> list[Landing]:
        """The landings of all ties, clip by clip."""
        return [landing for clip in self.clips for landing in clip.landings]


class MapChange(Columns):
    """A frame map of ``length`` frames from ``first``, of which those from index ``begin`` on changed.

    Its framings, placings, layers, looks and titles are all there are, null where they did not change.
    """

    first: int
    length: int
    begin: int
    clips: list[str]
    clip: Counts
    source: Counts
    framings: list[DerivedFramed] | None
    placings: list[DerivedPlacing] | None
    layers: list[DerivedLayer] | None
    looks: list[DerivedLook] | None
    titles: list[DerivedTitle] | None


class DerivedChange(Columns):
    """What follows from an edit, as far as it is not what followed from another one.

    ``clips`` are those that are new or came out differently, ``order`` is the ids of
    all, ``end`` is where it ends now. What else did not change is null.
    """

    order: list[str]
    clips: list[DerivedClip]
    map: MapChange | None
    loose: list[LooseTie] | None
    accents: list[DerivedAccent] | None
    sounds: list[DerivedSound] | None
    end: DerivedEnd | None


def changes(before: Derived, after: Derived) -> DerivedChange:
    """What of ``after`` is not the same as in ``before``."""
    known = {id(clip) for clip in before.clips}
    return DerivedChange.model_construct(
        order=[clip.id for clip in after.clips],
        clips=[clip for clip in after.clips if id(clip) not in known],
        map=_map_change(before.map, after.map),
        loose=None if before.loose == after.loose else after.loose,
        accents=_unless_same(before.accents, after.accents, _stand),
        sounds=None if before.sounds == after.sounds else after.sounds,
        end=after.end,
    )


def _map_change(before: DerivedMap, after: DerivedMap) -> MapChange | None:
    framings = _unless_same(before.framings, after.framings, _framed)
    placings = _unless_same(before.placings, after.placings, _placed)
    layers = _unless_same(before.layers, after.layers, _laid)
    looks = _unless_same(before.looks, after.looks, _lit)
    titles = _unless_same(before.titles, after.titles, _lettered)
    begin, end = 0, len(after.clip)
    same = (before.first, before.clips, len(before.clip)) == (after.first, after.clips, len(after.clip))
    if same:
        changed = np.flatnonzero((before.clip != after.clip) | (before.source != after.source))
        if len(changed) == 0 and all(each is None for each in (framings, placings, layers, looks, titles)):
            return None
        begin, end = (int(changed[0]), int(changed[-1]) + 1) if len(changed) else (0, 0)
    return MapChange.model_construct(
        framings=framings,
        placings=placings,
        layers=layers,
        looks=looks,
        titles=titles,
        first=after.first,
        length=len(after.clip),
        begin=begin,
        clips=after.clips,
        clip=after.clip[begin:end],
        source=after.source[begin:end],
    )


def _unless_same(before: list[T], after: list[T], said: Callable[[T], object]) -> list[T] | None:
    """What there is now; None where it is what there was."""
    same = len(before) == len(after) and all(
        new is old or said(new) == said(old) for new, old in zip(after, before, strict=True)
    )
    return None if same else after


def _laid(layer: DerivedLayer) -> object:
    """A layer in a form that can be compared."""
    columns = (layer.source.tobytes(), layer.opacity.tobytes(), _placed(layer.placing), _framed(layer.framed))
    return layer.clip, layer.colour, layer.blend, layer.echo, layer.first, layer.keying, *columns


def _lit(look: DerivedLook) -> object:
    """A look in a form that can be compared."""
    return look.kind, look.colour, look.first, *((name, each.tobytes()) for name, each in look.values.items())


def _lettered(title: DerivedTitle) -> object:
    """How a title lies, in a form that can be compared."""
    columns = (title.opacity, title.x, title.y, title.scale, title.turn)
    return title.id, title.drawn, title.first, *(column.tobytes() for column in columns)


def _stand(accent: DerivedAccent) -> object:
    """Where an accent is, in a form that can be compared."""
    columns = (getattr(accent, name).tobytes() for name in ("first", "count", "spot", "since", "until"))
    return accent.id, *columns


def _placed(placing: DerivedPlacing | None) -> object:
    """Where something lies, in a form that can be compared."""
    if placing is None:
        return None
    columns = (getattr(placing, name).tobytes() for name in Place._fields)
    return placing.first, placing.mask, placing.corners, *columns


def _framed(framed: DerivedFramed | None) -> object:
    """How a clip is framed, in a form that can be compared."""
    if framed is None:
        return None
    columns = (framed.x, framed.y, framed.scale, framed.turn)
    return framed.clip, framed.keys, framed.first, *(column.tobytes() for column in columns)
