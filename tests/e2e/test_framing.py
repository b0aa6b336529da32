"""Pictures framed, laid in a corner, keyed and revealed on the picture itself: seen as they are exported."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect
from scipy.ndimage import gaussian_filter

from tests.e2e.conftest import CUE, PATIENCE_MS
from tests.e2e.test_accents import (
    EDGED,
    ROUNDED,
    begun,
    comes_to,
    exported_pictures,
    seen_as,
    swelling,
    to_frame,
    told,
    typed,
)
from tests.e2e.test_first_edit import look_at, pull
from tests.e2e.test_montage import clips_of, saved
from tests.media.files import write_clicks, write_colours

COMMANDS = re.compile("/commands$")
SIZE = (320, 180)


def opened(page: Page, name: str) -> Locator:
    """A fold of the clip at hand, opened."""
    group = page.get_by_role("group", name=name, exact=True)
    if not group.is_visible():
        page.get_by_text(name, exact=True).first.click()
    expect(group).to_be_visible()
    return group


def handle(page: Page, name: str) -> Locator:
    return page.get_by_role("button", name=re.compile(f"^{name}, "))


def dragged(page: Page, name: str, across: float, down: float) -> None:
    """A handle on the picture pulled by parts of the picture's box."""
    box, view = (
        handle(page, name).bounding_box(),
        page.get_by_role("img", name=re.compile("^Picture")).bounding_box(),
    )
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    with page.expect_response(COMMANDS):
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + across * view["width"], y + down * view["height"], steps=6)
        page.mouse.up()


def pressed(page: Page, name: str, *keys: str) -> None:
    """A handle moved by keys, one right after the other; each is kept."""
    kept = []

    def all_kept(answer) -> bool:
        if COMMANDS.search(answer.url):
            kept.append(answer)
        return len(kept) == len(keys)

    with page.expect_response(all_kept):
        for key in keys:
            handle(page, name).press(key)


def clip_of(state: dict, index: int) -> dict:
    return sorted(state["edit"]["clips"], key=lambda clip: int(clip["id"].split("-")[1]))[index]


def first_of(state: dict, clip: str) -> int:
    return next(each["first"] for each in state["derived"]["clips"] if each["id"] == clip)


def chosen(page: Page, index: int, desk: str = "Clip") -> None:
    """A clip chosen on the montage, by its place, and looked at on a desk."""
    page.get_by_role("tab", name="Montage").click()
    clips_of(page).nth(index).click()
    page.get_by_role("tab", name=desk).click()


