"""Blended pictures and motion blur, from the hand to the file: seen as exported, and no hit is early."""

import re
from fractions import Fraction
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.test_accents import exported, preview, seen_as, to_frame, typed
from tests.e2e.test_first_edit import look_at
from tests.e2e.test_montage import clips_of, filled, saved
from tests.media.files import write_clicks, write_colours

HIT = 45


def begun(server, page: Page, tmp_path: Path) -> None:
    """A montage of one take of 30 fps, in which no two pictures beside each other are alike."""
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * k for k in range(12)], 7)
    greys = [(30 + 37 * k % 180,) * 3 for k in range(120)]
    take = write_colours(tmp_path / "Heat two.mkv", greys, (320, 180), matrix=1, rate=Fraction(30))
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name="Cue ").first).to_be_visible()
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
    plain = 30 + 37 * made["derived"]["map"]["source"][n - first] % 180
    assert abs(int(file[n - first][0]) - plain) > 10
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
