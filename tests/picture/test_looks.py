"""What is done to whole pictures, against published formulas and other libraries."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import affine_transform, gaussian_filter

from izmet.core.shown.light import part_for
from izmet.picture.composing import LOOKS, Planes, plain

SIZE = 64, 36
colours = st.tuples(*[st.integers(0, 255)] * 3).map(lambda rgb: "#{:02x}{:02x}{:02x}".format(*rgb))


def rgb_of(picture: Planes) -> np.ndarray:
    """Red, green and blue of a picture's middle, 0 to 255: ITU-R BT.709, limited range, written out."""
    high, wide = picture.y.shape
    y = (float(picture.y[high // 2, wide // 2]) - 16) / 219
    u, v = ((float(plane[high // 4, wide // 4]) - 128) / 224 for plane in picture[1:])
    return 255 * np.array([y + 1.5748 * v, y - 0.1873 * u - 0.4681 * v, y + 1.8556 * u])


def saturate(s: float) -> np.ndarray:
    """The matrix of saturate() in CSS Filter Effects Level 1; its numbers are from memory."""
    return np.array(
        [
            [0.213 + 0.787 * s, 0.715 - 0.715 * s, 0.072 - 0.072 * s],
            [0.213 - 0.213 * s, 0.715 + 0.285 * s, 0.072 - 0.072 * s],
            [0.213 - 0.213 * s, 0.715 - 0.715 * s, 0.072 + 0.928 * s],
        ]
    )


@given(colours, st.floats(0, 1))
def test_dim_and_drain_are_brightness_and_saturate_of_css(colour, by):
    picture = plain(SIZE, colour)
    before = rgb_of(picture)
    np.testing.assert_allclose(rgb_of(LOOKS["dim"](picture, "", by=by)), before * (1 - by), atol=2.5)
    np.testing.assert_allclose(
        rgb_of(LOOKS["drain"](picture, "", by=by)), saturate(1 - by) @ before, atol=2.5
    )


@given(colours, st.floats(1, 100))
def test_a_flash_lifts_the_darkest_spot_to_its_light(colour, light):
    """CIE L* as OpenCV has it; of a colour that is darker all is there."""
    part = part_for(colour, light)
    seen = rgb_of(LOOKS["flash"](plain(SIZE), colour, light=part))
    found, whole = (lightness(each) for each in (seen, rgb_of(plain(SIZE, colour))))
    assert found == pytest.approx(min(light, whole), abs=1.5)
    assert part == 1 or found <= whole + 1


def lightness(rgb: np.ndarray) -> float:
    """CIE L* of a colour of the screen."""
    dot = np.clip(rgb, 0, 255)[None, None].astype(np.float32) / 255
    return float(cv2.cvtColor(dot, cv2.COLOR_RGB2Lab)[0, 0, 0])


def soft(seed: int, side: tuple[int, int]) -> np.ndarray:
    """A picture that changes gently, of the brightest and the darkest."""
    rng = np.random.default_rng(seed)
    rough = gaussian_filter(rng.normal(size=side), 4)
    return np.interp(rough, (rough.min(), rough.max()), (40, 230)).astype(np.uint8)


def picture_of(seed: int) -> Planes:
    wide, high = SIZE
    return Planes(*(soft(seed + k, (high // s, wide // s)) for k, s in enumerate((1, 2, 2))))


@given(
    st.integers(0, 99), st.floats(-0.2, 0.2), st.floats(-0.2, 0.2), st.floats(0.6, 1.6), st.floats(-30, 30)
)
def test_a_movement_is_that_of_scipy_its_edges_mirrored(seed, x, y, scale, turn):
    """scipy.ndimage.affine_transform, to first order, in its mode that repeats the edge and goes back."""
    picture = picture_of(seed)
    moved = LOOKS["move"](picture, "", x=x, y=y, scale=scale, turn=turn)
    angle = np.deg2rad(turn)
    back = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]) / scale
    for plane, found in zip(picture, moved, strict=True):
        side = np.array(plane.shape)
        middle = (side - 1) / 2
        offset = middle - back @ (middle + np.array([y, x]) * side)
        expected = affine_transform(plane.astype(float), back, offset, order=1, mode="reflect")
        np.testing.assert_allclose(found, expected, atol=2)
        assert found.min() >= plane.min(), "no black comes in"


@given(st.integers(0, 99), st.floats(0.01, 0.5), st.floats(0, 1), st.floats(0, 1))
def test_a_zoom_blur_is_the_mean_of_what_lies_on_the_way_to_its_point(seed, by, x, y):
    picture = picture_of(seed)
    blurred = LOOKS["zoom-blur"](picture, "", by=by, x=x, y=y)
    for plane, found in zip(picture, blurred, strict=True):
        point = np.array([y, x]) * plane.shape - 0.5
        readings = [
            affine_transform(plane.astype(float), [1 - far] * 2, far * point, order=1, mode="nearest")
            for far in np.linspace(0, by, 16)
        ]
        np.testing.assert_allclose(found, np.mean(readings, axis=0), atol=1.5)


def test_a_letterbox_is_black_above_and_below():
    barred = LOOKS["letterbox"](picture_of(1), "", by=0.25)
    rows = np.flatnonzero((barred.y == 16).all(axis=1))
    assert rows.tolist() == [0, 1, 2, 3, 32, 33, 34, 35]
    assert (barred.y[4:32] == picture_of(1).y[4:32]).all()


@pytest.mark.parametrize("kind", sorted(LOOKS))
def test_a_look_that_is_not_there_changes_nothing(kind):
    none = {
        "move": {"x": 0, "y": 0, "scale": 1, "turn": 0},
        "zoom-blur": {"by": 0, "x": 0.3, "y": 0.4},
        "flash": {"light": 0},
    }.get(kind, {"by": 0})
    for found, plane in zip(LOOKS[kind](picture_of(2), "#ffffff", **none), picture_of(2), strict=True):
        np.testing.assert_array_equal(found, plane)
