"""What is seen around a cut where one clip comes in over another?

Both are seen for some output frames, half on each side of the cut, and each goes on there as
it is. Before the cut the clip that comes is a layer over the one that goes, after it the other
way round, so that what fills the frame is cut where it always was. How far it is goes evenly
from 0 to 1, in as many steps as there are frames and one more.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.overlaps import Overlap, OverlapKind, Way
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Frames
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK, FrameMap, Layer, Mask, Place, Placing
from izmet.core.shown.framing import point_seen
from izmet.core.shown.reveals import revealed

WAYS: dict[Way, tuple[int, int]] = {"left": (-1, 0), "right": (1, 0), "up": (0, -1), "down": (0, 1)}
"""How far a step this way goes across and down."""
OPPOSITE: dict[Way, Way] = {"left": "right", "right": "left", "up": "down", "down": "up"}
EDGES: dict[Way, tuple[str, bool]] = {
    "left": ("left", False), "right": ("right", True), "up": ("top", False), "down": ("bottom", True)
}  # fmt: skip
"""Which side of what is seen an edge is that goes this way, and whether it starts at the left or the top."""


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


def halves(frames: int, kind: OverlapKind) -> tuple[int, int]:
    """How many of the frames of an overlap lie before its cut, and how many after."""
    return (frames, 0) if kind == "reveal" else (frames // 2, frames - frames // 2)


def room_beyond(edit: Edit, clip: Clip, curve: Curve, frames: range) -> int:
    """How many of some output frames next to a clip, the nearest first, its take has pictures for."""
    source, _ = curve.beside(np.arange(frames.start, frames.stop))
    inside = (source >= 0) & (source <= edit.take(clip.take).frames - 1)
    nearest_first = inside[::-1] if frames.stop <= curve.first else inside
    return _run(nearest_first.astype(np.int32), 1)


def overlapped(
    edit: Edit, curves: Sequence[Curve], ground: FrameMap, met: Meeting, overlap: Overlap
) -> Iterator[tuple[Layer, Placing | None]]:
    """The layers of an overlap, each with the placing of the ground beneath it where that is moved."""
    lead, tail = halves(overlap.frames, overlap.kind)
    for clip, part in ((met.after, range(met.n - lead, met.n)), (met.before, range(met.n, met.n + tail))):
        frames = range(max(part.start, met.n - met.room[0]), min(part.stop, met.n + met.room[1]))
        if not frames:
            continue
        n = np.arange(frames.start, frames.stop)
        if overlap.kind == "dip":
            dark = np.where(n < met.n, (n - met.n + lead + 1) / max(lead, 1), (met.n + tail - n) / (tail + 1))
            yield Layer(frames.start, BLACK, np.zeros(len(n), np.int64), dark), None
        else:
            layer = Layer(
                frames.start, clip, _pictures(edit, edit.clips[clip], curves[clip], frames), np.ones(len(n))
            )
            far = (n - met.n + lead + 1) / (overlap.frames + 1)
            if overlap.kind == "reveal":
                reveal = overlap.reveal
                point = np.tile(np.array([[reveal.x], [reveal.y]]), len(n))
                tracks = edit.take(edit.clips[met.before].take).tracks
                if track := next((each for each in tracks if each.id == reveal.track), None):
                    point = point_seen(edit, curves, ground, met.before, track, n)
                yield replace(layer, placing=revealed(reveal, layer.first, far, point)), None
            else:
                yield _laid(overlap, layer, far, clip == met.after, edit.width / edit.height)


def _laid(
    overlap: Overlap, layer: Layer, far: Floats, coming: bool, sides: float
) -> tuple[Layer, Placing | None]:
    """A layer that comes or goes as far as it is on each frame, and the placing of the ground.

    Args:
        sides: width of the frame over its height.
    """
    part = far if coming else 1 - far
    match overlap.kind:
        case "wipe":
            side = overlap.way if coming else OPPOSITE[overlap.way]
            return replace(layer, placing=Placing(layer.first, _behind(side, part))), None
        case "iris":
            mask: Mask = "ellipse" if coming else "outside"
            return replace(layer, placing=Placing(layer.first, _opened(far), mask)), None
        case "push":  # What comes is still so far from its place, and what goes so far out of it.
            comes, goes = (_moved(overlap.way, by) for by in (far - 1, far))
        case "spin":
            comes, goes = (_turned(overlap.way, by, sides) for by in (far - 1, far))
        case "zoom":
            comes, goes = _values(scale=np.ones(len(far))), _values(scale=1 + far)
        case _:
            return replace(layer, opacity=part), None
    over, under = (comes, goes) if coming else (goes, comes)
    opacity = layer.opacity if overlap.kind == "push" else part
    return replace(layer, opacity=opacity, placing=Placing(layer.first, over)), Placing(layer.first, under)


def _behind(way: Way, part: Floats) -> Floats:
    """Of each frame the part that an edge which goes this way has left behind it, values of a placing."""
    side, first = EDGES[way]
    return _values(**{side: part if first else 1 - part})


def _moved(way: Way, by: Floats) -> Floats:
    """A picture moved this way by parts of the frame, values of a placing."""
    across, down = WAYS[way]
    return _values(x=across * by, y=down * by)


def _opened(far: Floats) -> Floats:
    """The sides of an ellipse that covers the whole frame in the end, values of a placing."""
    reach = far / np.sqrt(2)
    return _values(left=0.5 - reach, top=0.5 - reach, right=0.5 + reach, bottom=0.5 + reach)


def _turned(way: Way, by: Floats, sides: float) -> Floats:
    """A picture turned by parts of a quarter turn, grown so far that it still covers the frame."""
    degrees = 90 * by * sum(WAYS[way])
    angle = np.abs(np.deg2rad(degrees))
    return _values(turn=degrees, scale=np.cos(angle) + max(sides, 1 / sides) * np.sin(angle))


def _values(**columns: Floats) -> Floats:
    count = len(next(iter(columns.values())))
    values = np.tile(np.array(Place()), (count, 1))
    for name, column in columns.items():
        values[:, Place._fields.index(name)] = column
    return values


def _pictures(edit: Edit, clip: Clip, curve: Curve, frames: range) -> Frames:
    """The source frames that a clip shows on output frames beside its own, shape (frames,)."""
    _, picture = curve.beside(np.arange(frames.start, frames.stop))
    return np.clip(picture, 0, edit.take(clip.take).frames - 1)
