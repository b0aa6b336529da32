"""Takes the pictures in docs/screenshots/ of the demo, at 1280×800."""

from __future__ import annotations

import os
import re
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Locator, Page

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))
from tests.browser import chromium_open  # noqa: E402
from tests.e2e.conftest import Server, pulse_on_beats  # noqa: E402
from tests.farm.conftest import Workers, place_in  # noqa: E402
from tests.standins import RedisServer  # noqa: E402

SHOTS = ROOT / "docs" / "screenshots"


def main() -> None:
    _desks()
    _workers()


def _desks() -> None:
    with (
        tempfile.TemporaryDirectory() as name,
        Server(Path(name) / "izmet", "demo", "--no-token") as server,
        chromium_open() as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="dark")
        page.goto(server.address)
        _take(page, "start")
        page.get_by_role("link", name="Skerry Run").click()
        page.get_by_role("button", name="Span 2 build").click()
        _take(page, "edit")
        page.get_by_role("tab", name="Music").click()
        _take(page, "music")
        page.get_by_role("tab", name="Select").click()
        page.get_by_role("group", name="Kinds").get_by_role("button", name="hat").click()
        _take(page, "select")
        page.get_by_role("tab", name="Clip").click()
        page.get_by_role("button", name="Keys").click()
        _take(page, "keys")
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("^Tern rings the bell")).click()
        _take(page, "take")
        page.get_by_role("tab", name="Takes").click()
        for frame in ("230", "290", "264"):
            page.get_by_label("Frame or timecode").fill(frame)
            page.keyboard.press("Enter")
            if frame != "264":
                page.keyboard.press("i")
        _take(page, "takes")
        page.get_by_role("tab", name="Clip").click()
        page.get_by_role("button", name="Gannet off the swell").first.click()
        page.get_by_role("button", name="Export").click()
        page.get_by_role("button", name="Export MP4").click()
        page.get_by_text("Everything lands, measured in the file").wait_for(timeout=120_000)
        _take(page, "export")
        _page_of(page, "Proof page", "proof")
        _page_of(page, "Review page", "review")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Light theme").click()
        page.keyboard.press("Escape")
        _take(page, "light")
        page.get_by_role("button", name="Dark theme").click()
        _bench(page)
        _montage(page)
        _motion(page)
        _pulses(page)
        _accents(page)
        _framing(page)
        _mix(page)
        _titles(page)


def _workers() -> None:
    """Two workers at an export of the whole race, and how they are shown."""
    redis = RedisServer()
    with tempfile.TemporaryDirectory() as name, chromium_open() as browser:
        folder = Path(name)
        place = place_in(folder, redis)
        os.environ |= place.as_environment()
        workers = Workers(place)
        workers.start(2)
        with Server(folder / "izmet", "demo", "--no-token") as server:
            page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="dark")
            page.goto(server.address)
            page.get_by_role("link", name="The whole race").click()
            page.get_by_role("button", name="Export").click()
            page.get_by_role("button", name="Export MP4").click()
            page.goto(f"{server.address}/workers")
            page.get_by_text("Idle").first.wait_for(state="hidden", timeout=120_000)
            page.wait_for_timeout(6000)
            _take(page, "workers")
        workers.end()
    redis.kill()


def _page_of(page: Page, link: str, name: str) -> None:
    """A page of that export, as it is opened from the disk."""
    with tempfile.TemporaryDirectory() as folder:
        with page.expect_download() as download:
            page.get_by_role("link", name=link).click()
        kept = Path(folder) / f"{name}.html"
        download.value.save_as(kept)
        browser = page.context.browser
        assert browser is not None
        beside = browser.new_page(viewport={"width": 1280, "height": 800})
        beside.goto(kept.as_uri())
        _take(beside, name)
        beside.close()


def _mix(page: Page) -> None:
    """The sounds of the whole race on its music, one of them at hand, and the loudness of it all."""
    page.get_by_role("link", name="Izmet").click()
    page.get_by_role("link", name="The whole race").click()
    page.get_by_role("tab", name="Music").click()
    page.get_by_role("tab", name="Mix").click()
    page.get_by_role("button", name="Measure the mix").click()
    page.get_by_role("meter", name=re.compile("^Momentary loudness")).wait_for()
    boom = page.get_by_role("group", name="Sounds on the music").get_by_role(
        "button", name=re.compile("^Boom")
    )
    _zoom_out_to(page, boom)
    boom.click()
    page.get_by_role("meter", name=re.compile("^Momentary loudness")).scroll_into_view_if_needed()
    _take(page, "mix")


def _titles(page: Page) -> None:
    """The title at the beginning of the whole race, on its way in."""
    page.get_by_role("tab", name="Clip").click()
    rail = page.get_by_role("group", name="Titles on the edit")
    title = rail.get_by_role("button", name=re.compile("^Title The whole race"))
    _zoom_out_to(page, title)
    title.click()
    page.get_by_role("button", name="Fit").click()
    for _ in range(24):
        page.keyboard.press("ArrowRight")
    _take(page, "titles")


MOST_ZOOMS = 60


