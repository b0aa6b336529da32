"""From an empty start to a proven export, as a person would: by role and label, in a real browser."""

import base64
import json
import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, Route, expect

from izmet.core.document.upgrade import VERSION
from tests.e2e.conftest import CUE
from tests.media.files import click_times, decode_sound, read_numbers, write_clicks, write_numbered

BEATS = [0.5 + 0.5 * beat for beat in range(12)]
IMPACT, ACTION = 150, 60


def middle(locator) -> tuple[float, float]:
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def pull(page: Page, start, end, release: bool = True) -> None:
    """Press on one thing and move to another, in steps, as a hand does."""
    (x0, y0), (x1, y1) = middle(start), middle(end)
    page.mouse.move(x0, y0)
    page.mouse.down()
    page.mouse.move((x0 + x1) / 2, (y0 + y1) / 2, steps=4)
    page.mouse.move(x1, y1, steps=4)
    if release:
        page.mouse.up()


def choose(page: Page, label: str, option: str | re.Pattern) -> None:
    page.get_by_role("button", name=label).click()
    page.get_by_role("option", name=option).first.click()


def look_at(page: Page, frame: int) -> None:
    """Step to a source frame: a click on the picture rail, then frame by frame."""
    rail = page.get_by_role("group", name="Picture rail").bounding_box()
    page.mouse.click(rail["x"] + rail["width"] * frame / 240 + 2, rail["y"] + 20)
    now = page.get_by_role("region", name="Frame neighbours").get_by_role("button", name="Frame ")
    for _ in range(40):
        at = int(now.get_attribute("aria-label").split()[1])
        if at == frame:
            return
        page.keyboard.press("[" if at > frame else "]")
    raise AssertionError("the frame was not reached")


def cue(page: Page, kind: str, time: float):
    return page.get_by_role("button", name=f"Cue {kind} at {time:.3f} s")


def state(page: Page) -> dict:
    return page.request.get(page.url.replace("/edits/", "/api/edits/")).json()


def landings(page: Page) -> list[dict]:
    return [landing for clip in state(page)["derived"]["clips"] for landing in clip["landings"]]


def drop_on_shelf(page: Page, files: list[Path]) -> None:
    """Drop files as a file manager does."""
    load = """async (files) => {
      const transfer = new DataTransfer()
      for (const { name, data } of files) {
        transfer.items.add(new File([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], name))
      }
      return transfer
    }"""
    loaded = [{"name": file.name, "data": base64.b64encode(file.read_bytes()).decode()} for file in files]
    transfer = page.evaluate_handle(load, loaded)
    page.get_by_role("complementary", name="Shelf").dispatch_event("drop", {"dataTransfer": transfer})


