"""Framed pictures, insets and reveals in a file: where they should be, and every hit on its frame."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, map_coordinates

from izmet.core import commands as do
from izmet.core.document.edit import Edit
from izmet.core.document.framing import Keying, TrackPoint
from izmet.core.document.overlaps import Corner, Reveal
from izmet.core.following.workings import derive
from izmet.core.shown.framing import lies
from izmet.core.shown.light import channels_of
from izmet.core.shown.stack import frames_shown
from izmet.media.pictures import decode_all
from izmet.media.readback import measure
from izmet.media.render import render
from izmet.picture.keying import keyed
from tests.media.files import write_colours, write_numbered
from tests.media.test_render import looked_at
from tests.media.test_stack import CUT, FRAMES, SIZE, two_takes


def planes(path) -> list[np.ndarray]:
    """The luma of every picture of a file."""
    return [frame.to_ndarray(format="yuv420p")[: frame.height] for frame in decode_all(path, path.name)]


def stood(edit: Edit, **sizes: tuple[int, int]) -> Edit:
    """The edit with takes of these sizes, by their ids."""
    takes = tuple(
        take.model_copy(update=dict(zip(("width", "height"), sizes.get(take.id, SIZE), strict=True)))
        for take in edit.takes
    )
    return edit.model_copy(update={"takes": takes})


def grey(size: tuple[int, int], seed: int = 1, fine: float = 3) -> np.ndarray:
    """A grey picture without hard edges, in three channels."""
    noise = gaussian_filter(np.random.default_rng(seed).normal(0, 1, size[::-1]), fine)
    return np.repeat((128 + 80 * noise / abs(noise).max()).astype(np.uint8)[:, :, None], 3, axis=2)


@pytest.mark.parametrize("take", [SIZE, (160, 160), (320, 108)])
def test_a_framed_picture_is_read_where_its_keys_say(tmp_path, take):
    """Reference: scipy.ndimage.map_coordinates, linear, on the take's own picture scaled by OpenCV."""
    files = {}
    for id, size in (("dark", take), ("light", SIZE)):
        path = write_colours(tmp_path / f"{id}.mkv", [grey(size)] * 120, size, matrix=1)
        files[id] = looked_at(path, size)
    edit = stood(two_takes(files), dark=take)
    for n, x, y, scale, turn in ((0, 0.1, -0.05, 1.5, 0), (30, -0.2, 0.1, 1.9, 12)):
        key = do.AddFramingKey(clip="going", n=n, x=x, y=y, scale=scale, turn=turn, ease="straight")
        edit = do.apply(edit, key)
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    seen = planes(tmp_path / "out.mkv")
    framed = frames_shown(edit).framings[0]
    own = next(iter(planes(files["dark"].path))).astype(float)
    wide, high = SIZE
    for n in (0, 11, 30, 39):
        x, y, scale, turn = framed.values[n - framed.first].tolist()
        angle = np.deg2rad(turn)
        down, across = (each + 0.5 for each in np.mgrid[:high, :wide].astype(float))
        right, below = across - wide * (0.5 + x), down - high * (0.5 + y)
        u = (right * np.cos(angle) + below * np.sin(angle)) / scale / wide + 0.5
        v = (below * np.cos(angle) - right * np.sin(angle)) / scale / high + 0.5
        at = lies(edit, edit.clip("going"))
        u, v = (u - at.left) / at.wide, (v - at.top) / at.high
        assert min(u.min(), v.min()) >= 0
        assert max(u.max(), v.max()) <= 1
        read = map_coordinates(own, [v * take[1] - 0.5, u * take[0] - 0.5], order=1, mode="nearest")
        assert abs(read - seen[n]).mean() < 1
        assert abs(read - seen[n]).max() <= 6


def test_a_picture_that_is_grown_shows_what_the_take_has(tmp_path):
    """Four times as large as the edit, it is seen pixel for pixel."""
    large = (4 * SIZE[0], 4 * SIZE[1])
    files = {}
    for id, size in (("dark", large), ("light", SIZE)):
        path = write_colours(tmp_path / f"{id}.mkv", [grey(size, fine=0.8)] * 120, size, matrix=1)
        files[id] = looked_at(path, size)
    edit = stood(two_takes(files), dark=large)
    edit = do.apply(edit, do.AddFramingKey(clip="going", n=0, scale=4))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    own = next(iter(planes(files["dark"].path)))
    top, left = (large[1] - SIZE[1]) // 2, (large[0] - SIZE[0]) // 2
    part = own[top : top + SIZE[1], left : left + SIZE[0]].astype(int)
    assert abs(planes(tmp_path / "out.mkv")[5].astype(int) - part).max() <= 1


