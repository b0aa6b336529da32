"""What is done to each pixel, against OpenCV's own filters and readings between pixels."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture import pixels
from izmet.picture.pixels import ACROSS, COUNTS, DOWN, LEVEL
from tests.picture.clips import texture

sides = st.tuples(st.integers(1, 48), st.integers(1, 48))
seeds = st.integers(0, 1000)


def level(size: tuple[int, int], seed: int) -> np.ndarray:
    return np.random.default_rng(seed).uniform(-60, 60, size).astype(np.float32)


@settings(max_examples=60, deadline=None)
@given(sides, seeds)
def test_what_is_slow_is_taken_away_as_filters_would(size, seed):
    """Reference: cv2.GaussianBlur less cv2.blur, of pictures down to one pixel."""
    picture = level(size, seed) + 128
    usual = cv2.GaussianBlur(picture, (5, 5), 1.0) - cv2.blur(picture, (15, 15))
    assert np.abs(pixels.ready(picture)[LEVEL] - usual).max() < 1e-3


@settings(max_examples=60, deadline=None)
@given(sides, seeds, st.floats(-0.4, 0.4), st.floats(-0.4, 0.4))
def test_a_picture_is_read_between_its_pixels(size, seed, across, down):
    """Reference: cv2.getRectSubPix of what both pictures share, and all that is not shared left out."""
    high, wide = (side + 6 for side in size)
    before, after = level((high, wide), seed), level((high, wide), seed + 1)
    dx, dy = across * wide, down * high
    top, left = (max(0, int(np.ceil(-way))) + pixels.BORDER for way in (dy, dx))
    bottom, right = (
        max(first + 1, min(side, side - int(np.ceil(way))) - pixels.BORDER)
        for first, side, way in ((top, high, dy), (left, wide, dx))
    )
    middle = dx + (left + right - 1) / 2, dy + (top + bottom - 1) / 2
    there = cv2.getRectSubPix(after, (right - left, bottom - top), middle)
    usual = np.abs(there - before[top:bottom, left:right])
    assert np.isclose(pixels.mean_error(before, after, dx, dy), usual.mean(), rtol=1e-3)
    error, kept = pixels.unlike(*(np.stack([each, np.ones_like(each)]) for each in (before, after)), dx, dy)
    assert np.abs(error[top:bottom, left:right] - usual).max() < 0.01
    assert np.isclose(error.sum(), usual.sum(), rtol=1e-3)
    assert np.isclose(kept, _correlation(there, before[top:bottom, left:right]), atol=1e-3)


def _correlation(one: np.ndarray, other: np.ndarray) -> float:
    return float((one * other).sum() / np.sqrt((one**2).sum() * (other**2).sum()))


@settings(max_examples=40, deadline=None)
@given(sides, seeds, st.floats(0.5, 3))
def test_nothing_stands_out_of_what_is_limited_and_what_stands_out_counts_less(size, seed, times):
    one = level(size, seed)
    usual = np.abs(one).mean()
    assert np.isclose(pixels.contrast(one), usual, rtol=1e-4)
    once = np.clip(one, -times * usual, times * usual)
    most = times * np.abs(once).mean()
    assert np.abs(pixels.limited(one, times) - np.clip(once, -most, most)).max() < 0.01
    found = pixels.ready(one)
    usual = np.abs(found[LEVEL]).mean() + pixels.TINY
    assert np.allclose(found[COUNTS], 1 / (1 + (found[LEVEL] / usual) ** 2), rtol=1e-3)


@settings(max_examples=40, deadline=None)
@given(sides, seeds)
def test_half_a_picture_is_the_mean_of_fours_and_at_least_a_pixel(size, seed):
    """A last row or column without its other is left out, unless there is no more than that."""
    picture = np.random.default_rng(seed).integers(0, 256, size, np.uint8)
    pairs = np.pad(picture, [(0, side == 1) for side in size], mode="edge").astype(float)
    high, wide = (side // 2 for side in pairs.shape)
    fours = pairs[: 2 * high, : 2 * wide].reshape(high, 2, wide, 2).mean(axis=(1, 3))
    assert np.allclose(pixels.halved(picture), fours)


@settings(max_examples=30, deadline=None)
@given(sides, seeds)
def test_slopes_are_those_of_a_sobel_filter_as_far_as_pixels_count(size, seed):
    """Reference: cv2.Sobel, within the border."""
    found = pixels.ready(level(size, seed))
    for way, slopes in (((1, 0), found[ACROSS]), ((0, 1), found[DOWN])):
        usual = found[COUNTS] * cv2.Sobel(found[LEVEL], cv2.CV_32F, *way, scale=1 / 8)
        usual[[0, -1]] = usual[:, [0, -1]] = 0
        assert np.allclose(slopes, usual, atol=1e-3)


@settings(max_examples=30, deadline=None)
@given(st.floats(-0.7, 0.7), st.floats(-0.7, 0.7), seeds)
def test_a_movement_that_nearly_fits_is_made_to_fit(dx, dy, seed):
    """What was at (x, y) is at (x + dx, y + dy): a smooth world, moved by cv2.warpAffine."""
    before = cv2.GaussianBlur(texture((160, 90), seed).astype(np.float32), (0, 0), 2)
    after = cv2.warpAffine(
        before, np.float32([[1, 0, dx], [0, 1, dy]]), (160, 90), borderMode=cv2.BORDER_REFLECT
    )
    found = pixels.followed(pixels.ready(before), pixels.ready(after), 0.0, 0.0, 6)
    assert np.hypot(found[0] - dx, found[1] - dy) < 0.08


def test_flat_pictures_move_nowhere():
    flat = np.zeros((40, 60), np.float32)
    nothing = pixels.ready(flat)
    assert pixels.followed(nothing, nothing, 0.0, 0.0, 3) == (0, 0)
    error, kept = pixels.unlike(nothing, nothing, 0.3, 0.2)
    assert not error.any()
    assert kept == 1
    assert pixels.unlike(nothing, pixels.ready(level((40, 60), 1)), 0.0, 0.0)[1] == 0


def test_loops_are_compiled_where_nothing_can_be_kept_on_the_disk(tmp_path):
    """A file stands where the program would keep what was compiled, and this user has no home."""
    shutil.copy(pixels.__file__, tmp_path / "loops.py")
    (tmp_path / "__pycache__").touch()
    homeless = {"PYTHONPATH": str(tmp_path), "HOME": os.devnull, "XDG_CACHE_HOME": os.devnull}
    told = subprocess.run(
        [sys.executable, "-c", "import loops, numpy; print(loops.contrast(numpy.float32([[1, -3]])))"],
        env={**os.environ, **homeless},
        capture_output=True,
        text=True,
    )
    assert told.stdout == "2.0\n", told.stderr
