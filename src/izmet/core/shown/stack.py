"""What does each output frame of an edit show?

The ground is what the clips' curves lay out, later ones over earlier ones. Over it lie
what is seen beside it around a cut (``overlaps``), clips in a part of the frame (``insets``), and over all
the accents, and over these titles. Of a clip that is blended, or seen through an open shutter, each picture
is a mix (``mixing``); where it lies in the frame is told by its ``framing``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.limits import MOST_FRAMES
from izmet.core.retime.solve import Curve, curves_of
from izmet.core.shown.accents import accented
from izmet.core.shown.ending import end_of
from izmet.core.shown.framemap import FrameMap, Layer, Placing, frame_map, repainted
from izmet.core.shown.framing import framings_of
from izmet.core.shown.insets import inset_layers, insets_in
from izmet.core.shown.mixing import mixes_of
from izmet.core.shown.overlaps import meeting, overlapped
from izmet.core.shown.pictures import UNCOUNTED, Counted
from izmet.core.shown.titles import cards, titles_shown


def frames_shown(edit: Edit, counted: Counted = UNCOUNTED) -> FrameMap:
    """What each output frame of an edit asks for. Raises Refusal when a clip cannot be solved.

    Args:
        counted: the pictures of takes; those of other ones are taken to be spread evenly.
    """
    return frames_along(edit, curves_of(edit), counted)


def frames_along(edit: Edit, curves: Sequence[Curve], counted: Counted = UNCOUNTED) -> FrameMap:
    """What each output frame asks for, given the curves of all clips."""
    ids = [clip.id for clip in edit.clips]
    ground = frame_map(ids, curves, dark_ranges(edit), insets_in(edit.clips), _reach(edit))
    return _stacked(edit, curves, counted, ground)


def frames_anew(
    edit: Edit, curves: Sequence[Curve], counted: Counted, near: FrameMap, frames: range
) -> FrameMap:
    """What each output frame asks for, where on all but some the ground is that of ``near``."""
    ground = repainted(near, curves, frames, dark_ranges(edit), insets_in(edit.clips))
    return _stacked(edit, curves, counted, ground)


def frames_exported(edit: Edit, counted: Counted = UNCOUNTED) -> FrameMap:
    """What the frames of an edit ask for that are exported: those of its range, if it has one."""
    shown = frames_shown(edit, counted)
    if edit.range is not None:
        return shown.between(edit.frames_in(edit.range))
    end = end_of(edit)
    return shown if end is None else shown.between(range(shown.first, end.stop))


def meant_dark(edit: Edit, shown: FrameMap) -> NDArray[np.bool_]:
    """Which of the frames shown are meant to be black, shape (count,)."""
    dark = np.zeros(len(shown), bool)
    for black in dark_ranges(edit):
        dark[shown.part_of(black)] = True
    return dark


def dark_ranges(edit: Edit) -> list[range]:
    """The output frames of each stretch that is meant to be black."""
    end = end_of(edit)
    after = [] if end is None else [range(end.dark, max(end.dark, MOST_FRAMES))]
    return [*(edit.frames_in(each) for each in edit.blacks), *after]


def _reach(edit: Edit) -> list[range]:
    """The output frames of all that may be seen without a clip: titles, and the black at the end."""
    end = end_of(edit)
    after = [] if end is None else [range(end.dark, end.stop)]
    return [*after, *(frames for title in edit.titles if title.on and (frames := edit.frames_in(title)))]


def longest_reach(clips: Iterable[Clip]) -> int:
    """Output frames on which a clip may be seen before and after its own, where some overlap."""
    return max((clip.overlap.frames for clip in clips if clip.overlap), default=0)


def _stacked(edit: Edit, curves: Sequence[Curve], counted: Counted, ground: FrameMap) -> FrameMap:
    beside = longest_reach(edit.clips)
    if mixes := mixes_of(edit, curves, counted, beside):
        ground = replace(ground, mixes=mixes)
    if framings := framings_of(edit, curves, ground, beside):
        ground = replace(ground, framings=framings)
    if titles := tuple(titles_shown(edit)):
        ground = replace(ground, titles=titles)
    plain = not edit.accents and not titles
    if plain and all(clip.overlap is None and clip.inset is None for clip in edit.clips):
        return ground
    layers: list[Layer] = []
    placings: list[Placing] = []
    for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        if clip.overlap is not None and (met := meeting(ground, place, curve)) is not None:
            for layer, placing in overlapped(edit, curves, ground, met, clip.overlap):
                layers.append(layer)
                placings += [] if placing is None else [placing]
    seen = ground.frames
    around = [layer.between(seen) for layer in layers if layer.meets(seen)]
    insets = inset_layers(edit, curves, ground, meant_dark(edit, ground))
    over, looks = accented(edit, curves, ground)
    stacked = (*around, *insets, *over, *cards(titles))
    return replace(ground, layers=stacked, placings=tuple(placings), looks=tuple(looks))
