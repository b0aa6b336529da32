"""The music desk as a person uses it: hear, count, select, correct, tap, move the song, cues as files."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_demo_screen import faults
from tests.e2e.test_first_edit import landings, state
from tests.media.files import write_clicks
from tests.waiting import until


@pytest.fixture
def desk(demo_server: Server, page: Page) -> Page:
    """The demo edit on the music desk, some bars around the drop in view."""
    page.goto(f"{demo_server.address}/edits/1")
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    page.get_by_role("tab", name="Music").click()
    expect(page.get_by_role("tab", name="Music")).to_have_attribute("aria-selected", "true")
    return page


def cues(page: Page, *kinds: str) -> list[dict]:
    return [cue for cue in state(page)["edit"]["song"]["cues"] if cue["kind"] in kinds]


def saved(page: Page) -> None:
    expect(page.get_by_text("Saving…")).to_be_hidden()


def told_tempo(page: Page) -> float:
    """The tempo that the desk says, in beats a minute."""
    heading = page.get_by_role("heading", name=re.compile("bpm$"))
    return float(heading.inner_text().removesuffix(" bpm"))


def playhead(page: Page) -> float:
    page.wait_for_timeout(300)  # its time is shown ten times a second
    minutes, seconds = page.get_by_label("Playhead").inner_text().split(":")
    return 60 * int(minutes) + float(seconds)


def corner(page: Page) -> tuple[float, float]:
    """A place at the left end of the song's wave: a click there moves the playhead to it."""
    rail = page.get_by_role("group", name="Music rail").bounding_box()
    return rail["x"] + 2, rail["y"] + rail["height"] - 40


def test_count_correct_and_select(desk: Page):
    page = desk
    assert faults(page) == []
    beats = len(cues(page, "beat", "downbeat"))
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_visible()
    page.get_by_role("button", name="Halve").click()
    expect(page.get_by_role("heading", name="56.00 bpm")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_visible()
    page.get_by_role("button", name="One beat later").click()
    saved(page)
    assert len(cues(page, "beat", "downbeat")) == beats
    page.keyboard.press("Control+z")

    # Other ways to count, the likeliest first, each one click away and one click back.
    others = page.get_by_role("region", name="Other ways to count").get_by_role("button")
    tempo = float(re.search(r"[\d.]+", others.first.inner_text()).group())
    others.first.click()
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_hidden()
    assert told_tempo(page) == pytest.approx(tempo, rel=0.02)
    page.get_by_role("button", name="Back to the first reading").click()
    expect(page.get_by_role("heading", name="112.00 bpm")).to_be_visible()
    saved(page)
    assert len(cues(page, "beat", "downbeat")) == beats
    for _ in range(2):
        page.keyboard.press("Control+z")

    # One cue by keys: reached, nudged by a frame, given a kind, deleted, brought back.
    for _ in range(4):
        page.keyboard.press("+")
    snare = page.get_by_role("button", name="Cue snare").first
    at = float(re.search(r"at ([\d.]+)", snare.get_attribute("aria-label")).group(1))
    snare.click()
    page.get_by_role("group", name="Music rail").press("Shift+ArrowRight")
    expect(page.get_by_role("button", name=f"Cue snare at {at:.3f}")).to_be_hidden()
    saved(page)
    assert any(cue["time"] == pytest.approx(at + 1 / 60, abs=0.001) for cue in cues(page, "snare"))
    page.get_by_role("group", name="Music rail").press("5")
    expect(page.get_by_role("region", name="Cue", exact=True)).to_contain_text("kick cue")
    expect(page.get_by_role("region", name="Cue", exact=True)).to_contain_text("Set by hand")
    count = len(cues(page, "kick"))
    page.get_by_role("group", name="Music rail").press("Delete")
    saved(page)
    assert len(cues(page, "kick")) == count - 1
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=f"Cue snare at {at:.3f}")).to_be_visible()

    # Many at once: all in view are moved together.
    page.keyboard.press("a")
    expect(page.get_by_role("region", name="Cues", exact=True)).to_be_visible()
    page.get_by_role("button", name="+1 ms").click()
    saved(page)
    assert sum(cue["made"] == "hand" for cue in state(page)["edit"]["song"]["cues"]) > 10
    page.keyboard.press("Control+z")
    page.keyboard.press("Escape")

    # Doubles: two cues set by hand at nearly one place become one.
    page.keyboard.press("ArrowRight")
    for _ in range(2):
        page.keyboard.press("t")
        page.keyboard.press("ArrowRight")
    doubles = page.get_by_role("button", name="Cue manual")
    expect(doubles).to_have_count(2)
    doubles.first.click(position={"x": 1, "y": 9})  # its other half lies under the second
    doubles.last.click(modifiers=["Shift"])
    expect(page.get_by_role("region", name="Cues", exact=True)).to_contain_text("2 cues")
    page.get_by_role("button", name="Merge doubles").click()
    expect(doubles).to_have_count(1)
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(doubles).to_have_count(0)
    page.keyboard.press("Escape")

    # A selection: kinds, strength, every second one; named and kept.
    page.get_by_role("tab", name="Select").click()
    total = page.get_by_role("status", name="Cues chosen")
    for kind in ("hat", "bass", "note", "snare", "beat", "drop", "roll", "kick"):
        page.get_by_role("group", name="Kinds").get_by_role("button", name=kind, exact=True).click()
    bars = len(cues(page, "downbeat"))
    expect(total).to_contain_text(f"{bars} of")
    page.get_by_label("Every").fill("2")
    page.get_by_label("Every").press("Enter")
    expect(total).to_contain_text(f"{-(-bars // 2)} of")
    page.get_by_label("Name of the selection").fill("Every other bar")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("list", name="Kept selections")).to_contain_text("Every other bar")
    page.get_by_role("button", name="all", exact=True).click()
    expect(total).to_contain_text(re.compile(r"^(\d+) of \1 cues"))
    page.get_by_role("list", name="Kept selections").get_by_role(
        "button", name="Every other bar"
    ).first.click()
    expect(total).to_contain_text(f"{-(-bars // 2)} of")


