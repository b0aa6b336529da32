"""What does each output frame of the edit ask for?

A stack, from the bottom up: the picture that fills the frame, then the layers over it,
then the looks over all, then titles. A picture is one of its take, or a mix of some. Preview, renderer,
landings and read-back all read it.

The ground of the stack is one request per output frame, from the first that any clip
covers to the last: which clip, where in its take, which way and how fast the picture
travels there. Later clips lie over earlier ones, and what covers all ends the stack; a
frame that no clip covers is black, and so is one where the edit wants it to be. It is
kept as arrays, a column for each fact. Mixes, layers and looks are columns too, of the
frames alone on which they are: a plain edit has none.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from typing import Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.framing import Keying
from izmet.core.document.overlaps import Corners
from izmet.core.document.titles import Lettering
from izmet.core.document.values import BlendMode
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Directions, Frames
from izmet.core.retime.solve import Curve

BLACK, BLACK_COLOUR = -1, "#000000"
REMEMBERED_BYTES, RUN_BYTES = 32 * 2**20, 500
"""What is held at most of one kind of run for the next look, and what each takes beside its columns."""
Indices = NDArray[np.int32]


LookKind = Literal["move", "zoom-blur", "drain", "dim", "flash", "letterbox"]
"""In the order in which they are done."""
Mask = Literal["box", "ellipse", "outside", "polygon"]
How = Literal["as it is", "guarded", "blend", "still", "far", "blur", "draft", "fine"]
HOWS: tuple[How, ...] = get_args(How)
"""What frames are made of, by number: one picture as it is, or because nothing of the next one may be mixed
in; two that blend, for that is wished, or because they hardly differ or moved too far for flow to follow; all
that passes while the shutter is open; or two that are moved to one another, as a draft or finely."""


class Request(NamedTuple):
    """What one output frame shows: a source position of a clip, on its way at a speed; None is black."""

    clip: str | None
    position: float
    picture: int
    direction: int
    speed: float


@dataclass(frozen=True, eq=False)
class Run:
    """Base of what is there on some output frames alone, from ``first`` on."""

    first: int

    def __len__(self) -> int:
        raise NotImplementedError

    @property
    def frames(self) -> range:
        """The output frames on which it is."""
        return range(self.first, self.first + len(self))

    def meets(self, frames: range) -> bool:
        """Whether it is there on any of these output frames."""
        return self.first < frames.stop and self.first + len(self) > frames.start

    def within(self, frames: range) -> slice:
        """Where it lies among these output frames, which hold all of it."""
        return slice(self.first - frames.start, self.first - frames.start + len(self))

    def part_of(self, frames: range) -> slice:
        """The places of these output frames in its columns, as far as there are any."""
        begin, end = (min(max(0, n - self.first), len(self)) for n in (frames.start, frames.stop))
        return slice(begin, max(begin, end))


@dataclass(frozen=True, eq=False)
class Mix(Run):
    """Source pictures that are seen together, by their weights; columns of shape (count, pictures).

    Those of a frame come in the order of travel, and their weights add up to 1. What a frame
    does not need weighs nothing, and is its last picture again. ``how`` tells what each is made of,
    numbers in ``HOWS``, shape (count,): where pictures flow, the first two are moved to one another as
    far as the weight of the second says.
    """

    pictures: Frames
    weights: Floats
    how: NDArray[np.int8]

    def __len__(self) -> int:
        return len(self.pictures)

    def between(self, frames: range) -> Mix:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        return replace(
            self,
            first=self.first + part.start,
            pictures=self.pictures[part],
            weights=self.weights[part],
            how=self.how[part],
        )

    @property
    def farthest(self) -> Frames:
        """The picture farthest on the way that is seen on each frame, shape (count,)."""
        return self.pictures[:, -1]

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return self.pictures.nbytes + self.weights.nbytes + self.how.nbytes


class Place(NamedTuple):
    """Where a picture lies on one output frame: moved, grown and turned, and what of the frame it is seen in.

    All are parts of the frame's width or height, from the left and from the top. It grows and
    turns about its own middle, clockwise and in degrees.
    """

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    turn: float = 0.0
    left: float = 0.0
    top: float = 0.0
    right: float = 1.0
    bottom: float = 1.0


@dataclass(frozen=True, eq=False)
class Placing(Run):
    """Where a picture lies, and what of it is seen: the values of ``Place`` in columns, shape (count, 8).

    It is seen within the sides of the place, by its ``mask`` all of that, or in the ellipse that
    fills it, or everywhere but in that ellipse; or in the polygon with these ``corners``, which lie beside
    the middle in halves of the sides.
    """

    values: Floats
    mask: Mask = "box"
    corners: Corners = ()

    def __len__(self) -> int:
        return len(self.values)

    def between(self, frames: range) -> Placing:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        return replace(self, first=self.first + part.start, values=self.values[part])

    def at(self, n: int) -> Place:
        """Where it lies on an output frame."""
        return Place(*self.values[n - self.first].tolist())


@dataclass(frozen=True, eq=False)
class Framed(Run):
    """How a clip's picture lies in the frame: x, y, scale and turn as in a ``Place``, shape (count, 4).

    What is moved is the whole picture, of which the frame shows a part where it is the larger one. ``keys``
    are the output frames of the keys that are seen, by their ids.
    """

    values: Floats
    keys: Mapping[str, int] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.values)

    def between(self, frames: range) -> Framed:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        return replace(self, first=self.first + part.start, values=self.values[part])

    def on(self, frames: Frames) -> Floats:
        """The values on some output frames, which are all within, shape (frames, 4)."""
        found: Floats = self.values[frames - self.first]
        return found

    def seen_at(self, n: Frames, point: Floats, sides: float) -> Floats:
        """Where points of the frame before it is framed lie on output frames, shape (2, frames).

        Args:
            sides: width of the frame over its height.
        """
        x, y, scale, turn = self.on(n).T
        angle = np.deg2rad(turn)
        right, below = (point[0] - 0.5) * sides, point[1] - 0.5
        across = 0.5 + x + scale * (right * np.cos(angle) - below * np.sin(angle)) / sides
        return np.stack([across, 0.5 + y + scale * (right * np.sin(angle) + below * np.cos(angle))])

    @property
    def most(self) -> float:
        """How far the picture grows at most."""
        return float(self.values[:, 2].max())

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return self.values.nbytes + RUN_BYTES


@dataclass(frozen=True, eq=False)
class Layer(Run):
    """A clip's picture over what lies beneath it; columns of shape (count,), ``opacity`` from 0 to 1.

    ``clip`` counts in the frame map's ``clips``, as it does there; in place of BLACK a plain
    ``colour`` is seen. Without a ``placing`` it lies as its clip does, and fills the frame. An ``echo`` is
    what the clip showed before, each one picture, ``framed`` as it was then. What an ``accent`` lays is told
    from overlaps. In an ``inset`` a clip is seen on its own frames; the background of its ``keying`` is not.
    """

    clip: int
    picture: Frames
    opacity: Floats
    placing: Placing | None = None
    blend: BlendMode = "normal"
    colour: str = BLACK_COLOUR
    echo: bool = False
    accent: bool = False
    framed: Framed | None = None
    inset: bool = False
    keying: Keying | None = None

    def __len__(self) -> int:
        return len(self.picture)

    def between(self, frames: range) -> Layer:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        return replace(
            self,
            first=self.first + part.start,
            picture=self.picture[part],
            opacity=self.opacity[part],
            placing=self.placing and self.placing.between(frames),
            framed=self.framed and self.framed.between(frames),
        )

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return self.picture.nbytes + self.opacity.nbytes + RUN_BYTES

    def shows(self, clip: int) -> bool:
        """Whether a clip, by its place, is seen in it as of the frame's own instant."""
        return self.clip == clip and not self.echo

    @property
    def is_opaque(self) -> bool:
        """Whether nothing is seen beneath it where its opacity is 1."""
        return self.clip == BLACK and self.blend == "normal" and self.placing is None


