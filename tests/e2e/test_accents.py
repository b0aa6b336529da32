"""An overlap at a cut and a flash on a hit, from the hand to the file: seen as they are exported."""

import base64
import re
from collections.abc import Callable
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from izmet.picture.blending import BLENDS
from tests.e2e.conftest import CUE, PATIENCE_MS
from tests.e2e.test_first_edit import choose, look_at
from tests.e2e.test_montage import clips_of, exported_file, filled, saved
from tests.media.files import write_clicks, write_colours

COLOURS = {"dusk": (60, 40, 110), "noon": (220, 200, 90)}
NEAR, COLOUR_NEAR, PART, INSET = 2, 4, 0.999, 4
"""How far the light of a pixel may be off, of 255, and each of its colours, which file and pack both round;
which part of the pixels is not; and the edge that is left out."""
EDGED, ROUNDED = 0.95, 0.9
"""The same where there are edges, and where both the pack and the file are rounded once more after that."""
LIGHT = np.array([0.2126, 0.7152, 0.0722])
"""Of red, green and blue: ITU-R BT.709."""


def sloped(colour: tuple[int, int, int], n: int = 0) -> np.ndarray:
    """A picture that gets darker to one side and to below, which tells how it lies, shape (180, 320, 3)."""
    down, across = np.mgrid[1:0.6:180j, 1:0.5:320j]
    return ((down * across)[..., None] * colour).astype(np.uint8)


def swelling(colour: tuple[int, int, int], n: int) -> np.ndarray:
    """The same, lighter and darker from frame to frame."""
    return (sloped(colour) * (0.7 + 0.3 * np.sin(n / 4))).astype(np.uint8)


def plain(colour: tuple[int, int, int], n: int) -> tuple[int, int, int]:
    return colour


def begun(server, page: Page, tmp_path: Path, picture: Callable = plain) -> None:
    """A montage of takes of one colour each, which no codec changes, cut on every beat."""
    song = write_clicks(tmp_path / "Bell Harbour.wav", [0.5 + 0.5 * k for k in range(12)], 7)
    takes = [
        write_colours(
            tmp_path / f"Heat {name}.mkv", [picture(colour, n) for n in range(240)], (320, 180), matrix=1
        )
        for name, colour in COLOURS.items()
    ]
    page.goto(server.address)
    page.get_by_role("button", name="Begin").click()
    page.get_by_label("Files for the shelf").set_input_files([song, *takes])
    expect(page.get_by_role("button", name=CUE).first).to_be_visible()
    for name in COLOURS:
        page.get_by_role("button", name=re.compile(f"^Heat {name}")).first.click()
        expect(page.get_by_role("button", name=re.compile(f"^Heat {name}")).first).to_have_attribute(
            "aria-pressed", "true"
        )
        look_at(page, 90)
        page.keyboard.press("h")
        expect(page.get_by_role("button", name="Moment impact at frame 90")).to_be_visible()
    filled(page, "3", "4 clips, 3 cuts")


def typed(scope: Locator, name: str, value: str) -> None:
    """Type a value into a field, and see it stand."""
    scope.get_by_label(name).fill(value)
    scope.get_by_label(name).press("Enter")
    expect(scope.get_by_label(name)).to_have_value(value)


