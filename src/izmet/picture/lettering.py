"""How is a title drawn?

Its lines are shaped and drawn by Pillow, through raqm and HarfBuzz where letters join, stack or run from the
right (Unicode UAX #9). Each stretch of a line takes the first of our fonts that has its letters. ``VERSION``
goes up with any change to what comes out.

Sources: WCAG 2.2, 1.4.3, asks for a contrast of 4.5 to 1 of letters to what is behind them; a plate keeps
white ones above that on any picture.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from itertools import groupby
from pathlib import Path
from typing import NamedTuple
from unicodedata import bidirectional, category

import numpy as np
from fontTools.ttLib import TTFont
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter, ImageFont, features

from izmet.core.document.refusal import Refusal
from izmet.core.document.titles import Font, Lettering, Written

VERSION = 1
Drawn = NDArray[np.uint8]

FONTS = Path(__file__).parent / "fonts"
FAMILIES: dict[Font, str] = {"sans": "NotoSans", "serif": "NotoSerif"}
SCRIPTS = ("Arabic", "Hebrew", "Devanagari", "Thai", "Georgian", "Armenian")
"""What the families lack, in files of their own."""
LAST = "DroidSansFallback"
"""Chinese, Japanese, Korean; it has one weight."""
LETTERS = 0.72
"""How much of the height of a line letters are set in."""
CAPITALS = 0.72
"""How high capitals are, in sizes of letters: they have as much of the line above them as below."""
ALIGNED = {"left": 0.0, "middle": 0.5, "right": 1.0}
ROOM = 0.94
"""The part of the frame's width that a line may take; a longer one is broken."""
SHADOW, SHADOW_OPACITY = 0.06, 0.75
"""How far a shadow lies and how soft it is, in sizes; how dark it is."""
PLATE, PLATE_OPACITY = 0.28, 0.72
"""How far a plate stands out around the letters, in sizes; how dark it is."""
MARGIN = 0.4
"""What is left around the letters for that, in sizes."""
SMALLER = 0.9
"""By how much a title is set smaller until it fits into the frame."""
NEUTRAL = {"EN", "AN", "CS", "ES", "ET", "ON"}
"""Ways of running (UAX #9) of what stays in the font before it: digits, marks between words."""
JOINED = {"Mn", "Mc", "Me", "Cf"}
"""Kinds of characters that belong to the letter before them."""


class _Run(NamedTuple):
    """Letters in a row that one font has."""

    text: str
    font: ImageFont.FreeTypeFont

    @property
    def width(self) -> float:
        """How far it reaches along the line."""
        return float(self.font.getlength(self.text))


def lettered(title: Written, size: tuple[int, int]) -> Drawn:
    """The picture of a title for a frame of this width and height: red, green, blue and opacity, shape
    (high, wide, 4), both even. The lines lie in its middle, aligned to one another.

    Raises:
        Refusal: the machine lacks what joins letters.
    """
    _can_shape()
    high = title.size * size[1]
    lines = _set(title, high, ROOM * size[0])
    while len(lines) * high > size[1] and high > 1:
        # Too much for the frame: it is set smaller.
        high *= SMALLER
        lines = _set(title, high, ROOM * size[0])
    widths = [sum(run.width for run in line) for line in lines]
    wide = max(widths)
    margin = MARGIN * title.size * size[1]
    width, height = (2 * round(side / 2 + margin) for side in (wide, len(lines) * high))
    mask = Image.new("L", (width, height))
    draw = ImageDraw.Draw(mask)
    letters = _letter_size(high)
    for row, (line, its) in enumerate(zip(lines, widths, strict=True)):
        left = (width - wide) / 2 + ALIGNED[title.align] * (wide - its)
        base = (height - len(lines) * high) / 2 + (row + 0.5) * high + CAPITALS / 2 * letters
        way = "rtl" if _from_right(line) else "ltr"
        for run in reversed(line) if way == "rtl" else line:
            draw.text((left, base), run.text, 255, run.font, anchor="ls", direction=way)
            left += run.width
    return np.asarray(_over(mask, _behind(title, mask, high, margin), title.colour))


def middle_of(title: Lettering, drawn: tuple[int, int], size: tuple[int, int]) -> tuple[float, float]:
    """Where the middle of a title's picture, so wide and high, lies in a frame of this size, in its dots."""
    beside = drawn[0] / 2 - MARGIN * title.size * size[1]
    along = {"left": beside, "middle": 0.0, "right": -beside}[title.align]
    return title.across * size[0] + along, title.down * size[1]


def _letter_size(high: float) -> int:
    return max(1, round(LETTERS * high))


def _set(title: Written, high: float, room: float) -> list[list[_Run]]:
    """The lines of a title, so high, in the runs that are drawn."""
    letters = _letter_size(high)
    return [list(_runs(line, title, letters)) for line in _broken(title, letters, room)]


