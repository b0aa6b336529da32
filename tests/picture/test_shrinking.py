"""Pictures made smaller: each pixel the mean of what it covers."""

from __future__ import annotations

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture.shrinking import halved, quartered, shrunk, stretched

seeds = st.integers(0, 1000)
sides = st.tuples(st.integers(1, 40), st.integers(1, 40))


@settings(max_examples=30, deadline=None)
@given(sides, st.integers(0, 20), seeds)
def test_a_quarter_is_the_mean_of_sixteen_and_a_half_of_four(size, beside, seed):
    wide, high = size
    lines = np.random.default_rng(seed).integers(0, 256, (4 * high + beside, 4 * wide + beside), np.uint8)
    picture = lines[: 4 * high, : 4 * wide]
    sixteen = picture.reshape(high, 4, wide, 4).mean(axis=(1, 3))
    assert np.abs(quartered(lines, wide, high) - sixteen).max() <= 0.5
    four = picture.reshape(2 * high, 2, 2 * wide, 2).mean(axis=(1, 3))
    assert np.abs(halved(picture) - four).max() <= 0.5


@settings(max_examples=40, deadline=None)
@given(st.tuples(st.integers(20, 700), st.integers(20, 500)), st.integers(0, 9), seeds)
def test_a_picture_is_shrunk_as_by_areas(size, beside, seed):
    """Reference: cv2.resize, INTER_AREA, at once, of what goes up in halves."""
    wide, high = size
    rng = np.random.default_rng(seed)
    lines = cv2.GaussianBlur(rng.integers(0, 256, (high + beside, wide + beside), np.uint8), (0, 0), 9)
    wanted = (min(wide, 64), min(high, 36))
    found = shrunk(lines, size, wanted)
    assert found.shape == wanted[::-1]
    times = 1
    while wide // times >= 2 * wanted[0] and high // times >= 2 * wanted[1]:
        times *= 2
    covered = lines[: high - high % times, : wide - wide % times]
    usual = cv2.resize(covered, wanted, interpolation=cv2.INTER_AREA)
    assert np.abs(found.astype(float) - usual).max() <= 3


@given(st.integers(0, 100), st.integers(110, 255))
@settings(max_examples=30, deadline=None)
def test_levels_from_black_to_white_become_all_there_are(black, white):
    levels = np.arange(256, dtype=np.uint8).reshape(16, 16)
    usual = np.clip((levels.astype(float) - black) * 255 / (white - black), 0, 255)
    assert np.abs(stretched(levels, black, white) - usual).max() <= 0.501
