"""Pictures blended, blurred and moved, from the hand to the file: seen as exported, and no hit is early."""

import re
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from izmet.core.shown.framemap import HOWS
from tests.e2e.conftest import CUE, PATIENCE_MS
from tests.e2e.test_accents import (
    at_size,
    exported,
    exported_pictures,
    preview,
    seen_as,
    to_frame,
    typed,
)
from tests.e2e.test_first_edit import look_at
from tests.e2e.test_montage import clips_of, filled, saved
from tests.media.files import write_clicks, write_colours

HIT = 45
GREYS = [(20 + abs(24 * k % 384 - 192),) * 3 for k in range(120)]
"""No two beside each other are alike, and light goes up and down evenly: nothing of it is a flash."""
STRIDE, WIDE, UNSURE = 4, 3.0, 100
"""Pixels that a bar moves from picture to picture, how wide it is, and those that never look the same."""


def begun(server, page: Page, tmp_path: Path, pictures: Sequence = GREYS) -> None:
    """A montage of one take of 30 fps."""
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * k for k in range(12)], 7)
    take = write_colours(tmp_path / "Heat two.mkv", pictures, (320, 180), matrix=1, rate=Fraction(30))
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    page.get_by_role("button", name=re.compile("^Heat two")).first.click()
    look_at(page, HIT)
    page.keyboard.press("h")
    expect(page.get_by_role("button", name=f"Moment impact at frame {HIT}")).to_be_visible()
    filled(page, "3", "4 clips, 3 cuts")


