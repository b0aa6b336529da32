"""Where did each tie really fall?

A landing is exact when the first output frame that shows the moment's source frame or
one beyond it, on the way the picture travels there, is the frame that the cue asks
for. It is read off what the edit shows, not off the pin that asked for it, so it tells
if the solver erred, and it tells if another clip lies over it. A tie that is not guarded may be
mixed into frames before: of these it counts what each shows on its own instant.
"""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, computed_field

from izmet.core.document.cuekinds import CueKind
from izmet.core.document.edit import Clip, Edit
from izmet.core.document.rates import residual_ms, timecode
from izmet.core.retime.pins import pin_name
from izmet.core.retime.sampling import Frames
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK_COLOUR, FrameMap

AROUND_SECONDS = 0.25
"""How far to each side of a landing its repeats are counted."""


BLACK_NAME, TINT_NAME = "black", "tint"


class Landing(BaseModel):
    """One tie's landing. Speeds are relative to real time, residual in ms after the cue.

    ``hidden_by`` is the id of the clip that is seen on the wanted frame instead, or
    BLACK_NAME, or TINT_NAME where a plain tint covers all.
    """

    clip: str
    pin: str
    moment: str
    label: str
    cue: str
    cue_kind: CueKind
    cue_time: float
    source_frame: int
    wanted_frame: int
    landed_frame: int | None
    hidden_by: str | None
    timecode: str
    residual_ms: float
    speed_in: float | None
    speed_out: float | None
    repeats_around: int

    @computed_field  # type: ignore[prop-decorator]
    @property
    def exact(self) -> bool:
        return self.landed_frame == self.wanted_frame


def landings(edit: Edit, clip: Clip, curve: Curve, shown: FrameMap, steps: Frames) -> list[Landing]:
    """The landing of every tie of a clip that lies between its cuts, in order.

    Args:
        shown: what the edit shows.
        steps: distinct pictures passed at each of its frames; see ``smooth.repeats``.
    """
    return [
        _landing(edit, clip, curve, index, shown, steps)
        for index, pin in enumerate(clip.pins)
        if pin.is_tie and curve.first <= curve.pins[index].n <= curve.last
    ]


def _landing(edit: Edit, clip: Clip, curve: Curve, index: int, shown: FrameMap, steps: Frames) -> Landing:
    pin = clip.pins[index]
    assert pin.cue is not None
    assert pin.moment is not None
    cue, moment = edit.cue(pin.cue), edit.moment(clip.take, pin.moment)
    wanted, instant = edit.frame_of(pin.cue), edit.instant(pin.cue)
    landed = _landed(clip, curve, shown, index, moment.frame)
    around = round(AROUND_SECONDS * edit.rate)
    near = shown.part_of(range(wanted - around, wanted + around + 1))
    place = shown.index_of[clip.id]
    mine = shown.clip[near] == place
    if clip.inset is not None:
        mine, _ = shown.seen_of(place, shown.frames[near])
    speed_in, speed_out = curve.speeds_beside(index)
    return Landing(
        clip=clip.id,
        pin=pin.id,
        moment=moment.id,
        label=pin_name(edit, clip, pin),
        cue=cue.id,
        cue_kind=cue.kind,
        cue_time=instant,
        source_frame=moment.frame,
        wanted_frame=wanted,
        landed_frame=landed,
        hidden_by=_over(clip, shown, wanted),
        timecode=timecode(wanted, edit.rate),
        residual_ms=residual_ms(wanted if landed is None else landed, instant, edit.rate),
        speed_in=speed_in,
        speed_out=speed_out,
        repeats_around=int(np.count_nonzero(mine & (steps[near] == 0))),
    )


def _landed(clip: Clip, curve: Curve, shown: FrameMap, pin: int, moment: int) -> int | None:
    """The first output frame, of those that show the clip, that has come to the moment's picture."""
    arrival = int(curve.pins[pin].n) - curve.first
    afresh = curve.back[: arrival + 1].copy()
    afresh[1:] |= curve.way[:arrival] != curve.way[arrival]
    since = arrival - int(afresh[::-1].argmax()) if afresh.any() else 0
    index = shown.index_of[clip.id]
    beside = [layer.frames for layer in shown.layers if layer.shows(index)]
    # Where it comes in over another clip, it is seen before its own first frame.
    begins = [curve.first + since, *([part.start for part in beside] if since == 0 else [])]
    frames = range(min(begins), max([curve.last + 1, *(part.stop for part in beside)]))
    seen, picture = shown.seen_of(index, frames, farthest=clip.pins[pin].guarded)
    found = np.flatnonzero(seen & ((picture - moment) * int(curve.way[arrival]) >= 0))
    return frames.start + int(found[0]) if len(found) else None


def _over(clip: Clip, shown: FrameMap, frame: int) -> str | None:
    index = frame - shown.first
    if not 0 <= index < len(shown):
        return None
    if shown.seen_of(shown.index_of[clip.id], range(frame, frame + 1))[0][0]:
        return None
    over = shown.request(index).clip
    if over == clip.id and not _is_dark(shown, frame):
        return TINT_NAME
    return BLACK_NAME if over in (None, clip.id) else over


def _is_dark(shown: FrameMap, frame: int) -> bool:
    """Whether what lies over all on an output frame is black."""
    over = [layer for layer in shown.layers if layer.is_opaque and frame in layer.frames]
    return over[-1].colour == BLACK_COLOUR
