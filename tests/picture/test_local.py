"""What is usual around a frame, held against numpy's own medians."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from izmet.picture import local

values = arrays(np.float32, st.integers(1, 60), elements=st.floats(0, 255, width=32))
reaches = st.integers(1, 12)


def median_and_spread(window: np.ndarray) -> tuple[float, float]:
    """Reference: numpy.median, and the scaled median absolute deviation of NIST's e-Handbook, 1.3.5.6."""
    middle = np.median(window)
    return middle, 1.4826 * np.median(np.abs(window - middle))


@given(values, reaches)
def test_what_was_usual_before(found, reach):
    usual, spread = local.before(found, reach)
    assert usual[0] == found[0]  # nothing was before: it is its own yardstick
    assert spread[0] == 0
    for at in range(1, len(found)):
        expected = median_and_spread(found[max(0, at - reach) : at])
        assert (usual[at], spread[at]) == pytest.approx(expected, rel=1e-4, abs=1e-3)


@given(values, reaches)
def test_what_is_usual_around_leaves_itself_out(found, reach):
    usual, spread = local.around(found, reach)
    for at in range(len(found)):
        others = np.concatenate([found[max(0, at - reach) : at], found[at + 1 : at + 1 + reach]])
        expected = median_and_spread(others) if len(others) else (found[at], 0)
        assert (usual[at], spread[at]) == pytest.approx(expected, rel=1e-4, abs=1e-3)


@given(values, st.floats(0.1, 1), st.integers(0, 5), st.data())
def test_the_first_of_a_rise_is_led_up_to_without_a_break(found, part, most, data):
    peak = data.draw(st.integers(0, len(found) - 1))
    first = local.first_of_rise(found, peak, part, most)
    assert 0 <= peak - first <= most
    assert (found[first:peak] >= part * found[peak]).all()
    if first > 0 and peak - first < most:
        assert found[first - 1] < part * found[peak]


@given(st.sets(st.integers(0, 400)), st.integers(1, 20))
def test_groups_are_all_frames_and_far_apart(frames, apart):
    groups = local.groups(np.array(sorted(frames), np.int64), apart)
    assert [frame for group in groups for frame in group.tolist()] == sorted(frames)
    assert all((np.diff(group) <= apart).all() and len(group) for group in groups)
    assert all(b[0] - a[-1] > apart for a, b in pairwise(groups))
