"""Where did each tie really fall?

A landing is exact when the first output frame that shows the moment's source frame
or a later one is the frame that the cue asks for. It is read off the pictures that
are shown, not off the pin that asked for it, so it would tell if the solver erred.
"""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, computed_field

from izmet.core.edit import Clip, CueKind, Edit
from izmet.core.rates import residual_ms, timecode
from izmet.core.retime.pins import pin_name
from izmet.core.retime.solve import Curve, Frames
from izmet.core.smooth.repeats import repeats

AROUND_SECONDS = 0.25
"""How far to each side of a landing its repeats are counted."""


class Landing(BaseModel):
    """One tie's landing. Speeds are relative to real time, residual in ms after the cue."""

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
    timecode: str
    residual_ms: float
    speed_in: float | None
    speed_out: float | None
    repeats_around: int

    @computed_field  # type: ignore[prop-decorator]
    @property
    def exact(self) -> bool:
        return self.landed_frame == self.wanted_frame


def landings(
    edit: Edit, clip: Clip, curve: Curve, shown: Frames, pictures: Frames | None = None
) -> list[Landing]:
    """The landing of every tie of a clip, in order.

    Args:
        shown: source frame at each output frame that the clip covers, shape (count,).
        pictures: distinct picture of each source frame; see ``smooth.repeats``.
    """
    repeated = repeats(shown, pictures)
    return [
        _landing(edit, clip, curve, index, shown, repeated)
        for index, pin in enumerate(clip.pins)
        if pin.is_tie
    ]


def _landing(
    edit: Edit, clip: Clip, curve: Curve, index: int, shown: Frames, repeated: np.ndarray
) -> Landing:
    pin = clip.pins[index]
    assert pin.cue is not None
    assert pin.moment is not None
    cue, moment = edit.cue(pin.cue), edit.moment(clip.take, pin.moment)
    first = curve.pins[0].n
    wanted, instant = edit.frame_of(pin.cue), edit.instant(pin.cue)
    seen = np.flatnonzero(shown >= moment.frame)
    landed = first + int(seen[0]) if len(seen) else None
    around = round(AROUND_SECONDS * edit.rate)
    near = slice(max(0, wanted - first - around), wanted - first + around + 1)
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
        timecode=timecode(wanted, edit.rate),
        residual_ms=residual_ms(wanted if landed is None else landed, instant, edit.rate),
        speed_in=speed_in,
        speed_out=speed_out,
        repeats_around=int(repeated[near].sum()),
    )