def test_a_kept_point_stays_in_the_file(tmp_path):
    """A disc that wanders and trembles is found in one place, and the frame is full of picture."""
    n = np.arange(120)
    x, y = 60 + 0.6 * n + 6 * np.sin(n / 3), 54 + 10 * np.cos(n / 5)
    pictures = []
    for at in zip(x, y, strict=True):
        picture = np.full((SIZE[1], SIZE[0], 3), 60, np.uint8)
        cv2.circle(picture, [round(each * 256 - 128) for each in at], 9 * 256, (230,) * 3, -1, cv2.LINE_AA, 8)
        pictures.append(picture)
    files = {}
    for id, shown in (("dark", pictures), ("light", [pictures[0]] * 120)):
        files[id] = looked_at(write_colours(tmp_path / f"{id}.mkv", shown, SIZE, matrix=1), SIZE)
    points = tuple(TrackPoint(frame=int(k), x=x[k] / SIZE[0], y=y[k] / SIZE[1]) for k in n)
    edit = do.apply(two_takes(files), do.SaveTrack(take="dark", points=points))
    edit = do.apply(edit, do.KeepPoint(clip="going", track="track-1", x=0.55, y=0.5))
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    wide, high = np.arange(SIZE[0]) + 0.5, np.arange(SIZE[1]) + 0.5
    for picture in planes(tmp_path / "out.mkv")[:CUT]:
        assert picture.min() > 50, "no black edge"
        bright = np.clip(picture.astype(float) - 120, 0, None)
        middle = (bright.sum(axis=0) @ wide / bright.sum(), bright.sum(axis=1) @ high / bright.sum())
        assert np.hypot(middle[0] - 0.55 * SIZE[0], middle[1] - 0.5 * SIZE[1]) < 0.5