def test_beats_are_pinned_by_dragging_and_taps_are_calibrated(desk: Page):
    page = desk
    for _ in range(3):
        page.keyboard.press("+")
    handle = page.get_by_role("button", name="Cue beat").first
    at = float(re.search(r"at ([\d.]+)", handle.get_attribute("aria-label")).group(1))
    before = {cue["id"]: cue["time"] for cue in cues(page, "beat", "downbeat")}
    pinned = min(before, key=lambda id: abs(before[id] - at))

    def pull_beat(pixels: int) -> dict[str, float]:
        box = page.get_by_role("button", name=f"Cue beat at {at:.3f} s").bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + pixels / 2, y, steps=3)
        page.mouse.move(x + pixels, y, steps=3)
        page.mouse.up()
        expect(page.get_by_role("button", name=f"Cue beat at {at:.3f} s")).to_be_hidden()
        saved(page)
        return {cue["id"]: cue["time"] for cue in cues(page, "beat", "downbeat")}

    # Nothing is pinned yet, so all beats move along with the one that is dragged.
    after = pull_beat(24)
    moved = after[pinned] - before[pinned]
    assert 0.005 < moved < 0.5
    assert all(after[id] - before[id] == pytest.approx(moved, abs=1e-6) for id in before if id in after)
    assert [cue["id"] for cue in cues(page, "beat") if cue["made"] == "hand"] == [pinned]
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=f"Cue beat at {at:.3f} s")).to_be_visible()
    # With Alt a beat moves alone.
    page.keyboard.down("Alt")
    alone = pull_beat(24)
    page.keyboard.up("Alt")
    assert [id for id in before if alone[id] != pytest.approx(before[id], abs=1e-6)] == [pinned]
    page.keyboard.press("Control+z")

    # Each tap is as late as the person is: eight taps tell by how much, and it is kept.
    page.get_by_role("tab", name="Listen").click()
    expect(page.get_by_text("0 ms late", exact=True)).to_be_visible()
    page.get_by_role("button", name="Calibrate").click()
    dialog = page.get_by_role("dialog", name="Calibrate your taps")
    keep = dialog.get_by_role("button", name="Keep")
    page.wait_for_timeout(900)
    for taps in range(1, 9):
        expect(keep).to_be_disabled()
        page.keyboard.press("t")
        if taps < 8:
            expect(dialog.get_by_role("status").first).to_have_text(f"{taps} of 8")
            page.wait_for_timeout(560)
    late = dialog.get_by_role("status")
    expect(late).to_have_text(re.compile(r"^-?\d+ ms$"))
    told = int(late.inner_text().split()[0])
    assert -300 <= told <= 300
    keep.click()
    expect(page.get_by_text(f"{told} ms late", exact=True)).to_be_visible()
    page.reload()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert float(page.evaluate("localStorage['izmet-tap-latency']")) * 1000 == pytest.approx(told, abs=0.6)

    # One who taps a second late gets cues where the music was a second before.
    page.evaluate("localStorage['izmet-tap-latency'] = '1'")
    page.reload()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    page.get_by_role("tab", name="Music").click()
    page.get_by_role("tab", name="Listen").click()
    expect(page.get_by_text("1000 ms late", exact=True)).to_be_visible()
    page.get_by_role("switch", name="Draw to the attack").click()
    known = {cue["id"] for cue in cues(page, "hand")}
    page.get_by_role("button", name="Play", exact=True).click()
    page.wait_for_timeout(1500)
    page.keyboard.press("t")
    page.keyboard.press("Space")
    saved(page)
    tapped = [cue["time"] for cue in cues(page, "hand") if cue["id"] not in known]
    assert tapped == [pytest.approx(playhead(page) - 1, abs=0.25)]

    # The click of each kind has a level of its own; a lane that is hidden has none.
    level = page.get_by_role("slider", name="Click of kick")
    expect(level).to_have_value("1")
    for _ in range(20):
        level.press("ArrowLeft")
    expect(level).to_have_value("0")
    page.get_by_role("button", name="Lane of snare").click()
    expect(page.get_by_role("slider", name="Click of snare")).to_be_disabled()
    # A slider keeps its arrows; all other keys do what they do everywhere.
    level.focus()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()


