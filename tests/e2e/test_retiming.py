"""Three takes, landed, bent, reversed, held and mirrored by hand, exported, and every frame read back."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import CUE
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import choose, cue, look_at, pull, state
from tests.media.files import read_numbers, write_clicks, write_numbered

BEATS = [0.5 + 0.5 * beat for beat in range(30)]
HIT = 120


@pytest.fixture
def begun(server, page: Page, tmp_path: Path) -> Page:
    """An edit with a song and three takes on the shelf."""
    song = write_clicks(tmp_path / "Bell Harbour.wav", BEATS, 16)
    takes = [write_numbered(tmp_path / f"Heat {name}.mp4", 240, size=(320, 180)) for name in "abc"]
    for index, take in enumerate(takes):
        take.write_bytes(take.read_bytes() + bytes(index))  # the same pictures, another file
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, *takes])
    for name in "abc":
        expect(page.get_by_role("button", name=re.compile(f"^Heat {name}")).first).to_contain_text(
            re.compile(r"\d:\d\d")
        )
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    return page


def saved(page: Page) -> dict:
    expect(page.get_by_text("Saving…")).to_be_hidden()
    return state(page)


def shapes(page: Page) -> list[list[str]]:
    return [[shape["shape"] for shape in clip["spans"]] for clip in saved(page)["edit"]["clips"]]


def shown(page: Page, clip: int) -> list[int]:
    """The source frames that a clip shows, where it is seen."""
    found = saved(page)["derived"]["map"]
    return [source for index, source in zip(found["clip"], found["source"], strict=True) if index == clip]


def to_clip(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(f"^Heat {name}")).first.click()
    page.get_by_role("button", name="Fit").click()
    expect(page.get_by_role("button", name=f"Clip Heat {name}")).to_have_attribute("aria-pressed", "true")


def lay(page: Page, name: str, time: float) -> None:
    page.get_by_role("button", name=re.compile(f"^Heat {name}")).first.click()
    expect(page.get_by_role("button", name=re.compile(f"^Heat {name}")).first).to_have_attribute(
        "aria-pressed", "true"
    )
    look_at(page, HIT)
    page.keyboard.press("h")
    page.get_by_role("button", name="Fit").click()
    pull(
        page,
        page.get_by_role("button", name=f"Tie impact at frame {HIT}"),
        cue(page, "beat", time).or_(cue(page, "downbeat", time)).first,
    )
    expect(page.get_by_role("region", name="Tie")).to_be_visible()


def test_three_takes_are_landed_bent_turned_held_and_read_back(begun: Page, tmp_path: Path):
    page = begun
    for name, time in zip("abc", (2.5, 7.0, 11.5), strict=True):
        lay(page, name, time)
    expect(page.get_by_text("3 of 3 land")).to_be_visible()
    details = page.get_by_role("complementary", name="Details")

    # The third clip: the hit is held, what follows lands as before, and too long a hold is repaired by Enter.
    details.get_by_text("Freeze, reverse, skip").click()
    details.get_by_label("Freeze, output frames").fill("20")
    details.get_by_label("Freeze, output frames").press("Enter")
    details.get_by_role("button", name="Freeze", exact=True).click()
    expect(page.get_by_role("button", name="Span 2 hold")).to_contain_text("still")
    assert shown(page, 2).count(HIT) == 21
    page.get_by_role("button", name="Span 1 steady").click()
    page.get_by_role("slider", name="Average speed, slider").press("End")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.get_by_label("Average speed, %").fill("50")
    page.get_by_label("Average speed, %").press("Enter")
    expect(page.get_by_text("3 of 3 land")).to_be_visible()

    # The second clip is turned round: it runs from later pictures to earlier ones, and its hit still lands.
    to_clip(page, "b")
    details.get_by_text("The whole clip").click()
    details.get_by_role("button", name="Reverse the clip").click()
    expect(page.get_by_role("button", name="Span 1 steady")).to_contain_text("−100 %")
    pictures = shown(page, 1)
    assert pictures == sorted(pictures, reverse=True)
    expect(page.get_by_text("3 of 3 land")).to_be_visible()

    # The first clip: the way back mirrors the way there; bent as far as it stays smooth.
    to_clip(page, "a")
    page.get_by_role("slider", name="Cue of impact").focus()
    details.get_by_text("Freeze, reverse, skip").click()
    details.get_by_role("button", name="Mirror").click()
    expect(page.get_by_role("button", name="Span 2 rewind")).to_be_visible()
    page.get_by_role("button", name="Span 3 steady").click()
    page.get_by_label("Average speed, %").fill("200")
    page.get_by_label("Average speed, %").press("Enter")
    page.get_by_role("radio", name="Swell").click()
    page.get_by_role("button", name="Strongest that stays smooth").click()
    expect(page.get_by_role("button", name="Span 3 swell")).to_contain_text("smooth")
    page.keyboard.press("d")
    assert shapes(page) == [["steady", "rewind", "swell"], ["steady", "steady"], ["steady", "hold", "steady"]]
    there = shown(page, 0)
    turn = there.index(HIT)
    assert there[turn - 40 : turn] == there[turn + 1 : turn + 41][::-1]

    # Knots by double click; then the curve as positions; both have the same handles.
    lane = page.get_by_role("group", name="Speed lane").bounding_box()
    page.get_by_role("button", name="Fit").click()
    page.mouse.dblclick(lane["x"] + lane["width"] * 0.85, lane["y"] + 50)
    expect(page.get_by_role("radio", name="Custom")).to_be_checked()
    expect(page.get_by_role("slider", name="Knot 5, speed", exact=True)).to_be_visible()
    page.get_by_role("button", name="Speed", exact=True).click()
    expect(page.get_by_role("group", name="Position lane")).to_be_visible()
    page.get_by_role("slider", name="Knot 2, speed", exact=True).press("Shift+ArrowUp")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    page.get_by_role("button", name="Position", exact=True).click()

    # What was kept as B is shown and played in its place; all that was done is a list to go through.
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Take B")).to_be_visible()
    page.get_by_role("radio", name="Steady").click()
    assert shapes(page)[0] == ["steady", "rewind", "steady"]
    page.keyboard.press("v")
    expect(page.get_by_role("button", name="B", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("button", name="Span 3 custom")).to_be_visible()
    page.get_by_role("button", name="Take B").click()
    expect(page.get_by_role("button", name="Span 3 custom")).to_be_visible()
    page.get_by_role("button", name="History").click()
    steps = page.get_by_role("list", name="Steps, the newest first")
    expect(steps).to_contain_text("Reverse a clip")
    expect(steps).to_contain_text("Freeze a picture: impact at frame 120")
    steps.get_by_label(re.compile("^Name of step")).first.fill("before the recipe")
    steps.get_by_label(re.compile("^Name of step")).first.press("Tab")
    assert faults(page) == []
    page.get_by_role("button", name="Close").click()

    # A recipe of our own, made from the held clip, and one that comes along; then back by its name.
    to_clip(page, "c")
    shelf = page.get_by_role("complementary", name="Shelf")
    shelf.get_by_text("Make one").click()
    shelf.get_by_label("Name of the new recipe").fill("Hang")
    shelf.get_by_role("button", name="Make", exact=True).click()
    expect(shelf.get_by_role("button", name="Apply Hang", exact=True)).to_be_visible()
    to_clip(page, "b")
    shelf.get_by_role("button", name="Apply Hang", exact=True).click()
    expect(page.get_by_role("button", name="Span 2 hold")).to_be_visible()
    assert shapes(page)[1] == ["steady", "hold", "steady"]
    shelf.get_by_role("button", name="Apply Burst out").click()
    expect(page.get_by_text("3 of 3 land")).to_be_visible()
    assert faults(page) == []

    # Exported, decoded with plain PyAV: every frame is the one that the edit says.
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="MKV").click()
    page.get_by_role("button", name="Export MKV").click()
    expect(page.get_by_text("Everything lands, measured in the file")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download MKV").click()
    got = tmp_path / "got.mkv"
    download.value.save_as(got)
    found = state(page)["derived"]["map"]
    numbers = read_numbers(got)
    assert len(numbers) == len(found["source"])
    seen = [
        (read, source)
        for read, source, clip in zip(numbers, found["source"], found["clip"], strict=True)
        if clip >= 0
    ]
    assert all(read == source for read, source in seen)
    for time in (2.5, 7.0, 11.5):
        assert numbers[round(time * 60) - found["first"]] == HIT


def test_work_is_taken_backwards_from_the_hit_and_refusals_are_repaired(begun: Page):
    page = begun
    lay(page, "a", 7.0)
    details = page.get_by_role("complementary", name="Details")
    for frame in (30, 75):
        look_at(page, frame)
        page.keyboard.press("h")
        expect(page.get_by_role("button", name=f"Moment impact at frame {frame}")).to_be_visible()

    # Earlier moments are proposed for earlier cues, with reasons; the best is taken whole.
    page.get_by_role("slider", name="Cue of impact at frame 120").focus()
    details.get_by_role("button", name="Work backwards from here").click()
    proposals = details.get_by_role("list", name="Proposed ties")
    expect(proposals).to_contain_text("impact at frame 75")
    details.get_by_role("button", name="Tie these, the best").click()
    expect(page.get_by_text("3 of 3 land")).to_be_visible()

    # The tie between two is pulled past the one after it: refused, with what works, and Enter does it.
    page.get_by_role("slider", name="Cue of impact at frame 75").focus()
    choose(page, "Lands on:", re.compile(r"8\.000 s"))
    repairs = page.get_by_role("group", name="Repairs")
    expect(repairs.get_by_role("button").first).to_be_focused()
    page.keyboard.press("Enter")
    expect(repairs).to_be_hidden()
    expect(page.get_by_text(re.compile("of 3 land"))).to_be_visible()
    wanted = [landing["wanted_frame"] for landing in saved(page)["derived"]["clips"][0]["landings"]]
    assert wanted == sorted(wanted)

    # A pin that the speed passes through; a bend on all beats inside the clip; its end on a cue.
    page.get_by_role("slider", name="Cue of impact at frame 75").focus()
    details.get_by_label("The speed passes through").check()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    assert [pin["through"] for pin in saved(page)["edit"]["clips"][0]["pins"]].count(True) == 1
    details.get_by_text("The whole clip").click()
    expect(details.get_by_text("60 fps in 60 fps: smooth from 100 % on.")).to_be_visible()
    before = saved(page)["edit"]["clips"][0]["pins"]
    details.get_by_role("button", name=re.compile(r"^Bend on \d+ cues")).click()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    bent = saved(page)["edit"]["clips"][0]
    assert bent["pins"] == before
    assert [each["kind"] for each in bent["passes"]] == ["bends"]
    choose(page, "Ends on:", re.compile(r"9\.000 s"))
    page.wait_for_timeout(300)
    clip = saved(page)["derived"]["clips"][0]
    assert clip["first"] + len(clip["source"]) == 540
    expect(page.get_by_text("3 of 3 land")).to_be_visible()

    # Split, the piece says which spans are cut away; it is stretched and turned round as it is seen.
    page.get_by_role("tab", name="Montage").click()
    panel = page.get_by_role("region", name="Montage")
    panel.get_by_role("button", name="Table").click()
    page.get_by_role("table").get_by_role("row").nth(1).get_by_role("button").click()
    page.keyboard.press("Shift+ArrowRight")
    panel.get_by_role("button", name="Split here").click()
    expect(panel.get_by_role("heading", name=re.compile("^2 clips"))).to_be_visible()
    page.get_by_role("tab", name="Clip").click()
    spans = page.get_by_role("region", name="Spans of the clip")
    expect(spans.get_by_text("cut away").first).to_be_visible()
    piece = saved(page)["derived"]["clips"][0]["source"]
    assert len(piece) == 10
    details.get_by_text("The whole clip").click()
    details.get_by_label("Length, frames").fill("25")
    details.get_by_label("Length, frames").press("Enter")
    page.get_by_role("button", name="Do it anyway, and bury 15 frames under other clips").click()
    expect(spans.get_by_text("cut away")).to_have_count(0)
    long = saved(page)["derived"]["clips"][0]["source"]
    assert (len(long), long[0], long[-1]) == (25, piece[0], piece[-1])
    details.get_by_role("button", name="Reverse the clip").click()
    expect(page.get_by_text("Saving…")).to_be_hidden()
    turned = saved(page)["derived"]["clips"][0]["source"]
    assert (len(turned), turned[0], turned[-1]) == (25, piece[-1], piece[0])
