"""The screen and the file draw the same: by ``lib/composer.ts`` and by ``picture/composing.py``.

Both get the same pixels, with no codec in between, and every pixel is compared. The file's colour lies at
half the size, so the pictures change their colour softly, and where edges are seen they have none; and no
channel is cut off, nor what was rounded made large.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import pytest

from izmet.core.document.framing import Keying
from izmet.core.document.overlaps import Corner
from izmet.core.shown.framemap import LookKind, Mask, Place, Placing
from izmet.core.shown.framing import Lies
from izmet.picture import composing
from izmet.picture.blending import BLENDS
from izmet.picture.composing import LOOKS, Planes
from tests.drawing.conftest import Screen

WIDE, HIGH = SIZE = (320, 180)
NEAR = 2
"""Levels of 255 that the two may differ by."""
TRIES = 8
CORNERS = (Corner(x=-0.9, y=-0.7), Corner(x=0.8, y=-1.0), Corner(x=1.0, y=0.6), Corner(x=-0.2, y=0.9))
IN_PLACE = {
    **{"x": 0, "y": 0, "scale": 1, "turn": 0, "mask": "box", "corners": []},
    **{"left": 0, "top": 0, "right": 1, "bottom": 1},
}


def rgb(picture: Planes) -> np.ndarray:
    """Red, green and blue by the formulas of ITU-R BT.709 and its limited range, 0 to 255, as floats."""
    blue, red = (
        (cv2.resize(each.astype(np.float64), SIZE, interpolation=cv2.INTER_LINEAR) - 128) / 224
        for each in picture[1:]
    )
    luma = (picture.y - 16.0) / 219
    r, b = luma + 1.5748 * red, luma + 1.8556 * blue
    return 255 * np.stack([r, (luma - 0.2126 * r - 0.0722 * b) / 0.7152, b], axis=2)


def soft(rng: np.random.Generator, size: tuple[int, int], reach: float) -> np.ndarray:
    """Noise without edges, −1 to 1."""
    noise = cv2.GaussianBlur(rng.normal(0, 1, size[::-1]), (0, 0), reach)
    return noise / np.abs(noise).max()


def scene(rng: np.random.Generator, colourful: float = 0.12, around: tuple[float, float] = (0, 0)) -> Planes:
    """A picture in which no channel is cut off, with colours around one given by its colour differences."""
    light = 0.5 + 0.11 * soft(rng, SIZE, 4)
    both = [middle + colourful * soft(rng, (WIDE // 2, HIGH // 2), 12) for middle in around]
    planes = [16 + 219 * light, *(128 + 224 * each for each in both)]
    return Planes(*(np.rint(plane).astype(np.uint8) for plane in planes))


def laid_by(number: int | None, **how: Any) -> dict[str, Any]:
    """A picture that fills the frame, as the composer is told of it."""
    box = {"x": 0, "y": 0, "w": WIDE, "h": HIGH}
    plain = {"colour": "#000000", "box": box, "place": IN_PLACE, "opacity": 1, "blend": "normal"}
    return {**plain, "bitmap": number, **how}


def place_of(values: np.ndarray, mask: Mask = "box") -> tuple[Placing, dict[str, Any]]:
    """A place on one frame, for the file and for the screen."""
    corners = CORNERS if mask == "polygon" else ()
    names = ("x", "y", "scale", "turn", "left", "top", "right", "bottom")
    told = dict(zip(names, values.tolist(), strict=True))
    return (
        Placing(0, values[None], mask, corners),
        {**told, "mask": mask, "corners": [{"x": each.x, "y": each.y} for each in corners]},
    )


def coded(seen: np.ndarray) -> list[np.ndarray]:
    """What is seen in RGB, in levels as in a file: luma, and both of colour at half the size."""
    r, g, b = np.moveaxis(seen / 255, 2, 0)
    luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
    both = ((b - luma) / 1.8556, (r - luma) / 1.5748)
    half = (WIDE // 2, HIGH // 2)
    return [
        16 + 219 * luma,
        *(cv2.resize(128 + 224 * each, half, interpolation=cv2.INTER_AREA) for each in both),
    ]


def apart(
    screen: Screen, file: Planes, pictures: list[Planes], placed: list[dict], looks: list[dict] | None = None
) -> float:
    """By how many levels the two differ where they differ most."""
    seen = [np.rint(rgb(picture)).clip(0, 255).astype(np.uint8) for picture in pictures]
    drawn = coded(screen.drawn(SIZE, seen, placed, looks or []))
    return max(np.abs(one - other).max() for one, other in zip(drawn, file, strict=True))


LOOKED = {
    "flash": lambda draw: {"light": draw(0, 1)},
    "dim": lambda draw: {"by": draw(0, 1)},
    "drain": lambda draw: {"by": draw(0, 1)},
    "move": lambda draw: {
        **{"x": draw(-0.1, 0.1), "y": draw(-0.1, 0.1)}, "scale": draw(1, 2), "turn": draw(-9, 9)
    },
    "zoom-blur": lambda draw: {"by": draw(0, 0.5), "x": draw(0, 1), "y": draw(0, 1)},
    "letterbox": lambda draw: {"by": draw(0, 0.6)},
}  # fmt: skip


@pytest.mark.parametrize("kind", LOOKS)
def test_every_look(screen: Screen, kind: LookKind):
    rng = np.random.default_rng(len(kind))
    for _ in range(TRIES):
        picture, values, colour = scene(rng), LOOKED[kind](rng.uniform), "#c8a050"
        file = LOOKS[kind](picture, colour, **values)
        look = {"kind": kind, "colour": colour, "values": values}
        assert apart(screen, file, [picture], [laid_by(0)], [look]) <= NEAR, values


@pytest.mark.parametrize("mode", BLENDS)
def test_every_blend_mode(screen: Screen, mode: str):
    rng = np.random.default_rng(len(mode))
    for _ in range(TRIES):
        under, over, opacity = scene(rng), scene(rng), float(rng.uniform(0, 0.8))
        file = composing.blended(under, over, opacity, mode)
        placed = [laid_by(0), laid_by(1, blend=mode, opacity=opacity)]
        assert apart(screen, file, [under, over], placed) <= NEAR, opacity


@pytest.mark.parametrize("mask", ["box", "ellipse", "outside", "polygon"])
def test_every_place_and_shape(screen: Screen, mask: Mask):
    rng = np.random.default_rng(len(mask))
    for _ in range(TRIES):
        under, over = scene(rng, 0), scene(rng, 0)
        far, sides = rng.uniform(-0.2, 0.2, 2), np.r_[rng.uniform(0, 0.3, 2), rng.uniform(0.6, 1, 2)]
        placing, told = place_of(np.r_[far, rng.uniform(0.4, 1.8), rng.uniform(-40, 40), sides], mask)
        opacity = float(rng.uniform(0.3, 1))
        file = composing.laid(under, over, opacity, placing, 0)
        placed = [laid_by(0), laid_by(1, place=told, opacity=opacity)]
        assert apart(screen, file, [under, over], placed) <= NEAR, told


def test_a_picture_that_is_framed(screen: Screen):
    rng = np.random.default_rng(5)
    for number in range(2 * TRIES):
        # In colour while it covers the frame, without any where its edges are seen.
        covers = number % 2 == 0
        picture, reach = scene(rng, 0.12 if covers else 0), (0.05, 2.0) if covers else (0.2, 0.4)
        row = np.r_[rng.uniform(-reach[0], reach[0], 2), rng.uniform(reach[1], 3), rng.uniform(-12, 12)]
        file = composing.framed(picture, SIZE, Lies(0, 0, 1, 1), row)
        told = dict(zip(("x", "y", "scale", "turn"), row.tolist(), strict=True))
        assert apart(screen, file, [picture], [laid_by(0, framed=told)]) <= NEAR, told


def test_a_background_keyed_out(screen: Screen):
    rng = np.random.default_rng(6)
    keying = Keying(colour="#28b450", near=0.3, soft=0.5, spill=0.7)
    for _ in range(TRIES):
        under, over = scene(rng, 0), scene(rng, 0.08, around=(-0.1, -0.17))
        placing, told = place_of(np.array([0, 0, 1, 0, 0, 0, 1, 1.0]))
        file = composing.laid(under, over, 1, placing, 0, keying)
        placed = [laid_by(0), laid_by(1, place=told, keying=keying.model_dump())]
        assert apart(screen, file, [under, over], placed) <= NEAR


@pytest.mark.parametrize("moved", [False, True])
def test_a_title(screen, moved):
    """Its letters are laid by how much they cover, still dot by dot, or moved, grown and turned."""
    rng = np.random.default_rng(11)
    for _ in range(TRIES):
        picture = scene(rng)
        high, wide = 64, 128
        drawn = np.full((high, wide, 4), rng.integers(40, 216, 4), np.uint8)
        drawn[..., :3] = np.repeat(rng.integers(90, 166, (1, 1, 3)), high, 0).repeat(wide, 1)
        around = np.zeros((high, wide))
        around[12:-12, 12:-12] = 1
        drawn[..., 3] = np.rint(255 * cv2.GaussianBlur(around, (0, 0), 3))
        opacity, middle = rng.uniform(0.3, 1), rng.uniform([90, 60], [WIDE - 90, HIGH - 60])
        lies = rng.uniform([-0.1, -0.1, 0.7, -30], [0.1, 0.1, 1.6, 30]) if moved else np.array([0, 0, 1, 0])
        place = Place(*lies.tolist())
        letters = composing.letters_of(drawn)
        file = composing.lettered(picture, letters, (middle[0], middle[1]), opacity, place)
        box = {"x": middle[0] - wide / 2, "y": middle[1] - high / 2, "w": wide, "h": high}
        values = dict(zip(("x", "y", "scale", "turn"), lies.tolist(), strict=True))
        title = {"id": "a", "drawn": "a", "bitmap": 1, "box": box, "opacity": opacity, **values}
        seen = [np.rint(rgb(picture)).clip(0, 255).astype(np.uint8), drawn]
        found = coded(screen.drawn(SIZE, seen, [laid_by(0)], titles=[title]))
        assert max(np.abs(one - other).max() for one, other in zip(found, file, strict=True)) <= NEAR
