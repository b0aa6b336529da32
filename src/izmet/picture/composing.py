"""What becomes of whole pictures on their way to the screen: placed, mixed, lit.

Conventions
    A picture is its three planes in 4:2:0, 8 bits, limited range (ITU-R BT.709): luma of
    shape (high, wide), even sides, and two of colour of half of both. ``VERSION`` goes up
    with any change to what comes out, so that nothing old is joined with new.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.core.document.framing import Keying
from izmet.core.shown.framemap import LookKind, Place, Placing
from izmet.core.shown.framing import Lies
from izmet.picture.blending import BLENDS, Colours
from izmet.picture.keying import keyed

Plane = NDArray[np.uint8]
Floats = NDArray[np.float64]
Parts = NDArray[np.float32]

VERSION = 6
TINY = 1e-6
WHOLE = 0.5 + TINY
"""How far from the middle of a picture its edge is, in parts of it."""
BLUR_STEPS = 16
SHIFT, FAR, EDGE = 4, 1000, 5
"""Binary places of a polygon's corners, how many frames away they lie at most, and how many samples across
its edge are reckoned one by one."""
RED, BLUE = 0.2126, 0.0722
"""What they have of luma: ITU-R BT.709."""
TO_BT709 = np.array(
    [
        [RED, 1 - RED - BLUE, BLUE],
        [-RED / (2 - 2 * BLUE), -(1 - RED - BLUE) / (2 - 2 * BLUE), 0.5],
        [0.5, -(1 - RED - BLUE) / (2 - 2 * RED), -BLUE / (2 - 2 * RED)],
    ],
    np.float32,
)
FROM_BT709 = np.linalg.inv(TO_BT709.astype(np.float64)).astype(np.float32)
OFFSETS, RANGES = np.array([16, 128, 128], np.float32), np.array([219, 224, 224], np.float32)
"""Levels of limited range, luma and both of colour: ITU-R BT.709."""


class Planes(NamedTuple):
    """A picture: luma, and what it has of blue and of red."""

    y: Plane
    u: Plane
    v: Plane

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.y.shape[1], self.y.shape[0]


def plain(size: tuple[int, int], colour: str = "#000000") -> Planes:
    """A picture of this width and height and of one colour, red, green and blue in hexadecimal."""
    wide, high = size
    channels = np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)], np.float32) / 255
    dot = _coded(np.tile(channels, (2, 2, 1)))
    sides = ((high, wide), (high // 2, wide // 2), (high // 2, wide // 2))
    return Planes(*(np.full(side, each[0, 0], np.uint8) for side, each in zip(sides, dot, strict=True)))


def placed(picture: Planes, size: tuple[int, int], across: float, down: float) -> Planes:
    """A picture in a frame of another size: cut where it is larger, on black where it is smaller.

    Args:
        size: width and height of the frame.
        across, down: which part stays, 0 the left or the top.
    """
    frame = plain(size)
    inner = (picture.y.shape[1], picture.y.shape[0])
    # Even offsets, so that colour, at half the size, is moved by whole samples. Below 0 it is cut.
    left, top = (
        2 * round((side - other) * part / 2)
        for side, other, part in zip(size, inner, (across, down), strict=True)
    )
    for index, (area, plane) in enumerate(zip(frame, picture, strict=True)):
        share = 2 if index else 1
        y, x = top // share, left // share
        shown = plane[max(0, -y) :, max(0, -x) :][: area.shape[0], : area.shape[1]]
        area[max(0, y) : max(0, y) + shown.shape[0], max(0, x) : max(0, x) + shown.shape[1]] = shown
    return frame


def mixed(under: Planes, over: Planes, opacity: float) -> Planes:
    """A picture with another one over it, which has this part of what is seen, 0 to 1."""
    return Planes(
        *(
            np.asarray(cv2.addWeighted(top, opacity, bottom, 1 - opacity, 0), np.uint8)
            for bottom, top in zip(under, over, strict=True)
        )
    )


def laid(
    under: Planes, over: Planes, opacity: float, placing: Placing, n: int, keying: Keying | None = None
) -> Planes:
    """A picture with another one over a part of it, moved, grown and turned as on output frame ``n``."""
    place = placing.at(n)
    if (place.scale, place.turn, placing.mask, keying) == (1, 0, "box", None):
        return _moved(under, over, opacity, place)
    top = Planes(*(_turned(plane, place) for plane in over))
    covers = [opacity * _cover(plane, place, placing) for plane in over]
    if keying is not None:
        (top_u, top_v), parts = keyed(top.u, top.v, keying)
        top = Planes(top.y, top_u, top_v)
        large = np.asarray(cv2.resize(parts, top.size, interpolation=cv2.INTER_LINEAR), np.float32)
        covers = [cover * seen for cover, seen in zip(covers, (large, parts, parts), strict=True)]
    return Planes(*map(_covered, under, top, covers))


def framed(picture: Planes, size: tuple[int, int], lies: Lies, row: Floats) -> Planes:
    """A whole picture in a frame of another size, moved, grown and turned; black where it does not reach.

    Args:
        size: width and height of the frame.
        lies: where it lies in the frame before that.
        row: as in ``framemap.Framed``.
    """
    x, y, scale, turn = row.tolist()
    back = _back(size, Place(x, y, scale, turn))
    within = np.array([[1 / lies.wide, 0, -lies.left / lies.wide], [0, 1 / lies.high, -lies.top / lies.high]])
    way = within @ np.vstack([back, [0, 0, 1]])
    shows_black = abs(_within_frame(way, np.array([[0, 0, 1, 1], [0, 1, 0, 1]])) - 0.5).max() > WHOLE
    found = []
    for index, (plane, black) in enumerate(zip(picture, OFFSETS, strict=True)):
        to = size if index == 0 else (size[0] // 2, size[1] // 2)
        dense = _halved(plane, to, way)
        read = _read(dense, to, way, cv2.BORDER_REPLICATE)
        if shows_black:
            read = _covered(np.full_like(read, int(black)), read, _reached(dense, to, way))
        found.append(read)
    return Planes(*found)


def _within_frame(way: Floats, places: Floats) -> Floats:
    """Where places in what comes out lie in what is read, in parts of both, shape (2, count)."""
    found: Floats = way[:, :2] @ places + way[:, 2:]
    return found


def _reached(plane: Plane, size: tuple[int, int], way: Floats) -> Parts:
    """How much of each sample the plane reaches, which ends over one of its own; shape (high, wide)."""
    wide, high = size
    places = np.stack(np.meshgrid((np.arange(wide) + 0.5) / wide, (np.arange(high) + 0.5) / high))
    inside = 0.5 - abs(_within_frame(way, places.reshape(2, -1)) - 0.5)
    across, down = (_inside(each * side) for each, side in zip(inside, plane.shape[::-1], strict=True))
    return (across * down).reshape(high, wide)


def _covered(under: Plane, over: Plane, part: Parts) -> Plane:
    """A plane with these parts of another one over it, shape (high, wide)."""
    return np.asarray(cv2.blendLinear(over, under, part, 1 - part), np.uint8)


def _turned(plane: Plane, place: Place, beyond: int = cv2.BORDER_REPLICATE) -> Plane:
    """A plane moved, grown and turned; what it leaves free is filled by OpenCV's rule ``beyond`` edges."""
    size = (plane.shape[1], plane.shape[0])
    way = _back(size, place)
    return _read(_halved(plane, size, way), size, way, beyond)


