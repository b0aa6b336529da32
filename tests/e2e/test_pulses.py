"""From a freeze to three pulses on a song, in the hand, and the file read back against what is solved."""

import json
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pygame
from playwright.sync_api import Page, expect

from tests.e2e.conftest import pulse_on_beats
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_montage import exported, saved
from tests.e2e.test_passes import begun, shown

RECORDING = Path(pygame.__file__).parent / "examples" / "data" / "house_lo.ogg"


def solved_by_the_command_line(page: Page, folder: Path) -> list[int]:
    """What ``izmet solve`` says of the edit that is open."""
    (folder / "edit.json").write_text(json.dumps(saved(page)["edit"]))
    command = [sys.executable, "-m", "izmet.cli", "solve", "edit.json", "--json"]
    run = subprocess.run(command, capture_output=True, text=True, cwd=folder, timeout=60, check=True)
    (clip,) = json.loads(run.stdout)["clips"]
    return clip["frames"]


def test_a_freeze_comes_to_life_on_the_beat_and_the_file_shows_it(server, page: Page, tmp_path: Path):
    """The song is a recording that pygame carries along, its beats as the automatic pass hears them."""
    song = Path(shutil.copy(RECORDING, tmp_path / "Bell Harbour.ogg"))
    begun(server, page, tmp_path, song)

    # From the hit on the picture stands.
    spans = page.get_by_role("region", name="Spans of the clip")
    spans.get_by_role("button", name=re.compile("Span 2")).click()
    page.get_by_role("radio", name="hold").click()
    expect(spans.get_by_role("button", name="Span 2 hold")).to_be_visible()
    frozen = shown(page)
    made = saved(page)
    landing = made["derived"]["clips"][0]["landings"][0]["wanted_frame"] - made["derived"]["map"]["first"]
    assert set(frozen[landing:]) == {30}

    # It walks on with every beat, and is refused where it would leave the take.
    page.keyboard.press("Escape")
    pulse_on_beats(page, "Walk")
    passes = spans.get_by_role("group", name="Repeated at cues")
    expect(passes.get_by_text("Pulse: Step")).to_be_visible()
    walked = shown(page)
    teeth = saved(page)["derived"]["clips"][0]["pulses"]["pulses"][0]["teeth"]
    first = made["derived"]["map"]["first"]
    after = [tooth["n"] - first for tooth in teeth if landing < tooth["n"] - first < len(walked) - 6]
    assert len(after) > 1
    assert [walked[n + 6] - walked[n - 1] for n in after] == [12] * len(after)
    assert walked[landing] == 30
    passes.get_by_role("spinbutton", name="Amount", exact=True).fill("60")
    passes.get_by_role("spinbutton", name="Amount", exact=True).press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("outside the take")
    with page.expect_response(re.compile("/commands$")):
        page.get_by_role("button", name=re.compile("As far as it goes")).click()
    expect(page.get_by_role("alert")).to_be_hidden()
    far = shown(page)
    assert far != walked
    assert min(far) == 0 or max(far) >= 398, "it comes to an end of the take"
    page.get_by_role("button", name="Undo").click()
    assert shown(page) == walked

    # Two more on top; one tooth of the first rests.
    pulse_on_beats(page, "Knock")
    pulse_on_beats(page, "Scatter")
    expect(passes.get_by_role("checkbox", name=re.compile("Pulse"))).to_have_count(3)
    expect(passes.get_by_role("meter", name="Room in the take")).to_be_visible()
    lane = page.get_by_role("group", name="Pulse teeth")
    quiet = teeth[-2]
    lane.get_by_role("button", name=f"Tooth at frame {quiet['n']}").first.click()
    own = passes.get_by_role("group", name=f"Tooth at frame {quiet['n']}")
    own.get_by_role("checkbox", name="Silent").check()
    expect(lane.get_by_role("button", name=f"Tooth at frame {quiet['n']}, silent")).to_be_visible()
    scattered = shown(page)
    with page.expect_response(re.compile("/commands$")):
        passes.get_by_role("button", name="Draw again").click()
    drawn = shown(page)
    assert drawn != scattered
    assert drawn[landing] == 30
    assert 30 not in drawn[:landing]
    assert faults(page) == []
    assert exported(page, tmp_path) == drawn == solved_by_the_command_line(page, tmp_path)
    page.keyboard.press("Escape")

    # Off they are gone, and the freeze is as it was.
    for box in passes.get_by_role("checkbox", name=re.compile("Pulse")).all():
        box.uncheck()
        expect(box).not_to_be_checked()
    assert shown(page) == frozen
