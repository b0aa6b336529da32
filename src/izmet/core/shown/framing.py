"""How does a clip's picture lie in the frame, on each output frame?

It is moved, grown and turned as its keys say, about its own middle; or about a tracked point, which then
stays in one place of the frame. Between two keys places and turns change along the course of the later one,
and so does the logarithm of the scale, so that growth looks even.

Of a picture that fills the frame no edge is ever seen. Where point ``f`` of the picture lies at ``X`` of the
frame, a corner ``c`` of the frame reads the picture at ``f + R⁻¹(c − X) / s``: that lies within its sides for
all four from some scale ``s`` on. A point near the picture's edge would ask for any scale; beyond
``MOST_GROWN`` the point gives way instead.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Brake, Build, Clip, Dip, Edit, Shape, Swell
from izmet.core.document.framing import Bend, FramingKey, KeptPoint, Track
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.values import Easing
from izmet.core.memo import Memo
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Frames
from izmet.core.retime.shapes import profile_of
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import BLACK, REMEMBERED_BYTES, Framed, FrameMap, Mix

MOST_GROWN = 4.0
"""How far a picture grows at most, times what is asked, to keep a point in its place."""
TINY = 1e-9
Pair = tuple[float, float]
MIDDLE: Pair = (0.5, 0.5)


class Lies(NamedTuple):
    """Where a take's picture lies in the frame before it is framed, in parts of the frame; cut where it is
    larger."""

    left: float
    top: float
    wide: float
    high: float

    def at(self, point: Floats) -> Floats:
        """Where in the frame a point in parts of the picture lies, shape (2, count)."""
        found: Floats = np.array([[self.left], [self.top]]) + point * np.array([[self.wide], [self.high]])
        return found


def lies(edit: Edit, clip: Clip) -> Lies:
    """Where a clip's picture lies before it is framed: filling the frame, or fitted into it."""
    take = edit.take(clip.take)
    sides = (take.width / edit.width, take.height / edit.height)
    by = max(sides) if clip.fit == "fit" else min(sides)
    wide, high = (side / by for side in sides)
    return Lies((1 - wide) * clip.across, (1 - high) * clip.down, wide, high)


def framings_of(edit: Edit, curves: Sequence[Curve], ground: FrameMap, beside: int) -> dict[int, Framed]:
    """How the pictures of all clips lie that are framed, by their places in the edit.

    Args:
        beside: output frames on which a clip may be seen before and after its own.
    """
    framed = [place for place, clip in enumerate(edit.clips) if clip.framing is not None]
    found: dict[int, Framed] = {}
    # A point is kept where that of the clip before it is: in the order in which they begin.
    for place in sorted(framed, key=lambda each: (curves[each].first, each)):
        clip, curve, mix = edit.clips[place], curves[place], ground.mixes.get(place)
        assert clip.framing is not None
        keys = tuple(_keys_of(edit, clip, curve, clip.framing.keys))
        kept = clip.framing.kept
        asked = _wanted(edit, curves, ground, place, kept, found) if kept is not None else None
        parts = (curve, edit.take(clip.take)) if mix is None else (curve, edit.take(clip.take), mix)
        facts = (keys, asked, beside, edit.width, edit.height)
        made = partial(_framed, edit, clip, curve, mix, keys, asked, beside)
        found[place] = _KEPT.recall(parts, facts, made)
    return found


_KEPT: Memo[Framed] = Memo(REMEMBERED_BYTES, lambda framed: framed.nbytes)
Keys = Sequence[tuple[int, FramingKey]]


def _keys_of(
    edit: Edit, clip: Clip, curve: Curve, keys: Sequence[FramingKey]
) -> Iterator[tuple[int, FramingKey]]:
    """Keys with their output frames, in order. Of two on one frame the one that was added later counts."""
    placed: dict[int, FramingKey] = {}
    for key in keys:
        n = key_frame(edit, clip, curve, key)
        if n is not None:
            placed[n] = key
    yield from sorted(placed.items())


