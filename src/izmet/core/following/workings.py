"""What follows from an edit?

The same function answers a dry run while a handle is dragged and the render of the
final file. What follows from a clip is kept for as long as nothing that it depends on
changes; and an edit that differs from one worked out before in a few clips alone is
looked at only where those lie.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from izmet.core.document.edit import Clip, Edit, Hold
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.following.derived import (
    Derived,
    DerivedAccent,
    DerivedClip,
    DerivedEnd,
    DerivedFramed,
    DerivedLayer,
    DerivedLook,
    DerivedMap,
    DerivedMix,
    DerivedPin,
    DerivedPlacing,
    DerivedPulse,
    DerivedPulses,
    DerivedSound,
    DerivedSpan,
    DerivedTitle,
    DerivedTooth,
    HeardAt,
)
from izmet.core.memo import Memo
from izmet.core.retime.floor import floor_of, smooth_floor
from izmet.core.retime.handles import span_values
from izmet.core.retime.loose import loose_ties
from izmet.core.retime.profile import Floats
from izmet.core.retime.pulses import Pulses
from izmet.core.retime.room import room_of
from izmet.core.retime.sampling import Frames
from izmet.core.retime.shapes import strongest_smooth
from izmet.core.retime.solve import Curve, curves_of, solve
from izmet.core.shown.courses import Course, courses_of
from izmet.core.shown.ending import end_of
from izmet.core.shown.framemap import (
    BLACK,
    RUN_BYTES,
    Framed,
    FrameMap,
    Layer,
    Lettered,
    Look,
    Mix,
    Place,
    Placing,
    frame_map,
)
from izmet.core.shown.landing import landings
from izmet.core.shown.pictures import UNCOUNTED, Counted
from izmet.core.shown.repeats import HIDDEN, steps
from izmet.core.shown.smoothness import smoothness
from izmet.core.shown.sounds import laid_sounds
from izmet.core.shown.stack import frames_along, frames_anew, longest_reach

DRAWN_DECIMALS = 4
TOLD_BYTES = 32 * 2**20


@dataclass(frozen=True, eq=False)
class Workings:
    """How an edit was worked out: what need not be asked again for one that is nearly the same.

    ``passed`` are the distinct pictures passed into each frame of ``shown``, without
    the repeats that a hold means.
    """

    edit: Edit
    counted: Counted
    curves: Sequence[Curve]
    shown: FrameMap
    passed: Frames
    derived: Derived


def derive(edit: Edit, counted: Counted = UNCOUNTED) -> Derived:
    """What follows from an edit.

    Args:
        counted: the pictures of takes; those of other ones are taken to be spread evenly.

    Raises:
        Refusal: a clip that cannot be solved.
    """
    return workings_of(edit, counted).derived


def workings_of(edit: Edit, counted: Counted, near: Workings | None = None) -> Workings:
    """What follows from an edit, and how.

    Args:
        near: the workings of an edit that may be nearly the same. They make it quicker
            and change nothing.

    Raises:
        Refusal: a clip that cannot be solved.
    """
    changed = None if near is None else _clips_changed(near, edit, counted)
    if near is None or changed is None:
        return _worked_out(edit, counted)
    curves = list(near.curves)
    for index in changed:
        curves[index] = solve(edit, edit.clips[index])
    if not changed or _extent(curves) != _extent(near.curves):
        return _worked_out(edit, counted)
    touched = [each for index in changed for each in (near.curves[index], curves[index])]
    # The frame after them has another one before it, and an overlap reaches further.
    reach = longest_reach((*edit.clips, *near.edit.clips))
    begin, end = min(curve.first for curve in touched), max(curve.last for curve in touched)
    anew = range(begin - reach, end + 2 + reach)
    shown = frames_anew(edit, curves, counted, near.shown, anew)
    passed = near.passed.copy()
    passed[shown.part_of(anew)] = _passed(edit, curves, shown, counted, anew)
    clips = [
        _clip(edit, clip, curve, shown, passed, counted) if _meet(curve, anew) else known
        for clip, curve, known in zip(edit.clips, curves, near.derived.clips, strict=True)
    ]
    return Workings(edit, counted, curves, shown, passed, _told(edit, curves, clips, shown))


def _worked_out(edit: Edit, counted: Counted) -> Workings:
    curves = curves_of(edit)
    shown = frames_along(edit, curves, counted)
    passed = _passed(edit, curves, shown, counted, shown.frames)
    clips = [
        _clip(edit, clip, curve, shown, passed, counted)
        for clip, curve in zip(edit.clips, curves, strict=True)
    ]
    return Workings(edit, counted, curves, shown, passed, _told(edit, curves, clips, shown))


def _clips_changed(near: Workings, edit: Edit, counted: Counted) -> list[int] | None:
    """Which clips are not the same any more; None where more than clips has changed."""
    before = near.edit
    same = (
        edit.song is before.song
        and edit.takes is before.takes
        and (edit.rate, edit.landing, edit.blacks) == (before.rate, before.landing, before.blacks)
        and (edit.accents, edit.motion) == (before.accents, before.motion)
        and (edit.titles, edit.ending) == (before.titles, before.ending)
        and (edit.ending is None or edit.ending.sound is None)
        and near.shown.clips == tuple(clip.id for clip in edit.clips)
        and counted.keys() == near.counted.keys()
        and all(held is near.counted[id] for id, held in counted.items())
    )
    if not same or any(accent.may_hide for accent in edit.accents):
        return None
    both = zip(edit.clips, before.clips, strict=True)
    return [index for index, (clip, old) in enumerate(both) if clip is not old]


def _extent(curves: Sequence[Curve]) -> tuple[int, int]:
    """The first output frame that any curve covers, and the last."""
    return min(curve.first for curve in curves), max(curve.last for curve in curves)


def _meet(curve: Curve, frames: range) -> bool:
    return curve.first < frames.stop and curve.last >= frames.start


def _told(edit: Edit, curves: Sequence[Curve], clips: list[DerivedClip], shown: FrameMap) -> Derived:
    return Derived.model_construct(
        clips=clips,
        map=DerivedMap.model_construct(
            first=shown.first,
            clips=list(shown.clips),
            clip=shown.clip.astype(np.int16),
            source=shown.picture.astype(np.int32),
            framings=[_framed(shown.clips[at], each) for at, each in sorted(shown.framings.items())],
            placings=[_placing(placing) for placing in shown.placings],
            layers=[_layer_told(layer, shown) for layer in shown.layers],
            looks=[_LOOKS.recall((look,), None, partial(_look, look)) for look in shown.looks],
            titles=[_title(each) for each in shown.titles],
        ),
        loose=loose_ties(edit),
        accents=[_accent(accent.id, courses_of(edit, curves, shown, accent)) for accent in edit.accents],
        sounds=_sounds(edit),
        end=_end(edit),
    )


def _end(edit: Edit) -> DerivedEnd | None:
    end = end_of(edit)
    return None if end is None else DerivedEnd(dark=end.dark, stop=end.stop)


def _title(each: Lettered) -> DerivedTitle:
    opacity, x, y, scale, turn = each.values.astype(np.float32).T.copy()
    columns = {"opacity": opacity, "x": x, "y": y, "scale": scale, "turn": turn}
    return DerivedTitle(id=each.title.id, drawn=each.title.drawn, first=each.first, **columns)


def _sounds(edit: Edit) -> list[DerivedSound]:
    found: dict[str, list[HeardAt]] = {sound.id: [] for sound in edit.sounds}
    for each in laid_sounds(edit):
        found[each.sound.id].append(HeardAt(begin=each.begin, at=each.at, end=each.begin + each.duration))
    return [DerivedSound(id=id, heard=heard) for id, heard in found.items()]


def _accent(id: str, courses: Sequence[Course]) -> DerivedAccent:
    columns = [(course.first, len(course), course.spot, *course.fullest) for course in courses]
    first, count, spot, since, until = np.array(columns, np.int32).reshape(-1, 5).T.copy()
    return DerivedAccent(id=id, first=first, count=count, spot=spot, since=since, until=until)


_LOOKS: Memo[DerivedLook] = Memo(
    TOLD_BYTES, lambda look: sum(3 * column.nbytes for column in look.values.values()) + RUN_BYTES
)
_LAYERS: Memo[DerivedLayer] = Memo(
    TOLD_BYTES, lambda layer: 3 * (layer.source.nbytes + layer.opacity.nbytes) + RUN_BYTES
)
_FRAMINGS: Memo[DerivedFramed] = Memo(TOLD_BYTES, lambda framed: 12 * framed.x.nbytes + RUN_BYTES)
"""Most layers, looks and framings stay as they were told. Each keeps what it was told of, twice as large."""


def _layer_told(layer: Layer, shown: FrameMap) -> DerivedLayer:
    clip = None if layer.clip == BLACK else shown.clips[layer.clip]
    return _LAYERS.recall((layer,), clip, partial(_layer, layer, clip))


def _look(look: Look) -> DerivedLook:
    return DerivedLook(kind=look.kind, first=look.first, values=_drawn(look.values), colour=look.colour)


def _layer(layer: Layer, clip: str | None) -> DerivedLayer:
    return DerivedLayer(
        clip=clip,
        blend=layer.blend,
        colour=layer.colour,
        echo=layer.echo,
        accent=layer.accent,
        first=layer.first,
        source=layer.picture.astype(np.int32),
        opacity=layer.opacity.astype(np.float32),
        placing=None if layer.placing is None else _placing(layer.placing),
        framed=None if layer.framed is None else _framed(clip or "", layer.framed),
        keying=layer.keying,
    )


def _framed(clip: str, framed: Framed) -> DerivedFramed:
    return _FRAMINGS.recall((framed,), clip, partial(_framing, clip, framed))


def _framing(clip: str, framed: Framed) -> DerivedFramed:
    x, y, scale, turn = framed.values.astype(np.float32).T.copy()
    return DerivedFramed(
        clip=clip, keys=dict(framed.keys), first=framed.first, x=x, y=y, scale=scale, turn=turn
    )


def _placing(placing: Placing) -> DerivedPlacing:
    columns = dict(zip(Place._fields, placing.values.astype(np.float32).T, strict=True))
    return DerivedPlacing(first=placing.first, mask=placing.mask, corners=placing.corners, **columns)


def _drawn(values: Mapping[str, Floats]) -> dict[str, Floats]:
    return {name: column.astype(np.float32) for name, column in values.items()}


def _passed(edit: Edit, curves: Sequence[Curve], shown: FrameMap, counted: Counted, frames: range) -> Frames:
    """Distinct pictures passed into each of some output frames, without the repeats that a hold means."""
    before = range(max(shown.first, frames.start - 1), frames.stop)
    part = shown.between(before)
    passed = steps(edit, part, counted)
    for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        if not _meet(curve, before):
            continue
        for shape, segment in zip(clip.spans, curve.segments, strict=True):
            if isinstance(shape, Hold):
                begin, end = (
                    max(0, math.ceil(pin.n) - part.first + 1) for pin in (segment.start, segment.end)
                )
                held = slice(begin, end)
                meant = (part.clip[held] == place) & (passed[held] == 0)
                passed[held] = np.where(meant, 1, passed[held])
    return passed[max(0, frames.start - part.first) :]


def _passed_alone(edit: Edit, clip: Clip, curve: Curve, shown: FrameMap, counted: Counted) -> Frames:
    """Distinct pictures passed into each frame of a clip, were it alone."""
    place = shown.index_of[clip.id]
    ground = frame_map([clip.id], [curve])
    alone = replace(ground, clips=shown.clips, clip=ground.clip + place, mixes=shown.mixes)
    return steps(edit, alone, counted)


def cue_frames(edit: Edit) -> list[int]:
    """The output frame on which each cue lands, in the order of the cues."""
    return [edit.frame_of(cue.id) for cue in (edit.song.cues if edit.song else ())]


def _clip(
    edit: Edit, clip: Clip, curve: Curve, shown: FrameMap, passed: Frames, counted: Counted
) -> DerivedClip:
    """What follows from a clip, kept by all that it depends on."""
    begin = curve.first - shown.first
    covered = slice(begin, begin + len(curve.source))
    if clip.inset is not None:
        passed = passed.copy()
        passed[covered] = _passed_alone(edit, clip, curve, shown, counted)
    seen = passed[covered]
    above: object = None
    index = shown.index_of[clip.id]
    if clip.inset is not None:
        there, _ = shown.seen_of(index, curve.covered)
        seen, above = np.where(there, seen, HIDDEN), there.tobytes()
    elif shown.seen[index] < len(seen):
        over = shown.clip[covered]
        seen, above = np.where(over == index, seen, HIDDEN), (shown.clips, over.tobytes())
    beside = shown.beside.get(index, ())
    covered_by = shown.covering
    mix = shown.mixes.get(index)
    # The curve is another one whenever anything is that it was made from.
    return _KEPT.recall(
        (curve, mix),
        (above, beside, covered_by, seen.tobytes()),
        lambda: DerivedClip.model_construct(
            id=clip.id,
            first=curve.first,
            pins=[DerivedPin(id=pin.id, n=n, p=p) for pin, n, p in _pins(clip, curve)],
            spans=[_span(edit, clip, curve, index, seen) for index in range(len(clip.spans))],
            floor=floor_of(edit, clip),
            source=np.round(curve.source, DRAWN_DECIMALS).astype(np.float32),
            speed=np.round(curve.speed, DRAWN_DECIMALS).astype(np.float32),
            steps=seen.astype(np.int16),
            mix=None if mix is None else _mix(mix),
            smoothness=smoothness(seen, curve.first),
            changed_by_hand=clip.changed_by_hand,
            pulses=None if curve.pulses is None else _pulses(curve, curve.pulses),
            landings=landings(edit, clip, curve, shown, passed),
        ),
    )


def _pins(clip: Clip, curve: Curve) -> Iterator[tuple[Pin, float, float]]:
    """The pins of a clip, and where they stand: pulses move those that nothing holds."""
    n = np.array([at.n for at in curve.pins])
    p = np.array([at.p for at in curve.pins]) if curve.pulses is None else curve.at(n)[0]
    yield from zip(clip.pins, n.tolist(), p.tolist(), strict=True)


def _pulses(curve: Curve, pulses: Pulses) -> DerivedPulses:
    room = room_of(pulses, curve.frames.astype(np.float64))
    ways = pulses.way * np.diff(curve.source)
    return DerivedPulses(
        before=room.before,
        after=room.after,
        runs_back=bool((ways < -FRAME_TOLERANCE).any()),
        pulses=[
            DerivedPulse(
                id=part.pulse.id,
                teeth=[DerivedTooth(**tooth._asdict()) for tooth in part.teeth],
                times=each.times,
                runs_out=each.cue,
            )
            for part, each in zip(pulses.parts, room.pulses, strict=True)
        ],
    )


def _mix(mix: Mix) -> DerivedMix:
    return DerivedMix(
        first=mix.first,
        sources=[column.astype(np.int32) for column in mix.pictures.T],
        weights=[column.astype(np.float32) for column in mix.weights.T],
        how=mix.how,
    )


REMEMBERED_BYTES = 64 * 2**20
"""What follows from clips that is kept for the next look."""
SPAN_BYTES, FRAME_BYTES = 3000, 44
"""What is held for each span of a clip and for each frame, as tracemalloc counts; the key is part of it."""


def _weight(clip: DerivedClip) -> int:
    mixed = 0 if clip.mix is None else sum(column.nbytes for column in (*clip.mix.sources, *clip.mix.weights))
    return len(clip.spans) * SPAN_BYTES + len(clip.source) * FRAME_BYTES + mixed


_KEPT: Memo[DerivedClip] = Memo(REMEMBERED_BYTES, _weight)


def _span(edit: Edit, clip: Clip, curve: Curve, index: int, seen: Frames) -> DerivedSpan:
    segment, shape = curve.segments[index], clip.spans[index]
    speeds = segment.runs
    left, right = (max(0, math.ceil(pin.n) - curve.first) for pin in (segment.start, segment.end))
    return DerivedSpan(
        mean=segment.mean,
        lowest=float(speeds.min()),
        highest=float(speeds.max()),
        way=clip.ways[index],
        repeats=int(np.count_nonzero(seen[left + 1 : right + 1] == 0)),
        smooth_strength=strongest_smooth(shape, segment.mean, smooth_floor(edit, edit.take(clip.take))),
        values=span_values(shape, segment.mean),
    )
