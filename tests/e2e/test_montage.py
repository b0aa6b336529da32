"""A montage of sixteen cuts from an empty start, another song, all of it read back from the file."""

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import CUE
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import choose, look_at, state
from tests.media.files import read_numbers, write_clicks, write_numbered

SLOW, QUICK = 0.5, 0.4
HITS = {"a": 60, "b": 90}


def saved(page: Page) -> dict:
    expect(page.get_by_text("Saving…")).to_be_hidden()
    return state(page)


def cuts(page: Page) -> list[int]:
    """The output frames at which another clip begins."""
    found = saved(page)["derived"]["map"]
    clip = found["clip"]
    return [found["first"] + i for i in range(1, len(clip)) if clip[i] != clip[i - 1]]


def begun(server, page: Page, tmp_path: Path) -> list[Path]:
    """Two songs, of which the first is in an edit with two takes, their hits marked."""
    songs = [
        write_clicks(tmp_path / f"{name}.wav", [0.5 + beat * k for k in range(28)], 14)
        for name, beat in (("Bell Harbour", SLOW), ("Rope Walk", QUICK))
    ]
    takes = [write_numbered(tmp_path / f"Heat {name}.mp4", 240, size=(320, 180)) for name in "ab"]
    takes[1].write_bytes(takes[1].read_bytes() + b"b")  # the same pictures, another file
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([songs[0], *takes])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    for name, hit in HITS.items():
        page.get_by_role("button", name=re.compile(f"^Heat {name}")).first.click()
        expect(page.get_by_role("button", name=re.compile(f"^Heat {name}")).first).to_have_attribute(
            "aria-pressed", "true"
        )
        look_at(page, hit)
        page.keyboard.press("h")
        expect(page.get_by_role("button", name=f"Moment impact at frame {hit}")).to_be_visible()
    return songs


def filled(page: Page, until: str, heading: str) -> Locator:
    """The Montage panel, once the slots between the beats up to a time are filled from the shelf."""
    page.get_by_role("tab", name="Montage").click()
    panel = page.get_by_role("region", name="Montage")
    choose(page, "Slots between:", "every beat")
    panel.get_by_label("To, s").fill(until)
    panel.get_by_label("To, s").press("Enter")
    panel.get_by_role("button", name="Fill from the shelf").click()
    expect(panel.get_by_role("heading", name=heading)).to_be_visible()
    return panel


def clips_of(page: Page) -> Locator:
    """The clips on the sheet."""
    return page.get_by_role("group", name="Sheet").get_by_role("button", name=re.compile("^Clip Heat"))


def exported_file(page: Page, tmp_path: Path) -> Path:
    """A lossless export in which everything lands."""
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="MKV").click()
    page.get_by_role("button", name="Export MKV").click()
    expect(page.get_by_text("Everything lands, measured in the file")).to_be_visible()
    # The button that was there meanwhile is gone, and the one in its place has the focus.
    expect(page.get_by_role("button", name="Export MKV")).to_be_focused()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download MKV").click()
    download.value.save_as(tmp_path / "got.mkv")
    page.keyboard.press("Escape")
    return tmp_path / "got.mkv"


def exported(page: Page, tmp_path: Path) -> list[int]:
    """The numbers of all its pictures, decoded with plain PyAV."""
    return read_numbers(exported_file(page, tmp_path))


