"""How many distinct pictures a capture holds, told from how much each differs from the one before."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture.cadence import LONGEST_PERIOD, Pattern, cadence, held
from tests.picture.clips import Clip, new_pictures

PARTS = [Fraction(part) for part in ("1/2", "2/5", "4/5", "1/3", "1/4", "1", "3/4")]
COUNT = 400
patterns = st.sampled_from(PARTS), st.integers(0, 9), st.integers(0, 99)


def told(change: np.ndarray, most: np.ndarray | None = None) -> tuple[list[Pattern], np.ndarray]:
    """What is told of a capture at 60 frames a second, in which no part changes most unless it is said."""
    most = np.zeros(len(change)) if most is None else most
    return cadence(change.astype(np.float32), most.astype(np.float32), 60)


def shown(part: Fraction, phase: int) -> np.ndarray:
    """Which frames hold a new picture."""
    return np.diff([int((k + phase) * part) for k in range(COUNT)], prepend=-1) > 0


def check_told(part: Fraction, new: np.ndarray, change: np.ndarray, most: np.ndarray | None = None) -> None:
    """One stretch is told, and each of its new pictures."""
    stretches, is_new = told(change, most)
    assert [each.part for each in stretches] == [part]
    assert (is_new[1:] == new[1:]).all()


def test_a_rate_that_changes_is_told_by_stretch_and_a_rest_is_none():
    """30 in 60, a still stretch, then 60: told from differences alone."""
    rng = np.random.default_rng(2)
    noise = rng.uniform(0, 0.05, 900)
    moves = rng.uniform(2, 4, 900)
    new = np.concatenate([np.arange(300) % 2 == 0, np.zeros(120, bool), np.ones(480, bool)])
    stretches, is_new = told(noise + moves * new)
    assert [each.part for each in stretches] == [Fraction(1, 2), Fraction(1)]
    assert 270 <= stretches[1].begin <= 450  # where nothing moves nobody can tell
    assert np.mean(is_new == new) > 0.97
    resting = np.where(rng.random(600) < 0.04, 0.02, 3.0).astype(np.float32)
    resting[200:320] = 0.02
    assert [each.part for each in told(resting)[0]] == [Fraction(1)]


@settings(max_examples=30, deadline=None)
@given(*patterns)
def test_any_even_pattern_is_found_at_any_phase(part, phase, seed):
    rng = np.random.default_rng(seed)
    new = shown(part, phase)
    check_told(part, new, np.where(new, rng.uniform(1.5, 4, COUNT), rng.uniform(0, 0.3, COUNT)))


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(PARTS), st.integers(0, 99), st.integers(16, 60))
def test_a_pattern_is_found_though_pictures_come_late(part, seed, apart):
    """As where a game drops a frame now and then, or its clock is another: no even pattern lasts for long."""
    rng = np.random.default_rng(seed)
    late = np.cumsum(rng.integers(3 * apart // 4, 5 * apart // 4 + 1, COUNT)).tolist()
    new = np.diff(new_pictures(Clip(frames=COUNT, part=part, late=late)), prepend=-1) > 0
    stretches, is_new = told(np.where(new, rng.uniform(1.5, 4, COUNT), rng.uniform(0, 0.3, COUNT)))
    assert max(stretches, key=lambda each: each.end - each.begin).part == part
    assert np.mean(is_new == new) > 0.97


HIDDEN = ((1, 2), (20, 60), (2, 9))
"""A coded copy differs by as much as a new picture in the mean, but nowhere by much."""
SMALL = ((0.01, 0.05), (8, 12), (0, 1))
"""A camera stands still: in the mean hardly anything changes, but a small thing moves."""


@pytest.mark.parametrize(("mean", "new_most", "copied_most"), [HIDDEN, SMALL])
@settings(max_examples=30, deadline=None)
@given(part=patterns[0], phase=patterns[1], seed=patterns[2])
def test_what_changes_most_tells_a_pattern_that_the_mean_does_not(
    mean, new_most, copied_most, part, phase, seed
):
    rng = np.random.default_rng(seed)
    new = shown(part, phase)
    most = np.where(new, rng.uniform(*new_most, COUNT), rng.uniform(*copied_most, COUNT))
    check_told(part, new, rng.uniform(*mean, COUNT), most)


@settings(max_examples=30, deadline=None)
@given(*patterns, st.integers(2, 4), st.floats(0.01, 0.2))
def test_copies_of_two_kinds_are_copies(part, phase, seed, turns, more):
    """Some coders leave more on every second copy than on the first: both repeat the picture before."""
    rng = np.random.default_rng(seed)
    new = shown(part, phase)
    copies = rng.uniform(0, 0.005, COUNT) + np.where(np.cumsum(~new) % turns == 0, more, 0)
    check_told(part, new, np.where(new, rng.uniform(1.5, 3, COUNT), copies))


@settings(max_examples=30, deadline=None)
@given(*patterns)
def test_a_few_that_are_off_do_not_hide_a_pattern(part, phase, seed):
    """Here and there a copy is a keyframe that differs, and a new picture hardly differs from the last."""
    rng = np.random.default_rng(seed)
    new = shown(part, phase)
    off = rng.random(COUNT) < 0.03
    change = np.where(new ^ off, rng.uniform(1.5, 4, COUNT), rng.uniform(0, 0.9, COUNT))
    stretches, _ = told(change)
    assert sum(each.end - each.begin for each in stretches if each.part == part) > 0.7 * COUNT


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 999), st.floats(0.5, 4), st.floats(0, 0.5))
def test_what_differs_anyhow_holds_no_pattern(seed, usual, spread):
    rng = np.random.default_rng(seed)
    change, most = (scale * np.exp(spread * rng.standard_normal(COUNT)) for scale in (usual, 10 * usual))
    stretches, is_new = told(change, most)
    assert [each.part for each in stretches] == [Fraction(1)]
    assert np.mean(is_new) > 0.97


@settings(max_examples=100, deadline=None)
@given(st.integers(1, 60), st.integers(0, 999), st.floats(0, 0.25))
def test_few_frames_hold_no_pattern_by_chance(count, seed, spread):
    """The first frame differs from nothing, which makes it no copy."""
    change = np.random.default_rng(seed).lognormal(1, spread, count)
    change[0] = 0
    assert [each.part for each in told(change, 5 * change)[0]] == [Fraction(1)]


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 9), st.floats(5, 40))
def test_what_changes_much_is_no_copy_though_another_changes_more(phase, least):
    """A counter in the picture: every second step changes one bar, the others two and more."""
    bars = np.array([bin((k + phase) ^ (k + phase - 1)).count("1") for k in range(1, COUNT + 1)])
    stretches, is_new = told(least * bars, np.minimum(10 * least * bars, 255))
    assert [each.part for each in stretches] == [Fraction(1)]
    assert is_new.all()


def test_a_copy_moves_as_its_picture_does_and_what_rests_as_itself():
    values = np.arange(20, dtype=np.float32)
    is_new = np.zeros(20, bool)
    is_new[[0, 2, 5]] = True
    expected = [0, 0, 2, 2, 2, *[5] * LONGEST_PERIOD, *range(5 + LONGEST_PERIOD, 20)]
    assert held(values, is_new).tolist() == expected
