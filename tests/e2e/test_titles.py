"""A title written, placed, moved and copied; the edit ended on a card; both read in the exported file."""

import re
from pathlib import Path

import av
import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

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
    # What is being typed when the answer to the click comes is not lost.
    held: list[Route] = []
    page.route(COMMANDS, lambda route: held.append(route))
    with page.expect_request(COMMANDS):
        fields.get_by_role("radio", name="Plate").click()
    fields.get_by_label("Text").fill("HEAT\nTHREE")
    with page.expect_response(COMMANDS):
        held.pop().continue_()
    page.unroute(COMMANDS)
    expect(fields.get_by_role("radio", name="Plate")).to_be_checked()
    with page.expect_response(COMMANDS):
        fields.get_by_label("Text").blur()
    fields = details.get_by_role("group", name=re.compile("^HEAT "))
    begins = fields.get_by_label("From frame")
    frame = begins.input_value()
    begins.fill("")
    begins.blur()
    expect(begins).to_have_value(frame)
    # A slider that was dragged out and back has sent nothing, and follows what is undone.
    size = fields.get_by_role("slider", name="Size, slider")
    at = size.input_value()
    with page.expect_response(COMMANDS):
        fields.get_by_label("Size, %").fill("20")
        fields.get_by_label("Size, %").blur()
    expect(size).to_have_value("0.2")
    box = size.bounding_box()
    least, most = (float(size.get_attribute(name)) for name in ("min", "max"))
    x = box["x"] + 8 + (box["width"] - 16) * (0.2 - least) / (most - least)
    page.mouse.move(x, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(x + 40, box["y"] + box["height"] / 2)
    page.mouse.move(x, box["y"] + box["height"] / 2)
    page.mouse.up()
    expect(size).to_be_focused()
    expect(size).to_have_value("0.2")
    page.keyboard.press("Control+z")
    expect(size).to_have_value(at)
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
        details.get_by_role("button", name="Card from here").click()
    state = saved(page)
    end = state["derived"]["end"]
    assert end["dark"] < end["stop"]
    assert end["dark"] < last
    expect(details.get_by_text(re.compile(r"^Black from \d"))).to_be_visible()
    card = state["edit"]["titles"][1]
    assert (card["card"], card["to_end"]) == ("#000000", True)

    seen = pictures_of(exported_file(page, tmp_path))
    first = state["derived"]["map"]["first"]
    assert len(seen) == end["stop"] - first
    written = seen[end["dark"] - first]
    assert written.max() > 200, "the card has letters"
    assert np.median(written) < 20, "and is black beside them"
    assert np.median(seen[end["dark"] - first - 1]) > 20


CHOSEN = """
window.showSaveFilePicker = async ({ suggestedName }) => {
  window.chosen = { name: suggestedName, parts: [] }
  const write = (part) => void window.chosen.parts.push(part)
  const take = { write, close: () => void (window.chosen.whole = true) }
  return { createWritable: async () => new WritableStream(take) }
}
"""
"""A person who chooses a place for a file, in a browser that can ask."""


def test_a_review_page_is_looked_at_and_its_notes_come_back(server, page: Page, tmp_path: Path):
    page.add_init_script(CHOSEN)
    begun(server, page, tmp_path)
    exported = exported_file(page, tmp_path)
    page.get_by_role("button", name="Export").click()
    page.get_by_role("button", name="Save as…").click()
    page.wait_for_function("() => window.chosen?.whole")
    written = page.evaluate(
        "async () => [...new Uint8Array(await new Blob(window.chosen.parts).arrayBuffer())]"
    )
    assert bytes(written) == exported.read_bytes()
    assert page.evaluate("() => window.chosen.name") == "Untitled edit.mkv"
    with page.expect_download() as download:
        page.get_by_role("link", name="Review page").click()
    download.value.save_as(tmp_path / "review.html")
    with page.expect_download() as download:
        page.get_by_role("link", name="Poster").click()
    download.value.save_as(tmp_path / "poster.jpg")
    with av.open(str(exported)) as film, av.open(str(tmp_path / "poster.jpg")) as poster:
        sizes = [(each.streams.video[0].width, each.streams.video[0].height) for each in (film, poster)]
    assert sizes[0] == sizes[1]
    page.keyboard.press("Escape")
    state = saved(page)
    first = state["derived"]["map"]["first"]

    # By itself, from the disk, with no network: it shows the frame that the exported file has there.
    review = page.context.new_page()
    review.route(re.compile("^https?:"), lambda route: route.abort())
    review.goto((tmp_path / "review.html").as_uri())
    where = review.get_by_role("status")
    expect(where).to_contain_text("frame 0")
    landing = state["derived"]["clips"][1]["landings"][0]["wanted_frame"] - first
    review.get_by_role("button", name=f"frame {landing}", exact=True).first.click()
    expect(where).to_contain_text(f"frame {landing},")
    review.keyboard.press("Shift+ArrowRight")
    expect(where).to_contain_text(f"frame {landing + 10},")
    review.keyboard.press("ArrowLeft")
    expect(where).to_contain_text(f"frame {landing + 9},")
    review.wait_for_function("() => !document.getElementById('film').seeking")
    seen = review.evaluate(
        """() => {
          const film = document.getElementById('film')
          const canvas = new OffscreenCanvas(film.videoWidth, film.videoHeight)
          const context = canvas.getContext('2d')
          context.drawImage(film, 0, 0)
          return [...context.getImageData(film.videoWidth / 2, film.videoHeight / 2, 1, 1).data].slice(0, 3)
        }"""
    )
    with av.open(str(exported)) as container:
        frames = list(container.decode(video=0))
    file = frames[landing + 9].to_ndarray(format="rgb24")
    assert seen == pytest.approx(file[file.shape[0] // 2, file.shape[1] // 2].astype(int), abs=12)

    review.get_by_label("Your name").fill("Ada")
    review.get_by_label("Note on this frame").fill("Softer here")
    review.get_by_role("button", name="Add note").click()
    with review.expect_download() as notes:
        review.get_by_role("button", name="Save the notes as a file").click()
    notes.value.save_as(tmp_path / "notes.json")
    review.close()

    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    details = page.get_by_role("complementary", name="Details")
    details.get_by_text("Notes", exact=True).click()
    with page.expect_response(re.compile("/notes")):
        details.get_by_label("File of notes").set_input_files(tmp_path / "notes.json")
    (note,) = saved(page)["edit"]["notes"]
    assert (note["text"], note["by"]) == ("Softer here", "Ada")
    assert note["time"] == pytest.approx((first + landing + 9) / 60, abs=1e-6)
    expect(details.get_by_role("list", name="Notes")).to_contain_text("Softer here")
    details.get_by_role("list", name="Notes").get_by_role("button", name=re.compile("^Softer")).click()
    expect(page.get_by_text(f"frame {first + landing + 9}", exact=True)).to_be_visible()
