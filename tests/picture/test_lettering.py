"""Titles: shaped by their scripts, in fonts that have their letters, readable on any picture.

Truth is what scripts do: letters of Arabic join (Unicode Standard, 9.2), Hebrew runs from the right (UAX #9),
conjuncts of Devanagari are narrower than their letters (Unicode Standard, 12.1). Contrast as in WCAG 2.2.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core.document.places import Pin
from izmet.core.document.titles import Lettering, Written
from izmet.core.shown.framemap import Place
from izmet.picture import composing
from izmet.picture.lettering import lettered, middle_of

SIZE = (640, 360)
SAMPLES = {
    "Latin": "Harbour À ł ž", "Greek": "Θάλασσα", "Cyrillic": "Гавань Ђ", "Arabic": "ميناء", "Hebrew": "נמל",
    "Devanagari": "बंदरगाह", "Thai": "ท่าเรือ", "Georgian": "ნავსადგური", "Armenian": "նավահանգիստ",
    "Chinese": "港口", "Japanese": "みなと", "Korean": "항구",
}  # fmt: skip
UNASSIGNED = "\U0010fffd"


def ink(text: str, **how: object) -> np.ndarray:
    """How much of each dot the letters of a text cover, 0 to 1, without what is around them."""
    drawn = lettered(Written(text=text, behind="nothing", **how), SIZE)
    down, across = np.nonzero(drawn[..., 3])
    return drawn[down.min() : down.max() + 1, across.min() : across.max() + 1, 3] / 255


@pytest.mark.parametrize("font", ["sans", "serif"])
@pytest.mark.parametrize("bold", [True, False])
@pytest.mark.parametrize("script", SAMPLES)
def test_each_script_has_its_letters(script, font, bold):
    """No letter comes out as the box of one that no font has."""
    box = ink(UNASSIGNED, font=font, bold=bold)
    for letter in SAMPLES[script].replace(" ", ""):
        alone = ink("ا" + letter if script == "Arabic" else letter, font=font, bold=bold)
        assert alone.shape != box.shape or np.abs(alone - box).mean() > 0.05


@pytest.mark.parametrize(("joined", "apart"), [("بحر", "ب ح ر"), ("क्ष", "क ष")])
def test_letters_join_as_their_script_says(joined, apart):
    gaps = apart.count(" ") * (ink("x x").shape[1] - ink("xx").shape[1])
    assert ink(joined).shape[1] < 0.95 * (ink(apart).shape[1] - gaps)


def test_hebrew_runs_from_the_right_with_its_numbers_in_order():
    """The narrow letter that is written first stands on the right; a number keeps its own way."""
    count, _, stats, _ = cv2.connectedComponentsWithStats((ink("וש") > 0.5).astype(np.uint8))
    parts = sorted(stats[1:count].tolist(), key=lambda part: part[cv2.CC_STAT_LEFT])
    assert parts[-1][cv2.CC_STAT_WIDTH] < parts[0][cv2.CC_STAT_WIDTH]
    with_number = ink("ו 17")
    ends = ink("17")
    assert np.abs(with_number[-ends.shape[0] :, : ends.shape[1]] - ends).mean() < 0.02


@given(st.text(st.characters(categories=["L", "N", "P", "S", "Z", "M"]), min_size=1, max_size=60))
def test_any_text_is_drawn_within_the_frame(text):
    if not text.strip() or len(text.splitlines()) > 12:
        return
    drawn = lettered(Written(text=text, size=0.1), SIZE)
    high, wide, channels = drawn.shape
    assert channels == 4
    assert high % 2 == 0 == wide % 2
    assert wide <= SIZE[0] + 2 * 0.4 * 0.1 * SIZE[1]


def test_letters_keep_their_contrast_on_any_picture():
    """WCAG 2.2, 1.4.3: 4.5 to 1 between letters and what is behind them; here over white."""
    title = Lettering(
        id="a", text="Heat three", behind="plate", size=0.2, since=Pin(id="a", n=0), until=Pin(id="b", n=9)
    )
    letters = composing.letters_of(lettered(title, SIZE))
    middle = middle_of(title, letters.planes[0].shape[::-1], SIZE)
    seen = composing.colours(
        composing.lettered(composing.plain(SIZE, "#ffffff"), letters, middle, 1, Place())
    )
    linear = np.where(seen <= 0.04045, seen / 12.92, ((seen + 0.055) / 1.055) ** 2.4)
    light = linear @ [0.2126, 0.7152, 0.0722]
    inside = light[int(middle[1]) - 8 : int(middle[1]) + 8, int(middle[0]) - 60 : int(middle[0]) + 60]
    assert (inside.max() + 0.05) / (inside.min() + 0.05) >= 4.5


def test_a_line_that_is_too_long_is_broken_between_words():
    one, two = (lettered(Written(text=text, size=0.1), SIZE) for text in ("word", "word " * 12))
    assert two.shape[0] >= one.shape[0] + round(0.1 * SIZE[1])


@pytest.mark.parametrize("text", ["x" * 500, "word " * 100, "\n".join("x" * 12)])
def test_what_is_too_much_for_the_frame_is_set_smaller(text):
    drawn = lettered(Written(text=text, size=0.5, behind="nothing"), SIZE)
    assert drawn.shape[0] <= 2 * SIZE[1]
    down, _ = np.nonzero(drawn[..., 3])
    assert down.max() - down.min() <= SIZE[1]
