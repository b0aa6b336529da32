"""Which cue could take up each tie whose own cue is gone?

The nearest to where it was that lies between the pins beside it and what is proposed
for them, so that any of the ties can be taken up, and all of them together.
"""

from __future__ import annotations

import math

from pydantic import BaseModel

from izmet.core.edit import Clip, Cue, Edit, Pin
from izmet.core.retime.pins import pin_name

LANDED_ON = frozenset({"downbeat", "beat", "kick", "snare", "bass", "drop", "hand"})
"""Kinds that are proposed."""


class LooseTie(BaseModel):
    """A tie whose cue is gone, ``was`` in seconds of the edit, and the cue that is proposed instead."""

    clip: str
    pin: str
    label: str
    was: float
    proposed: str | None


def loose_ties(edit: Edit) -> list[LooseTie]:
    """The loose ties of all clips, in order."""
    return [tie for clip in edit.clips for tie in _of_clip(edit, clip)]


def _of_clip(edit: Edit, clip: Clip) -> list[LooseTie]:
    if all(pin.loose is None for pin in clip.pins):
        return []
    cues = [cue for cue in edit.song.cues if cue.kind in LANDED_ON] if edit.song else []
    frames = [_frame(edit, pin) for pin in clip.pins]
    ties: list[LooseTie] = []
    after = -math.inf
    for pin, frame, later in zip(clip.pins, frames, [*frames[1:], None], strict=True):
        if pin.loose is not None:
            before = math.inf if later is None else later
            nearest = _nearest(edit, cues, pin.loose, after, before)
            if nearest is not None:
                after = edit.frame_of(nearest.id)
            label = pin_name(edit, clip, pin)
            proposed = nearest and nearest.id
            ties.append(LooseTie(clip=clip.id, pin=pin.id, label=label, was=pin.loose, proposed=proposed))
        after = after if frame is None else max(after, frame)
    return ties


def _frame(edit: Edit, pin: Pin) -> int | None:
    """The output frame that a pin has now, None where it is open."""
    return pin.n if pin.cue is None else edit.frame_of(pin.cue)


def _nearest(edit: Edit, cues: list[Cue], instant: float, after: float, before: float) -> Cue | None:
    """The cue nearest to an instant of those on frames after one and before another."""
    was = instant - (edit.song.start if edit.song else 0)
    nearby = sorted(cues, key=lambda cue: abs(cue.time - was))
    return next((cue for cue in nearby if after < edit.frame_of(cue.id) < before), None)