def test_what_is_set_on_the_picture_is_seen_as_it_is_exported(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path, swelling)

    # Two keys: the first by hand and by keys on the picture, the second typed, on a cue under the playhead.
    chosen(page, 0)
    state = saved(page)
    first = clip_of(state, 0)
    begin = first_of(state, first["id"])
    framing = opened(page, "Framing")
    to_frame(page, begin)
    framing.get_by_role("button", name="On the picture").click()
    dragged(page, "Middle of the picture", 0.06, -0.04)
    pressed(page, "Middle of the picture", "ArrowRight", "Shift+ArrowDown")
    (key,) = clip_of(saved(page), 0)["framing"]["keys"]
    assert 0.02 < key["x"] < 0.12
    assert key["at"]["n"] == begin
    pressed(page, "Size and turn of the picture", "Shift+ArrowRight")
    to_frame(page, begin + 20)
    with page.expect_response(COMMANDS):
        framing.get_by_role("button", name="Set a key here").click()
    for name, value in (("Scale, %", "150"), ("Turn, °", "9"), ("Across, %", "-8")):
        with page.expect_response(COMMANDS):
            told(framing, {name: value})
    state = saved(page)
    assert [round(key["scale"], 2) for key in clip_of(state, 0)["framing"]["keys"]][1] == 1.5
    page.keyboard.press("Escape")

    # A reveal through a polygon, of which a corner is moved and one is added.
    page.get_by_role("tab", name="Montage").click()
    clips_of(page).nth(1).click()
    panel = page.get_by_role("region", name="Montage")
    typed(panel, "Overlap, frames", "12")
    panel.get_by_role("button", name=re.compile("^Overlap type")).click()
    with page.expect_response(COMMANDS):
        page.get_by_role("option", name="Reveal").click()
    reveal = page.get_by_role("group", name="Reveal")
    with page.expect_response(COMMANDS):
        reveal.get_by_role("radio", name="Polygon").click()
    reveal.get_by_role("button", name="On the picture").click()
    dragged(page, "Corner 2 of the reveal", 0.05, 0.05)
    pressed(page, "Point of the reveal", "Shift+ArrowLeft", "Shift+ArrowLeft", "ArrowUp", "Shift+ArrowLeft")
    with page.expect_response(COMMANDS):
        reveal.get_by_role("button", name="Add a corner").click()
    expect(handle(page, "Corner 5 of the reveal")).to_be_visible()
    # Without its left corner it would not lie around its point any more.
    handle(page, "Corner 5 of the reveal").press("Delete")
    expect(page.get_by_text(re.compile("inside the polygon"))).to_be_visible()
    pressed(page, "Corner 2 of the reveal", "Delete")
    expect(handle(page, "Corner 5 of the reveal")).to_have_count(0)
    state = saved(page)
    told_reveal = clip_of(state, 1)["overlap"]["reveal"]
    assert len(told_reveal["corners"]) == 4
    assert max(corner["x"] for corner in told_reveal["corners"]) > 0.17
    assert told_reveal["x"] == pytest.approx(0.5 - 30 / state["edit"]["width"])
    assert told_reveal["y"] == pytest.approx(0.5 - 1 / state["edit"]["height"])
    cut = first_of(state, clip_of(state, 1)["id"])
    page.keyboard.press("Escape")

    # A clip laid over the one before it, in a corner, with a border; then its background goes by its colour.
    chosen(page, 2)
    state = saved(page)
    over = clip_of(state, 2)
    lies = first_of(state, over["id"])
    inset = opened(page, "Inset")
    inset.get_by_role("button", name="Put it in a corner").click()
    page.get_by_role("button", name=re.compile("anyway")).click()
    expect(inset.get_by_role("button", name="Fill the frame again")).to_be_visible()
    to_frame(page, lies + 12)
    if not handle(page, "Middle of the inset").is_visible():
        inset.get_by_role("button", name="On the picture").first.click()
    dragged(page, "Corner of the inset", -0.08, 0.1)
    with page.expect_response(COMMANDS):
        inset.get_by_role("button", name="Into the bottom left corner").click()
    told(inset, {"Border, %": "2.0"})
    state = saved(page)
    laid = clip_of(state, 2)["inset"]
    assert laid["x"] < 0.3
    assert laid["y"] > 0.6
    assert all(landing["exact"] for clip in state["derived"]["clips"] for landing in clip["landings"])

    file = exported_pictures(page, tmp_path)
    page.keyboard.press("Escape")
    start = state["derived"]["map"]["first"]
    for n in (begin, begin + 9, begin + 20, cut - 9, cut - 4, cut - 1, cut, lies + 2, lies + 12):
        to_frame(page, n)
        assert seen_as(page, file[n - start], EDGED), n

    with page.expect_response(COMMANDS):
        inset.get_by_text("Key out the background").click()
    inset.get_by_role("button", name="Pick colour").click()
    with page.expect_response(COMMANDS):
        handle(page, "Colour of the background").press("ArrowRight")
    told(inset, {"Tolerance, %": "20", "Softness, %": "60"})
    keying = clip_of(saved(page), 2)["inset"]["keying"]
    assert keying["colour"] != "#00b140"
    file = exported_pictures(page, tmp_path)
    page.keyboard.press("Escape")
    for n in (lies + 2, lies + 12):
        to_frame(page, n)
        assert seen_as(page, file[n - start], ROUNDED), n
    with page.expect_response(COMMANDS):
        inset.get_by_role("button", name="Fill the frame again").click()
    assert clip_of(saved(page), 2)["inset"] is None


def places() -> np.ndarray:
    n = np.arange(240)
    return np.stack([70 + 0.7 * n - 6 * np.sin(n / 8), 90 + 24 * np.sin(n / 15)], axis=1)