def test_upload_mark_tie_bend_play_drag_undo_reload_export_and_proof(server, page: Page, tmp_path: Path):
    song = write_clicks(tmp_path / "Bell Harbour.wav", BEATS, 7)
    take = write_numbered(tmp_path / "Tern at the gate.mp4", 240, size=(320, 180))
    page.goto(server.address)
    expect(page.get_by_text("None yet.")).to_be_visible()
    page.get_by_label("Title").fill("Heat one")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_text("Pick the music first")).to_be_visible()

    # Files go in together; the song becomes the music, the take is chosen when it has been read.
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name=re.compile("^Bell Harbour"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("button", name=re.compile("^Tern at the gate"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()

    # Cues: found, set with a key, given a kind, moved to the exact time, deleted.
    page.get_by_role("button", name="Fit").click()
    choose(page, "Kind of new cues", "drop")
    rail = page.get_by_role("group", name="Music rail").bounding_box()
    page.mouse.click(rail["x"] + rail["width"] * 0.605, rail["y"] + 10)
    page.get_by_role("button", name="Cue drop").press("ArrowRight")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.get_by_label("Time, seconds").fill("4.0")
    page.get_by_label("Time, seconds").press("Enter")
    expect(cue(page, "drop", 4.0)).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("t")
    expect(page.get_by_role("button", name="Cue drop")).to_have_count(2)
    page.get_by_role("button", name="Cue drop at 0.0").press("Delete")
    expect(page.get_by_role("button", name="Cue drop")).to_have_count(1)

    # Moments: the impact by its key, the action by its button, each on its exact frame.
    look_at(page, IMPACT)
    page.keyboard.press("h")
    expect(page.get_by_role("button", name=f"Moment impact at frame {IMPACT}")).to_be_visible()
    look_at(page, ACTION)
    page.get_by_role("group", name="Mark this frame").get_by_role("button", name="action").click()
    expect(page.get_by_role("button", name=f"Moment action at frame {ACTION}")).to_be_visible()

    # Lay: pull the impact's knob down to the drop. Tie: the action, from the details.
    pull(page, page.get_by_role("button", name="Tie impact at frame"), cue(page, "drop", 4.0))
    expect(page.get_by_text("1 of 1 land")).to_be_visible()
    page.get_by_role("button", name="Moment action").focus()
    choose(page, "Cue:", "2.000 s")
    page.get_by_role("button", name="Tie it to this cue").click()
    expect(page.get_by_text("2 of 2 land")).to_be_visible()

    # Bend: a dip, and the strongest that stays smooth; a build; a handle of the curve by key.
    page.get_by_role("button", name="Span 2 steady").click()
    page.get_by_role("radio", name="Dip").click()
    expect(page.get_by_role("slider", name="Middle speed", exact=True)).to_be_visible()
    page.get_by_label("Strength, %").fill("80")
    page.get_by_label("Strength, %").press("Enter")
    expect(page.get_by_role("button", name="Span 2 dip")).to_contain_text("rep.")
    page.get_by_role("radio", name="Build").click()
    expect(page.get_by_text("(solved)")).to_be_visible()
    page.get_by_role("slider", name="Start speed", exact=True).press("Shift+ArrowUp")
    expect(page.get_by_text("2 of 2 land")).to_be_visible()

    # Play: at once, nothing rendered; the picture moves and follows the clock.
    page.get_by_role("button", name="Fit").click()
    before = page.get_by_label("Playhead").inner_text()
    page.keyboard.press("Space")
    expect(page.get_by_test_id("playback")).to_have_attribute("data-drawn", re.compile(r"^\d{2}"))
    page.keyboard.press("Space")
    assert page.get_by_label("Playhead").inner_text() != before

    # Drag a tie to another cue: numbers follow before the hand lets go.
    knob = page.get_by_role("slider", name="Cue of impact")
    expect(knob).to_have_attribute("aria-valuenow", "240")
    pull(page, knob, cue(page, "beat", 4.5).or_(cue(page, "downbeat", 4.5)).first, release=False)
    expect(knob).to_have_attribute("aria-valuenow", "270")
    assert landings(page)[-1]["wanted_frame"] == 240
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    expect(knob).to_have_attribute("aria-valuenow", "270")

    # Undo, redo; also after a reload, and after the server is killed and started again.
    page.keyboard.press("Control+z")
    expect(knob).to_have_attribute("aria-valuenow", "240")
    page.reload()
    page.get_by_role("button", name="Redo").click()
    expect(knob).to_have_attribute("aria-valuenow", "270")
    server.kill_and_restart()
    page.reload()
    page.get_by_role("button", name="Undo").click()
    expect(knob).to_have_attribute("aria-valuenow", "240")

    # Export, measured; then decode what was downloaded with plain PyAV.
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="MKV").click()
    page.get_by_role("button", name="Export MKV").click()
    expect(page.get_by_text("Everything lands, measured in the file")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download MKV").click()
    got = tmp_path / "got.mkv"
    download.value.save_as(got)
    assert download.value.suggested_filename == "Heat one.mkv"
    shown = state(page)["derived"]["map"]
    numbers = read_numbers(got)
    assert numbers == shown["source"]
    assert numbers.index(IMPACT) == 240 - shown["first"]
    assert numbers.index(ACTION) == 120 - shown["first"]
    samples, rate = decode_sound(got)
    start, end = shown["first"] / 60, (shown["first"] + len(numbers)) / 60
    expected = [beat - start for beat in BEATS if start < beat < end - 0.05]
    assert np.abs(np.array(click_times(samples, rate, expected)) - expected).max() <= 1.001 / rate


def test_what_goes_wrong_is_said_where_it_went_wrong(server, page: Page, tmp_path: Path):
    page.goto(server.address)
    bad = tmp_path / "edit.json"
    bad.write_text(json.dumps({"version": VERSION + 1}))
    page.get_by_label("Open a document").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text(f"this program reads versions 1 to {VERSION}")

    page.get_by_role("button", name="Begin").click()
    notes = tmp_path / "notes.mp4"
    notes.write_text("not a film")
    page.get_by_label("Files for the shelf").set_input_files(notes)
    expect(page.get_by_role("button", name=re.compile("^notes")).first).to_contain_text("cannot be read")
    expect(page.get_by_role("button", name="Read notes.mp4 again")).to_be_visible()
    page.get_by_role("button", name="Take notes.mp4 off the shelf").click()
    expect(page.get_by_role("button", name=re.compile("^notes"))).to_have_count(0)
    empty = tmp_path / "empty.wav"
    empty.touch()
    page.get_by_label("Files for the shelf").set_input_files(empty)
    expect(page.get_by_role("alert").last).to_contain_text("0 bytes")

    # A tie that would run backwards is refused with the reason, and nothing changes.
    files = [
        write_clicks(tmp_path / "a.wav", BEATS, 7),
        write_numbered(tmp_path / "b.mp4", 240, size=(320, 180)),
    ]
    drop_on_shelf(page, files)
    expect(page.get_by_role("button", name=re.compile("^b ")).first).to_have_attribute("aria-pressed", "true")
    for frame in (ACTION, IMPACT):
        look_at(page, frame)
        page.keyboard.press("h")
        expect(page.get_by_role("button", name=f"Moment impact at frame {frame}")).to_be_visible()
    knobs = page.get_by_role("button", name="Tie impact at frame")
    page.get_by_role("button", name="Fit").click()
    pull(page, knobs.first, page.get_by_role("button", name="at 4.000 s").first)
    expect(page.get_by_text("1 of 1 land")).to_be_visible()
    pull(page, knobs.first, page.get_by_role("button", name="at 3.500 s").first)
    expect(page.get_by_role("alert").last).to_contain_text("must go forward")
    expect(page.get_by_text("1 of 1 land")).to_be_visible()

    # Another tab changes the edit: this one follows, and its files can go missing and come back.
    other = page.context.new_page()
    other.goto(page.url)
    other.get_by_label("Title of the edit").fill("Renamed elsewhere")
    other.get_by_label("Title of the edit").press("Enter")
    expect(page.get_by_label("Title of the edit")).to_have_value("Renamed elsewhere")
    other.close()
    take = state(page)["edit"]["takes"][0]["media"]["sha256"]
    (tmp_path / "data" / "assets" / take[:2] / take).unlink()
    page.reload()
    missing = page.get_by_role("region", name="Missing files")
    expect(missing.get_by_title("b.mp4")).to_be_visible()
    with page.expect_file_chooser() as chooser:
        missing.get_by_role("button", name="Link").click()
    chooser.value.set_files(files[1])
    expect(missing).to_be_hidden()
    # It need not be linked: dropped anywhere, it is known by its content, whatever it is called now.
    (tmp_path / "data" / "assets" / take[:2] / take).unlink()
    page.reload()
    expect(missing).to_be_visible()
    drop_on_shelf(page, [files[1].rename(tmp_path / "moved.mp4")])
    expect(missing).to_be_hidden()
    assert len(state(page)["edit"]["takes"]) == 1

    # An export can be stopped on its way, and leaves nothing behind.
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="WebM").click()
    page.get_by_role("button", name="Export WEBM").click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("The export was cancelled; nothing was kept.")).to_be_visible()
    assert list((tmp_path / "data" / "exports").iterdir()) == []


def test_a_take_that_is_chosen_while_it_comes_in_is_looked_at(server, page: Page, tmp_path: Path):
    """The edit is slow to take it in: the click is not lost, and it is not brought in twice."""
    takes = [
        write_numbered(tmp_path / f"Heat {name}.mp4", 30 + len(name), size=(64, 36)) for name in ("a", "bb")
    ]
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    held: list[Route] = []
    page.route("**/use", lambda route: held.append(route))
    page.get_by_label("Files for the shelf").set_input_files(takes)
    chosen = page.get_by_role("button", name=re.compile("^Heat bb"))
    for name in ("a", "bb"):
        expect(page.get_by_role("button", name=re.compile(f"^Heat {name}"))).to_be_enabled()
    page.wait_for_timeout(300)
    chosen.click()
    for _ in range(30):
        page.wait_for_timeout(100)
        while held:
            held.pop().continue_()
    expect(chosen).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("in the edit already")).to_have_count(0)
    assert len(state(page)["edit"]["takes"]) == 2
