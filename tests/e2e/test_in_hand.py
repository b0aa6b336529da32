"""What one meets in an hour of work: what is asked, refused and told, keys, drags that show what they do."""

import re
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.conftest import CUE
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import choose, look_at, state
from tests.e2e.test_montage import begun, clips_of, cuts, filled, saved, to_row
from tests.media.files import write_clicks, write_numbered

COMMANDS = re.compile("/commands$")


def focused(page: Page) -> str:
    return page.evaluate("document.activeElement.getAttribute('aria-label') ?? document.activeElement.id")


def test_a_first_edit_by_keys_with_what_is_asked_refused_and_told(server, page: Page, tmp_path: Path):
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * beat for beat in range(28)], 14)
    take = write_numbered(tmp_path / "Heat a.mp4", 240, rate=Fraction(30), size=(320, 180))
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])

    # The first take asks whether the edit goes at its rate: its pictures would repeat.
    notices = page.get_by_role("region", name="Notices")
    expect(notices).to_contain_text("Match the edit to this take: 30 fps?")
    page.get_by_role("button", name="Make the edit 30 fps").click()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    assert saved(page)["edit"]["rate"] == "30"
    expect(notices).not_to_contain_text("Match the edit")
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()

    # On the takes desk by keys: a row of the shelf has the focus, yet Enter keeps the proposal that N found.
    page.get_by_role("tab", name="Takes").click()
    row = page.get_by_role("button", name=re.compile("^Heat a")).first
    row.focus()
    row.press("Enter")
    page.keyboard.press("]")
    page.keyboard.press("ArrowRight")
    assert focused(page) == "desk"
    page.get_by_role("tab", name="Clip").click()
    look_at(page, 60)
    page.keyboard.press("h")

    # Tied by a key, one goes on at the tie's handle, not at the page's start.
    knob = page.get_by_role("button", name="Tie impact at frame 60 to a cue")
    knob.focus()
    knob.press("Enter")
    expect(page.get_by_text("1 of 1 land")).to_be_visible()
    expect(page.get_by_role("slider", name="Cue of impact at frame 60")).to_be_focused()

    # A refusal stands beside the work and covers nothing; it goes with its cause, or with Escape.
    details = page.get_by_role("complementary", name="Details")

    def refused() -> None:
        page.get_by_role("button", name="Span 2 steady").click()
        page.get_by_role("radio", name="Dip").click()
        page.get_by_role("button", name="Strongest that stays smooth").click()

    page.get_by_role("button", name="Span 2 steady").click()
    page.get_by_label("Average speed, %").fill("60")
    page.get_by_label("Average speed, %").press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    refused()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("pictures repeat below 100")
    box, bar = alert.bounding_box(), page.get_by_role("toolbar", name="Playing").bounding_box()
    assert box["x"] >= bar["x"] + bar["width"] or box["y"] + box["height"] <= bar["y"]
    assert box["y"] >= details.bounding_box()["y"] + details.bounding_box()["height"] - 1
    page.keyboard.press("Escape")
    expect(alert).to_have_count(0)
    page.get_by_role("button", name="Strongest that stays smooth").click()
    expect(alert).to_contain_text("pictures repeat below 100")
    with page.expect_response(COMMANDS):
        page.get_by_label("Average speed, %").fill("150")
        page.get_by_label("Average speed, %").press("Enter")
    expect(alert).to_have_count(0)

    # B is shown with its own numbers, and nothing is changed meanwhile.
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("b")
    with page.expect_response(COMMANDS):
        page.get_by_label("Average speed, %").fill("120")
        page.get_by_label("Average speed, %").press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("v")
    expect(page.get_by_label("Average speed, %")).to_have_value("150")
    expect(page.get_by_text("B is shown")).to_be_visible()
    before = saved(page)["revision"]
    page.keyboard.press("d")
    expect(page.get_by_text("Go back to A to change it")).to_be_visible()
    page.keyboard.press("v")
    expect(page.get_by_label("Average speed, %")).to_have_value("120")
    assert saved(page)["revision"] == before

    # A recipe's name that is taken asks; the recipe is changed, and the clip says that it was made by it.
    shelf = page.get_by_role("region", name="Recipes")
    shelf.get_by_text("Make one").click()
    for speed in ("110", "130"):
        page.get_by_label("Average speed, %").fill(speed)
        page.get_by_label("Average speed, %").press("Enter")
        expect(page.get_by_role("button", name="Span 2 dip")).to_contain_text(re.compile(r"\d"))
        shelf.get_by_label("Name of the new recipe").fill("Spray")
        shelf.get_by_role("button", name="Make", exact=True).click()
        expect(shelf.get_by_role("button", name="Apply Spray")).to_be_visible()
    expect(alert).to_contain_text("There is a recipe Spray already")
    page.get_by_role("button", name="Replace Spray").click()
    expect(alert).to_have_count(0)
    shelf.get_by_role("button", name="Apply Spray").click()
    expect(details.get_by_text("Made by Spray")).to_be_visible()
    shelf.get_by_role("button", name="Change Spray").click()
    dialog = page.get_by_role("dialog", name="Change Spray")
    dialog.get_by_label("Name").fill("Spray and away")
    dialog.get_by_label("Speed 1, %").first.fill("80")
    dialog.get_by_label("Speed 1, %").first.press("Tab")
    dialog.get_by_role("button", name="Keep").click()
    expect(shelf.get_by_role("button", name="Apply Spray and away")).to_be_visible()
    assert saved(page)["edit"]["recipes"][0]["before"][0]["shape"]["speed"] == 0.8
    assert faults(page) == []