def to_frame(page: Page, n: int) -> None:
    """Go to an output frame by keys."""
    page.evaluate("document.activeElement.blur()")
    said = page.get_by_text(re.compile(r"^frame \d+$")).first
    by = n - int(said.inner_text().split()[1])
    way = "ArrowRight" if by > 0 else "ArrowLeft"
    for _ in range(abs(by) // 10):
        page.keyboard.press(f"Shift+{way}")
    for _ in range(abs(by) % 10):
        page.keyboard.press(way)
    expect(said).to_have_text(f"frame {n}")


def preview(page: Page, aspect: float) -> np.ndarray:
    """The picture on the screen without its edge, shape (high, wide, 3), RGB."""
    url = page.get_by_role("img", name=re.compile("^Picture")).evaluate("canvas => canvas.toDataURL()")
    whole = cv2.imdecode(np.frombuffer(base64.b64decode(url.partition(",")[2]), np.uint8), cv2.IMREAD_COLOR)
    high, wide = whole.shape[:2]
    w = min(wide, high * aspect)
    left, top = round((wide - w) / 2) + INSET, round((high - w / aspect) / 2) + INSET
    return whole[top : high - top, left : wide - left, ::-1].astype(int)


def comes_to(page: Page, as_wanted: Callable[[np.ndarray], bool]) -> bool:
    """Whether the preview comes to be as it is wanted."""
    for _ in range(PATIENCE_MS // 100):
        if as_wanted(preview(page, 16 / 9)):
            return True
        page.wait_for_timeout(100)
    return False


def seen_as(page: Page, colour: np.ndarray, part: float = PART) -> bool:
    """Whether the preview comes to show a colour, or a whole picture, as soon as its pictures are there."""

    def close(shown: np.ndarray) -> bool:
        off = shown - (colour if colour.ndim == 1 else at_size(colour, shown.shape[:2]))
        near = (np.abs(off @ LIGHT) <= NEAR) & (np.abs(off).max(axis=2) <= COLOUR_NEAR)
        return bool(near.mean() >= part)

    return comes_to(page, close)


def at_size(picture: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """The pixels of a picture that lie where those of the preview do, which lacks its edge."""
    places = [
        ((np.arange(side) + INSET + 0.5) * whole / (side + 2 * INSET)).astype(int)
        for side, whole in zip(size, picture.shape, strict=False)
    ]
    return picture[np.ix_(*places)]


def exported_pictures(page: Page, tmp_path: Path) -> list[np.ndarray]:
    """The pictures of a lossless export as RGB, decoded with plain PyAV."""
    with av.open(str(exported_file(page, tmp_path))) as container:
        return [frame.to_ndarray(format="rgb24").astype(int) for frame in container.decode(video=0)]


def exported(page: Page, tmp_path: Path) -> list[np.ndarray]:
    """The colours in the middle of each of them."""
    return [picture[90, 160] for picture in exported_pictures(page, tmp_path)]


def added(scope: Locator, kind: str, values: dict[str, str]) -> Locator:
    """An accent added from its moving picture, and told some values; the row in which it stands."""
    tile = scope.get_by_role("button", name=f"Accent: {kind}")
    if not tile.is_visible():
        scope.get_by_text("Add an accent").click()
    tile.click()
    row = scope.get_by_role("group", name=re.compile(f"^{kind} on"))
    told(row, values)
    return row


def told(row: Locator, values: dict[str, str]) -> None:
    """Type values into the fields of an accent, and see them stand."""
    for name, value in values.items():
        field = row.get_by_label(name, exact=True)
        field.fill(value)
        field.press("Enter")
        expect(field).to_have_value(value)


def test_an_overlap_and_a_flash_are_seen_as_they_are_exported(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    panel = page.get_by_role("region", name="Montage")
    clips_of(page).nth(1).click()
    typed(panel, "Overlap, frames", "9")
    made = saved(page)
    layers = made["derived"]["map"]["layers"]
    assert [len(layer["source"]) for layer in layers] == [4, 5]
    cut = layers[1]["first"]

    # More than there is room for is refused, with what there is.
    panel.get_by_label("Overlap, frames").fill("590")
    panel.get_by_label("Overlap, frames").press("Enter")
    offer = page.get_by_role("button", name=re.compile("As far as it goes"))
    expect(offer).to_be_visible()
    page.keyboard.press("Escape")

    # A flash on the hit of the third clip, from its tie on the clip desk.
    clips_of(page).nth(2).click()
    page.get_by_role("tab", name="Clip").click()
    page.get_by_role("slider", name="Cue of impact at frame 90").click()
    tie = page.get_by_role("region", name="Tie")
    added(tie, "Flash", {"Light, L*": "70", "Lead": "2", "Tail": "6"})
    made = saved(page)
    (look,) = made["derived"]["map"]["looks"]
    first = made["derived"]["map"]["first"]
    hit = made["edit"]["accents"][0]
    assert (hit["what"]["light"], hit["lead"], hit["tail"]) == (70, 2, 6)
    assert int(np.argmax(look["values"]["light"])) == 2

    file = exported(page, tmp_path)
    page.keyboard.press("Escape")
    frames = range(cut - 5, cut + 6), range(look["first"], look["first"] + len(look["values"]["light"]) + 1)
    for n in (each for part in frames for each in part if 0 <= each - first < len(file)):
        to_frame(page, n)
        assert seen_as(page, file[n - first]), (n, file[n - first], preview(page, 16 / 9)[20, 20])

    # It goes along with its cue, and away.
    page.get_by_role("region", name="Edit").get_by_role("button", name=re.compile("Remove the flash")).click()
    assert saved(page)["derived"]["map"]["looks"] == []


@pytest.mark.parametrize(
    ("kinds", "picture"),
    [
        ((("Wipe", "Up"), ("Push", "Right"), ("Dip to black", None)), plain),
        ((("Iris", None), ("Zoom", None), ("Spin", "Right")), sloped),
    ],
)
def test_overlaps_are_seen_as_they_are_exported(server, page: Page, tmp_path: Path, kinds, picture):
    begun(server, page, tmp_path, picture)
    panel = page.get_by_role("region", name="Montage")
    starts = sorted(clip["first"] for clip in saved(page)["derived"]["clips"])[1:]
    for start, (kind, way) in zip(starts, kinds, strict=True):
        to_frame(page, start)
        typed(panel, "Overlap, frames", "8")
        choose(page, "Overlap type:", kind)
        if way is not None:
            panel.get_by_role("radio", name=way).click()
            expect(panel.get_by_role("radio", name=way)).to_be_checked()
    made = saved(page)
    found = [
        clip["overlap"] and (clip["overlap"]["kind"], clip["overlap"]["way"])
        for clip in made["edit"]["clips"]
    ]
    ways = [(way or "Left").lower() for _, way in kinds]
    assert found == [None, *zip((kind.lower().partition(" ")[0] for kind, _ in kinds), ways, strict=True)]
    first = made["derived"]["map"]["first"]
    file = exported_pictures(page, tmp_path)
    page.keyboard.press("Escape")
    for start in starts:
        for n in range(start - 5, start + 5):
            to_frame(page, n)
            # The edge between two pictures lies on whole pixels of each, which are not of one size.
            assert seen_as(page, file[n - first], EDGED), n


def test_the_blend_modes_are_those_of_the_browser(page: Page):
    """Reference: the browser's own canvas, which has the modes of W3C Compositing and Blending Level 1.

    It reckons in bytes, up to two roundings in a row.
    """
    rng = np.random.default_rng(7)
    pairs = rng.integers(0, 256, (60, 2, 3))
    pairs[:4] = [[[0, 0, 0], [255, 255, 255]], [[255, 255, 255], [0, 0, 0]], [[0] * 3] * 2, [[255] * 3] * 2]
    drawn = page.evaluate(
        """([pairs, modes]) => {
            const context = new OffscreenCanvas(1, 1).getContext('2d')
            const fill = (mode, colour) => {
                context.globalCompositeOperation = mode
                context.fillStyle = `rgb(${colour.join()})`
                context.fillRect(0, 0, 1, 1)
            }
            return modes.map((mode) => pairs.map(([under, over]) => {
                fill('source-over', under)
                fill(mode === 'normal' ? 'source-over' : mode, over)
                return Array.from(context.getImageData(0, 0, 1, 1).data.slice(0, 3))
            }))
        }""",
        [pairs.tolist(), list(BLENDS)],
    )
    under, over = (pairs[:, side].astype(np.float32) / 255 for side in (0, 1))
    for mode, expected in zip(BLENDS, drawn, strict=True):
        np.testing.assert_allclose(BLENDS[mode](under, over) * 255, expected, atol=2, err_msg=mode)


def tint(page: Page, number: int, colour: str, mode: str, values: dict[str, str]) -> Locator:
    """The panel of a clip's tie, once there is a tint from it on."""
    page.get_by_role("tab", name="Montage").click()
    clips_of(page).nth(number).click()
    page.get_by_role("tab", name="Clip").click()
    page.get_by_role("slider", name="Cue of impact at frame 90").click()
    tie = page.get_by_role("region", name="Tie")
    row = added(tie, "Tint", {"Lead": "0"} | values)
    row.get_by_label("Colour", exact=True).fill(colour)
    choose(page, "Blend mode:", mode)
    return tie


def test_tints_lie_over_one_another_in_the_order_in_which_they_were_added(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path)
    tint(page, 1, "#3060c0", "multiply", {"Amount, %": "80", "Hold": "50"})
    tint(page, 2, "#c03020", "normal", {"Amount, %": "50", "Hold": "50"})
    made = saved(page)
    below, above = made["derived"]["map"]["layers"]
    assert (below["blend"], above["blend"]) == ("multiply", "normal")
    file = exported(page, tmp_path)
    page.keyboard.press("Escape")
    n = above["first"] + 5
    to_frame(page, n)
    assert seen_as(page, file[n - made["derived"]["map"]["first"]]), preview(page, 16 / 9)[20, 20]


@pytest.mark.parametrize(("mode", "blend"), [("soft light", "soft-light"), ("colour", "color")])
def test_a_tint_is_seen_as_it_is_exported(server, page: Page, tmp_path: Path, mode: str, blend: str):
    begun(server, page, tmp_path)
    lengths = {"Lead": "2", "Hold": "4", "Tail": "3"}
    tint(page, 2, "#3060c0", mode, {"Amount, %": "80", **lengths})
    made = saved(page)
    (layer,) = made["derived"]["map"]["layers"]
    assert (layer["clip"], layer["colour"], layer["blend"]) == (None, "#3060c0", blend)
    assert [round(each, 3) for each in layer["opacity"]] == [0.267, 0.533, *[0.8] * 5, 0.6, 0.4, 0.2]
    assert all(landing["exact"] for clip in made["derived"]["clips"] for landing in clip["landings"])
    first = made["derived"]["map"]["first"]
    file = exported(page, tmp_path)
    page.keyboard.press("Escape")
    for n in range(layer["first"] - 1, layer["first"] + len(layer["opacity"]) + 1):
        to_frame(page, n)
        assert seen_as(page, file[n - first]), (n, file[n - first], preview(page, 16 / 9)[20, 20])
    page.get_by_role("region", name="Edit").get_by_role("button", name=re.compile("Remove the tint")).click()
    assert saved(page)["derived"]["map"]["layers"] == []


def hit_of(page: Page, number: int) -> Locator:
    """The panel of a clip's tie."""
    page.get_by_role("tab", name="Montage").click()
    clips_of(page).nth(number).click()
    page.get_by_role("tab", name="Clip").click()
    page.get_by_role("slider", name="Cue of impact at frame 90").click()
    return page.get_by_role("region", name="Tie")


def test_every_kind_is_seen_as_it_is_exported_and_off_with_one_key(server, page: Page, tmp_path: Path):
    begun(server, page, tmp_path, swelling)
    kinds = (
        {"Shake": {"Distance, %": "4", "Turn, °": "3", "Tail": "10"}, "Punch": {"Tail": "6"}},
        {"Zoom blur": {"Amount, %": "20", "Lead": "2", "Tail": "3"}, "Drain": {"Lead": "5"}},
        {"Trail": {"Copies": "3"}, "Letterbox": {"Lead": "4", "Hold": "3", "Tail": "4"}},
        {"Dim": {"Lead": "4"}, "Strobe": {"Hold": "5"}},
    )
    for number, of in enumerate(kinds):
        tie = hit_of(page, number)
        for kind, values in of.items():
            row = added(tie, kind, {})
            if kind in ("Dim", "Drain", "Shake"):  # they count in beats
                row.get_by_role("button", name="Unit: beats").click()
                page.get_by_role("option", name="frames", exact=True).click()
                expect(row.get_by_role("button", name="Unit: frames")).to_be_visible()
            told(row, values)
    made = saved(page)
    shown, landings = (
        made["derived"]["map"],
        [each for clip in made["derived"]["clips"] for each in clip["landings"]],
    )
    assert {look["kind"] for look in shown["looks"]} == {"move", "zoom-blur", "drain", "letterbox", "dim"}
    assert all(landing["exact"] for landing in landings)
    file = exported_pictures(page, tmp_path)
    page.keyboard.press("Escape")
    hits = [landing["wanted_frame"] for landing in landings]
    for hit in sorted(hits):
        for n in range(max(shown["first"], hit - 2), hit + 4):
            to_frame(page, n)
            assert seen_as(page, file[n - shown["first"]], ROUNDED), n

    # One key takes them all away from the picture, and brings them back; the rail shows the same ones.
    rail = page.get_by_role("group", name="Accents", exact=True)
    expect(rail.get_by_role("button", name=re.compile("^Strobe, frames"))).to_be_visible()
    dark = hits[-1] + 2
    to_frame(page, dark)
    assert seen_as(page, file[dark - shown["first"]])
    assert file[dark - shown["first"]].max() < NEAR
    page.keyboard.press("g")
    expect(rail).to_have_class(re.compile("opacity"))
    assert comes_to(page, lambda picture: picture.mean() > 10)
    page.keyboard.press("g")
    assert comes_to(page, lambda picture: picture.max() < NEAR)

    # On the rail its tail is pulled, it is moved to another cue by a key, and taken away.
    page.get_by_role("button", name=re.compile("^Cue ")).first.click()
    added(page.get_by_role("region", name="Cue", exact=True), "Tint", {"Hold": "20"})
    tint = rail.get_by_role("button", name=re.compile("^Tint"))
    expect(tint).to_be_visible()
    first = int(re.search(r"\d+", tint.get_attribute("aria-label")).group())
    expect(tint).to_have_attribute("aria-label", f"Tint, frames {first} to {first + 28}")
    box = tint.bounding_box()
    frame = box["width"] / 29
    at = (box["x"] + box["width"] - 7, box["y"] + box["height"] / 2)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 4 * frame, at[1], steps=6)
    page.mouse.up()
    expect(
        page.get_by_role("group", name=re.compile("^Tint on")).get_by_label("Tail", exact=True)
    ).to_have_value("12")
    before = saved(page)["edit"]["accents"][-1]["at"]["cues"]
    with page.expect_response(re.compile("/commands$")):
        tint.press("ArrowLeft")
    assert saved(page)["edit"]["accents"][-1]["at"]["cues"] != before
    # The one at hand is copied to the cue that it left.
    page.get_by_role("button", name=re.compile("^Cue ")).first.click()
    page.get_by_role("button", name="Copy the tint to this cue").click()
    expect(tint).to_have_count(2)
    for left in (1, 0):
        tint.first.press("Delete")
        expect(tint).to_have_count(left)

    # A set on the hits of all clips is one accent each; what flashes too often is told, and softened.
    page.get_by_role("tab", name="Montage").click()
    clips_of(page).first.click()
    clips_of(page).last.click(modifiers=["Shift"])
    panel = page.get_by_role("region", name="Montage")
    panel.get_by_text("Accents", exact=True).click()
    panel.get_by_text("Ready sets on 4 hits").click()
    panel.get_by_role("button", name="Set: Hit hard").click()
    expect(panel.get_by_role("button", name="Set: Hit hard")).to_be_visible()
    made = saved(page)
    assert [len(each["at"]["ties"]) for each in made["edit"]["accents"][-3:]] == [4, 4, 4]
    added(panel, "Strobe", {"Frames each": "3", "Hold": "90"})
    expect(panel.get_by_text("more than three flashes a second may harm")).to_be_visible()
    panel.get_by_role("button", name="Soften the flashes").click()
    expect(panel.get_by_text("more than three flashes a second may harm")).to_be_hidden()
