"""The demo in the browser: readable to everybody, drivable by keys alone, in time when it plays."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def faults(page: Page) -> list[str]:
    """What axe-core finds against WCAG 2.2 AA.

    Cues, moments, teeth and what is proposed stand at their instant, however close: the size of
    these targets falls under the exception for what is essential (success criterion 2.5.8).
    """
    page.evaluate(AXE.read_text())
    found = page.evaluate("rules => axe.run({ runOnly: rules })", RULES)
    dense = [one for one in found["violations"] if one["id"] == "target-size"]
    small = [node["html"] for one in dense for node in one["nodes"]]
    assert all(re.search('aria-label="(Cue|Moment|Proposed:|Tooth) ', html) for html in small), small
    return [
        f"{one['id']}: {node['target']} {node['failureSummary']}"
        for one in found["violations"]
        if one not in dense
        for node in one["nodes"]
    ]


def test_demo_screen(demo_server: Server, page: Page):
    page.goto(demo_server.address)
    expect(page.get_by_role("heading", name="Your edits")).to_be_visible()
    assert faults(page) == []
    page.get_by_role("link", name="Skerry Run, heat three").click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    expect(page.get_by_role("region", name="Landing", exact=True)).to_contain_text("splash-down on drop")
    assert faults(page) == []
    page.get_by_role("button", name="Light theme").click()
    page.get_by_role("button", name="Span 2 build").click()
    assert faults(page) == []
    page.get_by_role("button", name="Dark theme").click()

    # Keys alone: cue to cue, frame by frame, a tie to the next cue and back, zoom, the list of keys.
    playhead = page.get_by_label("Playhead")
    page.keyboard.press("Escape")
    before = playhead.inner_text()
    page.keyboard.press(".")
    expect(playhead).not_to_have_text(before)
    page.keyboard.press(",")
    knob = page.get_by_role("slider", name="Cue of splash-down")
    at = knob.get_attribute("aria-valuenow")
    knob.press("ArrowRight")
    expect(knob).not_to_have_attribute("aria-valuenow", at)
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(knob).to_have_attribute("aria-valuenow", at)
    page.keyboard.press("/")
    expect(page.get_by_role("heading", name="All keys")).to_be_visible()
    assert faults(page) == []
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="All keys")).to_be_hidden()
    page.keyboard.press("Escape")

    # A click starts the sound; the picture keeps up with it.
    page.get_by_role("button", name="run-up on downbeat").click()
    page.get_by_role("button", name="Play").click()
    health = page.get_by_test_id("playback")
    expect(health).to_have_attribute("data-drawn", re.compile(r"^\d{2}"))
    page.get_by_role("button", name="Pause").click()