@dataclass(frozen=True, eq=False)
class Look(Run):
    """What is done to the whole picture; ``values`` are its parameters by name, columns of shape (count,).

    ``colour`` is that of what has one.
    """

    kind: LookKind
    values: Mapping[str, Floats]
    colour: str = BLACK_COLOUR

    def __len__(self) -> int:
        return len(next(iter(self.values.values())))

    @property
    def nbytes(self) -> int:
        """What it holds."""
        return sum(column.nbytes for column in self.values.values()) + RUN_BYTES

    def between(self, frames: range) -> Look:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        values = {name: column[part] for name, column in self.values.items()}
        return replace(self, first=self.first + part.start, values=values)

    def at(self, n: int) -> dict[str, float]:
        """Its parameters on an output frame."""
        return {name: float(column[n - self.first]) for name, column in self.values.items()}


@dataclass(frozen=True, eq=False)
class Lettered(Run):
    """A title: how much of it is seen, and x, y, scale and turn as in a ``Place``, shape (count, 5)."""

    title: Lettering
    values: Floats

    def __len__(self) -> int:
        return len(self.values)

    def between(self, frames: range) -> Lettered:
        """The same on these output frames alone."""
        part = self.part_of(frames)
        return replace(self, first=self.first + part.start, values=self.values[part])

    def at(self, n: int) -> tuple[float, Place]:
        """How much of it is seen on an output frame, and how it lies there."""
        seen, *lies = self.values[n - self.first].tolist()
        return seen, Place(*lies)


