"""A person looks through a take: jumps to what is proposed, keeps and drops, steps, selects."""

from __future__ import annotations

import re
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_demo_screen import faults
from tests.media.files import add_sound, click_samples, write_numbered

ALL_PAINTED = """() => {
  const pictures = [...document.querySelectorAll('[aria-label="Hit finder"] canvas')]
  const seen = (canvas) => canvas.getContext('2d').getImageData(64, 36, 1, 1).data.slice(0, 3)
  return pictures.length === 9 && pictures.every((canvas) => seen(canvas).some((level) => level > 0))
}"""


SOUNDS = """
window.sounds = []
const start = AudioBufferSourceNode.prototype.start
AudioBufferSourceNode.prototype.start = function (when, offset, duration) {
  const { sampleRate } = this.buffer
  const part = this.buffer.getChannelData(0).slice(offset * sampleRate, (offset + duration) * sampleRate)
  const loudest = part.reduce((most, level) => Math.max(most, Math.abs(level)), 0)
  window.sounds.push({ when, duration, loudest })
  return start.call(this, when, offset, duration)
}
"""
"""Notes what begins to sound, and how loud it is."""


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

    # One that is a frame off becomes a moment where one looks; what was proposed is gone, in one step.
    at.fill("298")
    page.keyboard.press("Enter")
    expect(finder.get_by_role("status")).to_contain_text("stop at 296")
    expect(finder.get_by_role("button", name="Mark it at 298")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("button", name="Keep the stop at frame 296")).to_be_hidden()
    expect(moments.get_by_role("button")).to_have_count(2)
    assert [m["frame"] for m in take_of(page, "Tern rings the bell")["moments"]] == [240, 298]
    assert take_of(page, "Tern rings the bell")["dismissed"] == [dropped, 296]
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Keep the stop at frame 296")).to_be_visible()
    expect(moments.get_by_role("button")).to_have_count(1)

    # Steps, and what each frame shows: every second one repeats the picture before.
    page.get_by_label("Frame or timecode").fill("240")
    page.keyboard.press("Enter")
    page.wait_for_function(ALL_PAINTED)
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
    with page.expect_response("**/commands"):
        tags.press("Enter")
    (kept,) = take_of(page, "Tern rings the bell")["selects"]
    assert (kept["begin"], kept["end"], kept["tags"]) == (240, 250, ["close", "gold"])

    # What is typed stays though the edit changes elsewhere meanwhile.
    tags.fill("close, gold, wet")
    base = page.request.get(f"{demo_server.address}/api/edits/1").json()["revision"]
    command = {"do": "configure", "title": "Skerry Run, dusk"}
    sent = {"base": base, "command": command}
    assert page.request.post(f"{demo_server.address}/api/edits/1/commands", data=sent).ok
    expect(page.get_by_label("Title of the edit")).to_have_value("Skerry Run, dusk")
    expect(tags).to_have_value("close, gold, wet")
    with page.expect_response("**/commands"):
        tags.press("Enter")
    (kept,) = take_of(page, "Tern rings the bell")["selects"]
    assert kept["tags"] == ["close", "gold", "wet"]
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


