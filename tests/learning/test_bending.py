"""Bent pictures still show the hits that they are said to show."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.sound.bands import SPLIT
from scripts.learning import bending

RUNS, HITS, MOMENTS, BANDS, KINDS = 3, 5, 4, 36, 6


class Still:
    """A generator that draws the middle of everything and lays each picture over the one before it."""

    def normal(self, mean, deviation, size):
        return np.full(size, mean)

    def integers(self, low, high):
        return (low + high) // 2

    def uniform(self, low, high, size):
        return np.full(size, (low + high) / 2)

    def random(self, size):
        return np.full(size, 0.5)

    def permutation(self, count):
        return np.roll(np.arange(count), 1)


def shown(seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    pictures = rng.uniform(0, 6, (RUNS, HITS, MOMENTS, BANDS, 2)).astype(np.float32)
    return pictures, pictures.max(axis=(1, 2)), rng.random((RUNS, HITS, KINDS)) < 0.3


seeds = st.integers(0, 2**32 - 1)


@settings(max_examples=20, deadline=None)
@given(seeds)
def test_where_nothing_strays_nothing_is_bent(seed):
    pictures, strong, kinds = shown(seed)
    levels, loud, told = bending.bent(pictures, strong, kinds, 0.0, Still())
    assert levels == pytest.approx(pictures, abs=1e-3)
    assert loud == pytest.approx(strong, abs=1e-3)
    assert (told == kinds).all()


@settings(max_examples=20, deadline=None)
@given(seeds)
def test_strong_hits_are_bent_as_the_hits_themselves(seed):
    pictures, strong, kinds = shown(seed)
    levels, loud, told = bending.bent(pictures, strong, kinds, 0.0, np.random.default_rng(seed))
    assert loud == pytest.approx(levels.max(axis=(1, 2)), abs=1e-3)
    assert np.abs(loud - strong).max() > 0.1
    assert (told == kinds).all()


@settings(max_examples=20, deadline=None)
@given(seeds)
def test_two_that_fall_together_sound_together_and_are_of_the_kinds_of_both(seed):
    pictures, strong, kinds = shown(seed)
    levels, _, told = bending.bent(pictures, strong, kinds, 1.0, Still())
    gain = 10 ** (np.mean(bending.MIX_DB) / 10)
    power = 10 ** pictures.reshape(-1, MOMENTS, BANDS, 2) - 1
    together = np.log10(1 + power + gain * np.roll(power, 1, axis=0))
    assert levels.reshape(together.shape) == pytest.approx(together, abs=1e-3)
    either = kinds.reshape(-1, KINDS)
    assert (told.reshape(either.shape) == (either | np.roll(either, 1, axis=0))).all()


@settings(max_examples=20, deadline=None)
@given(seeds)
def test_a_song_without_sides_keeps_its_middle_and_its_low_bands(seed):
    pictures, strong, kinds = shown(seed)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(bending, "NARROW", 0.0)
        wide, _, _ = bending.bent(pictures, strong, kinds, 0.2, np.random.default_rng(seed))
        patch.setattr(bending, "NARROW", 1.0)
        levels, loud, _ = bending.bent(pictures, strong, kinds, 0.2, np.random.default_rng(seed))
    assert wide[..., SPLIT:, 1].min() > -1e-6
    assert wide[..., SPLIT:, 1].max() > 1
    assert np.abs(levels[..., SPLIT:, 1]).max() == np.abs(loud[:, SPLIT:, 1]).max() == 0
    assert (levels[..., 0] == wide[..., 0]).all()
    assert (levels[..., :SPLIT, 1] == wide[..., :SPLIT, 1]).all()


@pytest.mark.parametrize("higher", [-1, 0, 1])
def test_a_pitch_moves_by_a_band_and_low_bands_do_not_become_sides(higher):
    moved = bending._moved(BANDS, higher)
    inner = np.arange(2, BANDS - 2)
    assert (moved[inner, 0] == inner - higher).all()
    assert (moved[:SPLIT, 1] < SPLIT).all()
    assert (moved[SPLIT:, 1] >= SPLIT).all()