def test_a_montage_follows_the_hand_and_says_what_it_would_bury(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    panel = filled(page, "4.1", "7 clips, 6 cuts")

    # Filled again, it says first what would be hidden; Escape leaves it at that.
    panel.get_by_text("Fill slots").click()
    panel.get_by_role("button", name="Fill from the shelf").click()
    expect(page.get_by_role("alert")).to_contain_text("This would hide 7 clips.")
    expect(page.get_by_role("button", name=re.compile("^Do it anyway"))).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("alert")).to_have_count(0)
    panel.get_by_text("Fill slots").click()
    assert len(saved(page)["edit"]["clips"]) == 7

    # A recipe on chosen clips leaves every cut where it is.
    clips = clips_of(page)
    places = saved(page)["derived"]["map"]["clip"]
    clips.nth(1).click()
    clips.nth(4).click(modifiers=["Shift"])
    expect(panel.get_by_role("heading", name="4 clips chosen")).to_be_visible()
    page.get_by_role("button", name="Apply Hang in the air").click()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    found = saved(page)
    assert found["derived"]["map"]["clip"] == places
    assert sum(clip["recipe"] == "hang-in-the-air" for clip in found["edit"]["clips"]) == 4

    # Keys: split and join, black, a swap; each is undone.
    for key, undone in (("w", None), ("k", "Black, "), ("x", None)):
        clips.nth(2).click()
        page.keyboard.press(".")
        before = saved(page)["revision"]
        page.keyboard.press(key)
        expect(page.get_by_text("Saving…")).to_be_hidden()
        if key != "x":
            assert saved(page)["revision"] > before
            if undone:
                expect(page.get_by_role("button", name=re.compile(f"^{undone}"))).to_be_visible()
            page.keyboard.press("Control+z")
            expect(page.get_by_text("Saving…")).to_be_hidden()
        elif page.get_by_role("alert").count():
            page.keyboard.press("Escape")

    # A clip that begins with its shot follows no tie: it is slipped by its grip, and the pictures at the cut
    # follow the hand before it lets go.
    panel.get_by_text("Fill slots").click()
    choose(page, "Slots between:", "every beat")
    choose(page, "In each:", "begins with the shot")
    panel.get_by_label("From, s").fill("5.9")
    panel.get_by_label("From, s").press("Enter")
    panel.get_by_label("To, s").fill("8.1")
    panel.get_by_label("To, s").press("Enter")
    panel.get_by_role("button", name="Fill from the shelf").click()
    expect(panel.get_by_role("heading", name=re.compile("^11 clips"))).to_be_visible()
    panel.get_by_text("Fill slots").click()
    page.get_by_role("radio", name="1", exact=True).click()
    clips.last.click()
    grip = page.get_by_role("slider", name=re.compile("^Slip Heat"))
    box = grip.bounding_box()
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 8, steps=6)
    expect(grip).to_contain_text("+")
    slipped = int(re.search(r"\+(\d+)", grip.inner_text()).group(1))
    page.mouse.up()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    tie = next(pin for pin in saved(page)["edit"]["clips"][-1]["pins"] if pin["id"] == "tie")
    assert tie["p"] == slipped > 0
    assert faults(page) == []


