"""How the whole picture moves: known shifts, under other light, with things that go their own way."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.ndimage import fourier_shift

from izmet.picture.motion import STILL, View, movement, unlike
from izmet.picture.steadying import steadied
from izmet.picture.watching import SIZE, SPAN, Seen, Watcher
from tests.picture.clips import WORLDS, texture

pans = st.tuples(st.floats(-8, 8), st.floats(-8, 8))
seeds = st.integers(0, 50)


def shifted(world: np.ndarray, dx: float, dy: float) -> np.ndarray:
    """Reference: a shift in the Fourier domain (scipy.ndimage.fourier_shift), exact in a periodic picture."""
    return np.fft.ifft2(fourier_shift(np.fft.fft2(world), (dy, dx))).real


def luma(picture: np.ndarray) -> np.ndarray:
    return np.clip(np.round(picture), 0, 255).astype(np.uint8)


def moved(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    return np.array(movement(View.of(luma(before)), View.of(luma(after))))


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 30), st.floats(0, 2 * np.pi), seeds)
def test_a_known_shift_is_found_whatever_its_way(far, angle, seed):
    world = texture(SIZE, seed)
    way = far * np.array([np.cos(angle), np.sin(angle)])
    assert np.hypot(*(moved(world, shifted(world, *way)) - way)) < 0.1 + 0.02 * far


@settings(max_examples=25, deadline=None)
@given(pans, st.floats(-40, 60), st.floats(0.8, 1.25), seeds)
def test_light_is_no_movement(way, lighter, contrast, seed):
    world = texture(SIZE, seed) * 0.6 + 40
    after = shifted(world, *way) * contrast + lighter
    assert np.hypot(*(moved(world, after) - way)) < 0.2 + 0.05 * np.hypot(*way)


def test_a_boat_before_a_coast_does_not_carry_the_coast_along():
    """Nine in ten of many scenes within a quarter of a pixel; some coasts have hardly anything to follow."""
    rng = np.random.default_rng(1)
    off = []
    for seed in range(60):
        way, own = rng.uniform(-8, 8, (2, 2))
        coast, boat = texture(SIZE, seed), texture(SIZE, seed + 1000)
        shape = np.zeros(coast.shape, np.float32)
        cv2.circle(shape, (160, 90), int(rng.integers(20, 37)), 1.0, -1)
        there = cv2.warpAffine(shape, np.float32([[1, 0, own[0]], [0, 1, own[1]]]), SIZE) > 0.5
        after = np.where(there, shifted(boat, *own), shifted(coast, *way))
        off.append(np.hypot(*(moved(np.where(shape > 0, boat, coast), after) - way)))
    assert np.percentile(off, 90) < 0.25


@settings(max_examples=20, deadline=None)
@given(st.floats(0.5, 8), st.floats(0, 2 * np.pi), st.sampled_from(["boxes", "grains", "dark"]), seeds)
def test_what_lies_over_the_picture_does_not_hold_it(far, angle, world, seed):
    """A counter in a corner, bright and at rest, over a world that moves."""
    ground = WORLDS[world](SIZE, seed)
    way = far * np.array([np.cos(angle), np.sin(angle)])
    pictures = [luma(shifted(ground, *(k * way))) for k in range(4)]
    for picture in pictures:
        cv2.putText(picture, "00123", (8, 24), cv2.FONT_HERSHEY_SIMPLEX, 0.5, 255, 2)
    watcher = Watcher()
    for picture in pictures:
        watcher.look(picture)
    seen = watcher.seen()
    assert np.hypot(seen.dx[1:] * SIZE[0] - way[0], seen.dy[1:] * SIZE[0] - way[1]).max() < 0.3 + 0.05 * far


@settings(max_examples=25, deadline=None)
@given(pans, seeds)
def test_back_is_the_same_way_turned_round(way, seed):
    world = texture(SIZE, seed)
    after = shifted(world, *way)
    assert np.hypot(*(moved(world, after) + moved(after, world))) < 0.1 + 0.02 * np.hypot(*way)


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 90), st.integers(1, 90), seeds)
def test_a_picture_of_any_shape_has_a_movement_within_it(wide, high, seed):
    rng = np.random.default_rng(seed)
    before, after = (View.of(rng.integers(0, 256, (high, wide), np.uint8)) for _ in range(2))
    dx, dy = movement(before, after, (3.0, -2.0))
    assert abs(dx) < wide
    assert abs(dy) < high
    error, kept = unlike(before, after, (dx, dy))
    assert error.shape == before.sizes[-1][0].shape
    assert (error >= 0).all()
    assert -1.001 <= kept <= 1.001


@given(st.integers(0, 255), st.integers(0, 255))
@settings(max_examples=20, deadline=None)
def test_what_is_flat_does_not_move(before, after):
    views = (View.of(np.full(SIZE[::-1], level, np.uint8)) for level in (before, after))
    assert movement(*views) == pytest.approx(STILL, abs=1e-3)


@settings(max_examples=15, deadline=None)
@given(pans, st.integers(0, 3), seeds)
def test_what_follows_the_movement_is_no_surprise_and_what_appears_is_one(way, corner, seed):
    """The measures of a watcher: movement in parts of the width, an error where something new lies."""
    assume(np.hypot(*way) > 0.5)
    world = texture(SIZE, seed)
    pictures = [np.ascontiguousarray(shifted(world, k * way[0], k * way[1])) for k in range(4)]
    x, y = 60 + 200 * (corner % 2), 45 + 90 * (corner // 2)
    cv2.rectangle(pictures[3], (x - 14, y - 14), (x + 14, y + 14), 255.0, -1)
    watcher = Watcher()
    for picture in pictures:
        watcher.look(luma(picture))
    seen = watcher.seen()
    assert np.hypot(seen.dx[1:3] * SIZE[0] - way[0], seen.dy[1:3] * SIZE[0] - way[1]).max() < 0.4
    assert seen.kept[1:3].min() > 0.75
    assert seen.surprise[3] > 3 * max(2.0, seen.surprise[2])
    assert abs(seen.across[3] * SIZE[0] - x) < 20
    assert abs(seen.down[3] * SIZE[1] - y) < 20


def seen_of(way: np.ndarray, error: np.ndarray) -> Seen:
    """Measures of a movement, shape (2, pictures), of which each place is told with an error of its own."""
    place = np.cumsum(way, axis=1) + error
    near = np.diff(place, axis=1, prepend=place[:, :1])
    since = np.maximum(np.arange(way.shape[1]) - SPAN, 0)
    far = place - place[:, since]
    nothing = np.zeros(way.shape[1], np.float32)
    rest = dict.fromkeys(Seen.__annotations__, nothing)
    told = {"dx": near[0], "dy": near[1], "far_x": far[0], "far_y": far[1]}
    return Seen(**rest | {name: column.astype(np.float32) for name, column in told.items()})


def in_order(count: int) -> tuple[np.ndarray, np.ndarray]:
    return np.arange(count), np.maximum(np.arange(count) - SPAN, 0)


def test_slow_movement_is_steadied_and_a_jolt_is_left():
    rng = np.random.default_rng(0)
    way = np.zeros((2, 100))
    way[0] = 0.004
    way[0, 50] = 0.05
    seen = seen_of(way, rng.normal(0, 0.0004, way.shape))
    dx, dy = steadied(seen, *in_order(100))
    calm = np.delete(np.arange(1, 100), 49)
    assert np.std(dx[calm]) < np.std(seen.dx[calm]) / 4
    assert np.abs(np.arctan2(dy[calm], dx[calm])).max() < np.radians(5)
    assert dx[50] == seen.dx[50]


@settings(max_examples=40, deadline=None)
@given(st.floats(0.001, 0.006), st.floats(0, 2 * np.pi), st.floats(0, 0.02), seeds)
def test_a_pan_that_turns_slowly_is_followed(far, angle, turns, seed):
    """Its way turns by up to a degree a picture; steadied, it is nowhere farther off than it was seen."""
    angles = angle + turns * np.arange(120)
    way = far * np.stack([np.cos(angles), np.sin(angles)])
    seen = seen_of(way, np.random.default_rng(seed).normal(0, 0.0002, way.shape))
    off = np.hypot(*(np.stack(steadied(seen, *in_order(120))) - way)[:, 10:-10])
    assert np.percentile(off, 95) < np.percentile(np.hypot(seen.dx - way[0], seen.dy - way[1])[10:-10], 95)


@pytest.mark.parametrize("held", [(2,), (2, 3), (1,)], ids=["30 in 60", "24 in 60", "60 in 60"])
def test_what_repeats_a_picture_is_still_and_new_ones_move_by_all_of_it(held):
    """Slow movement of a capture: the same between any two new pictures, none between copies."""
    distinct_of = np.repeat(np.arange(40), np.resize(held, 40))
    way = np.zeros((2, len(distinct_of)))
    new = np.diff(distinct_of, prepend=0) > 0
    way[0, new] = 0.005
    since = in_order(len(distinct_of))[1]
    seen = seen_of(way, np.random.default_rng(3).normal(0, 0.0002, way.shape))
    dx, dy = steadied(seen, distinct_of, since)
    assert not dx[1:][~new[1:]].any()
    assert np.abs(dx[new] - 0.005).max() < 0.0006
    assert np.abs(dy[new]).max() < 0.0006