def wandering() -> list[np.ndarray]:
    """A bright patterned disc over a dark ground."""
    rng = np.random.default_rng(2)
    pattern = gaussian_filter(rng.normal(0, 1, (360, 640)), 2)
    pattern = 190 + 50 * pattern / abs(pattern).max()
    ground = gaussian_filter(rng.normal(0, 1, SIZE[::-1]), 5)
    ground = 50 + 25 * ground / abs(ground).max()
    down, across = (each + 0.5 for each in np.mgrid[: SIZE[1], : SIZE[0]].astype(float))
    found = []
    for x, y in np.round(places()).astype(int):
        shifted = pattern[180 - y : 360 - y, 320 - x : 640 - x]
        mask = np.clip(20.5 - np.hypot(across - x, down - y), 0, 1)
        picture = ground * (1 - mask) + shifted * mask
        found.append(np.repeat(picture.astype(np.uint8)[:, :, None], 3, axis=2))
    return found


def middle_of_disc(picture: np.ndarray) -> np.ndarray:
    """Where the bright part of a picture lies, in parts of it."""
    bright = np.clip(picture.mean(axis=2) - 110, 0, None)
    high, wide = bright.shape
    across, down = bright.sum(axis=0) @ (np.arange(wide) + 0.5), bright.sum(axis=1) @ (np.arange(high) + 0.5)
    return np.array([across / wide, down / high]) / max(1, bright.sum())


def test_a_point_is_tracked_and_stays_where_it_is_kept(server, page: Page, tmp_path: Path):
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * k for k in range(6)], 4)
    take = write_colours(tmp_path / "Buoy.mkv", wandering(), SIZE, matrix=1)
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, take])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    page.get_by_role("button", name=re.compile("^Buoy")).first.click()
    look_at(page, 90)
    page.keyboard.press("h")
    page.get_by_role("button", name="Fit").click()
    pull(
        page,
        page.get_by_role("button", name="Tie impact at frame"),
        page.get_by_role("button", name=CUE).nth(3),
    )
    expect(page.get_by_text("1 of 1 land")).to_be_visible()
    page.keyboard.press("Escape")
    state = saved(page)
    shown = state["derived"]["map"]
    framing = opened(page, "Framing")
    points = framing.get_by_role("region", name="Tracked points")
    points.get_by_role("button", name="Track a point").click()
    hit = state["derived"]["clips"][0]["landings"][0]["wanted_frame"]
    to_frame(page, hit)
    source = shown["source"][hit - shown["first"]]
    x, y = np.round(places()[source])
    view = page.get_by_role("img", name=re.compile("^Picture")).bounding_box()
    wide = min(view["width"], view["height"] * 16 / 9)
    left, top = (view["width"] - wide) / 2, (view["height"] - wide * 9 / 16) / 2
    with page.expect_response(COMMANDS):
        page.mouse.click(view["x"] + left + wide * x / SIZE[0], view["y"] + top + wide * y / SIZE[0])
    point = points.get_by_role("group", name="Point point 1")
    point.get_by_role("button", name="Track it").click()
    expect(point.get_by_text(re.compile(r"^\d+–\d+$"))).to_be_visible(timeout=PATIENCE_MS)
    with page.expect_response(COMMANDS):
        point.get_by_role("radio", name="Keep here").click()
    expect(point.get_by_text("Scaled up to")).to_be_visible()
    kept = saved(page)["edit"]["clips"][0]["framing"]["kept"]
    assert np.hypot(kept["x"] - x / SIZE[0], kept["y"] - y / SIZE[1]) < 0.02
    for n in (hit - 40, hit - 11, hit, hit + 25):
        to_frame(page, n)
        assert comes_to(
            page, lambda picture: np.abs(middle_of_disc(picture) - [kept["x"], kept["y"]]).max() < 0.012
        ), n

    # Let go of it, and the disc wanders again; what is kept can be undone like all else.
    with page.expect_response(COMMANDS):
        point.get_by_role("radio", name="Free").click()
    to_frame(page, hit - 40)
    assert comes_to(page, lambda picture: abs(middle_of_disc(picture)[0] - kept["x"]) > 0.05)
    page.get_by_role("button", name="Remove point point 1").click()
    expect(point).to_have_count(0)