def test_another_song_takes_over_and_ties_find_their_cues_in_it(desk: Page):
    page = desk

    def ties() -> list[tuple]:
        return [(x["cue_kind"], x["wanted_frame"]) for x in landings(page)]

    before = ties()
    page.get_by_role("button", name=re.compile("^Cold Slipway")).click()
    # Each cue's part is taken by one of the new song; two lines are not taken.
    table = page.get_by_role("dialog", name="Change to Cold Slipway")
    expect(table.get_by_role("row")).to_have_count(5)
    boxes = table.get_by_role("checkbox")
    taken = boxes.count() - 2
    for _ in range(2):
        table.get_by_role("checkbox", checked=True).first.uncheck()
    table.get_by_role("button", name="Change the song").click()
    expect(page.get_by_role("button", name=re.compile("^Cold Slipway"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("heading", name="140.00 bpm")).to_be_visible()
    saved(page)
    # What was not taken is loose, at its place in the new music, and the nearest cue is offered.
    now = state(page)["derived"]
    assert len(landings(page)) == taken
    assert len(landings(page)) + len(now["loose"]) == len(before)
    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("slider", name="Loose end of")).to_have_count(len(now["loose"]))
    expect(page.get_by_role("banner")).to_contain_text(f"{len(now['loose'])} loose")
    page.get_by_role("button", name="Tie all to these").click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    expect(page.get_by_role("heading", name="Loose ties")).to_be_hidden()
    for _ in range(2):
        saved(page)
        page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=re.compile("^Tin Lantern"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert ties() == before


def test_the_song_is_shortened_where_it_comes_again(desk: Page):
    page = desk
    page.get_by_role("tab", name="Song").click()
    length = page.get_by_role("region", name="Length of the song")
    before = state(page)["edit"]["song"]
    length.get_by_label("End at, seconds of the edit").fill("53.3")
    length.get_by_role("button", name="Find joins").click()
    row = length.get_by_role("listitem").first
    expect(row).to_contain_text("4 bars cut")
    expect(row).not_to_contain_text("loose")
    with page.expect_response(re.compile(r"/song-join\?")) as heard:
        row.get_by_role("button", name=re.compile("^Hear")).click()
    assert heard.value.ok
    row.get_by_role("button", name=re.compile("^Use")).click()
    expect(length.get_by_role("listitem")).to_have_count(0)
    expect(page.get_by_role("heading", name=re.compile(r"^Tin Lantern, 53\.\d s"))).to_be_visible()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    song = state(page)["edit"]["song"]
    assert before["duration"] - song["duration"] == pytest.approx(8.57, abs=0.05)

    # A level is set on the drop, which is meant of all cues on that frame.
    page.get_by_role("tab", name="Mix").click()
    with page.expect_response(re.compile("/commands$")):
        page.get_by_role("region", name="Level of the song").get_by_role("button", name="Set a level").click()
    (key,) = state(page)["edit"]["song"]["levels"]
    assert next(cue["kind"] for cue in cues(page, "drop") if cue["id"] == key["at"]["cue"]) == "drop"
    page.get_by_role("tab", name="Song").click()

    # Cut on the bar next to the end of the picture.
    length.get_by_label("End at, seconds of the edit").fill("30.267")
    with page.expect_response(re.compile("/commands$")):
        length.get_by_role("button", name="Cut on the bar").click()
    assert state(page)["edit"]["song"]["heard_to"] == pytest.approx(30.25, abs=0.01)


def test_listening_can_be_stopped_and_taken_up_again(server, page: Page, tmp_path: Path):
    # Little to copy and long to listen to, so that it can be stopped in the middle on any machine.
    seconds = 600
    beats = [0.5 + 0.5 * beat for beat in range(2 * seconds - 2)]
    song = write_clicks(tmp_path / "Long Reach.flac", beats, seconds, rate=22050, channels=1)
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files(song)
    page.get_by_role("button", name="Stop listening to Long Reach.flac").click()
    page.get_by_role("tab", name="Music").click()
    page.get_by_role("tab", name="Song").click()
    expect(page.get_by_text("Only the first 16 s have been heard.")).to_be_visible()
    assert max(cue["time"] for cue in cues(page, "beat", "downbeat")) < 17
    page.get_by_role("button", name="Hear all of it").click()
    expect(page.get_by_text("Still listening")).to_be_visible()
    expect(page.get_by_text("Still listening")).to_be_hidden()
    expect(page.get_by_text("Only the first 16 s")).to_be_hidden()
    assert max(cue["time"] for cue in cues(page, "beat", "downbeat")) > seconds - 3


def test_a_selection_says_what_is_jumped_to_marked_and_repeated(desk: Page):
    page = desk
    page.get_by_role("tab", name="Select").click()
    total = page.get_by_role("status", name="Cues chosen")
    kinds = page.get_by_role("group", name="Kinds")
    for kind in {cue["kind"] for cue in state(page)["edit"]["song"]["cues"]} - {"kick", "snare"}:
        kinds.get_by_role("button", name=kind, exact=True).click()
    drums = cues(page, "kick", "snare")
    every = len(state(page)["edit"]["song"]["cues"])

    def chosen(count: int) -> None:
        expect(total).to_have_text(f"{count} of {every} cues")

    chosen(len(drums))
    least = page.get_by_label("At least as strong as", exact=True)
    least.fill("0.9")
    least.press("Enter")
    strong = sorted(cue["time"] for cue in drums if cue["strength"] >= 0.9)
    assert 1 < len(strong) < len(drums)
    chosen(len(strong))

    # From cue to cue, over those that are chosen only.
    page.mouse.click(*corner(page))
    first = playhead(page)
    ahead = [time for time in strong if time > first + 0.002]
    exact = page.get_by_label("Time, seconds")
    for key, time in ((".", ahead[0]), (".", ahead[1]), (".", ahead[2]), (",", ahead[1])):
        page.keyboard.press(key)
        expect(exact).to_have_value(f"{time:.4f}")
        expect(page.get_by_label("Playhead")).to_have_text(f"{time // 60:.0f}:{time % 60:06.3f}")

    # The one at hand is never taken, then always.
    page.get_by_role("button", name="Never take").click()
    chosen(len(strong) - 1)
    page.get_by_role("button", name="Always take").click()
    chosen(len(strong))

    # Only in a stretch: what repeats, else what is in view.
    page.get_by_role("button", name="Mark these on the rail").click()
    expect(page.get_by_role("region", name="Cues", exact=True)).to_contain_text(f"{len(strong)} cues")
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Music rail").press("+")
    page.keyboard.press("l")
    page.get_by_role("button", name="Only in the loop").click()
    expect(total).not_to_have_text(f"{len(strong)} of {every} cues")
    within = int(total.inner_text().split()[0])
    assert within < len(strong)
    page.get_by_label("Name of the selection").fill("Strong here")
    page.get_by_role("button", name="Keep").click()
    saved(page)
    kept = next(one for one in state(page)["edit"]["song"]["selections"] if one["name"] == "Strong here")
    assert sum(kept["begin"] <= time <= kept["end"] for time in strong) in (within, within - 1)  # one always
    page.get_by_role("button", name="Anywhere").click()
    chosen(len(strong))

    # A cue's time, to the tenth of a millisecond; what is hidden is out of reach; what is not heard is kept.
    page.keyboard.press(".")
    exact.fill("12.3456")
    exact.press("Enter")
    saved(page)
    assert 12.3456 in {cue["time"] for cue in cues(page, "kick", "snare")}
    page.get_by_role("tab", name="Listen").click()
    page.get_by_role("button", name="Lane of snare").click()
    expect(page.get_by_role("button", name="Cue snare")).to_have_count(0)
    page.get_by_role("tab", name="Song").click()
    page.get_by_label("Heard from").fill("2.5")
    page.get_by_label("Heard from").press("Enter")
    saved(page)
    assert state(page)["edit"]["song"]["heard_from"] == 2.5
    assert len(state(page)["edit"]["song"]["cues"]) == every
    for _ in range(3):  # as it was found
        page.keyboard.press("Control+z")
        saved(page)
    assert not any(one["name"] == "Strong here" for one in state(page)["edit"]["song"]["selections"])


def test_listen_tap_move_and_exchange(desk: Page, tmp_path: Path):
    page = desk
    # A stretch repeats, at half speed, with clicks.
    page.get_by_role("tab", name="Listen").click()
    rail = page.get_by_role("group", name="Music rail").bounding_box()
    ruler = rail["y"] + rail["height"] - 8
    page.mouse.move(rail["x"] + rail["width"] * 0.3, ruler)
    page.mouse.down()
    page.mouse.move(rail["x"] + rail["width"] * 0.5, ruler, steps=4)
    page.mouse.up()
    expect(page.get_by_text("The marked stretch repeats.")).to_be_visible()
    page.get_by_role("radio", name="Half").click()
    expect(page.get_by_text("Making the slow copy")).to_be_hidden()
    page.keyboard.press("c")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()

    # Tapping along: the taps of one pass are one step.
    before = len(cues(page, "hand"))
    for taps in range(1, 5):
        page.keyboard.press("t")
        expect(page.get_by_text(f"{taps} tap{'s' * (taps > 1)}", exact=True)).to_be_visible()
        page.wait_for_timeout(250)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.get_by_text("4 taps")).to_be_hidden()
    saved(page)
    assert len(cues(page, "hand")) == before + 4
    page.keyboard.press("Control+z")
    saved(page)
    assert len(cues(page, "hand")) == before
    page.get_by_role("button", name="Play on").click()
    page.get_by_role("radio", name="Full").click()

    # The song is moved: every tie follows its cue.
    page.get_by_role("tab", name="Song").click()
    wanted = [landing["wanted_frame"] for landing in landings(page)]
    page.get_by_label("Begins at, seconds of the edit").fill("0.5")
    page.get_by_label("Begins at, seconds of the edit").press("Enter")
    saved(page)
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    assert [n - 30 for n in (x["wanted_frame"] for x in landings(page))] == wanted

    # Cues leave as a file, come back from one, and listening anew spares them.
    with page.expect_download() as download:
        page.get_by_role("link", name="MIDI").click()
    assert download.value.suggested_filename.endswith(".mid")
    mine = tmp_path / "mine.csv"
    mine.write_text("time,kind,strength\n1.25,hand,0.5\n2.5,drop,1\n")
    page.get_by_label("Read cues from a file").set_input_files(mine)
    saved(page)
    assert {1.25, 2.5} <= {cue["time"] for cue in cues(page, "hand", "drop")}
    wrong = tmp_path / "wrong.csv"
    wrong.write_text("time\nsoon\n")
    page.get_by_label("Read cues from a file").set_input_files(wrong)
    expect(page.get_by_role("alert")).to_contain_text("row 2")
    page.get_by_role("button", name="Compare with a new analysis").click()
    expect(page.get_by_text("Nothing: all cues are as they were heard")).to_be_visible()

    # The cue under a tie is deleted: the tie stays, loose, and takes the cue that is proposed.
    drop = next(x["cue"] for x in landings(page) if x["cue_kind"] == "drop")
    id = state(page)["id"]
    page.request.post(
        page.url.replace("/edits/", "/api/edits/") + "/commands",
        data={"base": state(page)["revision"], "command": {"do": "remove-cues", "cues": [drop]}},
    )
    assert state(page)["id"] == id
    page.get_by_role("tab", name="Clip").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Loose ties")).to_be_visible()
    expect(page.get_by_role("slider", name="Loose end of splash-down")).to_be_visible()
    page.get_by_role("region", name="Edit").get_by_role("button", name=re.compile(r"\d+\.\d\d s$")).click()
    expect(page.get_by_text("4 of 4 land")).to_be_visible()
    expect(page.get_by_role("heading", name="Loose ties")).to_be_hidden()


RECORD_CLICKS = """
  window.clicked = []
  const start = OscillatorNode.prototype.start
  OscillatorNode.prototype.start = function (at) {
    window.clicked.push(at)
    return start.call(this, at)
  }
"""


def test_where_the_beat_is_unsure_each_way_is_heard_by_its_key_and_one_is_taken(server, page, tmp_path):
    """Even clicks, 230 a minute, may be counted in twos, beside them, or in threes."""
    song = write_clicks(tmp_path / "Even clicks.flac", [0.4 + 0.26 * n for n in range(184)], 50)
    page.add_init_script(RECORD_CLICKS)
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files(song)
    page.get_by_role("tab", name="Music").click()
    asked = page.get_by_role("region", name="Which is the beat?")
    ways = asked.get_by_role("button", name=re.compile("^[123] "))
    expect(ways).to_have_count(3)
    tempos = [float(re.search(r"[\d.]+$", ways.nth(i).inner_text()).group()) for i in range(3)]
    assert faults(page) == []

    for key in (2, 3):
        page.keyboard.press(str(key))
        expect(ways.nth(key - 1)).to_have_attribute("aria-pressed", "true")
        expect(page.get_by_role("button", name="Pause")).to_be_visible()
        page.evaluate("window.clicked = []")
        until(lambda: page.evaluate("window.clicked.length") >= 8, "eight clicks")
        apart = page.evaluate("window.clicked.map((at, i, all) => at - all[i - 1]).slice(2)")
        assert sorted(apart)[len(apart) // 2] == pytest.approx(60 / tempos[key - 1], rel=0.05)
    asked.get_by_role("button", name="Take this one").click()
    expect(ways.nth(2)).to_have_attribute("aria-pressed", "false")
    saved(page)
    assert told_tempo(page) == pytest.approx(tempos[2], rel=0.02)
    beats = [cue["time"] for cue in cues(page, "beat", "downbeat")]
    assert beats[5] - beats[4] == pytest.approx(60 / tempos[2], rel=0.05)
