"""A point that is followed, against known motion, in synthetic pictures; seeds under 100 were seen."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, map_coordinates

from izmet.picture.tracking import followed, thinned

WIDE, HIGH = 480, 270
HALF_A_PIXEL = 0.5


def ground(seed: int, fine: float = 2.0) -> np.ndarray:
    """A picture much larger than the frame, with detail of a size."""
    rng = np.random.default_rng(seed)
    noise = sum(gaussian_filter(rng.normal(0, 1, (900, 1300)), fine * by) * by for by in (1, 4, 12))
    return 128 + 55 * noise / noise.std()


def seen_of(
    picture: np.ndarray, at: np.ndarray, turn: float = 0, scale: float = 1, light: float = 1
) -> np.ndarray:
    """The frame whose middle looks at ``at`` of a large picture, turned by radians and grown, by scipy."""
    y, x = np.mgrid[:HIGH, :WIDE].astype(float) + 0.5
    right, down = (x - WIDE / 2) / scale, (y - HIGH / 2) / scale
    across = at[0] + right * np.cos(turn) + down * np.sin(turn) - 0.5
    below = at[1] + down * np.cos(turn) - right * np.sin(turn) - 0.5
    read = map_coordinates(picture, [below, across], order=3, mode="nearest")
    return np.clip(light * read, 0, 255).astype(np.uint8)


def place_of(point: np.ndarray, at: np.ndarray, turn: float = 0, scale: float = 1) -> np.ndarray:
    """Where a point of the large picture is in such a frame."""
    right, down = point - at
    across = right * np.cos(turn) - down * np.sin(turn)
    below = right * np.sin(turn) + down * np.cos(turn)
    return np.array([WIDE / 2, HIGH / 2]) + scale * np.array([across, below])


def worst(pictures, places) -> float:
    """How far a followed point lies off at most, all of it found."""
    found = np.array(list(followed(pictures, tuple(places[0]))))
    assert len(found) == len(places), "it is never lost"
    return float(np.hypot(*(found - places).T).max())


@pytest.mark.parametrize("seed", range(100, 106))
def test_a_point_is_followed_within_half_a_pixel_through_a_shaken_camera(seed):
    rng = np.random.default_rng(seed)
    picture = ground(seed)
    ways = np.cumsum(rng.normal(0, 2.5, (90, 2)), axis=0) + np.array([650, 450])
    ways = np.clip(ways, [520, 360], [780, 540])
    point = ways[0] + rng.uniform(-60, 60, 2)
    pictures = [seen_of(picture, at) for at in ways]
    assert worst(pictures, np.array([place_of(point, at) for at in ways])) <= HALF_A_PIXEL


@pytest.mark.parametrize("seed", range(100, 104))
def test_it_is_followed_while_it_turns_grows_and_darkens(seed):
    picture = ground(seed + 50)
    count = 60
    turns, scales, lights = (
        np.linspace(0, 0.5, count),
        np.linspace(1, 1.4, count),
        np.linspace(1, 0.75, count),
    )
    ways = np.stack([np.linspace(640, 665, count), np.linspace(450, 440, count)], axis=1)
    point = np.array([660.0, 455.0])
    pictures = [seen_of(picture, *each) for each in zip(ways, turns, scales, lights, strict=True)]
    places = np.array([place_of(point, *each) for each in zip(ways, turns, scales, strict=True)])
    assert worst(pictures, places) <= HALF_A_PIXEL


def test_a_point_on_a_moving_thing_is_followed_over_a_ground_that_moves_otherwise():
    below, thing = ground(7), ground(8, fine=1.5)
    count = 70
    x = 90 + 4.3 * np.arange(count)
    y = 130 + 30 * np.sin(np.arange(count) / 9)
    pictures, places = [], []
    for n in range(count):
        frame = seen_of(below, np.array([650 - 3.1 * n, 450])).astype(np.float32)
        top = seen_of(thing, np.array([600 + WIDE / 2 - x[n], 400 + HIGH / 2 - y[n]])).astype(np.float32)
        mask = np.zeros((HIGH, WIDE), np.float32)
        cv2.circle(mask, (round(x[n] * 16), round(y[n] * 16)), 40 * 16, 1, -1, cv2.LINE_AA, 4)
        pictures.append((frame + mask * (top - frame)).astype(np.uint8))
        places.append((x[n], y[n]))
    assert worst(pictures, np.array(places)) <= HALF_A_PIXEL


def test_what_leaves_the_picture_or_is_covered_is_lost_and_not_made_up():
    picture = ground(3)
    ways = np.stack([650 + 6.0 * np.arange(80), np.full(80, 450.0)], axis=1)
    places = np.array([place_of(np.array([650.0, 450.0]), at) for at in ways])
    found = np.array(list(followed([seen_of(picture, at) for at in ways], tuple(places[0]))))
    leaves = int(np.count_nonzero(places[:, 0] >= 0))
    assert leaves - 6 <= len(found) <= leaves
    assert np.hypot(*(found - places[: len(found)]).T).max() <= 1
    pictures = [seen_of(picture, np.array([650.0, 450.0])) for _ in range(10)]
    pictures[6:] = [seen_of(ground(99), np.array([650.0, 450.0]))] * 4
    assert len(list(followed(pictures, (240.0, 135.0)))) == 6, "another scene"


@given(
    st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=1, max_size=60),
    st.lists(st.integers(1, 4), min_size=60, max_size=60),
    st.sampled_from([0.1, 3.0]),
)
def test_thinned_points_say_the_same(points, apart, off):
    points = np.array(points)
    frames = np.cumsum(apart)[: len(points)]
    kept = thinned(frames, points, off)
    told = np.stack([np.interp(frames, frames[kept], column[kept]) for column in points.T], axis=1)
    assert np.hypot(*(told - points).T).max() <= off + 1e-9
    assert (kept[0], kept[-1]) == (0, len(points) - 1)
    assert (np.diff(kept) > 0).all()


def test_a_straight_way_needs_two_points():
    frames = np.arange(500)
    assert len(thinned(frames, np.stack([frames * 0.3, frames * -0.1], axis=1), 0.1)) == 2