def test_what_is_mixed_is_seen_as_it_is_exported(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    panel = page.get_by_role("region", name="Montage")
    clips_of(page).nth(1).click()
    typed(panel, "Overlap, frames", "6")
    clips_of(page).nth(2).click()
    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    whole = page.get_by_role("region", name="Edit")
    whole.get_by_role("radio", name="Blend").click()
    page.get_by_text("The whole clip").click()
    page.get_by_label("Motion blur of this clip, °").fill("270")
    page.get_by_label("Motion blur of this clip, °").press("Enter")
    own = page.get_by_role("radiogroup", name="In-between frames of this clip")
    expect(own.get_by_role("radio", name="Blend")).to_be_checked()
    made = saved(page)
    assert made["edit"]["motion"] == {"between": "blended", "shutter": 0}
    assert [clip["motion"] for clip in made["edit"]["clips"]][2] == {"between": "blended", "shutter": 270}
    assert all(clip["smoothness"]["repeats"] <= 1 for clip in made["derived"]["clips"])
    assert all(landing["exact"] for clip in made["derived"]["clips"] for landing in clip["landings"])

    file = exported(page, tmp_path)
    page.keyboard.press("Escape")
    first = made["derived"]["map"]["first"]
    landing = made["derived"]["clips"][2]["landings"][0]["wanted_frame"]
    cut = made["derived"]["map"]["layers"][1]["first"]
    # Pictures are mixed: there are more shades than the take shows there.
    assert len({int(each[0]) for each in file}) > len(set(made["derived"]["map"]["source"]))
    for n in (*range(cut - 4, cut + 5), *range(landing - 4, landing + 5)):
        to_frame(page, n)
        assert seen_as(page, file[n - first]), (n, file[n - first], preview(page, 16 / 9)[20, 20])

    # While a key is held each frame shows one picture, as it is in the take.
    n = landing + 1
    to_frame(page, n)
    plain = GREYS[made["derived"]["map"]["source"][n - first]][0]
    assert abs(int(file[n - first][0]) - plain) > 4
    page.keyboard.down("q")
    assert seen_as(page, np.full(3, plain))
    page.keyboard.up("q")
    assert seen_as(page, file[n - first])

    # The clip goes back to what the edit has.
    own.get_by_role("radio", name="As the edit").click()
    expect(page.get_by_label("Motion blur of this clip, °")).to_have_value("0")
    assert np.all([clip["motion"] is None for clip in saved(page)["edit"]["clips"]])

    # A take of half the edit's rate shows each frame twice at 100 %, blended or not.
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("button", name="Table").click()
    table = page.get_by_role("dialog")
    columns = table.get_by_role("columnheader").all_inner_texts()
    average = [each.strip().lower() for each in columns].index("average")
    expect(table.get_by_role("row").nth(1).get_by_role("cell").nth(average)).to_have_text("100 %")


def test_clips_that_stutter_are_blended_at_once(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    panel = page.get_by_role("region", name="Montage")
    for number in range(3):
        clips_of(page).nth(number).click()
        page.get_by_role("tab", name="Clip").click()
        page.get_by_role("button", name=re.compile("^Span 2 steady")).click()
        page.get_by_role("radio", name="dip").click()
        expect(page.get_by_role("radio", name="dip")).to_be_checked()
        page.get_by_role("tab", name="Montage").click()
    expect(panel.get_by_role("heading", name="Needs a look: 3")).to_be_visible()
    panel.get_by_role("button", name=re.compile("^stutter.*30 fps in an edit of 60$")).click()
    expect(
        panel.get_by_role("list", name="30 fps in an edit of 60", exact=True).get_by_role("listitem")
    ).to_have_count(3)
    panel.get_by_role("button", name="Blend 3 clips").click()
    expect(panel.get_by_role("heading", name="Needs a look: nothing")).to_be_visible()
    motions = [clip["motion"] for clip in saved(page)["edit"]["clips"]]
    assert [each and each["between"] for each in motions] == [*["blended"] * 3, None]


def barred() -> list[np.ndarray]:
    """A soft bar goes to and fro over still stripes; at the left nothing is what it was a picture before."""
    x, chance = np.arange(320), np.random.default_rng(5)
    pictures = []
    for k in range(120):
        at = 135 + abs((STRIDE * k) % 320 - 160)
        row = 60 + 20 * (x // 16 % 2) + 130 * np.exp(-(((x - at) / WIDE) ** 2) / 2)
        picture = np.repeat(np.broadcast_to(row, (180, 320))[..., None], 3, axis=2)
        picture[:, :UNSURE] = np.kron(chance.integers(40, 200, (18, UNSURE // 10)), np.ones((10, 10)))[
            ..., None
        ]
        pictures.append(picture.astype(np.uint8))
    return pictures


def comes_near(page: Page, picture: np.ndarray, levels: float) -> bool:
    """Whether the preview comes to differ from a picture by no more than so much where it is sure."""
    for _ in range(PATIENCE_MS // 100):
        shown = preview(page, 16 / 9)
        wanted = at_size(picture, shown.shape[:2])
        sure = slice(shown.shape[1] * (UNSURE + 20) // 320, None)
        if np.abs(shown[:, sure] - wanted[:, sure]).mean() <= levels:
            return True
        page.wait_for_timeout(100)
    return False


def test_what_flows_is_seen_as_it_is_exported_and_may_be_doubted(server, page: Page, tmp_path: Path):
    takes = barred()
    begun(server, page, tmp_path, takes)
    clips_of(page).nth(1).click()
    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    page.get_by_role("region", name="Edit").get_by_role("radio", name="Flow", exact=True).click()
    made = saved(page)
    clip = made["derived"]["clips"][1]
    (landing,) = clip["landings"]
    mix, hit, first = clip["mix"], landing["wanted_frame"], made["derived"]["map"]["first"]
    moved = [n for n in range(hit - 16, hit + 16) if mix["how"][n - mix["first"]] == HOWS.index("draft")]
    assert len(moved) > 10
    file = exported_pictures(page, tmp_path)
    page.keyboard.press("Escape")
    apart = []
    for n in (*moved[:3], *moved[-3:]):
        pair = [takes[column[n - mix["first"]]].astype(int) for column in mix["sources"]]
        blend = (pair[0] + pair[1]) / 2
        shown = file[n - first][2::4, 2::4]
        apart.append(np.abs(shown[:, UNSURE + 20 :] - blend[:, UNSURE + 20 :]).max())
        to_frame(page, n)
        assert comes_near(page, file[n - first], 2.5), n
    # The file shows one bar between the two, where a blend shows two.
    assert np.median(apart) > 20

    # Split, one side shows the frame as it is in the take, up to where its edge is.
    page.keyboard.press("y")
    page.get_by_role("slider", name="Edge of the split picture").press("End")
    n = moved[-1]
    assert comes_near(page, takes[made["derived"]["map"]["source"][n - first]], 2.5)
    page.keyboard.press("y")
    assert comes_near(page, file[n - first], 2.5)

    # What flow cannot follow is told, and need not be mixed.
    page.get_by_text("The whole clip").click()
    doubts = page.get_by_role("region", name="Doubtful frames")
    expect(doubts.get_by_role("button", name=re.compile("^Do not mix")).first).to_be_visible()
    doubtful = doubts.get_by_role("button", name=re.compile(r"^Frame \d+: \d+ %")).first
    n = int(doubtful.inner_text().split()[1].rstrip(":"))
    doubtful.click()
    expect(page.get_by_text(f"frame {n}", exact=True)).to_be_visible()
    doubts.get_by_role("button", name=f"Do not mix frame {n}").click()
    expect(doubts.get_by_text(re.compile("^Not mixed into take frame"))).to_be_visible()
    mix = saved(page)["derived"]["clips"][1]["mix"]
    assert mix["how"][n - mix["first"]] == HOWS.index("guarded")
    doubts.get_by_role("button", name=re.compile("^Mix take frame")).click()
    expect(doubts.get_by_text(re.compile("^Not mixed"))).to_have_count(0)

    # A span goes its own way, and a tie may be let go of: it still lands.
    page.get_by_role("button", name=re.compile("^Span 2 ")).click()
    page.get_by_text("In-between frames", exact=True).click()
    page.get_by_role("radiogroup", name="In-between frames of this span").get_by_role(
        "radio", name="Automatic"
    ).click()
    page.get_by_role("slider", name=re.compile("^Cue of ")).first.click()
    page.get_by_label("No blend or blur shows it early").uncheck()
    made = saved(page)
    clip = made["edit"]["clips"][1]
    assert [span["motion"] and span["motion"]["between"] for span in clip["spans"]] == [None, "automatic"]
    assert [pin["guarded"] for pin in clip["pins"]] == [True, False, True]
    assert made["derived"]["clips"][1]["landings"][0]["exact"]