def test_sixteen_cuts_another_song_and_all_of_it_read_back(server, page: Page, tmp_path: Path):
    songs = begun(server, page, tmp_path)

    # Slots between the beats are filled from the shelf: each clip's hit lands on its cut.
    page.get_by_role("tab", name="Montage").click()
    panel = page.get_by_role("region", name="Montage")
    choose(page, "Slots between:", "every beat")
    panel.get_by_label("To, s").fill("9.1")
    panel.get_by_label("To, s").press("Enter")
    expect(panel.get_by_text(re.compile("17 slots of 1 beat, 30 frames"))).to_be_visible()
    panel.get_by_role("button", name="Fill from the shelf").click()
    expect(page.get_by_text("17 of 17 land")).to_be_visible()
    expect(panel.get_by_role("heading", name="17 clips, 16 cuts")).to_be_visible()
    beats = [round((0.5 + SLOW * k) * 60) for k in range(18)]
    assert cuts(page) == beats[1:-1]
    expect(page.get_by_role("region", name="Cut")).to_contain_text("last before")

    # Opened again on this desk, the cuts are asked for once, while the edit is still on its way.
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.reload()
    expect(page.get_by_role("slider", name=re.compile("^Cut to Heat")).first).to_be_visible()
    expect(panel.get_by_role("heading", name="17 clips, 16 cuts")).to_be_visible()
    assert sum(url.endswith("/montage") for url in asked) == 1
    assert faults(page) == []

    # A cut is moved by a key to a cue set by hand, ten frames on: both sides are solved again. A beat on
    # would leave nothing of the clip: refused. Undone; then the clip before runs into it.
    panel.get_by_role("button", name="Table").click()
    page.get_by_role("table").get_by_role("row").nth(4).get_by_role("button").click()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("t")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    edge = page.get_by_role("slider", name=re.compile("^Cut to Heat")).nth(2)
    edge.focus()
    edge.press("ArrowRight")
    expect(edge).to_have_attribute("aria-valuenow", str(beats[3] + 10))
    assert cuts(page) == [*beats[1:3], beats[3] + 10, *beats[4:-1]]
    edge.press("ArrowRight")
    expect(page.get_by_role("alert")).to_contain_text(re.compile(r"Nothing of this clip is left.*Heat [abc]"))
    expect(page.get_by_role("alert")).not_to_contain_text("clip-")
    page.get_by_role("button", name="Dismiss").click()
    page.keyboard.press("Control+z")
    expect(edge).to_have_attribute("aria-valuenow", str(beats[3]))
    edge.focus()
    panel.get_by_label("Run fast for, frames").fill("8")
    panel.get_by_label("Run fast for, frames").press("Enter")
    panel.get_by_role("button", name="Into it").click()
    expect(page.get_by_text("17 of 17 land")).to_be_visible()
    assert max(max(clip["speed"]) for clip in saved(page)["derived"]["clips"]) == 3

    # Several are chosen and turned round in order; one clip is split and joined; a table goes to a place.
    clips = clips_of(page)
    before = [clip["take"] for clip in saved(page)["edit"]["clips"]]
    outlined = page.get_by_role("group", name="Sheet").get_by_role("button", pressed=True)
    clips.nth(2).click()
    clips.nth(5).click(modifiers=["Shift"])
    expect(panel.get_by_role("heading", name="4 clips chosen")).to_be_visible()
    expect(outlined).to_have_count(4)
    clips.nth(2).click(modifiers=["Control"])
    clips.nth(3).click(modifiers=["Control"])
    expect(panel.get_by_role("heading", name="2 clips chosen")).to_be_visible()
    expect(outlined).to_have_count(2)
    panel.get_by_role("button", name="Reverse order").click()
    expect(page.get_by_text("17 of 17 land")).to_be_visible()
    assert [clip["take"] for clip in saved(page)["edit"]["clips"]] != before
    panel.get_by_role("button", name="Table").click()
    table = page.get_by_role("table")
    expect(table.get_by_role("row")).to_have_count(18)
    table.get_by_role("button", name="frames").click()
    assert faults(page) == []
    table.get_by_role("row").nth(3).get_by_role("button").click()
    expect(table).to_be_hidden()

    # No beat lies inside a clip that is one beat long: it is said.
    panel.get_by_text("On beats inside this clip").click()
    panel.get_by_role("button", name="Alternate slow and fast").click()
    expect(page.get_by_text("No such cue lies inside the clip.")).to_be_visible()

    # Another song: cues are carried over by their place in the music; what is left loose is tied again.
    page.get_by_label("Files for the shelf").set_input_files(songs[1])
    other = page.get_by_role("button", name=re.compile("^Rope Walk")).first
    expect(other).to_contain_text("bpm")
    other.click()
    dialog = page.get_by_role("dialog", name="Change to Rope Walk")
    expect(dialog.get_by_role("row")).to_have_count(19)
    dialog.get_by_role("checkbox").nth(5).uncheck()
    expect(dialog.get_by_text("1 will be loose")).to_be_visible()
    dialog.get_by_role("button", name="Change the song").click()
    expect(page.get_by_text("1 loose")).to_be_visible()
    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    details = page.get_by_role("complementary", name="Details")
    details.get_by_role("button", name=re.compile(r"^(down)?beat \d+\.\d\d s$")).click()
    expect(page.get_by_text("1 loose")).to_be_hidden()
    found = saved(page)
    assert all(landing["exact"] for clip in found["derived"]["clips"] for landing in clip["landings"])

    # Exported and decoded with plain PyAV: every frame, every cut, every landing.
    numbers, shown = exported(page, tmp_path), found["derived"]["map"]
    assert len(numbers) == len(shown["source"])
    assert all(
        read == source
        for read, source, clip in zip(numbers, shown["source"], shown["clip"], strict=True)
        if clip >= 0
    )
    takes_of = {clip["id"]: clip["take"] for clip in found["edit"]["clips"]}
    names = {take["id"]: take["media"]["name"][5] for take in found["edit"]["takes"]}
    for clip in found["derived"]["clips"]:
        for landing in clip["landings"]:
            assert numbers[landing["wanted_frame"] - shown["first"]] == HITS[names[takes_of[clip["id"]]]]


def to_row(page: Page, row: int) -> None:
    """Go to where a clip begins, by the table."""
    page.get_by_role("region", name="Montage").get_by_role("button", name="Table").click()
    page.get_by_role("table").get_by_role("row").nth(row).get_by_role("button").click()