def test_a_long_upright_take_is_seen_whole_and_heard_to_its_end(server: Server, page: Page, tmp_path: Path):
    """Far into it one hears what is there; of very many proposals those at hand are shown."""
    clicks = click_samples([10.2, 20.6], 60, channels=1)[:, 0]
    picture = write_numbered(tmp_path / "picture.mp4", 600, Fraction(10), size=(180, 320))
    take = add_sound(picture, clicks, tmp_path / "upright.mkv")
    page.add_init_script(SOUNDS)
    page.goto(server.address)
    page.get_by_role("button", name="Begin").first.click()
    page.get_by_label("Files for the shelf").set_input_files(take)
    page.get_by_role("tab", name="Takes").click()
    expect(page.get_by_role("complementary", name="Details")).to_contain_text("180×320")
    at = page.get_by_label("Frame or timecode")

    def sounds_at(frame: int) -> list[dict]:
        page.evaluate("window.sounds = []")
        at.fill(str(frame))
        at.press("Enter")
        page.wait_for_function("() => window.sounds.length > 0")
        return page.evaluate("window.sounds")

    at.fill("100")  # what is looked at first is fetched only
    at.press("Enter")
    loudest = {frame: max(sound["loudest"] for sound in sounds_at(frame)) for frame in (102, 150, 206, 250)}
    assert min(loudest[102], loudest[206]) > 20 * max(loudest[150], loudest[250])

    # Running on over the end of a stretch, the next begins to the sample where the first ends.
    sounds_at(190)
    page.evaluate("window.sounds = []; document.activeElement.blur()")
    page.keyboard.press("Space")
    page.wait_for_function("() => window.sounds.length > 1")
    page.keyboard.press("Space")
    first, second = page.evaluate("window.sounds")[:2]
    assert first["when"] + first["duration"] == pytest.approx(second["when"], abs=1e-9)

    # The finder shows all of the picture, and what is new beside it.
    finder = page.get_by_role("region", name="Hit finder")
    page.wait_for_function(
        """() => [...document.querySelectorAll('[aria-label="Hit finder"] canvas')].every((canvas) => {
          const seen = (x) => canvas.getContext('2d').getImageData(x, 72, 1, 1).data[3]
          return [8, 56, 72, 120].every(seen) && ![1, 126].some((x) => !seen(x) !== !seen(127 - x))
        })"""
    )
    expect(finder).to_be_visible()

    # Kinds that nobody looks for are left out, on the rail too; the list goes along.
    proposals = page.get_by_role("region", name="Proposals")
    kinds = proposals.get_by_role("group", name="Kinds of proposals")
    for kind in ("start", "stop"):
        kinds.get_by_role("button", name=kind).click()
    rail = page.get_by_role("group", name="Take rail")
    expect(rail.get_by_role("button", name="Proposed: start")).to_have_count(0)
    expect(proposals.get_by_role("button", name=re.compile("^Keep the"))).to_have_count(30)
    places = [
        box["x"]
        for button in rail.get_by_role("button", name="Proposed:").all()
        if (box := button.bounding_box())
    ]
    assert len(places) > 5
    assert all(other - one >= 13.9 for one, other in pairwise(sorted(places)))
    # The strongest come first, page by page, from some weight on, and never two on one frame.
    # Where it stopped playing is by chance: the page on which that is may be a later one.
    stronger = proposals.get_by_role("button", name="stronger")
    while stronger.is_visible():
        stronger.click()
    weighed = proposals.get_by_role("button", name=re.compile(r"^\w+ \d+ % \d+$"))
    told = [text.split() for text in weighed.all_inner_texts()]
    weights = [int(words[1]) for words in told]
    assert weights == sorted(weights, reverse=True)
    assert len({words[-1] for words in told}) == len(told)
    expect(stronger).to_be_hidden()
    proposals.get_by_role("button", name="more").click()
    expect(stronger).to_be_visible()
    proposals.get_by_label("At least as strong as, %").fill("70")
    proposals.get_by_label("At least as strong as, %").press("Enter")
    expect(proposals.get_by_text("weaker, not shown")).to_be_visible()
    assert weighed.count() == sum(weight >= 70 for weight in weights)
    assert faults(page) == []

    # What is marked stands apart on the clip desk too: its rail shows what is around it.
    for frame in ("206", "216"):
        at.fill(frame)
        at.press("Enter")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("h")
        expect(page.get_by_role("button", name=f"Moment impact at frame {frame}")).to_be_visible()
    page.get_by_role("tab", name="Clip").click()
    expect(page.get_by_role("img", name="Picture, take frame 216")).to_be_visible()
    rail = page.get_by_role("group", name="Picture rail")

    def apart() -> float:
        boxes = [rail.get_by_role("button", name=f"frame {frame}").bounding_box() for frame in (206, 216)]
        return boxes[1]["x"] - boxes[0]["x"]

    assert apart() > 50
    page.get_by_role("button", name="The whole take on the rail").click()
    expect(page.get_by_role("button", name="The whole take on the rail")).to_be_hidden()
    assert apart() < 20
    page.get_by_role("button", name="Fit").click()
    expect(page.get_by_role("button", name="The whole take on the rail")).to_be_visible()
    near = apart()
    rail.hover()
    page.mouse.wheel(0, -400)
    page.wait_for_timeout(300)
    assert apart() > 1.5 * near
    assert faults(page) == []