@dataclass(frozen=True, eq=False)
class FrameMap(Run):
    """The stack from output frame ``first`` on, each column of its ground of shape (count,).

    ``clip`` counts in ``clips``, the ids of all clips from the lowest to the topmost,
    and is BLACK where none is seen. ``picture`` is the source frame that nearest
    sampling shows at ``position``. ``mixes`` are those of clips of which several pictures are
    seen together, by their places in ``clips``: each on every frame on which the clip may be
    seen, in whatever part; and so are the ``framings`` of those that are framed. ``placings`` are those of
    the ground, where it is moved. ``layers``,
    ``looks`` and ``titles`` are in the order in which they lie over one another.
    """

    clips: tuple[str, ...]
    clip: Indices
    position: Floats
    picture: Frames
    direction: Directions
    speed: Floats
    layers: tuple[Layer, ...] = ()
    looks: tuple[Look, ...] = ()
    mixes: Mapping[int, Mix] = field(default_factory=dict)
    placings: tuple[Placing, ...] = ()
    framings: Mapping[int, Framed] = field(default_factory=dict)
    titles: tuple[Lettered, ...] = ()

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
        for clip, frames in self.runs():
            yield None if clip == BLACK else self.clips[clip], frames

    def runs(self) -> Iterator[tuple[int, range]]:
        """The stretches that show one clip each, by its place in ``clips``, with their frames' indices."""
        edges = [0, *(np.flatnonzero(np.diff(self.clip)) + 1).tolist(), len(self)]
        for begin, end in pairwise(edges):
            if begin < end:
                yield int(self.clip[begin]), range(begin, end)

    def between(self, frames: range) -> FrameMap:
        """The same stack, of these output frames alone."""
        at = self.part_of(frames)
        kept = range(self.first + at.start, self.first + at.stop)
        return FrameMap(
            kept.start,
            self.clips,
            self.clip[at],
            self.position[at],
            self.picture[at],
            self.direction[at],
            self.speed[at],
            tuple(layer.between(kept) for layer in self.layers if layer.meets(kept)),
            tuple(look.between(kept) for look in self.looks if look.meets(kept)),
            self.mixes,
            tuple(placing.between(kept) for placing in self.placings if placing.meets(kept)),
            self.framings,
            tuple(title.between(kept) for title in self.titles if title.meets(kept)),
        )

    def kinds(self) -> Iterator[FrameMap]:
        """The parts, in order, within which the stack is of one kind: one clip, the same layers,
        looks and titles."""
        edges = {0, len(self), *(np.flatnonzero(np.diff(self.clip)) + 1).tolist()}
        for run in (*self.layers, *self.looks, *self.placings, *self.titles):
            part = self.part_of(run.frames)
            edges |= {part.start, part.stop}
        for begin, end in pairwise(sorted(edges)):
            yield self.between(range(self.first + begin, self.first + end))

    def seen_of(self, clip: int, frames: range, farthest: bool = True) -> tuple[NDArray[np.bool_], Frames]:
        """On which output frames a clip is seen, in whatever part, and which picture, both (frames,).

        Of those that are mixed it is the one ``farthest`` on the way, or the one of the frame's own instant.
        """
        part = self.part_of(frames)
        mine = self.clip[part] == clip
        if len(mine) == len(frames) and not self.layers and clip not in self.mixes:
            return mine, self.picture[part]
        at = slice(self.first + part.start - frames.start, self.first + part.stop - frames.start)
        seen, picture = np.zeros(len(frames), bool), np.zeros(len(frames), np.int64)
        for layer in self.layers:
            if layer.shows(clip):
                over = layer.between(frames)
                to = over.within(frames)
                seen[to], picture[to] = over.opacity > 0, over.picture
        seen[at] |= mine
        for layer in self.layers:
            if layer.is_opaque:
                over = layer.between(frames)
                seen[over.within(frames)] &= over.opacity < 1
        picture[at] = np.where(mine, self.picture[part], picture[at])
        if farthest and (mix := self.mixes.get(clip)) is not None:
            mixed = mix.between(frames)
            to = mixed.within(frames)
            picture[to] = np.where(seen[to], mixed.farthest, picture[to])
        return seen, picture

    @cached_property
    def seen(self) -> list[int]:
        """On how many frames each of ``clips`` is seen."""
        counts: list[int] = np.bincount(self.clip + 1, minlength=len(self.clips) + 1)[1:].tolist()
        for layer in self.layers:
            if layer.inset:
                counts[layer.clip] += int(np.count_nonzero(layer.opacity))
        return counts

    @cached_property
    def beside(self) -> dict[int, tuple[tuple[int, int], ...]]:
        """Where each clip, by its place, is seen in a layer: the first output frames, and how many."""
        found: dict[int, tuple[tuple[int, int], ...]] = {}
        for layer in self.layers:
            if layer.shows(layer.clip):
                found[layer.clip] = (*found.get(layer.clip, ()), (layer.first, len(layer)))
        return found

    @cached_property
    def covering(self) -> tuple[tuple[int, bytes], ...]:
        """Where layers hide all that lies beneath them: from which output frame on, and on which after it."""
        return tuple(
            (layer.first, (layer.opacity == 1).tobytes()) for layer in self.layers if layer.is_opaque
        )

    @cached_property
    def index_of(self) -> dict[str, int]:
        """Each clip's place in ``clips``."""
        return {id: index for index, id in enumerate(self.clips)}


