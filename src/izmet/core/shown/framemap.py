"""What does each output frame of the edit ask for?

One request per output frame, from the first that any clip covers to the last: which
clip, where in its take, which way and how fast the picture travels there, how the
picture is sampled, and the effects that follow. Preview, renderer, landings and
read-back all read the same requests. Later clips lie over earlier ones; a frame that
no clip covers is black, and so is one where the edit wants it to be. The requests are
kept as arrays, a column for each fact.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Directions, Frames
from izmet.core.retime.solve import Curve

BLACK = -1
Sampling = Literal["nearest"]
Indices = NDArray[np.int32]


class Request(NamedTuple):
    """What one output frame shows: a source position of a clip, on its way at a speed; None is black."""

    clip: str | None
    position: float
    picture: int
    direction: int
    speed: float
    sampling: Sampling = "nearest"
    effects: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class FrameMap:
    """The requests from output frame ``first`` on, each column of shape (count,).

    ``clip`` counts in ``clips``, the ids of all clips from the lowest to the topmost,
    and is BLACK where none is seen. ``picture`` is the source frame that nearest
    sampling shows at ``position``.
    """

    first: int
    clips: tuple[str, ...]
    clip: Indices
    position: Floats
    picture: Frames
    direction: Directions
    speed: Floats

    def __len__(self) -> int:
        return len(self.clip)

    def request(self, index: int) -> Request:
        """The request of the frame ``index`` frames after the first."""
        clip = int(self.clip[index])
        if clip == BLACK:
            return Request(None, 0.0, 0, 1, 0.0)
        return Request(
            self.clips[clip],
            float(self.position[index]),
            int(self.picture[index]),
            int(self.direction[index]),
            float(self.speed[index]),
        )

    def stretches(self) -> Iterator[tuple[str | None, range]]:
        """The stretches that show one clip each (None: black), with the indices of their frames."""
        edges = [0, *(np.flatnonzero(np.diff(self.clip)) + 1).tolist(), len(self)]
        for begin, end in pairwise(edges):
            if begin < end:
                clip = int(self.clip[begin])
                yield None if clip == BLACK else self.clips[clip], range(begin, end)

    @property
    def frames(self) -> range:
        """The output frames that it tells of."""
        return range(self.first, self.first + len(self))

    def part_of(self, frames: range) -> slice:
        """The indices of these output frames, as far as there are any here."""
        begin, end = (min(max(0, n - self.first), len(self)) for n in (frames.start, frames.stop))
        return slice(begin, max(begin, end))

    def between(self, frames: range) -> FrameMap:
        """The same requests, of these output frames alone."""
        part = self.part_of(frames)
        return FrameMap(
            self.first + part.start,
            self.clips,
            self.clip[part],
            self.position[part],
            self.picture[part],
            self.direction[part],
            self.speed[part],
        )

    @cached_property
    def seen(self) -> list[int]:
        """On how many frames each of ``clips`` is seen."""
        counts: list[int] = np.bincount(self.clip + 1, minlength=len(self.clips) + 1)[1:].tolist()
        return counts

    @cached_property
    def index_of(self) -> dict[str, int]:
        """Each clip's place in ``clips``."""
        return {id: index for index, id in enumerate(self.clips)}


def frame_map(clips: Sequence[str], curves: Sequence[Curve], blacks: Sequence[range] = ()) -> FrameMap:
    """The frame map of clips, given their ids and curves from the lowest to the topmost.

    Args:
        blacks: output frames on which none of them is seen.
    """
    first = min((curve.first for curve in curves), default=0)
    count = max((curve.last for curve in curves), default=first - 1) + 1 - first
    nothing = FrameMap(
        first,
        tuple(clips),
        np.full(count, BLACK, np.int32),
        np.zeros(count),
        np.zeros(count, np.int64),
        np.ones(count, np.int8),
        np.zeros(count),
    )
    return repainted(nothing, curves, nothing.frames, blacks)


def repainted(
    shown: FrameMap, curves: Sequence[Curve], frames: range, blacks: Sequence[range] = ()
) -> FrameMap:
    """A frame map with some output frames asked anew of the same clips' curves."""
    clip, position, speed = shown.clip.copy(), shown.position.copy(), shown.speed.copy()
    picture, direction = shown.picture.copy(), shown.direction.copy()
    part = shown.part_of(frames)
    clip[part], position[part], picture[part], direction[part], speed[part] = BLACK, 0, 0, 1, 0
    begin, end = shown.first + part.start, shown.first + part.stop
    for index, curve in enumerate(curves):
        since, until = max(begin, curve.first), min(end, curve.last + 1)
        if since < until:
            to = slice(since - shown.first, until - shown.first)
            of = slice(since - curve.first, until - curve.first)
            clip[to] = index
            position[to], speed[to] = curve.source[of], curve.speed[of]
            picture[to], direction[to] = curve.shown[of], curve.way[of]
    for black in blacks:
        dark = shown.part_of(range(max(begin, black.start), min(end, black.stop)))
        clip[dark] = BLACK
    return FrameMap(shown.first, shown.clips, clip, position, picture, direction, speed)
