"""A title written, placed, moved and copied; the edit ended on a card; both read in the exported file."""

import re
from pathlib import Path

import av
import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.test_accents import begun
from tests.e2e.test_montage import exported_file, saved

COMMANDS = re.compile("/commands$")


def pictures_of(path: Path) -> list[np.ndarray]:
    """The luma of every picture of a file, decoded with plain PyAV."""
    with av.open(str(path)) as container:
        size = container.streams.video[0]
        return [
            frame.to_ndarray(format="yuv420p")[: size.height, : size.width]
            for frame in container.decode(size)
        ]


def test_titles_are_written_and_the_edit_ends_on_a_card(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    page.get_by_role("tab", name="Clip").click()
    details = page.get_by_role("complementary", name="Details")
    cue = page.get_by_role("button", name=re.compile("^Cue ")).first
    cue.click()
    page.keyboard.press("Escape")
    with page.expect_response(COMMANDS):
        details.get_by_label("What to write").fill("HEAT THREE")
        details.get_by_role("button", name="Write").click()
    (title,) = saved(page)["edit"]["titles"]
    assert title["since"]["cue"], "on a cue it follows that"

    # What it looks like: in the middle at first, then higher and on a plate.
    fields = details.get_by_role("group", name=re.compile("^HEAT THREE"))
    with page.expect_response(COMMANDS):
        fields.get_by_role("radio", name="Plate").click()
    with page.expect_response(COMMANDS):
        fields.get_by_label("Text").fill("HEAT\nTHREE")
        fields.get_by_label("Text").blur()
    fields = details.get_by_role("group", name=re.compile("^HEAT "))
    fields.get_by_role("button", name="Place it on the picture").click()
    place = page.get_by_role("group", name="On the picture").get_by_role("button", name="Place of the title")
    place.focus()
    with page.expect_response(COMMANDS):
        place.press("Shift+ArrowUp")
    page.keyboard.press("Escape")
    changed = saved(page)["edit"]["titles"][0]
    assert (changed["text"], changed["behind"]) == ("HEAT\nTHREE", "plate")
    assert changed["down"] < 0.5

    # On its rail: a frame later, and as long.
    rail = page.get_by_role("group", name="Titles on the edit")
    rail.get_by_role("button", name=re.compile("^Title HEAT")).focus()
    before = saved(page)["derived"]["map"]["titles"][0]
    with page.expect_response(COMMANDS):
        page.keyboard.press("ArrowRight")
    after = saved(page)["derived"]["map"]["titles"][0]
    assert after["first"] == before["first"] + 1
    assert len(after["opacity"]) == len(before["opacity"])

    # The end: black, and a card of its own, some frames after the last hit.
    state = saved(page)
    last = state["derived"]["map"]["first"] + len(state["derived"]["map"]["clip"])
    details.get_by_role("button", name=re.compile("on beat")).last.click()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Escape")
    details.get_by_text("End of the edit").click()
    with page.expect_response(COMMANDS):
        details.get_by_role("button", name="Title from here").click()
    state = saved(page)
    end = state["derived"]["end"]
    assert end["dark"] < end["stop"]
    assert end["dark"] < last
    expect(details.get_by_text(re.compile("^Dark from"))).to_be_visible()
    card = state["edit"]["titles"][1]
    assert (card["card"], card["to_end"]) == ("#000000", True)

    seen = pictures_of(exported_file(page, tmp_path))
    first = state["derived"]["map"]["first"]
    assert len(seen) == end["stop"] - first
    written = seen[end["dark"] - first]
    assert written.max() > 200, "the card has letters"
    assert np.median(written) < 20, "and is black beside them"
    assert np.median(seen[end["dark"] - first - 1]) > 20
