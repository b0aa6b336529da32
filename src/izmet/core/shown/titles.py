"""Where are titles seen, and how do they lie in the frame there?

A title is fully there between the frames over which it comes and those over which it goes. Where both do not
fit it comes and goes over as many as there are, shared as they were.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np

from izmet.core.document.edit import Edit
from izmet.core.document.titles import Entrance, Lettering
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.shown.ending import end_of
from izmet.core.shown.framemap import BLACK, Layer, Lettered

STILL = np.array([0.0, 0.0, 1.0, 0.0])
"""The values of a title that lies in its place."""


def titles_shown(edit: Edit) -> Iterator[Lettered]:
    """How all titles that are on lie, the lowest first."""
    for title in edit.titles:
        if title.on and (frames := frames_of(edit, title)):
            yield Lettered(frames.start, title, _lies(title, frames))


def frames_of(edit: Edit, title: Lettering) -> range:
    """The output frames of a title, none of them after the end of the edit.

    One that stays to the end, and begins where the edit ends, does both wherever that comes to be.
    """
    frames, end = edit.frames_in(title), end_of(edit)
    if end is None or edit.ending is None:
        return frames
    if not title.to_end:
        return range(frames.start, min(frames.stop, end.stop))
    with_it = frames.start == edit.place_of(edit.ending.at)
    return range(end.dark if with_it else frames.start, end.stop)


def cards(titles: Iterable[Lettered]) -> Iterator[Layer]:
    """What lies beneath titles that stand on a card: a plain colour, as much as they are seen themselves."""
    for each in titles:
        if each.title.card is not None:
            none = np.zeros(len(each), np.int64)
            yield Layer(each.first, BLACK, none, each.values[:, 0], colour=each.title.card)


def _lies(title: Lettering, frames: range) -> Floats:
    """Opacity, x, y, scale and turn on each frame, shape (count, 5)."""
    count = len(frames)
    seen, lies = np.ones(count), np.tile(STILL, (count, 1))
    for way, part in zip((title.comes, title.goes), _parts(title, count), strict=True):
        lies += (np.array([way.x, way.y, way.scale, way.turn]) - STILL) * (1 - part)[:, None]
        seen *= part if way.fade else 1
    return np.column_stack([seen, lies])


def _parts(title: Lettering, count: int) -> tuple[Floats, Floats]:
    """How far a title has come, and how far it has yet to go, on each of its frames, 0 to 1."""
    wanted = title.comes.frames + title.goes.frames
    shared = min(1.0, count / wanted) if wanted else 1.0
    n = np.arange(count, dtype=float)
    return _along(title.comes, n, shared), _along(title.goes, n[::-1], shared)


def _along(way: Entrance, n: Floats, shared: float) -> Floats:
    frames = way.frames * shared
    return eased(way.ease, np.minimum(1.0, (n + 1) / (frames + 1)))[0]
