"""A montage of sixteen cuts from an empty start, another song, all of it read back from the file."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

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


def test_sixteen_cuts_another_song_and_all_of_it_read_back(server, page: Page, tmp_path: Path):
    songs = [
        write_clicks(tmp_path / f"{name}.wav", [0.5 + beat * k for k in range(28)], 14)
        for name, beat in (("Bell Harbour", SLOW), ("Rope Walk", QUICK))
    ]
    takes = [write_numbered(tmp_path / f"Heat {name}.mp4", 240, size=(320, 180)) for name in "ab"]
    takes[1].write_bytes(takes[1].read_bytes() + b"b")  # the same pictures, another file
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([songs[0], *takes])
    expect(page.get_by_role("button", name="Cue ").first).to_be_visible()
    for name, hit in HITS.items():
        page.get_by_role("button", name=re.compile(f"^Heat {name}")).first.click()
        expect(page.get_by_role("button", name=re.compile(f"^Heat {name}")).first).to_have_attribute(
            "aria-pressed", "true"
        )
        look_at(page, hit)
        page.keyboard.press("h")
        expect(page.get_by_role("button", name=f"Moment impact at frame {hit}")).to_be_visible()

    # Slots between the beats are filled from the shelf: each clip's hit lands on its cut.
    page.get_by_role("tab", name="Montage").click()
    panel = page.get_by_role("region", name="Montage")
    choose(page, "Slots between:", "every beat")
    panel.get_by_label("To, s").fill("9.1")
    panel.get_by_label("To, s").press("Enter")
    expect(panel.get_by_text(re.compile("17 slots of 1 beats, 30 frames"))).to_be_visible()
    panel.get_by_role("button", name="Fill from the shelf").click()
    expect(page.get_by_text("17 of 17 land")).to_be_visible()
    expect(panel.get_by_role("heading", name="17 clips, 16 cuts")).to_be_visible()
    beats = [round((0.5 + SLOW * k) * 60) for k in range(18)]
    assert cuts(page) == beats[1:-1]
    expect(page.get_by_role("region", name="Cut")).to_contain_text("last before")
    assert faults(page) == []

    # A cut is moved by a key to a cue set by hand, ten frames on: both sides are solved again. A beat on
    # would leave nothing of the clip: refused. Undone; then the clip before runs into it.
    panel.get_by_role("button", name="Table").click()
    page.get_by_role("table").get_by_role("row").nth(4).get_by_role("button").click()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("t")
    expect(page.get_by_text("Saving…")).to_be_hidden()
    edge = page.get_by_role("slider", name="Cut to Heat b, 2").first
    edge.focus()
    edge.press("ArrowRight")
    expect(edge).to_have_attribute("aria-valuenow", str(beats[3] + 10))
    assert cuts(page) == [*beats[1:3], beats[3] + 10, *beats[4:-1]]
    edge.press("ArrowRight")
    expect(page.get_by_role("alert")).to_contain_text("Nothing of this clip is left")
    page.get_by_role("button", name="Dismiss").click()
    page.keyboard.press("Control+z")
    expect(edge).to_have_attribute("aria-valuenow", str(beats[3]))
    edge.focus()
    panel.get_by_label("Frames").fill("8")
    panel.get_by_label("Frames").press("Enter")
    panel.get_by_role("button", name="Run into it").click()
    expect(page.get_by_text("17 of 17 land")).to_be_visible()
    assert max(max(clip["speed"]) for clip in saved(page)["derived"]["clips"]) == 3

    # Several are chosen and turned round in order; one clip is split and joined; a table goes to a place.
    clips = page.get_by_role("group", name="Sheet").get_by_role("button", name=re.compile("^Clip Heat"))
    before = [clip["take"] for clip in saved(page)["edit"]["clips"]]
    clips.nth(4).click(modifiers=["Shift"])
    clips.nth(5).click(modifiers=["Shift"])
    expect(panel.get_by_role("heading", name="2 clips chosen")).to_be_visible()
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
    panel.get_by_text("On the cues inside it").click()
    panel.get_by_role("button", name="Alternate").click()
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
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="MKV").click()
    page.get_by_role("button", name="Export MKV").click()
    expect(page.get_by_text("Everything lands, measured in the file")).to_be_visible(timeout=60000)
    with page.expect_download() as download:
        page.get_by_role("link", name="Download MKV").click()
    got = tmp_path / "got.mkv"
    download.value.save_as(got)
    numbers, shown = read_numbers(got), found["derived"]["map"]
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
