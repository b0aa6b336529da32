"""A clip that lies in a slot keeps it, whatever is done to the way it runs.

A side of a clip is held where it is cut, or where it ends and another clip is seen beside it. A curve
that grows beyond a held side is cut there; one that falls short of it goes on at the speed
of its end, and slower where its take has no more to show.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain
from typing import NamedTuple

from izmet.core.commands.common import new_id, with_clip
from izmet.core.document.edit import Clip, Cue, Edit, Hold, Rewind, Shape, Steady
from izmet.core.document.limits import LEAST_SPEED
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Place, Refusal
from izmet.core.retime.solve import solve
from izmet.core.shown.framemap import BLACK, FrameMap
from izmet.core.shown.stack import frames_shown

SLOWEST = 0.5
"""A span is slowed down to so much of its speed where the take has no more to show; not beyond."""


class Slot(NamedTuple):
    """The output frames on which a clip is seen, and where it is cut at the sides that are held."""

    frames: range
    since: Pin | None
    until: Pin | None


def in_slots(before: Edit, after: Edit) -> Edit:
    """An edit after a change, with the clips that were changed back in the slots in which they lay."""
    old = {clip.id: clip for clip in before.clips}
    changed = [clip.id for clip in after.clips if clip.id in old and old[clip.id] is not clip]
    if not changed:
        return after
    shown = frames_shown(before)
    for id in changed:
        slot = slot_of(before, shown, old[id])
        if slot is not None:
            after = _kept(after, id, slot)
    return after


def slot_of(edit: Edit, shown: FrameMap, clip: Clip) -> Slot | None:
    """The slot of a clip; None where it is not seen, or is in several pieces."""
    mine = [frames for id, frames in shown.stretches() if id == clip.id]
    if len(mine) != 1:
        return None
    begin, end = shown.first + mine[0].start, shown.first + mine[0].stop

    curve = solve(edit, clip)

    def held(edge: Pin | None, n: int, beside: int, ends: bool) -> Pin | None:
        """Where a side is cut that lies on an output frame, None while nothing holds it there."""
        index = beside - shown.first
        other = 0 <= index < len(shown) and int(shown.clip[index]) != BLACK
        if edge is not None and edit.place_of(edge) == n:
            return edge
        return edge_on(edit, n) if other and ends else None

    return Slot(
        range(begin, end),
        held(clip.since, begin, begin - 1, curve.first == begin),
        # A clip covers its last pin's frame too, over which the next one may lie.
        held(clip.until, end, end, curve.last in (end - 1, end)),
    )


def edge_on(edit: Edit, n: int, cues: Sequence[Cue] = ()) -> Pin:
    """A cut on an output frame: on a cue, where a clip has one there, or one of these lies there."""
    ends = (edge for clip in edit.clips for edge in (clip.since, clip.until, *clip.pins) if edge is not None)
    here = chain((pin.cue for pin in ends if pin.cue is not None), (cue.id for cue in cues))
    cue = next((cue for cue in here if edit.frame_of(cue) == n), None)
    return Pin(id="cut", n=None if cue else n, cue=cue)


def _kept(edit: Edit, id: str, slot: Slot) -> Edit:
    begin, end = slot.frames.start, slot.frames.stop
    if slot.since is not None:
        edit = _cut_or_reaching(edit, id, "since", slot.since, begin)
    if slot.until is not None:
        edit = _cut_or_reaching(edit, id, "until", slot.until, end)
    return edit


def _cut_or_reaching(edit: Edit, id: str, side: str, edge: Pin, n: int) -> Edit:
    clip = edit.clip(id)
    free = with_clip(edit, clip, **{side: None})
    curve = solve(free, free.clip(id))
    if side == "since":
        grown, short, ask = curve.first < n, curve.first > n, {"first": n}
    else:
        grown, short, ask = curve.last >= n, curve.last < n - 1, {"last": n - 1}
    if grown:
        return with_clip(edit, clip, **{side: edge})
    if not short:
        return edit
    try:
        longer = reaching(free, free.clip(id), **ask)
        solve(longer, longer.clip(id))
    except Refusal:
        # The take ends there. Where even a slower end falls short, what that leaves open is told first.
        slower = _reaching_slower(free, free.clip(id), 0 if side == "since" else -1, n)
        if slower is None:
            return free
        longer = slower
    return with_clip(longer, longer.clip(id), **{side: edge})


def reaching(edit: Edit, clip: Clip, first: int | None = None, last: int | None = None) -> Edit:
    """The edit with a clip laid out at least from ``first`` or up to ``last``, at the speed of its end.

    Raises:
        Refusal: it ends on a tie there.
    """
    whole = clip.model_copy(update={"since": None, "until": None})
    curve = solve(edit, whole)
    if first is not None and first < curve.first:
        return _longer(edit, clip, 0, first)
    if last is not None and last > curve.last:
        return _longer(edit, clip, -1, last)
    return edit


def _reaching_slower(edit: Edit, clip: Clip, end: int, n: int) -> Edit | None:
    """The clip with one end, on its source frame, on an output frame farther out; None where it cannot be."""
    pin, curve = clip.pins[end], solve(edit, clip)
    if pin.cue is not None or pin.moment is not None or not curve.segments[end].mean:
        return None
    return _slower(edit, clip, end, end, curve.segments[end].mean, n=n, p=curve.pins[end].p)


def fitted(edit: Edit, clip: Clip, end: int, beside: int, p: float) -> Edit:
    """The edit with a clip that stays inside its take: one that would leave it ends on source frame ``p``.

    The span ``beside`` runs slower for that.

    Raises:
        Refusal: it would run at less than ``SLOWEST`` of its speed.
    """
    try:
        solve(edit, clip)
    except Refusal as outside:
        speed = clip.spans[beside].speed
        slower = None
        if outside.code == "pin-outside-take" and speed is not None:
            slower = _slower(edit, clip, end, beside, speed, p=p)
        if slower is None:
            raise
        return slower
    return edit


def _slower(edit: Edit, clip: Clip, end: int, beside: int, speed: float, **place: float) -> Edit | None:
    """The clip with an end in another place, for which a span runs slower than ``speed``.

    None where it cannot be, or would run at less than ``SLOWEST`` of that.
    """
    pins, spans = list(clip.pins), list(clip.spans)
    pins[end] = pins[end].model_copy(update=place)
    spans[beside] = spans[beside].model_copy(update={"speed": None, "frames": None})
    slower = with_clip(edit, clip, pins=pins, spans=spans)
    try:
        mean = solve(slower, slower.clip(clip.id)).segments[beside].mean
    except Refusal:
        return None
    return slower if mean >= SLOWEST * speed else None


def _longer(edit: Edit, clip: Clip, end: int, n: int) -> Edit:
    """The clip with one end on an output frame farther out, at the speed of its end. What was seen stays."""
    curve = solve(edit, clip.model_copy(update={"since": None, "until": None}))
    pin, segment = clip.pins[end], curve.segments[end]
    if pin.moment is not None or pin.cue is not None:
        raise Refusal(
            "ends-on-a-tie",
            "The clip ends on a tie, and has nothing beyond it.",
            where=Place.of(clip.id),
            remedy="Tie that end elsewhere, or cut inside the clip.",
        )
    pins, spans = list(clip.pins), list(clip.spans)
    if isinstance(spans[end], Steady | Hold):
        pins[end] = pin.model_copy(update={"n": n, "p": None})
        spans[end] = spans[end].model_copy(update={"speed": segment.mean or None, "frames": None})
        return with_clip(edit, clip, pins=pins, spans=spans)
    pins[end] = pin.model_copy(update=curve.pins[end]._asdict())
    spans[end] = spans[end].model_copy(update={"speed": None, "frames": None})
    added = Pin(id=new_id("pin", pins), n=n)
    speed = segment.speed_in if end == 0 else segment.speed_out
    onward = _going_on(abs(speed), backwards=speed * (-1 if clip.reversed else 1) < 0)
    at_start = end == 0
    return with_clip(
        edit,
        clip,
        pins=[added, *pins] if at_start else [*pins, added],
        spans=[onward, *spans] if at_start else [*spans, onward],
    )


def _going_on(speed: float, backwards: bool) -> Shape:
    """A span at one speed, against the way of its clip where that ran so."""
    if speed < LEAST_SPEED:
        return Hold()
    return Rewind(speed=speed, strength=0) if backwards else Steady(speed=speed)