def _zoom_out_to(page: Page, wanted: Locator) -> None:
    """Show so much of the edit that something comes into view."""
    for _ in range(MOST_ZOOMS):
        if wanted.is_visible():
            return
        page.get_by_role("button", name="Zoom out").click()
        page.wait_for_timeout(50)
    raise AssertionError("it is not on this edit")


def _bench(page: Page) -> None:
    """A state kept to compare with, a hold and a way back."""
    page.keyboard.press("b")
    page.get_by_role("slider", name="Cue of splash-down").focus()
    page.get_by_text("Freeze, reverse, skip").click()
    page.get_by_role("button", name="Freeze", exact=True).click()
    page.get_by_role("button", name="Span 3 hold").wait_for()
    page.get_by_role("slider", name="Cue of lift-off").focus()
    page.get_by_text("Freeze, reverse, skip").click()
    page.get_by_role("button", name="Reverse", exact=True).click()
    page.get_by_role("button", name="Span 2 rewind").wait_for()
    _take(page, "bench")


def _montage(page: Page) -> None:
    """The whole race, in the middle of a clip that comes in over another one."""
    page.get_by_role("link", name="Izmet").click()
    page.get_by_role("link", name="The whole race").click()
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("slider", name=re.compile("^Cut to")).first.focus()
    _take(page, "montage")


def _motion(page: Page) -> None:
    """The clip before it, its pictures moved to one another, beside the take as it is."""
    clip = page.get_by_role("button", name="Clip Tern, handheld, 1", exact=True)
    clip.focus()
    page.keyboard.press("Enter")
    page.get_by_role("tab", name="Clip").click()
    page.get_by_text("The whole clip").click()
    motion = page.get_by_role("radiogroup", name="In-between frames of this clip")
    motion.get_by_role("radio", name="Flow", exact=True).click()
    page.get_by_role("list", name="Frames to look at").scroll_into_view_if_needed()
    page.keyboard.press("Escape")
    page.keyboard.press("y")
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    _take(page, "motion")


def _pulses(page: Page) -> None:
    """The same clip with two pulses on its beats, and settings to begin others with."""
    for _ in range(2):  # past the edit without accents, to the edit alone
        page.keyboard.press("y")
    spans = page.get_by_role("region", name="Spans of the clip")
    pulse_on_beats(page, "Knock")
    spans.get_by_text("Pulse: Push").wait_for()
    pulse_on_beats(page, "Dart")
    spans.get_by_text("Pulse: Dash").wait_for()
    spans.get_by_role("button", name="Pulse: Dart").scroll_into_view_if_needed()
    _take(page, "pulses")


def _accents(page: Page) -> None:
    """The hit of another clip with a set of accents and a letterbox, beside the picture without them."""
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("button", name="Clip Gannet off the swell, 4", exact=True).focus()
    page.keyboard.press("Enter")
    page.get_by_role("tab", name="Clip").click()
    page.get_by_role("slider", name=re.compile("^Cue of ")).last.click()
    tie = page.get_by_role("region", name="Tie")
    tie.get_by_text("Ready sets").click()
    tie.get_by_role("button", name="Set: Hit hard").click()
    tie.get_by_role("button", name="Set: Calm drop").click()
    tie.get_by_text("Ready sets").click()
    tie.get_by_text("Add an accent").click()
    page.keyboard.press("y")
    page.keyboard.press("y")
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    _take(page, "accents")


WINDOW = (0.492, 0.625)
"""Where the boat's window is in the picture of the splash-down."""


def _framing(page: Page) -> None:
    """A point of a boat, followed through its clip and kept in its place."""
    page.get_by_role("link", name="Izmet").click()
    page.get_by_role("link", name="Skerry Run").click()
    page.get_by_role("tab", name="Clip").click()
    page.get_by_role("slider", name="Cue of splash-down").click()
    page.keyboard.press("Escape")
    page.get_by_text("Framing", exact=True).click()
    points = page.get_by_role("region", name="Tracked points")
    points.get_by_role("button", name="Track a point").click()
    view = page.get_by_role("img", name=re.compile("^Picture")).bounding_box()
    assert view is not None
    wide, high = min(view["width"], view["height"] * 16 / 9), min(view["height"], view["width"] * 9 / 16)
    left, top = view["x"] + (view["width"] - wide) / 2, view["y"] + (view["height"] - high) / 2
    page.mouse.click(left + WINDOW[0] * wide, top + WINDOW[1] * high)
    points.get_by_role("button", name="Track it").click()
    points.get_by_text(re.compile(r"^\d+–\d+$")).wait_for(timeout=120_000)
    points.get_by_role("radio", name="Keep here").click()
    points.get_by_text("For the whole clip").wait_for()
    points.get_by_role("button", name="Track a point").scroll_into_view_if_needed()
    _take(page, "framing")


def _take(page: Page, name: str) -> None:
    page.wait_for_timeout(1500)
    page.screenshot(path=SHOTS / f"{name}.png")
    print(f"docs/screenshots/{name}.png")


if __name__ == "__main__":
    main()
