"""What is in a picture block by block, against OpenCV's own means and filters."""

from __future__ import annotations

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture import blocks

seeds = st.integers(0, 1000)
grids = st.tuples(st.integers(1, 12), st.integers(1, 12))


@settings(max_examples=40, deadline=None)
@given(grids, st.integers(1, 8), st.integers(1, 8), seeds)
def test_a_block_is_the_mean_of_what_it_covers(grid, wide, high, seed):
    """Reference: cv2.resize, INTER_AREA, where sides go up in the grid."""
    across, down = grid
    picture = np.random.default_rng(seed).integers(0, 256, (high * down, wide * across), np.uint8)
    found, mean = blocks.means(picture, grid)
    usual = cv2.resize(picture.astype(np.float32), grid, interpolation=cv2.INTER_AREA)
    assert np.allclose(found, usual, atol=1e-2)
    assert np.isclose(mean, picture.mean(), atol=1e-2)


@settings(max_examples=40, deadline=None)
@given(grids, st.tuples(st.integers(1, 50), st.integers(1, 50)), seeds)
def test_a_picture_of_any_size_has_blocks_that_cover_it(grid, size, seed):
    across, down = grid
    picture = np.random.default_rng(seed).uniform(0, 255, size).astype(np.float32)
    found, mean = blocks.means(picture, grid)
    assert found.shape == (down, across)
    assert picture.min() - 1e-3 <= found.min() <= mean + 1e-3
    assert mean - 1e-3 <= found.max() <= picture.max() + 1e-3
    if size[0] >= down and size[1] >= across:
        assert np.isclose(mean, picture.mean(), rtol=1e-4)


@settings(max_examples=30, deadline=None)
@given(seeds)
def test_what_changes_is_told_in_the_mean_and_where_it_does_most(seed):
    rng = np.random.default_rng(seed)
    before, after = rng.integers(0, 256, (2, 60, 80), np.uint8)
    difference = cv2.absdiff(before, after)
    mean, most = blocks.change(before, after, (8, 6))
    assert np.isclose(mean, difference.mean(), rtol=1e-4)
    assert np.isclose(most, blocks.means(difference, (8, 6))[0].max())


@settings(max_examples=40, deadline=None)
@given(grids, seeds)
def test_only_what_is_above_all_that_was_known_nearby_is_a_surprise(grid, seed):
    """Reference: cv2.dilate over five blocks by five."""
    rng = np.random.default_rng(seed)
    error, known = rng.exponential(3, (2, grid[1], grid[0])).astype(np.float32)
    surprise, across, down, now = blocks.own_way(error, known)
    assert np.isclose(surprise, (error - known).max(), rtol=1e-5)
    near = cv2.dilate(error, np.ones((5, 5), np.uint8))
    assert np.allclose(now, np.maximum(near, blocks.FORGOTTEN * known))
    least = blocks.STANDS_OUT * np.sort(error.ravel())[error.size // 2] + blocks.LEAST_ERROR
    above = np.maximum(error - least, 0)
    middle = (0.5, 0.5)
    if above.any():
        places = (np.arange(side) + 0.5 for side in grid)
        middle = [np.average(at, weights=above.sum(axis=way)) / len(at) for way, at in enumerate(places)]
    assert np.allclose((across, down), middle, atol=1e-3)
