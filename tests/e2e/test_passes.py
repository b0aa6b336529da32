"""Jump cuts on every beat, changed, stacked, switched off and made pins; the file shows what was said."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.conftest import CUE
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import look_at
from tests.e2e.test_montage import exported, saved
from tests.media.files import write_clicks, write_numbered


def begun(server, page: Page, tmp_path: Path, song: Path | None = None) -> None:
    """A take of numbered frames, its hit on frame 30, tied to a cue of a song, else of one of clicks."""
    song = song or write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * k for k in range(12)], 7)
    take = write_numbered(tmp_path / "Tern at the gate.mp4", 400, size=(320, 180))
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    page.get_by_role("button", name=re.compile("^Tern at the gate")).first.click()
    look_at(page, 30)
    page.keyboard.press("h")
    page.get_by_role("button", name="Tie impact at frame 30 to a cue").press("Enter")
    expect(page.get_by_text("1 of 1 land")).to_be_visible()


def shown(page: Page) -> list[int]:
    """The source frame on each output frame."""
    return list(saved(page)["derived"]["map"]["source"])


def test_what_is_repeated_at_cues_stays_in_the_hand(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    plain = shown(page)

    page.get_by_role("tab", name="Montage").click()
    panel = page.get_by_role("region", name="Montage")
    panel.get_by_text("On beats inside this clip").click()
    panel.get_by_role("button", name="Cues:").click()
    page.get_by_role("option", name="every beat").click()
    panel.get_by_label("Skip").fill("12")
    panel.get_by_label("Skip").press("Enter")
    panel.get_by_role("button", name="Jump cuts").click()
    passes = panel.get_by_role("group", name="Repeated at cues")
    expect(passes.get_by_text("Jump cuts")).to_be_visible()
    jumped = shown(page)
    made = saved(page)
    (kept,) = made["edit"]["clips"][0]["passes"]
    frames = dict(zip([cue["id"] for cue in made["edit"]["song"]["cues"]], made["cue_frames"], strict=True))
    tied = made["derived"]["clips"][0]["landings"][0]["wanted_frame"]
    first = made["derived"]["map"]["first"]
    # On the tie itself a span ends; on all other beats the picture jumps.
    on = {first + 1 + int(at) for at in np.flatnonzero(np.diff(jumped) >= 12)}
    assert on == {frames[cue] for cue in kept["cues"]} - {tied} != set()
    assert faults(page) == []

    # Changed, with another one on top; off and on.
    passes.get_by_label("Skip").fill("20")
    passes.get_by_label("Skip").press("Enter")
    panel.get_by_role("button", name="Alternate slow and fast").click()
    expect(passes.get_by_role("checkbox")).to_have_count(2)
    stepped = shown(page)
    assert np.diff(stepped).max() >= 20
    # A bend from beat to beat leaves what is seen on each of them.
    panel.get_by_role("button", name="Bend from cue to cue").click()
    expect(passes.get_by_role("checkbox")).to_have_count(3)
    both = shown(page)
    assert both != stepped
    on_beats = [frames[cue] - first for cue in kept["cues"]]
    assert [both[n] for n in on_beats] == [stepped[n] for n in on_beats]
    for box in passes.get_by_role("checkbox").all():
        box.uncheck()
        expect(box).not_to_be_checked()
    assert shown(page) == plain
    for box in passes.get_by_role("checkbox").all():
        box.check()
        expect(box).to_be_checked()
    assert shown(page) == both
    assert exported(page, tmp_path) == both

    # More than there is is refused with what fits; then they become pins that run the same.
    passes.get_by_label("Skip").fill("390")
    passes.get_by_label("Skip").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("would be skipped")
    page.get_by_role("button", name="Dismiss").click()
    passes.get_by_role("button", name="Make pins of these").click()
    expect(passes).to_be_hidden()
    assert shown(page) == both
