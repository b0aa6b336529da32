"""What does each output frame of an edit show?

The ground is what the clips' curves lay out, later ones over earlier ones. Over it lie
the overlaps: around its cut a clip and the one before it are both seen, and the one that
has the smaller part of the picture is a layer over the other. A curve that has to go on
past its clip's end goes on as it is there, and holds the take's last picture where that
ends. Over all lie the accents. Of a clip that is blended, or seen through an open shutter,
each of these pictures is a mix.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit, Flash
from izmet.core.retime.sampling import Frames
from izmet.core.retime.solve import Curve, solve
from izmet.core.shown.framemap import BLACK, FrameMap, Layer, Look, frame_map, repainted
from izmet.core.shown.mixing import Pictures, mixes_of

UNCOUNTED: Pictures = MappingProxyType({})
"""Where nobody counted the distinct pictures of any take."""


def frames_shown(edit: Edit, pictures: Pictures = UNCOUNTED) -> FrameMap:
    """What each output frame of an edit asks for. Raises Refusal when a clip cannot be solved.

    Args:
        pictures: per take id, the distinct picture of each of its source frames, shape
            (source frames,); those of other takes are taken to be spread evenly.
    """
    return frames_along(edit, curves_of(edit), pictures)


def curves_of(edit: Edit) -> list[Curve]:
    """The curves of all clips, in their order. Raises Refusal when one cannot be solved."""
    return [solve(edit, clip) for clip in edit.clips]


def frames_along(edit: Edit, curves: Sequence[Curve], pictures: Pictures = UNCOUNTED) -> FrameMap:
    """What each output frame asks for, given the curves of all clips."""
    ground = frame_map([clip.id for clip in edit.clips], curves, dark_ranges(edit))
    return _stacked(edit, curves, pictures, ground)


def frames_anew(
    edit: Edit, curves: Sequence[Curve], pictures: Pictures, near: FrameMap, frames: range
) -> FrameMap:
    """What each output frame asks for, where on all but some the ground is that of ``near``."""
    return _stacked(edit, curves, pictures, repainted(near, curves, frames, dark_ranges(edit)))


def frames_exported(edit: Edit, pictures: Pictures = UNCOUNTED) -> FrameMap:
    """What the frames of an edit ask for that are exported: those of its range, if it has one."""
    shown = frames_shown(edit, pictures)
    return shown if edit.range is None else shown.between(edit.frames_in(edit.range))


def meant_dark(edit: Edit, shown: FrameMap) -> NDArray[np.bool_]:
    """Which of the frames shown are meant to be black, shape (count,)."""
    dark = np.zeros(len(shown), bool)
    for black in dark_ranges(edit):
        dark[shown.part_of(black)] = True
    return dark


def dark_ranges(edit: Edit) -> list[range]:
    """The output frames of each stretch that is meant to be black."""
    return [edit.frames_in(each) for each in edit.blacks]


class Meeting(NamedTuple):
    """A cut that a clip comes in by: its output frame, the clips before and after it by their places in the
    edit, and how many frames of each are seen beside it before another cut comes."""

    n: int
    before: int
    after: int
    room: tuple[int, int]


def meeting(shown: FrameMap, clip: int, curve: Curve) -> Meeting | None:
    """Where a clip follows on another one; None where none is seen just before it, or it is hidden."""
    at = curve.first - shown.first
    if at < 1 or shown.clip[at] != clip or shown.clip[at - 1] == BLACK:
        return None
    before = int(shown.clip[at - 1])
    return Meeting(
        curve.first, before, clip, (_run(shown.clip[:at][::-1], before), _run(shown.clip[at:], clip))
    )


def _run(clips: NDArray[np.int32], clip: int) -> int:
    """For how many frames from the first on one clip is seen."""
    others = np.flatnonzero(clips != clip)
    return int(others[0]) if len(others) else len(clips)


def halves(frames: int) -> tuple[int, int]:
    """How many of the frames of an overlap lie before its cut, and how many after."""
    return frames // 2, frames - frames // 2


def room_beyond(edit: Edit, clip: Clip, curve: Curve, frames: range) -> int:
    """How many of some output frames next to a clip, the nearest first, its take has pictures for."""
    source, _ = curve.beside(np.arange(frames.start, frames.stop))
    inside = (source >= 0) & (source <= edit.take(clip.take).frames - 1)
    nearest_first = inside[::-1] if frames.stop <= curve.first else inside
    return _run(nearest_first.astype(np.int32), 1)


def longest_reach(clips: Iterable[Clip]) -> int:
    """Output frames on which a clip may be seen before and after its own, where some overlap."""
    return max((clip.overlap.frames for clip in clips if clip.overlap), default=0)


def _stacked(edit: Edit, curves: Sequence[Curve], pictures: Pictures, ground: FrameMap) -> FrameMap:
    if mixes := mixes_of(edit, curves, pictures, longest_reach(edit.clips)):
        ground = replace(ground, mixes=mixes)
    if not edit.accents and all(clip.overlap is None for clip in edit.clips):
        return ground
    layers = [
        layer
        for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True))
        if clip.overlap is not None and (met := meeting(ground, place, curve)) is not None
        for layer in _dissolve(edit, curves, met, clip.overlap.frames)
    ]
    looks = [_flash(edit, accent) for accent in edit.accents]
    seen = ground.frames
    return replace(
        ground,
        layers=tuple(layers),
        looks=tuple(look.between(seen) for look in looks if look.meets(seen)),
    )


def _dissolve(edit: Edit, curves: Sequence[Curve], met: Meeting, frames: int) -> Iterator[Layer]:
    """The layers of an overlap: before the cut the clip that comes, after it the one that goes."""
    lead, tail = halves(frames)
    rising = np.arange(1, frames + 1) / (frames + 1)
    for clip, part, opacity in (
        (met.after, range(met.n - lead, met.n), rising[:lead]),
        (met.before, range(met.n, met.n + tail), 1 - rising[lead:]),
    ):
        inside = range(max(part.start, met.n - met.room[0]), min(part.stop, met.n + met.room[1]))
        if inside:
            picture = _pictures(edit, edit.clips[clip], curves[clip], inside)
            yield Layer(inside.start, clip, picture, opacity[inside.start - part.start :][: len(inside)])


def _pictures(edit: Edit, clip: Clip, curve: Curve, frames: range) -> Frames:
    """The source frames that a clip shows on output frames beside its own, shape (frames,)."""
    _, picture = curve.beside(np.arange(frames.start, frames.stop))
    return np.clip(picture, 0, edit.take(clip.take).frames - 1)


def _flash(edit: Edit, flash: Flash) -> Look:
    """The light of each output frame of a flash: straight up to its frame, and straight down from it."""
    rising = np.arange(1, flash.lead + 1) / (flash.lead + 1)
    falling = 1 - np.arange(1, flash.tail + 1) / (flash.tail + 1)
    light = flash.light * np.concatenate([rising, [1.0], falling])
    return Look(edit.place_of(flash.at) - flash.lead, "flash", {"light": light})