def test_what_a_hand_does_is_seen_before_it_lets_go_and_loose_ties_are_found(
    server, page: Page, tmp_path: Path
):
    songs = begun(server, page, tmp_path)
    filled(page, "4.1", "7 clips, 6 cuts")
    clips, beats = clips_of(page), cuts(page)

    # While a cut is rolled, the pictures beside it and the viewer follow; nothing is kept until it is let go.
    to_row(page, 3)
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("t")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.get_by_role("radio", name="1", exact=True).click()
    edge = page.get_by_role("slider", name=re.compile("^Cut to Heat")).nth(1)
    edge.scroll_into_view_if_needed()
    box, before = edge.bounding_box(), saved(page)["revision"]
    beside = page.get_by_role("region", name="Cut")
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 + 60, box["y"] + 8, steps=8)
    expect(beside).not_to_contain_text(f"frame {beats[1]},")
    rolled = int(re.search(r"frame (\d+),", beside.inner_text()).group(1))
    assert rolled == beats[1] + 10
    expect(page.get_by_text(f"frame {rolled}", exact=True)).to_be_visible()
    assert state(page)["revision"] == before
    page.mouse.up()
    assert cuts(page)[1] == rolled
    page.keyboard.press("Control+z")
    expect(edge).to_have_attribute("aria-valuenow", str(beats[1]))

    # A clip that is carried over another says what comes in its place; dropped elsewhere, nothing is swapped.
    page.get_by_role("radio", name="4", exact=True).click()
    names = [clips.nth(i).get_attribute("aria-label") for i in range(4)]
    one, other = clips.nth(1).bounding_box(), clips.nth(2).bounding_box()
    page.mouse.move(one["x"] + 12, one["y"] + 30)
    page.mouse.down()
    page.mouse.move(other["x"] + 12, other["y"] + 30, steps=4)
    sheet = page.get_by_role("group", name="Sheet")
    for name in names[1:3]:
        expect(sheet.get_by_text(f"⇄ {name.removeprefix('Clip ')}")).to_be_visible()
    takes = [clip["take"] for clip in state(page)["edit"]["clips"]]
    page.mouse.up()
    expect(sheet.get_by_text("⇄")).to_have_count(0)
    assert [clip["take"] for clip in saved(page)["edit"]["clips"]] == [
        takes[0],
        takes[2],
        takes[1],
        *takes[3:],
    ]

    # Another song is looked at and corrected in an edit of its own before it is taken.
    address = page.url
    page.get_by_label("Files for the shelf").set_input_files(songs[1])
    song = page.get_by_role("button", name=re.compile("^Rope Walk")).first
    expect(song).to_contain_text("bpm")
    song.click()
    dialog = page.get_by_role("dialog", name="Change to Rope Walk")
    dialog.get_by_role("button", name="Look at it first").click()
    expect(page.get_by_label("Title of the edit")).to_have_value("Rope Walk")
    tempo = page.get_by_label("Tempo, beats a minute")
    expect(tempo).to_have_value("150.00")
    tempo.fill("75")
    tempo.press("Enter")
    expect(page.get_by_text("75.00 bpm")).to_be_visible()
    page.goto(address)
    song.click()
    choose(page, "Its cues", "as in Rope Walk")
    dialog.get_by_role("checkbox").nth(2).uncheck()
    dialog.get_by_role("button", name="Change the song").click()
    expect(dialog).to_be_hidden()
    times = [cue["time"] for cue in saved(page)["edit"]["song"]["cues"] if "beat" in cue["kind"]]
    assert all(abs(b - a - 0.8) < 1e-6 for a, b in pairwise(times))

    # What is loose is found by a click, wherever one is.
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("button", name=re.compile(r"^\d+ loose$")).click()
    expect(page.get_by_role("tab", name="Clip")).to_have_attribute("aria-selected", "true")
    details = page.get_by_role("complementary", name="Details")
    expect(details).to_contain_text("Loose: its cue is gone, and it stays on its frame.")

    # What needs a look is mended where it is listed.
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("region", name="Montage").get_by_role("button", name=re.compile("^Tie to the ")).click()
    expect(page.get_by_text("7 of 7 land")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile(r"^\d+ loose$"))).to_have_count(0)

    # On a small screen the transport stays in sight on every desk.
    page.set_viewport_size({"width": 640, "height": 400})
    for desk in ("Music", "Takes", "Clip", "Montage"):
        page.get_by_role("tab", name=desk).click()
        play = page.get_by_role("button", name="Play", exact=True)
        expect(play).to_be_in_viewport(ratio=1)
    assert faults(page) == []


