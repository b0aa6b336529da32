"""Sounds laid on cues, the song giving way, levels on the way, the loudness of it all; heard in the file."""

import re
from pathlib import Path

import av
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_accents import begun
from tests.e2e.test_montage import exported_file, saved

COMMANDS = re.compile("/commands$")


def heard_in(path: Path) -> tuple[np.ndarray, int]:
    """The first channel of a file, decoded with plain PyAV."""
    with av.open(str(path)) as container:
        even = av.AudioResampler(format="fltp", layout="mono")
        frames = [each for frame in container.decode(audio=0) for each in even.resample(frame)]
    return np.concatenate([frame.to_ndarray()[0] for frame in frames]), frames[0].rate


def test_sounds_are_laid_moved_levelled_and_heard_in_the_file(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    page.get_by_role("tab", name="Music").click()

    # The song is turned far down, so that what is laid is heard alone.
    page.get_by_role("tab", name="Mix").click()
    level = page.get_by_role("region", name="Level of the song")
    with page.expect_response(COMMANDS):
        level.get_by_label("Level, dB").fill("-60")
        level.get_by_label("Level, dB").press("Enter")

    # A click on the cue that is chosen, then a file of the shelf on another one.
    cues = page.get_by_role("button", name=re.compile("^Cue "))
    cues.nth(1).click()
    panel = page.get_by_role("region", name="Cue", exact=True)
    # Nudged quickly, by a frame each time: every click counts.
    time = float(panel.get_by_label("Time, seconds").input_value())
    for _ in range(3):
        panel.get_by_role("button", name="+1 fr").click()
    expect(panel.get_by_label("Time, seconds")).to_have_value(f"{time + 3 / 60:.4f}")
    panel.get_by_text("Add a sound").click()
    with page.expect_response(COMMANDS):
        panel.get_by_role("button", name="Sound: Click").click()
    expect(panel.get_by_label("Level, dB")).to_have_value("0")
    with page.expect_response(COMMANDS):
        panel.get_by_label("Level, dB").fill("-3")
        panel.get_by_label("Level, dB").press("Enter")
    with page.expect_response(COMMANDS):
        panel.get_by_text("Duck the song under it").click()
    state = saved(page)
    (sound,) = state["edit"]["sounds"]
    assert (sound["level"], sound["duck"]["by"]) == (-3, 6)

    # On its rail: pressed quickly, every press counts.
    rail = page.get_by_role("group", name="Sounds on the music")
    rail.get_by_role("button", name=re.compile("^Click at")).focus()
    before = sound["at"]["cues"][0]
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    frames = dict(zip((cue["id"] for cue in state["edit"]["song"]["cues"]), state["cue_frames"], strict=True))
    later = sorted({n for n in frames.values() if n > frames[before]})[1]
    expect(rail.get_by_role("button", name=re.compile(f"^Click at {later / 60:.2f}"))).to_be_visible()
    state = saved(page)
    cue = state["edit"]["sounds"][0]["at"]["cues"][0]
    assert frames[cue] == later

    # How loud it goes on the way, and all of it.
    page.keyboard.press("Escape")
    page.get_by_role("tab", name="Mix").click()
    with page.expect_response(COMMANDS):
        page.get_by_label("Ring out, s").fill("1.5")
        page.get_by_label("Ring out, s").blur()
    assert saved(page)["edit"]["song"]["ring_out"] == 1.5
    for of in ("Level of the song", "The clips' own sound"):
        with page.expect_response(COMMANDS):
            page.get_by_role("region", name=of).get_by_role("button", name="Set a level here").click()
    state = saved(page)
    assert (len(state["edit"]["song"]["levels"]), len(state["edit"]["own_levels"])) == (1, 1)
    with page.expect_response(COMMANDS):
        page.get_by_role("button", name=re.compile("^Remove the level on")).first.click()
    with page.expect_response(COMMANDS):
        page.get_by_role("checkbox", name="Mute all").check()
    page.get_by_role("button", name="Measure the mix").click()
    expect(page.get_by_role("meter", name=re.compile("^Momentary loudness"))).to_be_visible()
    expect(page.get_by_text(re.compile(r"dBTP$")).first).to_be_visible()

    file = exported_file(page, tmp_path)
    state = saved(page)
    samples, rate = heard_in(file)
    at = next(each["time"] for each in state["edit"]["song"]["cues"] if each["id"] == cue)
    place = (at - state["derived"]["map"]["first"] / 60) * rate
    loud = int(np.argmax(np.abs(samples) > 0.3 * np.abs(samples).max()))
    assert loud == pytest.approx(place, abs=1.5)
