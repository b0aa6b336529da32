"""An edit of more than one clip, on any screen, by keys alone, and with a server that fails now and then."""

import json
import re

import pytest
from playwright.sync_api import Page, Request, expect

from tests.e2e.conftest import PATIENCE_MS, Server
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import choose, landings, state
from tests.media.files import write_numbered


@pytest.fixture
def demo(demo_server: Server, page: Page) -> Page:
    page.goto(f"{demo_server.address}/edits/1")
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    return page


def size_of(page: Page, name: str) -> tuple[float, float]:
    box = page.get_by_role("img", name=re.compile(name)).bounding_box()
    return box["width"], box["height"]


def test_one_take_laid_twice_is_two_clips(demo: Page):
    page = demo
    landing = page.get_by_role("region", name="Landing", exact=True)
    details = page.get_by_role("complementary", name="Details")
    first, second = (page.get_by_role("button", name=f"Clip Gannet off the swell, {n}") for n in (1, 2))

    # Laid once more, on a later cue: the new clip is at hand, and its own tie is shown.
    page.get_by_role("button", name="Moment splash-down").focus()
    choose(page, "Cue:", re.compile(r"downbeat 28\.1"))
    page.get_by_role("button", name="Lay the take once more").click()
    expect(page.get_by_text(re.compile("of 5 land"))).to_be_visible()
    expect(second).to_have_attribute("aria-pressed", "true")
    expect(landing).to_contain_text("splash-down on downbeat")
    assert [each["clip"] for each in landings(page)] == ["clip-1"] * 4 + ["clip-2"]

    # Going from one to the other shows each one's landing, tie and spans.
    page.keyboard.press("Escape")
    page.get_by_role("button", name="run-up on downbeat").first.click()
    expect(first).to_have_attribute("aria-pressed", "true")
    expect(landing).to_contain_text("run-up on downbeat")
    expect(page.get_by_role("button", name="Span 3 dip")).to_be_visible()
    page.keyboard.press("Escape")

    # The new clip reaches back over the first one: what it hides is said, and by what.
    expect(page.get_by_text("2 of 5 land")).to_be_visible()
    page.get_by_role("button", name=re.compile("^misses splash-down on drop")).click()
    expect(landing).to_contain_text("Hidden by Gannet off the swell, 2")
    expect(details).to_contain_text("Hidden by Gannet off the swell, 2")
    expect(page.get_by_role("button", name=re.compile(r"\d+ hidden"))).to_be_visible()

    # Bent, only the second changes; a drag's preview speaks of clips by id.
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^lands splash-down on downbeat")).click()
    expect(second).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Span 1 steady").click()
    page.get_by_role("radio", name="Dip").click()
    expect(page.get_by_role("button", name="Span 1 dip")).to_be_visible()
    spans = [[shape["shape"] for shape in clip["spans"]] for clip in state(page)["edit"]["clips"]]
    assert spans == [["dip", "build", "dip"], ["dip", "steady"]]

    # Its own sound is mute until it is turned up; the mix follows.
    quiet = state(page)["mix"]["key"]
    level = page.get_by_label("Own sound, dB")
    expect(level).to_have_value("-60")
    level.fill("-6")
    level.press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    assert [clip["level"] for clip in state(page)["edit"]["clips"]] == [0, pytest.approx(10 ** (-6 / 20))]
    assert state(page)["mix"]["key"] != quiet
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_test_id("playback")).to_have_attribute("data-drawn", re.compile(r"^\d{2}"))
    page.get_by_role("button", name="Pause").click()

    # Removing the second removes the second.
    page.get_by_role("button", name="Remove the clip").click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert [clip["id"] for clip in state(page)["edit"]["clips"]] == ["clip-1"]
    page.keyboard.press("Control+z")
    expect(second).to_be_visible()


