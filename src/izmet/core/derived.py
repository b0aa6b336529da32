"""All that follows from an edit: what the screen draws and the exporter reads.

Nothing here is stored. The same function answers a dry run while a handle is
dragged and the render of the final file.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from pydantic import BaseModel

from izmet.core.edit import Build, Clip, Edit
from izmet.core.framemap import frame_map
from izmet.core.landing import Landing, landings
from izmet.core.loose import LooseTie, loose_ties
from izmet.core.retime.shapes import solve_build, strongest_smooth_dip
from izmet.core.retime.solve import Curve, Frames, solve
from izmet.core.smooth.repeats import smooth_floor, steps

DRAWN_DECIMALS = 4


class DerivedPin(BaseModel):
    """A pin with both ends resolved."""

    id: str
    n: int
    p: float


class DerivedSpan(BaseModel):
    """What one span came to: speeds relative to real time, and a build's three values when it is one."""

    mean: float
    lowest: float
    highest: float
    repeats: int
    smooth_strength: float
    start: float | None = None
    end: float | None = None
    change: float | None = None


class DerivedClip(BaseModel):
    """A clip's curve, sampled at each output frame from ``first`` on.

    ``source`` and ``speed`` are rounded, for drawing; the frame map has what is shown.
    ``steps`` are the distinct pictures passed since the frame before: 0 is a repeat.
    """

    id: str
    first: int
    pins: list[DerivedPin]
    spans: list[DerivedSpan]
    floor: float
    source: list[float]
    speed: list[float]
    steps: list[int]


class DerivedMap(BaseModel):
    """For each output frame from ``first``, the clip's index (−1 is black) and the source frame."""

    first: int
    clip: list[int]
    source: list[int]


class Derived(BaseModel):
    """Everything that follows from one edit."""

    clips: list[DerivedClip]
    map: DerivedMap
    landings: list[Landing]
    loose: list[LooseTie]


def derive(edit: Edit, pictures: Mapping[str, Frames] | None = None) -> Derived:
    """What follows from an edit.

    Args:
        pictures: per take id, the distinct picture that each source frame holds.

    Raises:
        Refusal: a clip that cannot be solved.
    """
    pictures = pictures or {}
    curves = [solve(edit, clip) for clip in edit.clips]
    clips, landed = [], []
    for clip, curve in zip(edit.clips, curves, strict=True):
        held = pictures.get(clip.take)
        shown = curve.shown
        clips.append(_clip(edit, clip, curve, steps(shown, held)))
        landed += landings(edit, clip, curve, shown, held)
    whole = frame_map(curves)
    return Derived(
        clips=clips,
        map=DerivedMap(first=whole.first, clip=whole.clip.tolist(), source=whole.source.tolist()),
        landings=landed,
        loose=loose_ties(edit),
    )


def cue_frames(edit: Edit) -> dict[str, int]:
    """The output frame on which each cue lands, by cue id."""
    cues = edit.song.cues if edit.song else ()
    return {cue.id: edit.frame_of(cue.id) for cue in cues}


def _clip(edit: Edit, clip: Clip, curve: Curve, passed: Frames) -> DerivedClip:
    floor = smooth_floor(edit, edit.take(clip.take))
    return DerivedClip(
        id=clip.id,
        first=curve.pins[0].n,
        pins=[DerivedPin(id=pin.id, n=n, p=p) for pin, (n, p) in zip(clip.pins, curve.pins, strict=True)],
        spans=[_span(clip, curve, index, floor, passed) for index in range(len(clip.spans))],
        floor=floor,
        source=np.round(curve.source, DRAWN_DECIMALS).tolist(),
        speed=np.round(curve.speed, DRAWN_DECIMALS).tolist(),
        steps=passed.tolist(),
    )


def _span(clip: Clip, curve: Curve, index: int, floor: float, passed: Frames) -> DerivedSpan:
    mean, shape = curve.means[index], clip.spans[index]
    speeds = mean * curve.profiles[index].v
    left, right = (curve.pins[i].n - curve.pins[0].n for i in (index, index + 1))
    start, end, change = solve_build(shape, mean) if isinstance(shape, Build) else (None, None, None)
    return DerivedSpan(
        mean=mean,
        lowest=float(speeds.min()),
        highest=float(speeds.max()),
        repeats=int(np.count_nonzero(passed[left + 1 : right + 1] == 0)),
        smooth_strength=strongest_smooth_dip(mean, floor),
        start=start,
        end=end,
        change=change,
    )
