"""All that follows from an edit: what the screen draws and the exporter reads.

Nothing here is stored. The same function answers a dry run while a handle is dragged
and the render of the final file. What follows from a clip is kept for as long as
nothing that it depends on changes: a drag of one tie among hundreds of clips looks at
the one clip, and ``changes`` tells which those are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, PlainSerializer, SkipValidation, WithJsonSchema

from izmet.core.edit import Clip, Edit, Hold
from izmet.core.framemap import FrameMap, frame_map
from izmet.core.landing import Landing, landings
from izmet.core.loose import LooseTie, loose_ties
from izmet.core.memo import Memo
from izmet.core.retime.handles import SpanValue, span_values
from izmet.core.retime.pins import way_of
from izmet.core.retime.sampling import Frames
from izmet.core.retime.shapes import strongest_smooth
from izmet.core.retime.solve import REMEMBERED, Curve, solve
from izmet.core.smooth.cadence import Smoothness, smoothness
from izmet.core.smooth.repeats import HIDDEN, smooth_floor, steps

DRAWN_DECIMALS = 4


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


class DerivedClip(Columns):
    """A clip's curve, sampled at each output frame from ``first`` on, and where its ties landed.

    ``source`` and ``speed`` are rounded, for drawing; the frame map has what is shown.
    ``steps`` are the distinct pictures passed since the frame before: 0 is a repeat, −1 a
    frame on which the clip lies under another one.
    """

    id: str
    first: int
    pins: list[DerivedPin]
    spans: list[DerivedSpan]
    floor: float
    source: Numbers
    speed: Numbers
    steps: Counts
    smoothness: Smoothness
    landings: list[Landing]


class DerivedMap(Columns):
    """For each output frame from ``first``, which of ``clips`` is seen (−1: black), and its source frame."""

    first: int
    clips: list[str]
    clip: Counts
    source: Counts


class Derived(Columns):
    """Everything that follows from one edit."""

    clips: list[DerivedClip]
    map: DerivedMap
    loose: list[LooseTie]

    @property
    def landings(self) -> list[Landing]:
        """The landings of all ties, clip by clip."""
        return [landing for clip in self.clips for landing in clip.landings]


class MapChange(Columns):
    """A frame map of ``length`` frames from ``first``, of which those from index ``begin`` on changed."""

    first: int
    length: int
    begin: int
    clips: list[str]
    clip: Counts
    source: Counts


class DerivedChange(Columns):
    """What follows from an edit, as far as it is not what followed from another one.

    ``clips`` are those that are new or came out differently, ``order`` is the ids of
    all. What did not change is null.
    """

    order: list[str]
    clips: list[DerivedClip]
    map: MapChange | None
    loose: list[LooseTie] | None


Pictures = Mapping[str, Frames]


def derive(edit: Edit, pictures: Pictures | None = None) -> Derived:
    """What follows from an edit.

    Args:
        pictures: per take id, the distinct picture that each source frame holds.

    Raises:
        Refusal: a clip that cannot be solved.
    """
    curves = [solve(edit, clip) for clip in edit.clips]
    shown = _mapped(edit, curves)
    passed = _unheld(edit, curves, shown, steps(edit, shown, pictures))
    return Derived.model_construct(
        clips=[
            _clip(edit, clip, curve, shown, passed) for clip, curve in zip(edit.clips, curves, strict=True)
        ],
        map=DerivedMap.model_construct(
            first=shown.first,
            clips=list(shown.clips),
            clip=shown.clip.astype(np.int16),
            source=shown.picture.astype(np.int32),
        ),
        loose=loose_ties(edit),
    )


def _unheld(edit: Edit, curves: list[Curve], shown: FrameMap, passed: Frames) -> Frames:
    """The steps without the repeats that a hold means: they are no stutter."""
    for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        for shape, segment in zip(clip.spans, curve.segments, strict=True):
            if isinstance(shape, Hold):
                begin, end = (
                    max(0, math.ceil(pin.n) - shown.first + 1) for pin in (segment.start, segment.end)
                )
                held = slice(begin, end)
                meant = (shown.clip[held] == place) & (passed[held] == 0)
                passed[held] = np.where(meant, 1, passed[held])
    return passed


def frames_shown(edit: Edit) -> FrameMap:
    """What each output frame of an edit asks for. Raises Refusal when a clip cannot be solved."""
    return _mapped(edit, [solve(edit, clip) for clip in edit.clips])


def frames_exported(edit: Edit) -> FrameMap:
    """What the frames of an edit ask for that are exported: those of its range, if it has one."""
    shown = frames_shown(edit)
    return shown if edit.range is None else shown.between(edit.frames_in(edit.range))


def _mapped(edit: Edit, curves: list[Curve]) -> FrameMap:
    return frame_map([clip.id for clip in edit.clips], curves, [edit.frames_in(each) for each in edit.blacks])


def cue_frames(edit: Edit) -> list[int]:
    """The output frame on which each cue lands, in the order of the cues."""
    return [edit.frame_of(cue.id) for cue in (edit.song.cues if edit.song else ())]


def changes(before: Derived, after: Derived) -> DerivedChange:
    """What of ``after`` is not the same as in ``before``."""
    known = {id(clip) for clip in before.clips}
    return DerivedChange.model_construct(
        order=[clip.id for clip in after.clips],
        clips=[clip for clip in after.clips if id(clip) not in known],
        map=_map_change(before.map, after.map),
        loose=None if before.loose == after.loose else after.loose,
    )


def _map_change(before: DerivedMap, after: DerivedMap) -> MapChange | None:
    begin, end = 0, len(after.clip)
    same = (before.first, before.clips, len(before.clip)) == (after.first, after.clips, len(after.clip))
    if same:
        changed = np.flatnonzero((before.clip != after.clip) | (before.source != after.source))
        if len(changed) == 0:
            return None
        begin, end = int(changed[0]), int(changed[-1]) + 1
    return MapChange.model_construct(
        first=after.first,
        length=len(after.clip),
        begin=begin,
        clips=after.clips,
        clip=after.clip[begin:end],
        source=after.source[begin:end],
    )


def _clip(edit: Edit, clip: Clip, curve: Curve, shown: FrameMap, passed: Frames) -> DerivedClip:
    """What follows from a clip, kept by all that it depends on."""
    begin = curve.first - shown.first
    covered = slice(begin, begin + len(curve.source))
    seen, above = passed[covered], None
    index = shown.index_of[clip.id]
    if shown.seen[index] < len(seen):
        over = shown.clip[covered]
        seen, above = np.where(over == index, seen, HIDDEN), (shown.clips, over.tobytes())
    # The curve is another one whenever anything is that it was made from.
    return _KEPT.recall(
        (curve,),
        (above, seen.tobytes()),
        lambda: DerivedClip.model_construct(
            id=clip.id,
            first=curve.first,
            pins=[DerivedPin(id=pin.id, n=n, p=p) for pin, (n, p) in zip(clip.pins, curve.pins, strict=True)],
            spans=[_span(edit, clip, curve, index, seen) for index in range(len(clip.spans))],
            floor=smooth_floor(edit, edit.take(clip.take)),
            source=np.round(curve.source, DRAWN_DECIMALS).astype(np.float32),
            speed=np.round(curve.speed, DRAWN_DECIMALS).astype(np.float32),
            steps=seen.astype(np.int16),
            smoothness=smoothness(seen, curve.first),
            landings=landings(edit, clip, curve, shown, passed),
        ),
    )


_KEPT: Memo[DerivedClip] = Memo(REMEMBERED)


def _span(edit: Edit, clip: Clip, curve: Curve, index: int, seen: Frames) -> DerivedSpan:
    segment, shape = curve.segments[index], clip.spans[index]
    speeds = segment.profile.v
    left, right = (max(0, math.ceil(pin.n) - curve.first) for pin in (segment.start, segment.end))
    return DerivedSpan(
        mean=segment.mean,
        lowest=float(speeds.min()),
        highest=float(speeds.max()),
        way=way_of(clip, index),
        repeats=int(np.count_nonzero(seen[left + 1 : right + 1] == 0)),
        smooth_strength=strongest_smooth(shape, segment.mean, smooth_floor(edit, edit.take(clip.take))),
        values=span_values(shape, segment.mean),
    )
