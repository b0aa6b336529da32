"""A person looks through a take: jumps to what is proposed, keeps and drops, steps, selects."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_demo_screen import faults

ALL_PAINTED = """() => {
  const pictures = [...document.querySelectorAll('[aria-label="Hit finder"] canvas')]
  const seen = (canvas) => canvas.getContext('2d').getImageData(64, 36, 1, 1).data.slice(0, 3)
  return pictures.length === 9 && pictures.every((canvas) => seen(canvas).some((level) => level > 0))
}"""


def take_of(page: Page, name: str) -> dict:
    state = page.request.get(page.url.replace("/edits/", "/api/edits/")).json()
    return next(take for take in state["edit"]["takes"] if take["media"]["name"] == name)


def test_a_take_is_looked_through_marked_and_selected(demo_server: Server, page: Page):
    page.goto(f"{demo_server.address}/edits/1")
    page.get_by_role("tab", name="Takes").click()
    page.get_by_role("button", name=re.compile("^Tern rings the bell")).first.click()
    details = page.get_by_role("complementary", name="Details")
    expect(details.get_by_text("Only 30 distinct pictures a second.")).to_be_visible()
    at = page.get_by_label("Frame or timecode")

    # From proposal to proposal; the finder says why; one is kept, undone, kept again.
    expect(page.get_by_role("button", name="Keep the start at frame 236")).to_be_visible()
    page.get_by_label("Frame or timecode").fill("0:03:30")
    page.keyboard.press("Enter")
    expect(at).to_have_value("210")
    page.keyboard.press("n")
    expect(at).to_have_value("236")
    finder = page.get_by_role("region", name="Hit finder")
    expect(finder.get_by_role("status")).to_contain_text("start at 236: it begins to move")
    page.keyboard.press("Enter")
    moments = page.get_by_role("region", name="Moments of the take")
    expect(moments.get_by_role("button")).to_have_count(2)
    assert [m["frame"] for m in take_of(page, "Tern rings the bell")["moments"]] == [236, 240]
    page.keyboard.press("Control+z")
    expect(moments.get_by_role("button")).to_have_count(1)
    expect(page.get_by_role("button", name="Keep the start at frame 236")).to_be_visible()

    # One is dropped, and stays so; what was marked by hand is never touched.
    page.keyboard.press("n")
    page.keyboard.press("Shift+N")
    expect(at).to_have_value("236")
    page.keyboard.press("n")
    expect(at).to_have_value(re.compile("26."))
    dropped = int(at.input_value())
    page.keyboard.press("Delete")
    expect(page.get_by_role("button", name=f"Keep the peak at frame {dropped}")).to_be_hidden()
    page.reload()
    page.get_by_role("tab", name="Takes").click()
    page.get_by_role("button", name=re.compile("^Tern rings the bell")).first.click()
    expect(page.get_by_role("button", name="Keep the stop at frame 296")).to_be_visible()
    expect(page.get_by_role("button", name=f"Keep the peak at frame {dropped}")).to_be_hidden()
    assert take_of(page, "Tern rings the bell")["dismissed"] == [dropped]

    # Steps, and what each frame shows: every second one repeats the picture before.
    page.get_by_label("Frame or timecode").fill("240")
    page.keyboard.press("Enter")
    page.wait_for_function(ALL_PAINTED, timeout=10_000)
    page.keyboard.press("ArrowRight")
    expect(at).to_have_value("241")
    page.keyboard.press("Shift+ArrowLeft")
    expect(at).to_have_value("231")
    expect(page.get_by_role("button", name="Keep the stop at frame 296")).to_be_visible()
    expect(finder.get_by_title("The same picture as the frame before")).to_have_count(5)
    page.keyboard.press(".")
    expect(at).to_have_value("240")

    # A stretch is kept, named and tagged.
    page.keyboard.press("i")
    expect(page.get_by_role("button", name="End it here")).to_be_visible()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("i")
    name = page.get_by_label("Name of select 1")
    name.fill("the bell, Привет")
    name.press("Enter")
    tags = page.get_by_label("Tags of select the bell, Привет")
    tags.fill("close, gold")
    tags.press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    (kept,) = take_of(page, "Tern rings the bell")["selects"]
    assert (kept["begin"], kept["end"], kept["tags"]) == (240, 250, ["close", "gold"])
    assert faults(page) == []

    # It runs by itself, and back; then the picture alone.
    at.fill("10")
    page.keyboard.press("Enter")
    page.keyboard.press("e")
    expect(at).not_to_have_value("10")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    bar = page.get_by_role("toolbar", name="Looking through the take")
    page.keyboard.press("e")
    expect(bar.get_by_role("status")).to_have_text("2×")
    page.keyboard.press("w")
    page.keyboard.press("w")
    expect(bar.get_by_role("status")).to_have_text("0.25×")
    page.keyboard.press("w")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    rested = int(at.input_value())
    page.keyboard.press("w")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.wait_for_function(
        "was => document.querySelector('[aria-label=\"Frame or timecode\"]').value < was", arg=rested
    )
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("z")
    expect(finder).to_be_hidden()
    page.keyboard.press("z")
    expect(finder).to_be_visible()

    # Closer, in the light theme, nothing is lost.
    for _ in range(6):
        page.keyboard.press("+")
    page.get_by_role("button", name="Light theme").click()
    assert faults(page) == []
    page.get_by_role("button", name="The whole take").click()
    expect(page.get_by_role("button", name="Moment bell, frame 240")).to_be_visible()