def test_a_range_black_a_bundle_and_a_closer_look(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    panel = filled(page, "3.6", "6 clips, 5 cuts")
    beats = [30 + 30 * k for k in range(7)]

    # Black up to a cut: nothing is seen there, the cut is still one, and what goes on there is looked for.
    page.get_by_role("slider", name=re.compile("^Cut to")).nth(1).focus()
    panel.get_by_label("Black, frames").fill("5")
    panel.get_by_label("Black, frames").press("Enter")
    panel.get_by_role("button", name="Before it").click()
    expect(page.get_by_role("button", name=re.compile("^Black, 1.42 to 1.50"))).to_be_visible()
    shown = saved(page)["derived"]["map"]
    dark = [shown["first"] + i for i, clip in enumerate(shown["clip"]) if clip < 0]
    assert dark == list(range(beats[2] - 5, beats[2]))
    expect(page.get_by_role("region", name="Cut")).to_contain_text("A blink of black softens it.")
    page.get_by_role("button", name="Find a matching cut").click()
    page.get_by_role("list", name="Matching cuts").get_by_role("button").first.click()
    expect(page.get_by_role("alert")).to_contain_text("lands on the cut itself")
    page.get_by_role("button", name="Dismiss").click()

    # A range is all that is exported; every frame of it is read back, the black ones too.
    to_row(page, 2)
    page.keyboard.press("(")
    expect(panel.get_by_text(re.compile("^1.00 to"))).to_be_visible()
    to_row(page, 4)
    page.keyboard.press(")")
    expect(panel.get_by_text("1.00 to 2.00 s")).to_be_visible()
    assert faults(page) == []
    numbers, shown = exported(page, tmp_path), saved(page)["derived"]["map"]
    within = slice(beats[1] - shown["first"], beats[3] - shown["first"])
    assert len(numbers) == 60
    for read, source, clip in zip(numbers, shown["source"][within], shown["clip"][within], strict=True):
        assert read == (source if clip >= 0 else 0)
    panel.get_by_role("button", name="All of it").click()
    expect(panel.get_by_text("The whole edit")).to_be_visible()

    # From the whole song to single frames and back; only lines in sight are drawn.
    page.get_by_role("radio", name="frames").click()
    lines = page.locator("[data-line]")
    expect(lines.first).to_be_visible()
    assert lines.count() < 15
    page.get_by_role("radio", name="4", exact=True).click()

    # Two clips are copied and laid once more further on; then two become one take, and are opened again.
    clips = clips_of(page)
    to_row(page, 1)
    clips.nth(0).click()
    clips.nth(1).click(modifiers=["Shift"])
    page.keyboard.press("Control+c")
    page.keyboard.press("Escape")
    to_row(page, 6)
    page.keyboard.press(".")
    page.keyboard.press(".")
    page.keyboard.press("Control+v")
    expect(panel.get_by_role("heading", name=re.compile("^8 clips"))).to_be_visible()
    before = saved(page)["derived"]["map"]
    expect(panel.get_by_role("heading", name="Heat a, 6")).to_be_visible()
    clips.nth(0).click()
    clips.nth(1).click(modifiers=["Shift"])
    expect(panel.get_by_role("heading", name="2 clips chosen")).to_be_visible()
    panel.get_by_role("button", name="Bundle").click()
    expect(page.get_by_role("button", name=re.compile("^Clip Untitled edit, 2 shots"))).to_be_visible()
    found = saved(page)
    assert len(found["edit"]["clips"]) == 7
    assert len(found["derived"]["map"]["clip"]) == len(before["clip"])
    assert all(landing["exact"] for clip in found["derived"]["clips"] for landing in clip["landings"])

    # Undone, nothing of it is left on the shelf; done again, it is there.
    shelf = page.get_by_role("complementary", name="Shelf")
    bundled = shelf.get_by_role("button", name=re.compile("^Untitled edit, 2 shots"))
    expect(bundled).to_be_visible()
    page.keyboard.press("Control+z")
    expect(panel.get_by_role("heading", name=re.compile("^8 clips"))).to_be_visible()
    expect(bundled).to_be_hidden()
    page.keyboard.press("Control+Shift+z")
    expect(bundled).to_be_visible()

    # Several clips go in one step and come back in one; a double click opens a clip, on its grips too.
    clips.nth(0).click()
    clips.nth(2).click(modifiers=["Shift"])
    page.keyboard.press("Delete")
    expect(panel.get_by_role("heading", name=re.compile("^4 clips"))).to_be_visible()
    page.keyboard.press("Control+z")
    expect(panel.get_by_role("heading", name=re.compile("^7 clips"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Clip Untitled edit, 2 shots")).click()
    page.get_by_role("slider", name=re.compile("^Slip Untitled edit, 2 shots")).dblclick()
    expect(page.get_by_role("tab", name="Clip")).to_have_attribute("aria-selected", "true")
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("link", name=re.compile("^Open what")).click()
    expect(page.get_by_label("Title of the edit")).to_have_value("Untitled edit, 2 shots")
    assert len(saved(page)["edit"]["clips"]) == 2
