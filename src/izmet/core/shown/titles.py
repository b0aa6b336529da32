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
    """The output frames of a title, none of them after the end of the edit."""
    frames, end = edit.frames_in(title), end_of(edit)
    if end is None:
        return frames
    return range(frames.start, end.stop if title.to_end else min(frames.stop, end.stop))


def cards(titles: Iterable[Lettered]) -> Iterator[Layer]:
    """What lies beneath titles that stand on a card: a plain colour, as much as they are seen themselves."""
    for each in titles:
        if each.title.card is not None:
            none = np.zeros(len(each), np.int64)
            yield Layer(each.first, BLACK, none, _seen(each.title, len(each)), colour=each.title.card)


def _lies(title: Lettering, frames: range) -> Floats:
    """Opacity, x, y, scale and turn on each frame, shape (count, 5)."""
    coming, going = _parts(title, len(frames))
    lies = STILL + _beside(title.comes)[None] * (1 - coming)[:, None]
    lies = lies + _beside(title.goes)[None] * (1 - going)[:, None]
    found: Floats = np.column_stack([_seen(title, len(frames)), lies])
    return found


def _seen(title: Lettering, count: int) -> Floats:
    """How much is seen of a title on each of its frames."""
    coming, going = _parts(title, count)
    seen = np.ones(count)
    for part, way in ((coming, title.comes), (going, title.goes)):
        seen *= part if way.fade else 1
    return seen


def _parts(title: Lettering, count: int) -> tuple[Floats, Floats]:
    """How far a title has come, and how far it has yet to go, on each of its frames, 0 to 1."""
    wanted = title.comes.frames + title.goes.frames
    shared = min(1.0, count / wanted) if wanted else 1.0
    n = np.arange(count, dtype=float)
    return _along(title.comes, n, shared), _along(title.goes, n[::-1], shared)


def _along(way: Entrance, n: Floats, shared: float) -> Floats:
    frames = way.frames * shared
    return eased(way.ease, np.minimum(1.0, (n + 1) / (frames + 1)))[0]


def _beside(way: Entrance) -> Floats:
    beside: Floats = np.array([way.x, way.y, way.scale, way.turn]) - STILL
    return beside