def key_frame(edit: Edit, clip: Clip, curve: Curve, key: FramingKey) -> int | None:
    """The output frame of a key; None where what it stands on of the take is never seen."""
    if not key.at.open_n:
        return edit.place_of(key.at)
    for pin, fixed in zip(clip.pins, curve.pins, strict=True):
        if key.at.moment is not None and pin.moment == key.at.moment and fixed.n in curve.covered:
            return int(fixed.n)
    p = key.at.p if key.at.moment is None else float(edit.moment(clip.take, key.at.moment).frame)
    assert p is not None
    short = (curve.source - p) * curve.way
    there = np.flatnonzero(
        (short >= -FRAME_TOLERANCE) & (short < np.abs(curve.speed) * _step(edit, clip) + 1)
    )
    return curve.first + int(there[0]) if len(there) else None


def _step(edit: Edit, clip: Clip) -> float:
    return float(edit.take(clip.take).rate / edit.rate)


@dataclass(frozen=True)
class _Wanted:
    """A tracked point, and where of the frame it is to be; None: where it is on the clip's first frame."""

    track: Track
    through: bool
    to: Pair | None


def _wanted(
    edit: Edit,
    curves: Sequence[Curve],
    ground: FrameMap,
    place: int,
    kept: KeptPoint,
    found: dict[int, Framed],
) -> _Wanted:
    track = edit.track(edit.clips[place].take, kept.track)
    if kept.x is not None and kept.y is not None:
        return _Wanted(track, kept.through, (kept.x, kept.y))
    last = curves[place].first - 1
    before = int(ground.clip[last - ground.first]) if last in ground.frames else BLACK
    clip = edit.clips[before] if before != BLACK else None
    if clip is None or before not in found or clip.framing is None or clip.framing.kept is None:
        return _Wanted(track, kept.through, None)
    theirs = edit.track(clip.take, clip.framing.kept.track)
    mix = ground.mixes.get(before)
    seen = _point(edit, clip, theirs, _pictures(curves[before], mix, np.array([last])))
    x, y = found[before].seen_at(np.array([last]), seen, edit.width / edit.height)[:, 0].tolist()
    return _Wanted(track, kept.through, (x, y))


def point_seen(
    edit: Edit, curves: Sequence[Curve], ground: FrameMap, place: int, track: Track, n: Frames
) -> Floats:
    """Where in the frame a tracked point of a clip is seen, on each output frame, shape (2, count)."""
    clip = edit.clips[place]
    point = _point(edit, clip, track, _pictures(curves[place], ground.mixes.get(place), n))
    framed = ground.framings.get(place)
    return point if framed is None else framed.seen_at(n, point, edit.width / edit.height)


def _point(edit: Edit, clip: Clip, track: Track, picture: Floats) -> Floats:
    """Where a tracked point lies in the frame before it is framed, on each picture, shape (2, count)."""
    return lies(edit, clip).at(tracked(track, picture))


def tracked(track: Track, picture: Floats) -> Floats:
    """Where a tracked point is in each picture, in parts of it, shape (2, count)."""
    frame, x, y = np.array([(point.frame, point.x, point.y) for point in track.points]).T
    return np.stack([np.interp(picture, frame, x), np.interp(picture, frame, y)])


def _pictures(curve: Curve, mix: Mix | None, n: Frames) -> Floats:
    """The source frame that is seen on each output frame; between two where these are mixed."""
    picture = curve.beside(n)[1].astype(np.float64)
    own = (n >= curve.first) & (n <= curve.last)
    picture[own] = curve.shown[n[own] - curve.first]
    if mix is not None:
        mixed = (n >= mix.first) & (n < mix.first + len(mix))
        at = n[mixed] - mix.first
        picture[mixed] = (mix.pictures[at] * mix.weights[at]).sum(axis=1)
    return picture


def _framed(
    edit: Edit, clip: Clip, curve: Curve, mix: Mix | None, keys: Keys, asked: _Wanted | None, beside: int
) -> Framed:
    n = np.arange(curve.first - beside, curve.last + 1 + beside)
    x, y, scale, turn = _along(keys, n)
    point = np.full((2, len(n)), 0.5)
    to = np.array(MIDDLE)
    if asked is not None:
        point = _point(edit, clip, asked.track, _pictures(curve, mix, n))
        first = point[:, beside]
        if not asked.through:
            point = np.tile(first[:, None], len(n))
        to = first if asked.to is None else np.array(asked.to)
    laid = _Laid(edit.width / edit.height, point, to[:, None] + np.stack([x, y]), scale, turn)
    if clip.fit == "fill":
        own = slice(beside, len(n) - beside)
        laid = _covering(laid, lies(edit, clip), own if asked is not None and asked.through else None)
    return replace(laid.framed(int(n[0])), keys={key.id: n for n, key in keys})


