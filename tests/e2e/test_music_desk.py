"""The music desk as a person uses it: hear, count, select, correct, tap, move the song, cues as files."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import state


@pytest.fixture
def desk(demo_folder, page: Page):
    """The demo edit on the music desk, some bars around the drop in view."""
    server = Server(demo_folder.root.parent / "izmet", "demo")
    page.goto(f"{server.address}/edits/1")
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    page.keyboard.press("m")
    expect(page.get_by_role("tab", name="Music")).to_have_attribute("aria-selected", "true")
    yield page
    server.stop()


def cues(page: Page, *kinds: str) -> list[dict]:
    return [cue for cue in state(page)["edit"]["song"]["cues"] if cue["kind"] in kinds]


def saved(page: Page) -> None:
    expect(page.get_by_text("Saving…")).to_be_hidden()


def test_count_correct_and_select(desk: Page):
    page = desk
    assert faults(page) == []
    beats = len(cues(page, "beat", "downbeat"))
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_visible()
    page.get_by_role("button", name="Halve").click()
    expect(page.get_by_role("heading", name="56.00 bpm")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_visible()
    page.get_by_role("button", name="One beat later").click()
    saved(page)
    assert len(cues(page, "beat", "downbeat")) == beats
    page.keyboard.press("Control+z")

    # One cue by keys: reached, nudged by a frame, given a kind, deleted, brought back.
    for _ in range(4):
        page.keyboard.press("+")
    snare = page.get_by_role("button", name="Cue snare").first
    at = float(re.search(r"at ([\d.]+)", snare.get_attribute("aria-label")).group(1))
    snare.click()
    page.get_by_role("group", name="Music rail").press("Shift+ArrowRight")
    expect(page.get_by_role("button", name=f"Cue snare at {at:.3f}")).to_be_hidden()
    saved(page)
    assert any(cue["time"] == pytest.approx(at + 1 / 60, abs=0.001) for cue in cues(page, "snare"))
    page.get_by_role("group", name="Music rail").press("3")
    expect(page.get_by_role("region", name="Cue", exact=True)).to_contain_text("kick cue")
    expect(page.get_by_role("region", name="Cue", exact=True)).to_contain_text("Set by hand")
    count = len(cues(page, "kick"))
    page.get_by_role("group", name="Music rail").press("Delete")
    saved(page)
    assert len(cues(page, "kick")) == count - 1
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=f"Cue snare at {at:.3f}")).to_be_visible()

    # Many at once: all in view are moved together.
    page.keyboard.press("a")
    expect(page.get_by_role("region", name="Cues", exact=True)).to_be_visible()
    page.get_by_role("button", name="+1 ms").click()
    saved(page)
    assert sum(cue["made"] == "hand" for cue in state(page)["edit"]["song"]["cues"]) > 10
    page.keyboard.press("Control+z")
    page.keyboard.press("Escape")

    # A selection: kinds, strength, every second one; named and kept.
    page.get_by_role("tab", name="Select").click()
    total = page.get_by_role("status", name="Cues chosen")
    for kind in ("hat", "bass", "note", "snare", "beat", "drop", "roll", "kick"):
        page.get_by_role("group", name="Kinds").get_by_role("button", name=kind, exact=True).click()
    bars = len(cues(page, "downbeat"))
    expect(total).to_contain_text(f"{bars} of")
    page.get_by_label("Every").fill("2")
    page.get_by_label("Every").press("Enter")
    expect(total).to_contain_text(f"{-(-bars // 2)} of")
    page.get_by_label("Name of the selection").fill("Every other bar")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("list", name="Kept selections")).to_contain_text("Every other bar")
    page.get_by_role("button", name="all", exact=True).click()
    expect(total).to_contain_text(re.compile(r"^(\d+) of \1 cues"))
    page.get_by_role("list", name="Kept selections").get_by_role(
        "button", name="Every other bar"
    ).first.click()
    expect(total).to_contain_text(f"{-(-bars // 2)} of")


def test_listen_tap_move_and_exchange(desk: Page, tmp_path: Path):
    page = desk
    # A stretch repeats, at half speed, with clicks.
    page.get_by_role("tab", name="Listen").click()
    rail = page.get_by_role("group", name="Music rail").bounding_box()
    ruler = rail["y"] + rail["height"] - 8
    page.mouse.move(rail["x"] + rail["width"] * 0.3, ruler)
    page.mouse.down()
    page.mouse.move(rail["x"] + rail["width"] * 0.5, ruler, steps=4)
    page.mouse.up()
    expect(page.get_by_text("The marked stretch repeats.")).to_be_visible()
    page.get_by_role("radio", name="Half").click()
    expect(page.get_by_text("Making the slow copy")).to_be_hidden()
    page.keyboard.press("c")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()

    # Tapping along: the taps of one pass are one step.
    before = len(cues(page, "hand"))
    for taps in range(1, 5):
        page.keyboard.press("t")
        expect(page.get_by_text(f"{taps} taps")).to_be_visible()
        page.wait_for_timeout(250)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.get_by_text("4 taps")).to_be_hidden()
    saved(page)
    assert len(cues(page, "hand")) == before + 4
    page.keyboard.press("Control+z")
    saved(page)
    assert len(cues(page, "hand")) == before
    page.get_by_role("button", name="Play on").click()
    page.get_by_role("radio", name="Full").click()

    # The song is moved: every tie follows its cue.
    page.get_by_role("tab", name="Song").click()
    wanted = [landing["wanted_frame"] for landing in state(page)["derived"]["landings"]]
    page.get_by_label("Begins at, seconds of the edit").fill("0.5")
    page.get_by_label("Begins at, seconds of the edit").press("Enter")
    saved(page)
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert [n - 30 for n in (x["wanted_frame"] for x in state(page)["derived"]["landings"])] == wanted

    # Cues leave as a file, come back from one, and listening anew spares them.
    with page.expect_download() as download:
        page.get_by_role("link", name="MIDI").click()
    assert download.value.suggested_filename.endswith(".mid")
    mine = tmp_path / "mine.csv"
    mine.write_text("time,kind,strength\n1.25,hand,0.5\n2.5,drop,1\n")
    page.get_by_label("Read cues from a file").set_input_files(mine)
    saved(page)
    assert {1.25, 2.5} <= {cue["time"] for cue in cues(page, "hand", "drop")}
    wrong = tmp_path / "wrong.csv"
    wrong.write_text("time\nsoon\n")
    page.get_by_label("Read cues from a file").set_input_files(wrong)
    expect(page.get_by_role("alert")).to_contain_text("row 2")
    page.get_by_role("button", name="What would listening anew change?").click()
    expect(page.get_by_text("Nothing: all cues are as they were heard")).to_be_visible()

    # The cue under a tie is deleted: the tie stays, loose, and takes the cue that is proposed.
    drop = next(x["cue"] for x in state(page)["derived"]["landings"] if x["cue_kind"] == "drop")
    id = state(page)["id"]
    page.request.post(
        page.url.replace("/edits/", "/api/edits/") + "/commands",
        data={"base": state(page)["revision"], "command": {"do": "remove-cues", "cues": [drop]}},
    )
    assert state(page)["id"] == id
    page.keyboard.press("m")
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Loose ties")).to_be_visible()
    expect(page.get_by_role("slider", name="Loose end of splash-down")).to_be_visible()
    page.get_by_role("region", name="Edit").get_by_role("button", name=re.compile(r"\d+\.\d\d s$")).click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    expect(page.get_by_role("heading", name="Loose ties")).to_be_hidden()
