"""Candidates are where something begins, each once, and hits are those that the net is sure of."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.sound import hits
from izmet.sound.bands import FRAME_RATE
from izmet.sound.hits import APART_SECONDS, are_hits, find_hits
from izmet.sound.learned import learned
from izmet.sound.onsets import RATE
from tests.sound.machine import levels

SECONDS = 3


def clicks(instants: list[float], levels: list[float]) -> np.ndarray:
    """Short bursts of noise on a floor of noise far below them."""
    rng = np.random.default_rng(0)
    samples = 1e-6 * rng.standard_normal(SECONDS * RATE)
    t = np.arange(round(0.05 * RATE)) / RATE
    for instant, level in zip(instants, levels, strict=True):
        at = round(instant * RATE)
        samples[at : at + len(t)] += level * rng.standard_normal(len(t)) * np.exp(-t / 0.01)
    return samples.astype(np.float32)


struck = st.lists(
    st.tuples(st.integers(0, 20), st.floats(0, 0.03), st.floats(0.2, 1)),
    min_size=1,
    max_size=12,
    unique_by=lambda hit: hit[0],
).map(lambda drawn: sorted((0.25 + 0.11 * place + more, level) for place, more, level in drawn))


@settings(max_examples=25, deadline=None)
@given(struck)
def test_everything_struck_is_a_candidate_once(drawn):
    instants, loud = [list(each) for each in zip(*drawn, strict=True)]
    frames, strengths = hits.candidates(levels(clicks(instants, loud)))
    times = frames / FRAME_RATE
    for instant in instants:
        assert (np.abs(times - instant) <= 0.02).sum() == 1
    assert (np.diff(times) >= APART_SECONDS - 1 / FRAME_RATE).all()
    assert strengths.min() >= 0
    assert strengths.max() == pytest.approx(1.0)


@settings(max_examples=10, deadline=None)
@given(struck)
def test_hits_come_in_order_apart_and_on_what_was_struck(drawn):
    instants, loud = [list(each) for each in zip(*drawn, strict=True)]
    samples = clicks(instants, loud)
    found = find_hits(samples, np.zeros_like(samples), samples, RATE, learned())
    assert all(later.time - hit.time >= APART_SECONDS / 2 for hit, later in pairwise(found))
    for hit in found:
        assert min(abs(hit.time - instant) for instant in instants) < 0.003
        assert hit.kinds
        chances = dict(zip(hits.KINDS, hit.chances, strict=True))
        assert [chances[kind] for kind in hit.kinds] == sorted((chances[k] for k in hit.kinds), reverse=True)


@given(st.integers(0, 2**32 - 1), st.integers(1, 60))
def test_a_kind_that_is_sure_makes_a_hit_and_so_does_a_sure_hit_of_no_kind(seed, count):
    told = np.random.default_rng(seed).random((count, len(hits.KINDS) + 1))
    by_hand = [
        row[-1] >= hits.SURE_HIT or any(row[index] >= hits.SURE_HIT for index in range(hits.NAMED))
        for row in told
    ]
    assert are_hits(told).tolist() == by_hand