def test_the_music_set_right_a_tempo_typed_and_one_lane_alone(server, page: Page, tmp_path: Path):
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * beat for beat in range(28)], 14)
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files(song)
    page.get_by_role("tab", name="Music").click()
    tempo = page.get_by_label("Tempo, beats a minute")
    expect(tempo).to_have_value("120.00")
    tempo.fill("150")
    tempo.press("Enter")
    expect(page.get_by_text("150.00 bpm")).to_be_visible()
    times = [
        cue["time"] for cue in state(page)["edit"]["song"]["cues"] if cue["kind"] in ("beat", "downbeat")
    ]
    assert all(abs(b - a - 0.4) < 1e-6 for a, b in pairwise(times))
    page.get_by_role("button", name="One beat earlier").click()
    page.get_by_role("tab", name="Listen").click()
    page.get_by_role("button", name="Only downbeat").click()
    expect(page.get_by_role("button", name="Lane of beat")).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("button", name="Lane of downbeat")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Only downbeat").click()
    expect(page.get_by_role("button", name="Lane of beat")).to_have_attribute("aria-pressed", "true")
    assert faults(page) == []


def test_playing_goes_on_after_the_music_to_the_last_picture(server, page: Page, tmp_path: Path):
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * beat for beat in range(3)], 2)
    take = write_numbered(tmp_path / "Heat a.mp4", 240, size=(320, 180))
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Heat a")).first).to_have_attribute(
        "aria-pressed", "true"
    )
    look_at(page, 60)
    page.keyboard.press("h")
    page.get_by_role("button", name="Tie impact at frame 60 to a cue").press("Enter")
    expect(page.get_by_text("1 of 1 land")).to_be_visible()
    # The clip ends with the music at first; it is let run on to its take's end, past that.
    found = saved(page)
    edge = found["edit"]["clips"][0]["pins"][-1]["id"]
    longer = {"do": "change-edge", "clip": "clip-1", "pin": edge, "p": 239, "speed": 1}
    asked = {"base": found["revision"], "command": longer}
    assert page.request.post(f"{server.address}/api/edits/{found['id']}/commands", data=asked).ok
    page.reload()
    shown = saved(page)["derived"]["map"]
    end = (shown["first"] + len(shown["clip"])) / 60
    assert end > 2.5
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    bar = page.get_by_role("toolbar", name="Playing")
    time = bar.get_by_text(re.compile(r"^\d:\d\d\.\d{3}$")).inner_text()
    assert abs(float(time.split(":")[1]) - end) < 0.1
