"""What do clips lay over the picture that lie in a part of the frame?

An inset is a layer wherever no later clip fills the frame, and nothing is meant to be black. What it shows is
the frame that its clip would fill, made so large that it covers the inset's own sides, and cut there.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.framing import Inset
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK, FrameMap, Layer, Place, Placing


def insets_in(clips: Sequence[Clip]) -> frozenset[int]:
    """The places of clips that are insets."""
    return frozenset(place for place, clip in enumerate(clips) if clip.inset is not None)


def inset_layers(
    edit: Edit, curves: Sequence[Curve], ground: FrameMap, dark: NDArray[np.bool_]
) -> Iterator[Layer]:
    """The layers of all insets, the lowest first.

    Args:
        dark: on which frames of the ground nothing is to be seen.
    """
    for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        if clip.inset is None:
            continue
        part = ground.part_of(curve.covered)
        seen = (ground.clip[part] < place) & ~dark[part]
        edges = np.flatnonzero(np.diff(seen, prepend=False, append=False)).tolist()
        for begin, end in zip(edges[::2], edges[1::2], strict=True):
            yield from _laid(edit, place, curve, slice(begin, end))


def _laid(edit: Edit, place: int, curve: Curve, part: slice) -> Iterator[Layer]:
    clip = edit.clips[place]
    inset = clip.inset
    assert inset is not None
    frames = curve.frames[part]
    opacity = _faded(inset.fade, clip, curve)[part]
    first = int(frames[0])
    mask = inset.shape
    if inset.border and inset.keying is None:
        sides = edit.width / edit.height
        around = _place(inset, 2 * inset.border / sides, 2 * inset.border)
        placing = Placing(first, np.tile(around, (len(frames), 1)), mask)
        none = np.zeros(len(frames), np.int64)
        yield Layer(first, BLACK, none, opacity, placing, colour=inset.border_colour)
    placing = Placing(first, np.tile(_place(inset), (len(frames), 1)), mask)
    yield Layer(first, place, curve.shown[part], opacity, placing, keying=inset.keying, inset=True)


def _faded(fade: int, clip: Clip, curve: Curve) -> Floats:
    """How much is seen on each frame of a clip; all of it from its first tie to its last one."""
    ties = [int(fixed.n) for pin, fixed in zip(clip.pins, curve.pins, strict=True) if pin.is_tie]
    hits = [n for n in ties if n in curve.covered] or [curve.first + fade, curve.last - fade]
    since, until = curve.frames - curve.first, curve.last - curve.frames
    fades = (min(fade, hits[0] - curve.first), min(fade, curve.last - hits[-1]))
    parts = ((far + 1) / (max(0, each) + 1) for far, each in zip((since, until), fades, strict=True))
    found: Floats = np.minimum(1.0, np.minimum(*parts))
    return found


def _place(inset: Inset, wider: float = 0.0, higher: float = 0.0) -> Floats:
    """Where an inset lies, grown by parts of the frame; the values of a ``Place``."""
    wide, high = inset.width + wider, inset.height + higher
    return np.array(
        Place(
            x=inset.x - 0.5,
            y=inset.y - 0.5,
            scale=max(wide, high),
            left=inset.x - wide / 2,
            top=inset.y - high / 2,
            right=inset.x + wide / 2,
            bottom=inset.y + high / 2,
        )
    )
