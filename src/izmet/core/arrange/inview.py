"""Which part of each picture stays, so that what a tie is about is seen in a frame of another shape?

What it is about is told by the take's tracked points at the tied moments. A picture that fills the frame is
cut where it is longer; it is moved along there until each of these points lies within the inner 80 % of the
frame at its hit, as little as that takes. A point nearer to the picture's edge than that asks for a picture
that is grown. Pictures that are framed by hand, fitted in, or laid in a corner stay as they are.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.framing import Framing, FramingKey
from izmet.core.document.places import Pin
from izmet.core.retime.solve import solve
from izmet.core.shown.framing import MOST_GROWN, lies, tracked

INNER = (0.1, 0.9)
FARTHEST = 2.0
"""How far a key moves a picture at most, in parts of the frame."""


class _Cut(NamedTuple):
    """Where along one side the picture is cut, and how it is moved when it has grown so far."""

    part: float
    moved: float


def kept_in_view(edit: Edit) -> Edit:
    """The edit with its pictures moved so that the points of their ties are seen at their hits."""
    clips = tuple(_in_view(edit, clip) for clip in edit.clips)
    return edit if clips == edit.clips else edit.model_copy(update={"clips": clips})


def _in_view(edit: Edit, clip: Clip) -> Clip:
    if clip.fit != "fill" or clip.framing is not None or clip.inset is not None:
        return clip
    points = np.array(list(_tied_points(edit, clip))).reshape(-1, 2)
    if len(points) == 0:
        return clip
    box = lies(edit, clip)
    sizes = (box.wide, box.high)
    wanted = max(_growth(column, size) for column, size in zip(points.T, sizes, strict=True))
    grown = max(1.0, min(wanted, MOST_GROWN, (1 + 2 * FARTHEST) / max(sizes)))
    across, down = (
        _cut(column, size * grown, own)
        for column, size, own in zip(points.T, sizes, (clip.across, clip.down), strict=True)
    )
    if grown == 1:
        return clip.model_copy(update={"across": across.part, "down": down.part})
    # It grows about its middle, which the frame's own middle is made to be.
    at = Pin(id="at", n=solve(edit, clip).first)
    key = FramingKey(id="key-1", at=at, x=across.moved, y=down.moved, scale=grown)
    return clip.model_copy(update={"across": 0.5, "down": 0.5, "framing": Framing(keys=(key,))})


def _tied_points(edit: Edit, clip: Clip) -> Iterator[tuple[float, float]]:
    """Where the tracked points of a clip's take are at its tied moments, in parts of the picture."""
    take = edit.take(clip.take)
    for pin in clip.pins:
        if pin.moment is None or pin.cue is None:
            continue
        frame = edit.moment(take.id, pin.moment).frame
        for track in take.tracks:
            if track.points[0].frame <= frame <= track.points[-1].frame:
                x, y = tracked(track, np.array([float(frame)]))[:, 0].tolist()
                yield x, y


def _growth(points: np.ndarray, size: float) -> float:
    """How far the picture, so many frames long along one side, has to grow for each point to come in."""
    near = np.clip(np.minimum(points, 1 - points), 1e-6, None)
    return float(max(1.0, (INNER[0] / (near * size)).max()))


def _cut(points: np.ndarray, size: float, part: float) -> _Cut:
    """Where a picture so many frames long is cut along one side, as near to ``part`` as its points allow."""
    over = size - 1
    if over <= 1e-9:
        return _Cut(part, 0.0)
    least, most = (points * size - INNER[1]).max(), (points * size - INNER[0]).min()
    wanted = part * over
    # Where not all fit in, the middle of them does.
    left = np.clip(wanted, least, most) if least <= most else (least + most) / 2
    left = float(np.clip(left, 0, over))
    return _Cut(left / over, over / 2 - left)