def test_everything_is_reached_by_keys_and_on_any_screen(demo: Page):
    page = demo
    playhead = page.get_by_label("Playhead")

    # Space presses the button that has the focus, and plays where none has.
    export = page.get_by_role("button", name="Export", exact=True)
    export.focus()
    page.keyboard.press("Space")
    expect(page.get_by_role("heading", name="Export")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Export")).to_be_hidden()
    page.get_by_role("button", name="Fit").click()  # with the mouse: Space plays after it
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()

    # Arrows on radios choose; the playhead stays.
    page.get_by_role("button", name="Span 3 dip").click()
    page.get_by_role("radio", name="Dip").focus()
    page.wait_for_timeout(300)
    before = playhead.inner_text()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("radio", name="Steady")).to_be_checked()
    assert playhead.inner_text() == before
    page.keyboard.press("Control+z")

    # Desks are tabs with a panel; arrows go from one to the other.
    page.get_by_role("tab", name="Clip").press("ArrowLeft")
    expect(page.get_by_role("tabpanel", name="Takes")).to_be_visible()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("tabpanel", name="Music")).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("tabpanel", name="Clip")).to_be_visible()
    expect(page.get_by_role("status", name="Landings")).to_contain_text("4 of 4 land")

    # Single letters can be turned off, and stay so.
    page.get_by_role("button", name="Keys").click()
    page.get_by_role("switch", name="Single letters").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="All keys")).to_be_hidden()
    page.keyboard.press("m")
    page.keyboard.press("/")
    page.wait_for_timeout(200)
    expect(page.get_by_role("tabpanel", name="Clip")).to_be_visible()
    page.reload()
    expect(page.get_by_role("tabpanel", name="Clip")).to_be_visible()
    page.keyboard.press("m")
    page.wait_for_timeout(200)
    expect(page.get_by_role("tabpanel", name="Clip")).to_be_visible()
    page.get_by_role("button", name="Keys").click()
    page.get_by_role("switch", name="Single letters").click()
    page.keyboard.press("Escape")

    # On a large screen the picture grows first; a border that was moved stays where it was put.
    small = size_of(page, "^Picture")
    page.set_viewport_size({"width": 1920, "height": 1080})
    page.wait_for_timeout(300)
    large = size_of(page, "^Picture")
    assert large[0] > 1.5 * small[0]
    assert large[1] > 1.5 * small[1]
    expect(page.get_by_text("First seen on frame")).to_be_in_viewport(ratio=1)
    border = page.get_by_role("separator", name="Width of the shelf")
    border.focus()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    wide = page.get_by_role("complementary", name="Shelf").bounding_box()["width"]
    page.reload()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert page.get_by_role("complementary", name="Shelf").bounding_box()["width"] == wide == 212 + 5 * 16
    border.dblclick()
    expect(border).to_have_attribute("aria-valuenow", "212")

    # At 1024 × 768, and at 200 % zoom (640 × 400), everything is reached by scrolling alone.
    for width, height in ((1024, 768), (640, 400)):
        page.set_viewport_size({"width": width, "height": height})
        page.wait_for_timeout(300)
        assert page.evaluate("document.documentElement.scrollWidth") <= width
        for part in (
            page.get_by_role("group", name="Music rail"),
            page.get_by_role("group", name="Speed lane"),
            page.get_by_role("region", name="Landing", exact=True),
            page.get_by_role("button", name="Add files"),
            page.get_by_role("button", name="Zoom in"),
            page.get_by_role("button", name="Save the edit document").or_(
                page.get_by_role("link", name="Save the edit document")
            ),
            export,
        ):
            part.scroll_into_view_if_needed()
            expect(part).to_be_in_viewport(ratio=0.9)
    assert faults(page) == []