def frame_map(
    clips: Sequence[str],
    curves: Sequence[Curve],
    blacks: Sequence[range] = (),
    insets: Container[int] = (),
    reach: Iterable[range] = (),
) -> FrameMap:
    """The ground of the frame map of clips, given their ids and curves from the lowest to the topmost.

    Args:
        blacks: output frames on which none of them is seen.
        insets: the places of clips that lie over the ground and are no part of it.
        reach: output frames that it has beside those of the clips.
    """
    covered = [*(curve.covered for curve in curves), *reach]
    first = min((frames.start for frames in covered), default=0)
    count = max((frames.stop for frames in covered), default=first) - first
    nothing = FrameMap(
        first,
        tuple(clips),
        np.full(count, BLACK, np.int32),
        np.zeros(count),
        np.zeros(count, np.int64),
        np.ones(count, np.int8),
        np.zeros(count),
    )
    return repainted(nothing, curves, nothing.frames, blacks, insets)


def repainted(
    shown: FrameMap,
    curves: Sequence[Curve],
    frames: range,
    blacks: Sequence[range] = (),
    insets: Container[int] = (),
) -> FrameMap:
    """The ground of a frame map with some output frames asked anew of the same clips' curves."""
    clip, position, speed = shown.clip.copy(), shown.position.copy(), shown.speed.copy()
    picture, direction = shown.picture.copy(), shown.direction.copy()
    part = shown.part_of(frames)
    clip[part], position[part], picture[part], direction[part], speed[part] = BLACK, 0, 0, 1, 0
    begin, end = shown.first + part.start, shown.first + part.stop
    for index, curve in enumerate(curves):
        since, until = max(begin, curve.first), min(end, curve.last + 1)
        if since < until and index not in insets:
            to = slice(since - shown.first, until - shown.first)
            of = slice(since - curve.first, until - curve.first)
            clip[to] = index
            position[to], speed[to] = curve.source[of], curve.speed[of]
            picture[to], direction[to] = curve.shown[of], curve.way[of]
    for black in blacks:
        dark = shown.part_of(range(max(begin, black.start), min(end, black.stop)))
        clip[dark] = BLACK
    return replace(
        shown,
        clip=clip,
        position=position,
        picture=picture,
        direction=direction,
        speed=speed,
        layers=(),
        looks=(),
        mixes={},
        placings=(),
        framings={},
        titles=(),
    )