def _back(size: tuple[int, int], place: Place) -> Floats:
    """From where something is seen back to where it lies in a picture that is placed, both in parts of the
    frame: a matrix of shape (2, 3)."""
    sides = size[0] / size[1]
    angle = np.deg2rad(place.turn)
    cos, sin = np.cos(angle) / place.scale, np.sin(angle) / place.scale
    turned = np.array([[cos, sin / sides], [-sin * sides, cos]])
    moved = 0.5 - turned @ np.array([0.5 + place.x, 0.5 + place.y])
    return np.column_stack([turned, moved])


def _halved(plane: Plane, size: tuple[int, int], way: Floats) -> Plane:
    """A plane halved as often as that leaves more samples than will be read of it; as for ``_read``."""
    scales = np.sqrt(abs(np.linalg.det(way[:, :2])) * plane.size / (size[0] * size[1]))
    for _ in range(int(np.log2(max(1, scales + TINY)))):
        high, wide = plane.shape
        half = (max(1, wide // 2), max(1, high // 2))
        plane = np.asarray(cv2.resize(plane, half, interpolation=cv2.INTER_AREA), np.uint8)
    return plane


def _read(plane: Plane, size: tuple[int, int], way: Floats, beyond: int) -> Plane:
    """A plane of another size, each of its samples read where it lies in the first one.

    Args:
        size: width and height.
        way: from parts of what comes out to parts of what is read, shape (2, 3).
        beyond: OpenCV's rule for what lies beyond the edges.
    """
    sides = np.array([plane.shape[1], plane.shape[0]])
    # Samples lie half a sample from the corner.
    turned = way[:, :2] * sides[:, None] / np.array(size)
    moved = way[:, 2] * sides + turned.sum(axis=1) / 2 - 0.5
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    read = cv2.warpAffine(plane, np.column_stack([turned, moved]), size, flags=flags, borderMode=beyond)
    return np.asarray(read, np.uint8)


def _cover(plane: Plane, place: Place, placing: Placing) -> Parts:
    """How much of each of its samples a placed picture covers, shape of the plane.

    Edges are as soft as one sample: by how far it lies from them, as the graphics card reckons it.
    """
    high, wide = plane.shape
    x, y = np.arange(wide, dtype=np.float32) + 0.5, np.arange(high, dtype=np.float32)[:, None] + 0.5
    left, right, top, bottom = place.left * wide, place.right * wide, place.top * high, place.bottom * high
    across, down = (left + right) / 2, (top + bottom) / 2
    mask = placing.mask
    if mask == "polygon":
        beside = np.array([(corner.x, corner.y) for corner in placing.corners])
        corners = np.array([across, down]) + beside * [right - across, bottom - down]
        seen = _polygon((wide, high), corners)
    elif mask == "box":
        seen = _inside((right - left) / 2 - abs(x - across)) * _inside((bottom - top) / 2 - abs(y - down))
    else:
        wide_by, high_by = right - across, bottom - down
        near = np.hypot((x - across) / wide_by, (y - down) / high_by) + TINY
        slope = np.hypot((x - across) / wide_by**2, (y - down) / high_by**2) + TINY
        inside = _inside((1 - near) * near / slope)
        seen = inside if mask == "ellipse" else 1 - inside
    angle = np.deg2rad(place.turn)
    right_of, below = x - wide * (0.5 + place.x), y - high * (0.5 + place.y)
    own_x = (right_of * np.cos(angle) + below * np.sin(angle)) / place.scale
    own_y = (below * np.cos(angle) - right_of * np.sin(angle)) / place.scale
    own = _inside((wide / 2 - abs(own_x)) * place.scale) * _inside((high / 2 - abs(own_y)) * place.scale)
    return np.asarray(seen * own, np.float32)


def _polygon(size: tuple[int, int], corners: Floats) -> Parts:
    """How much of each sample lies in a polygon, its corners in samples; shape (high, wide)."""
    drawn = np.zeros((size[1], size[0]), np.uint8)
    # Corners far out of the frame would not fit OpenCV's whole numbers.
    near = np.clip(corners - 0.5, -FAR * max(size), FAR * max(size))
    drawable = [np.round(near * (1 << SHIFT)).astype(np.int32)]
    beside = np.zeros_like(drawn)
    cv2.fillPoly(drawn, drawable, 1, cv2.LINE_8, SHIFT)
    cv2.polylines(beside, drawable, True, 1, EDGE, cv2.LINE_8, SHIFT)
    covered = drawn.astype(np.float32)
    down, across = beside.nonzero()
    middles = np.stack([across, down], axis=1) + 0.5
    covered[down, across] = _inside(_within(middles.astype(np.float64), corners))
    return covered


def _within(points: Floats, corners: Floats) -> Floats:
    """How far points lie inside of a polygon, below 0 outside; both of shape (count, 2)."""
    away, sign = np.full(len(points), np.inf), np.full(len(points), -1)
    for one, other in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        side, off = other - one, points - one
        along = np.clip(off @ side / (side @ side), 0, 1)
        away = np.minimum(away, np.hypot(*(off - along[:, None] * side).T))
        left_of = side[0] * off[:, 1] > side[1] * off[:, 0]
        crossed = np.sum([points[:, 1] >= one[1], points[:, 1] < other[1], left_of], axis=0)
        sign = np.where((crossed == 0) | (crossed == 3), -sign, sign)
    found: Floats = away * sign
    return found


def _inside(far: Parts | Floats) -> Parts:
    """How much of a sample is seen that lies so far inside of an edge."""
    part: Parts = np.clip(far + 0.5, 0, 1).astype(np.float32)
    return part


def _moved(under: Planes, over: Planes, opacity: float, place: Place) -> Planes:
    """A picture with another one over a part of it, moved, to whole samples of colour."""
    wide, high = over.size
    x, left, right = (2 * round(part * wide / 2) for part in (place.x, place.left, place.right))
    y, top, bottom = (2 * round(part * high / 2) for part in (place.y, place.top, place.bottom))
    found = []
    for index, (bottom_plane, top_plane) in enumerate(zip(under, over, strict=True)):
        share = 2 if index else 1
        to = (
            slice(max(0, y, top) // share, max(0, min(high, high + y, bottom)) // share),
            slice(max(0, x, left) // share, max(0, min(wide, wide + x, right)) // share),
        )
        of = (
            slice(to[0].start - y // share, to[0].stop - y // share),
            slice(to[1].start - x // share, to[1].stop - x // share),
        )
        plane = bottom_plane.copy()
        if plane[to].size:
            plane[to] = cv2.addWeighted(top_plane[of], opacity, plane[to], 1 - opacity, 0)
        found.append(plane)
    return Planes(*found)


class Letters(NamedTuple):
    """What lies over a picture, and how much of it each dot covers: planes that weigh as much as they cover,
    and both covers, of luma and of colour."""

    planes: tuple[Parts, Parts, Parts]
    covers: tuple[Parts, Parts]

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.covers[0].shape[1], self.covers[0].shape[0]


def letters_of(drawn: NDArray[np.uint8]) -> Letters:
    """The same of red, green, blue and opacity, shape (high, wide, 4), both even."""
    cover = drawn[..., 3].astype(np.float32) / 255
    weighed = drawn[..., :3].astype(np.float32) / 255 * cover[..., None]
    levels = cv2.transform(weighed, TO_BT709) * RANGES + OFFSETS * cover[..., None]
    half = (drawn.shape[1] // 2, drawn.shape[0] // 2)
    y, u, v = (np.asarray(each, np.float32) for each in cv2.split(levels))
    u, v, small = (
        np.asarray(cv2.resize(np.asarray(each), half, interpolation=cv2.INTER_AREA), np.float32)
        for each in (u, v, cover)
    )
    return Letters((y, u, v), (np.asarray(cover, np.float32), small))


def lettered(
    under: Planes, letters: Letters, middle: tuple[float, float], opacity: float, place: Place
) -> Planes:
    """A picture with letters over it, their middle at a dot of it, moved, grown and turned from there."""
    size, drawn = under.size, letters.size
    still = (place.x, place.y, place.scale, place.turn) == (0, 0, 1, 0)
    # Where they lie still each dot of theirs is one of the picture, colours at half the size too.
    at = [2 * round((to - side / 2) / 2) + side / 2 for to, side in zip(middle, drawn, strict=True)]
    x, y = at if still else (middle[0] + place.x * size[0], middle[1] + place.y * size[1])
    angle = np.deg2rad(place.turn)
    cos, sin = np.cos(angle) / place.scale, np.sin(angle) / place.scale
    turned = np.array([[cos, sin], [-sin, cos]])
    found = []
    for index, (plane, over) in enumerate(zip(under, letters.planes, strict=True)):
        share, cover = (2, letters.covers[1]) if index else (1, letters.covers[0])
        # Samples lie half a sample from the corner.
        moved = (np.array(drawn) / 2 - turned @ np.array([x, y])) / share + turned.sum(axis=1) / 2 - 0.5
        way = np.column_stack([turned, moved])
        part, weighed = (
            cv2.warpAffine(each, way, plane.shape[::-1], flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
            for each in (cover, over)
        )
        found.append(
            np.asarray(cv2.convertScaleAbs(plane * (1 - opacity * part) + opacity * weighed), np.uint8)
        )
    return Planes(*found)


def blended(under: Planes, over: Planes, opacity: float, mode: str) -> Planes:
    """A picture with another one blended with it by one of ``BLENDS``, which has this part of it."""
    backdrop, source = colours(under), colours(over)
    both = BLENDS[mode](backdrop, source)
    return _coded(backdrop + opacity * (both - backdrop))


def colours(picture: Planes) -> Colours:
    """Red, green and blue as they are coded, 0 to 1, of shape (high, wide, 3)."""
    chroma = [cv2.resize(each, picture.size, interpolation=cv2.INTER_LINEAR) for each in picture[1:]]
    levels = cv2.merge([picture.y, *chroma]).astype(np.float32)
    colours: Colours = np.clip(cv2.transform((levels - OFFSETS) / RANGES, FROM_BT709), 0, 1)
    return colours


def _coded(colours: Colours) -> Planes:
    """A picture of these colours."""
    levels = cv2.transform(np.ascontiguousarray(colours, np.float32), TO_BT709) * RANGES + OFFSETS
    y, u, v = cv2.split(levels)
    half = (y.shape[1] // 2, y.shape[0] // 2)
    small = [cv2.resize(each, half, interpolation=cv2.INTER_AREA) for each in (u, v)]
    return Planes(*(np.asarray(cv2.convertScaleAbs(each), np.uint8) for each in (y, *small)))


def weighted(pictures: Sequence[Planes], weights: Floats) -> Planes:
    """Some pictures seen together, each with its weight, above 0 and 1 in all."""
    if len(pictures) == 2:
        under, over = pictures
        return mixed(under, over, float(weights[1]))
    found = []
    parts = weights / np.cumsum(weights)
    for first, *others in zip(*pictures, strict=True):
        mean = first.astype(np.float32)
        for plane, part in zip(others, parts[1:], strict=True):
            cv2.accumulateWeighted(plane, mean, part)
        found.append(np.asarray(cv2.convertScaleAbs(mean), np.uint8))
    return Planes(*found)


def flash(picture: Planes, colour: str, light: float) -> Planes:
    """A picture with light of a colour over it, which has this part of what is seen, 0 to 1."""
    over = plain((2, 2), colour)
    return _levelled(picture, 1 - light, [light * float(plane[0, 0]) for plane in over])


def dim(picture: Planes, colour: str, by: float) -> Planes:
    """A picture with this part of its light taken away: brightness(1 − by) of CSS Filter Effects Level 1."""
    return _levelled(picture, 1 - by, [by * float(black) for black in OFFSETS])


def drain(picture: Planes, colour: str, by: float) -> Planes:
    """A picture with this part of its colour taken away: saturate(1 − by) of CSS Filter Effects Level 1.

    Its weights of light are those by which luma is coded.
    """
    drained = _levelled(picture, 1 - by, [by * float(black) for black in OFFSETS])
    return drained._replace(y=picture.y)


def move(picture: Planes, colour: str, x: float, y: float, scale: float, turn: float) -> Planes:
    """A picture moved, grown and turned as a ``Place`` says; beyond its edges it is mirrored."""
    place = Place(x, y, scale, turn)
    return Planes(*(_turned(plane, place, cv2.BORDER_REFLECT) for plane in picture))


def zoom_blur(picture: Planes, colour: str, by: float, x: float, y: float) -> Planes:
    """A picture blurred on lines to a point, in parts of the frame, over this part of the way there."""
    return Planes(*(_drawn_to(plane, by, x * plane.shape[1], y * plane.shape[0]) for plane in picture))


def _drawn_to(plane: Plane, by: float, x: float, y: float) -> Plane:
    """The mean of ``BLUR_STEPS`` readings, each so much nearer to a point, in samples from the corner."""
    high, wide = plane.shape
    total = np.zeros(plane.shape, np.float32)
    for far in np.linspace(0, by, BLUR_STEPS):
        # Samples lie half a sample from the corner.
        way = np.array([[1 - far, 0, far * (x - 0.5)], [0, 1 - far, far * (y - 0.5)]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        cv2.accumulate(
            cv2.warpAffine(plane, way, (wide, high), flags=flags, borderMode=cv2.BORDER_REPLICATE), total
        )
    return np.asarray(cv2.convertScaleAbs(total, alpha=1 / BLUR_STEPS), np.uint8)


def letterbox(picture: Planes, colour: str, by: float) -> Planes:
    """A picture with black above and below it, this part of the frame in all."""
    high = 2 * round(picture.size[1] * by / 4)
    found = []
    for index, (plane, black) in enumerate(zip(picture, OFFSETS, strict=True)):
        rows = high // (2 if index else 1)
        barred = plane.copy()
        barred[:rows] = barred[len(barred) - rows :] = int(black)
        found.append(barred)
    return Planes(*found)


def _levelled(picture: Planes, part: float, levels: Sequence[float]) -> Planes:
    """A picture of which this part stays, with these levels added to its planes."""
    return Planes(
        *(
            np.asarray(cv2.convertScaleAbs(plane, alpha=part, beta=level), np.uint8)
            for plane, level in zip(picture, levels, strict=True)
        )
    )


LOOKS: dict[LookKind, Callable[..., Planes]] = {
    "move": move, "zoom-blur": zoom_blur, "drain": drain, "dim": dim, "flash": flash, "letterbox": letterbox,
}  # fmt: skip
"""What can be done to a whole picture: by kind, a function of the picture, a colour, and its parameters by
name."""