def test_what_fails_says_so_and_is_tried_again(demo: Page):
    page = demo
    address = page.url

    # A dry run that breaks off leaves the desk alive.
    page.route("**/dry-run", lambda route: route.abort())
    knob = page.get_by_role("slider", name="Cue of splash-down")
    box = knob.bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 6, steps=4)
    expect(page.get_by_role("alert")).to_contain_text("does not answer")
    # What a command would do to a revision is asked once, however often a hand
    # goes to and fro over the same cues.
    asked: list[str] = []

    def note(request: Request) -> None:
        if "dry-run" in request.url:
            asked.extend(json.dumps(command) for command in request.post_data_json["commands"])

    page.on("request", note)
    page.unroute("**/dry-run")
    page.mouse.move(box["x"] + 90, box["y"] + 6, steps=4)
    expect(page.get_by_role("alert")).to_be_hidden()
    for far in (120, 90, 120, 90):
        page.mouse.move(box["x"] + far, box["y"] + 6)
        page.wait_for_timeout(200)
    page.wait_for_timeout(500)  # both are answered then, on a slow machine too
    values = set()
    for _ in range(3):
        for far in (120, 90):
            page.mouse.move(box["x"] + far, box["y"] + 6)
            page.wait_for_timeout(50)
            values.add(knob.get_attribute("aria-valuenow"))
    assert len(values) == 2
    assert asked
    assert len(asked) == len(set(asked))
    page.mouse.up()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("4 of 4 land")).to_be_visible()

    # An edit that cannot be opened, a waveform and a motion lane that cannot be loaded.
    page.route("**/api/edits/1", lambda route: route.abort())
    page.goto(address)
    problem = page.get_by_role("alert", name="Problem")
    expect(problem).to_contain_text("could not be opened")
    expect(problem.get_by_role("link", name="All edits")).to_be_visible()
    page.unroute("**/api/edits/1")
    page.route("**/peaks", lambda route: route.abort())
    page.route("**/motion", lambda route: route.abort())
    problem.get_by_role("button", name="Try again").click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    wave = page.get_by_role("group", name="Music rail").get_by_role("alert")
    motion = page.get_by_role("group", name="Picture rail").get_by_role("alert")
    expect(wave).to_contain_text("waveform could not be loaded")
    expect(motion).to_contain_text("could not be loaded")
    page.unroute("**/peaks")
    page.unroute("**/motion")
    wave.get_by_role("button", name="Try again").click()
    expect(wave).to_be_hidden()
    motion.get_by_role("button", name="Try again").click()
    expect(motion).to_be_hidden()


def test_many_tabs_follow_one_another(demo: Page):
    """More tabs than a browser has connections to one server: each opens, and hears the others."""
    page = demo
    tabs = [page.context.new_page() for _ in range(49)]
    for tab in tabs:
        tab.goto(page.url)
    for tab in tabs:
        expect(tab.get_by_text("4 of 4 land")).to_be_visible()
    # One of them cannot read at once what it hears of.
    tabs[0].route("**/api/edits/1", lambda route: route.abort(), times=1)
    title = tabs[-1].get_by_label("Title of the edit")
    title.fill("Привет 🚤")
    title.press("Enter")
    for tab in (page, *tabs):
        expect(tab.get_by_label("Title of the edit")).to_have_value("Привет 🚤")
    for tab in tabs[::-1]:
        tab.close()
    page.get_by_label("Title of the edit").fill("Alone again")
    page.get_by_label("Title of the edit").press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    assert state(page)["edit"]["title"] == "Alone again"