def _over(mask: Image.Image, behind: Image.Image, colour: str) -> Image.Image:
    """Letters of a colour, by how much of each dot they cover, over black behind them."""
    letters = Image.new("RGBA", mask.size, colour)
    letters.putalpha(mask)
    black = Image.new("RGBA", mask.size)
    black.putalpha(behind)
    return Image.alpha_composite(black, letters)


def _behind(title: Written, mask: Image.Image, high: float, margin: float) -> Image.Image:
    """How dark it is behind the letters, 0 to 255."""
    if title.behind == "nothing":
        return Image.new("L", mask.size)
    if title.behind == "shadow":
        soft = mask.filter(ImageFilter.GaussianBlur(max(0.5, SHADOW * high)))
        # What is soft is lighter than what it is made of: it is made up for.
        return soft.point([min(255, round(2 * SHADOW_OPACITY * level)) for level in range(256)])
    plate = Image.new("L", mask.size)
    out = round(margin - PLATE * high)
    box = (out, out, mask.width - 1 - out, mask.height - 1 - out)
    ImageDraw.Draw(plate).rounded_rectangle(box, 0.12 * high, round(255 * PLATE_OPACITY))
    return plate


def _broken(title: Written, letters: int, room: float) -> list[str]:
    """The lines of a title; one that is too long is broken between words or, without any, between letters."""
    found: list[str] = []
    for line in title.text.split("\n"):
        found.append("")
        words = line.split(" ")
        for index, word in enumerate(words):
            longer = f"{found[-1]} {word}" if index else word
            if found[-1] and _width(longer, title, letters) > room:
                found.append(word)
            else:
                found[-1] = longer
            while _width(found[-1], title, letters) > room and len(found[-1]) > 1:
                fits = _fitting(found[-1], title, letters, room)
                found[-1:] = [found[-1][:fits], found[-1][fits:]]
    return found


def _fitting(text: str, title: Written, letters: int, room: float) -> int:
    """How many of its characters fit, one at least."""
    least, most = 1, len(text)
    while least < most:
        middle = (least + most + 1) // 2
        least, most = (middle, most) if _width(text[:middle], title, letters) <= room else (least, middle - 1)
    while least < len(text) and category(text[least]) in JOINED:
        least += 1
    return least


def _width(text: str, title: Written, letters: int) -> float:
    return sum(run.width for run in _runs(text, title, letters))


def _from_right(line: list[_Run]) -> bool:
    """Whether a line is of a script that runs from the right: its first letter says so (UAX #9, P2)."""
    strong = (way for run in line for each in run.text if (way := bidirectional(each)) in ("L", "R", "AL"))
    return next(strong, "L") != "L"


def _runs(text: str, title: Written, letters: int) -> Iterator[_Run]:
    """A line, letter by letter in the first font that has it; marks and spaces stay with what is before."""
    chosen: list[tuple[str, Path]] = []
    for each in text:
        before = chosen[-1][1] if chosen else None
        stays = before is not None and (category(each) in JOINED or each == " ")
        chosen.append((each, before if stays and before else _font_of(each, title, before)))
    for path, group in groupby(chosen, key=lambda pair: pair[1]):
        yield _Run("".join(each for each, _ in group), _opened(path, letters))


def _font_of(each: str, title: Written, before: Path | None) -> Path:
    """The first font that has a letter; one that none has is drawn by the first, as a box."""
    files = _files(title.font, title.bold)
    if before is not None and bidirectional(each) in NEUTRAL and _has(before, each):
        return before
    return next((file for file in files if _has(file, each)), files[0])


@lru_cache
def _files(font: Font, bold: bool) -> tuple[Path, ...]:
    weight = "Bold" if bold else "Regular"
    names = [FAMILIES[font], *(f"{FAMILIES['sans']}{script}" for script in SCRIPTS)]
    return (*(FONTS / f"{name}-{weight}.ttf" for name in names), FONTS / f"{LAST}.ttf")


def _has(file: Path, each: str) -> bool:
    return ord(each) in _letters_in(file)


@lru_cache
def _letters_in(file: Path) -> frozenset[int]:
    with TTFont(file, lazy=True) as font:
        return frozenset(font.getBestCmap())


@lru_cache(maxsize=64)
def _opened(file: Path, letters: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(file), letters, layout_engine=ImageFont.Layout.RAQM)


def _can_shape() -> None:
    if not features.check("raqm"):
        raise Refusal(
            "no-shaping",
            "This machine lacks FriBidi, which puts the letters of titles in order.",
            remedy="Install it, in Debian by apt-get install libfribidi0, and start Izmet again.",
        )