def keys_along(edit: Edit, clip: Clip, curve: Curve, n: Frames) -> tuple[Floats, Floats, Floats, Floats]:
    """What a clip's keys say on output frames: across, down, how large, how far turned."""
    return _along(tuple(_keys_of(edit, clip, curve, clip.framing.keys if clip.framing else ())), n)


def _along(keys: Keys, n: Frames) -> tuple[Floats, Floats, Floats, Floats]:
    """Where keys say that the picture lies: across, down, how large, how far turned."""
    values = np.array([(key.x, key.y, np.log(key.scale), key.turn) for _, key in keys] or [(0.0,) * 4])
    columns = np.tile(values[0][:, None], len(n))
    for (since, _), (at, key), one, other in zip(keys, keys[1:], values, values[1:], strict=False):
        within = n > since
        far = _far(key.ease, np.clip((n[within] - since) / (at - since), 0, 1))
        columns[:, within] = one[:, None] + (other - one)[:, None] * far
    x, y, scale, turn = columns
    return x, y, np.exp(scale), turn


def _far(ease: Easing | Bend, x: Floats) -> Floats:
    """How far a change has come at parts of its time, 0 to 1."""
    if not isinstance(ease, Bend):
        return eased(ease, x)[0]
    slow = 1 - ease.strength
    match ease.shape:
        case "dip":
            shape: Shape = Dip(strength=ease.strength)
        case "swell":
            shape = Swell(strength=ease.strength)
        case "build":
            shape = Build(start=slow, change=0.5)
        case "brake":
            shape = Brake(end=slow, change=0.5)
    return profile_of(shape, 1.0).advance(x)


@dataclass(frozen=True)
class _Laid:
    """A picture with a point of it at a place of the frame, grown and turned about that, on each frame.

    ``point`` and ``to`` are parts of the frame, shape (2, count); ``sides`` is its width over its height.
    """

    sides: float
    point: Floats
    to: Floats
    scale: Floats
    turn: Floats

    def reach(self) -> Floats:
        """From the place to the frame's four corners as the turned picture counts, in heights of the frame;
        shape (2, 4, count)."""
        angle = np.deg2rad(self.turn)
        cos, sin = np.cos(angle), np.sin(angle)
        right = (np.array([[0], [1], [0], [1]]) - self.to[0]) * self.sides
        below = np.array([[0], [0], [1], [1]]) - self.to[1]
        return np.stack([right * cos + below * sin, below * cos - right * sin])

    def framed(self, first: int) -> Framed:
        """The same told by where the picture's middle comes to lie."""
        angle = np.deg2rad(self.turn)
        right, below = (0.5 - self.point[0]) * self.sides, 0.5 - self.point[1]
        x = self.to[0] + self.scale * (right * np.cos(angle) - below * np.sin(angle)) / self.sides - 0.5
        y = self.to[1] + self.scale * (right * np.sin(angle) + below * np.cos(angle)) - 0.5
        return Framed(first, np.stack([x, y, self.scale, self.turn], axis=1))


def _covering(laid: _Laid, box: Lies, steady: slice | None) -> _Laid:
    """The same, grown so far that no edge of the picture is seen; alike all through a ``steady`` part."""
    in_heights = np.array([laid.sides, 1.0])
    reach = laid.reach()
    size = np.array([box.wide, box.high]) * in_heights
    low = (np.array([[box.left], [box.top]]) - laid.point) * in_heights[:, None]
    high = low + size[:, None]
    # Wherever it lies, it must be as large as what the frame takes in.
    least = np.maximum(laid.scale, (np.ptp(reach, axis=1) / size[:, None]).max(axis=0))
    beyond = np.where(
        reach > 0, reach / np.maximum(high, TINY)[:, None], reach / np.minimum(low, -TINY)[:, None]
    )
    scale = np.minimum(np.maximum(least, beyond.max(axis=(0, 1))), MOST_GROWN * least)
    if steady is not None:
        scale = np.maximum(scale, laid.scale * (scale[steady] / laid.scale[steady]).max())
    read = reach / scale
    inward = np.maximum(low - read.min(axis=1), 0) - np.maximum(read.max(axis=1) - high, 0)
    return replace(laid, point=laid.point + inward / in_heights[:, None], scale=scale)
