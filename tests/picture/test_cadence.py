"""How many distinct pictures a capture holds, told from how much each differs from the one before."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture.cadence import cadence

PARTS = ["1/2", "2/5", "4/5", "1/3", "1/4", "1", "3/4"]


def test_a_rate_that_changes_is_told_by_stretch_and_a_rest_is_none(tmp_path):
    """30 in 60, a still stretch, then 60: told from differences alone."""
    rng = np.random.default_rng(2)
    noise = rng.uniform(0, 0.05, 900)
    moves = rng.uniform(2, 4, 900)
    new = np.concatenate([np.arange(300) % 2 == 0, np.zeros(120, bool), np.ones(480, bool)])
    stretches, is_new = cadence((noise + moves * new).astype(np.float32), 60)
    assert [each.part for each in stretches] == [Fraction(1, 2), Fraction(1)]
    assert 270 <= stretches[1].begin <= 450  # where nothing moves nobody can tell
    assert np.mean(is_new == new) > 0.97
    resting = np.where(rng.random(600) < 0.04, 0.02, 3.0).astype(np.float32)
    resting[200:320] = 0.02
    assert [each.part for each in cadence(resting, 60)[0]] == [Fraction(1)]


@settings(max_examples=30, deadline=None)
@given(
    st.sampled_from(["1/2", "2/5", "4/5", "1/3", "1/4", "1", "3/4"]), st.integers(0, 9), st.integers(0, 99)
)
def test_any_even_pattern_is_found_at_any_phase(part, phase, seed):
    rng = np.random.default_rng(seed)
    shown = np.array([int(Fraction(k + phase) * Fraction(part)) for k in range(400)])
    change = np.where(np.diff(shown, prepend=-1) > 0, rng.uniform(1.5, 4, 400), rng.uniform(0, 0.3, 400))
    stretches, is_new = cadence(change.astype(np.float32), 60)
    assert [each.part for each in stretches] == [Fraction(part)]
    assert (is_new[1:] == (np.diff(shown) > 0)).all()