def test_edits_and_files_are_thrown_away_and_brought_back(demo: Page):
    page = demo
    page.get_by_role("button", name="Harbour pass").first.click()  # into the edit: it stays on the shelf
    page.get_by_role("button", name="Take Tern rings the bell off the shelf").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Tern rings the bell"))).to_have_count(0)
    page.get_by_text("Off the shelf: 1").click()
    page.get_by_role("button", name="Put Tern rings the bell back").click()
    expect(page.get_by_role("button", name=re.compile("^Tern rings the bell")).first).to_be_visible()
    page.get_by_role("link", name="Izmet").click()
    for title, key in (("No such run", "Escape"), ("Skerry Run, the final", "Enter")):
        page.get_by_role("button", name="Rename Skerry Run, heat three").click()
        page.get_by_label("New title").fill(title)
        page.get_by_label("New title").press(key)
    expect(page.get_by_role("button", name="Rename Skerry Run, the final")).to_be_focused()
    page.get_by_role("button", name="Rename Skerry Run, the final").click()
    page.get_by_label("New title").fill("Skerry Run, heat three")
    page.get_by_role("heading", name="Izmet").click()  # elsewhere: the title is kept too
    page.get_by_role("button", name="Delete Skerry Run, heat three").click()
    expect(page.get_by_role("link", name="Skerry Run, heat three")).to_have_count(0)
    page.get_by_text("Bin: 1").click()
    assert faults(page) == []
    page.get_by_role("button", name="Bring back Skerry Run, heat three").click()
    page.get_by_role("link", name="Skerry Run, heat three").click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()


def test_many_files_are_sent_two_at_a_time_and_looked_at_once(server, page: Page, tmp_path):
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    files = [write_numbered(tmp_path / f"run {n:02}.mp4", 12, numbers=[n] * 12) for n in range(12)]
    flying, most = 0, 0

    def count(by: int, request) -> None:
        nonlocal flying, most
        ending = "/uploads" if by > 0 else "/uploads/finish"
        if request.method == "POST" and request.url.endswith(ending):
            flying += by
            most = max(most, flying)

    # A file is on its way from when it is begun until it is finished.
    page.on("request", lambda request: count(1, request))
    page.on("response", lambda response: count(-1, response.request))
    expect(page.get_by_label("Files for the shelf")).to_be_attached()
    page.get_by_label("Files for the shelf").set_input_files(files)
    takes = page.get_by_role("button", name=re.compile(r"^run \d\d"))
    expect(takes.filter(has_text=re.compile(r"\d:\d\d"))).to_have_count(12)
    expect(page.get_by_role("button", name=re.compile(r"^run"), pressed=True)).to_have_count(1)
    # The last one is on the shelf a moment before the edit has it.
    for _ in range(PATIENCE_MS // 100):
        if len(state(page)["edit"]["takes"]) == 12:
            break
        page.wait_for_timeout(100)
    assert most == 2
    assert len(state(page)["edit"]["takes"]) == 12


def test_a_file_on_its_way_goes_on_after_a_break_and_can_be_given_up(server, page: Page, tmp_path):
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_label("Files for the shelf")).to_be_attached()
    # The connection breaks in the middle: it goes on by itself.
    broken: list[str] = []

    def break_once(route) -> None:
        if broken:
            route.continue_()
        else:
            broken.append(route.request.url)
            route.abort()

    page.route("**/api/assets/uploads?*", break_once)
    page.get_by_label("Files for the shelf").set_input_files(write_numbered(tmp_path / "first run.mp4", 12))
    expect(
        page.get_by_role("button", name=re.compile("^first run")).filter(has_text=re.compile(r"\d:\d\d"))
    ).to_be_visible()
    assert broken
    page.unroute("**/api/assets/uploads?*")

    # One that hangs is given up; nothing of it stays, and the next one comes in.
    page.route("**/api/assets/uploads?*", lambda route: None)
    page.get_by_label("Files for the shelf").set_input_files(write_numbered(tmp_path / "second run.mp4", 13))
    page.get_by_role("button", name="Stop copying second run.mp4").click()
    expect(page.get_by_role("button", name="Stop copying second run.mp4")).to_be_hidden()
    page.unroute("**/api/assets/uploads?*")
    page.get_by_label("Files for the shelf").set_input_files(write_numbered(tmp_path / "third run.mp4", 14))
    expect(
        page.get_by_role("button", name=re.compile("^third run")).filter(has_text=re.compile(r"\d:\d\d"))
    ).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^second run"))).to_have_count(0)