def test_an_inset_is_where_it_is_laid_and_its_hit_is_found(tmp_path):
    files = {}
    for id, begin in (("dark", 0), ("light", 500)):
        path = write_numbered(tmp_path / f"{id}.mp4", 120, numbers=range(begin, begin + 120))
        files[id] = looked_at(path, SIZE)
    edit = two_takes(files)
    beneath = edit.clips[0].model_copy(update={"until": None})
    edit = edit.model_copy(update={"clips": (beneath, edit.clips[1])})
    corner = do.InsetClip(clip="coming", x=0.75, y=0.3, width=0.4, height=0.4, fade=0, border=0.02)
    edit = do.apply(edit, corner)
    for clip in ("going", "coming"):
        edit = do.apply(edit, do.AddFramingKey(clip=clip, n=CUT, scale=1.2))
    render(edit, files, None, tmp_path / "out.mp4", "mp4")
    found = measure(
        edit, frames_shown(edit), derive(edit).landings, files, None, tmp_path / "out.mp4"
    ).landings
    assert [each.measured_frame for each in found] == [20, CUT]
    before, after = (planes(tmp_path / "out.mp4")[n].astype(int) for n in (CUT - 1, CUT + 1))
    changed = abs(after - before)[:, : SIZE[0] // 2]
    assert np.median(changed) < 40, "beneath, it goes on as it was"
    assert after[9, 144] > 200, "the border"


GREEN = "#20b040"


def test_a_keyed_inset_shows_what_stands_before_its_background(tmp_path):
    ground = np.full((SIZE[1], SIZE[0], 3), (np.array(channels_of(GREEN)) * 255).astype(np.uint8), np.uint8)
    ground[:, : SIZE[0] // 2] = ground[:, : SIZE[0] // 2] * 0.8  # a part in shade
    actor = ground.copy()
    cv2.rectangle(actor, (70, 30), (120, 80), (220, 190, 170), -1)
    files = {}
    for id, picture in (("dark", np.full_like(actor, 40)), ("light", actor)):
        files[id] = looked_at(write_colours(tmp_path / f"{id}.mkv", [picture] * 120, SIZE, matrix=1), SIZE)
    edit = two_takes(files)
    beneath = edit.clips[0].model_copy(update={"until": None})
    edit = edit.model_copy(update={"clips": (beneath, edit.clips[1])})
    for command in (
        do.InsetClip(clip="coming", x=0.5, y=0.5, width=1, height=1, fade=0),
        do.KeyOut(clip="coming", colour=GREEN, near=0.35, soft=0.2),
    ):
        edit = do.apply(edit, command)
    render(edit, files, None, tmp_path / "out.mkv", "mkv")
    seen = list(decode_all(tmp_path / "out.mkv", "out"))[CUT + 5].to_ndarray(format="rgb24").astype(int)
    assert abs(seen[10:20, 10:180] - 40).max() <= 4, "the background is gone, in the light and in the shade"
    assert abs(seen[40:70, 80:110] - [220, 190, 170]).max() <= 6, "what stands before it is as it was"


@given(st.floats(0.05, 0.95), st.floats(0, 1))
def test_a_key_leaves_grey_alone_and_takes_its_colour(light, near):
    keying = Keying(colour=GREEN, near=near)
    red, green, blue = (np.array(channels_of(GREEN)) * light).tolist()
    luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    u, v = ((blue - luma) / 1.8556, (red - luma) / 1.5748)
    coded = [np.full((2, 2), round(128 + 224 * each), np.uint8) for each in (u, v)]
    (_, _), seen = keyed(*coded, keying)
    expected = np.clip((1 - near - light) / keying.soft, 0, 1)
    assert seen == pytest.approx(np.full((2, 2), expected), abs=0.12)
    plain = np.full((2, 2), 128, np.uint8)
    (left_u, left_v), seen = keyed(plain, plain, keying)
    assert (left_u == 128).all()
    assert (left_v == 128).all()
    assert seen == pytest.approx(np.full((2, 2), np.clip((1 - near) / keying.soft, 0, 1)))


SHAPES = [
    Reveal(shape="ellipse", grow="straight"),
    Reveal(shape="box", x=0.3, y=0.6, closed=False),
    Reveal(
        shape="polygon",
        corners=tuple(Corner(x=x, y=y) for x, y in ((-0.1, -0.2), (0.15, -0.1), (0.05, 0.2), (-0.12, 0.1))),
    ),
]


@pytest.mark.parametrize("reveal", SHAPES, ids=lambda reveal: reveal.shape)
def test_a_reveal_grows_as_it_should_and_both_hits_are_found(tmp_path, reveal):
    files = {}
    for id, begin in (("dark", 0), ("light", 500)):
        path = write_numbered(tmp_path / f"{id}.mp4", 120, numbers=range(begin, begin + 120))
        files[id] = looked_at(path, SIZE)
    edit = do.apply(two_takes(files), do.OverlapClips(clip="coming", frames=15, kind="reveal", reveal=reveal))
    render(edit, files, None, tmp_path / "out.mp4", "mp4")
    found = measure(
        edit, frames_shown(edit), derive(edit).landings, files, None, tmp_path / "out.mp4"
    ).landings
    assert [each.measured_frame for each in found] == [20, CUT]

    plain = {}
    for id, level in (("dark", 30), ("light", 220)):
        path = write_colours(tmp_path / f"plain-{id}.mkv", [(level,) * 3] * 120, SIZE, matrix=1)
        plain[id] = looked_at(path, SIZE)
    render(edit, plain, None, tmp_path / "plain.mkv", "mkv")
    pictures = planes(tmp_path / "plain.mkv")
    low, high = float(pictures[0].mean()), float(pictures[FRAMES - 1].mean())
    (layer,) = frames_shown(edit).layers
    for n in layer.frames:
        place = layer.placing.at(n)
        # Its outline drawn ten times as large by OpenCV, and counted.
        many = 10
        canvas = np.zeros((many * SIZE[1], many * SIZE[0]), np.uint8)
        middle = np.array([place.left + place.right, place.top + place.bottom]) / 2
        half = np.array([place.right - place.left, place.bottom - place.top]) / 2
        turns = np.linspace(0, 2 * np.pi, 400)
        outline = {
            "ellipse": np.stack([np.cos(turns), np.sin(turns)], axis=1),
            "box": np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]),
            "polygon": np.array([(corner.x, corner.y) for corner in reveal.corners] or [(0, 0)]),
        }[reveal.shape]
        cv2.fillPoly(canvas, [np.round((middle + outline * half) * SIZE * many).astype(np.int32)], 1)
        expected = low + (high - low) * canvas.mean()
        assert pictures[n].mean() == pytest.approx(expected, abs=0.012 * (high - low))
    assert pictures[CUT].mean() == pytest.approx(high, abs=0.1), "full on the cut"
