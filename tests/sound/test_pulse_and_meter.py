"""Trains of beats follow what comes again, and every reading of them is offered once."""

from __future__ import annotations

from itertools import combinations

import mir_eval
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.sound.onsets import FRAME_RATE
from izmet.sound.pulse import BEAT_PART, follow, likely_periods, steady_train
from izmet.sound.trains import candidates, period

SECONDS = 24


def active(beats: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Likeness to an onset, frame by frame, high at each beat (in frames) and low between."""
    likeness = 0.05 * rng.random(round(SECONDS * FRAME_RATE))
    likeness[np.round(beats).astype(int)] = 0.95
    return likeness


def train(length: float, start: float) -> np.ndarray:
    return np.arange(start, SECONDS * FRAME_RATE - 2, length)


lengths = st.floats(32, 100)
starts = st.floats(2, 60)
seeds = st.integers(0, 999)


@settings(max_examples=20, deadline=None)
@given(length=lengths, start=starts, seed=seeds)
def test_the_period_is_among_the_likely_ones(length, start, seed):
    likely = likely_periods(active(train(length, start), np.random.default_rng(seed)))
    assert np.abs(likely - length).min() <= 1.5  # frames


@settings(max_examples=20, deadline=None)
@given(length=lengths, start=starts, gone=st.floats(0, 0.4), seed=seeds)
def test_a_train_is_followed_though_beats_are_missing(length, start, gone, seed):
    rng = np.random.default_rng(seed)
    beats = train(length, start)
    played = beats[rng.random(len(beats)) >= gone]
    (found,) = follow(active(played, rng), np.array([round(length)]))
    apart = np.abs(played[:, None] - found).min(axis=1)  # where none is played, the train guesses
    assert np.percentile(apart, 90) <= length / BEAT_PART + 1  # the grid does the rest
    inner = found[(found >= played[0] - 1) & (found <= played[-1] + 1)]
    assert len(inner) == pytest.approx((played[-1] - played[0]) / length + 1, abs=1.01)


@settings(max_examples=15, deadline=None)
@given(
    length=st.floats(42, 70),
    ratio=st.sampled_from([0.75, 0.8, 1.25, 1.35]),
    turn=st.floats(9, 15),
    seed=seeds,
)
def test_a_song_that_goes_on_at_another_tempo_has_a_train_that_turns_with_it(length, ratio, turn, seed):
    rng = np.random.default_rng(seed)
    first = np.arange(20, turn * FRAME_RATE, length)
    beats = np.append(first, np.arange(first[-1] + length, SECONDS * FRAME_RATE - 2, length * ratio))
    likeness = active(beats, rng)
    right = [_hits(beats, found) for found in candidates(likeness, likeness)]
    assert max(right) > 0.85  # a beat or two beside the turn may be missed


@settings(max_examples=15, deadline=None)
@given(length=st.floats(45, 75), start=starts, louder=st.booleans(), seed=seeds)
def test_of_swung_notes_the_beat_is_a_candidate_whichever_of_the_two_is_louder(length, start, louder, seed):
    rng = np.random.default_rng(seed)
    beats = train(length, start)
    late = train(length, start + length * 2 / 3)
    likeness = active(beats if louder else late, rng)
    likeness[np.round(late if louder else beats).astype(int)] = 0.7
    right = [_hits(beats, found) for found in candidates(likeness, likeness)]
    assert max(right) > 0.9


@settings(max_examples=20, deadline=None)
@given(length=lengths, start=starts, gone=st.floats(0, 0.5), near=st.floats(-0.02, 0.02), seed=seeds)
def test_one_steady_train_is_what_the_whole_song_votes_for(length, start, gone, near, seed):
    """Half of the beats missing and others between them do not move it by a frame anywhere."""
    rng = np.random.default_rng(seed)
    beats = train(length, start)
    likeness = active(beats[rng.random(len(beats)) >= gone], rng)
    likeness[rng.integers(0, len(likeness), len(beats) // 3)] = 0.8
    found = steady_train(likeness, length * (1 + near))
    assert np.abs(beats[:, None] - found).min(axis=1).max() <= 2.5
    assert np.ptp(np.diff(found)) < 1e-9


def _hits(beats: np.ndarray, found: np.ndarray) -> float:
    """F at 70 ms (mir_eval's measure) of a train against the beats, both in frames."""
    return float(mir_eval.beat.f_measure(beats / FRAME_RATE, found / FRAME_RATE))


@settings(max_examples=10, deadline=None)
@given(length=st.floats(55, 68), start=starts, seed=seeds)
def test_doubles_halves_and_off_beats_are_candidates_and_no_two_are_the_same(length, start, seed):
    rng = np.random.default_rng(seed)
    strong, weak = train(length, start), train(length, start + length / 2)
    likeness = active(strong, rng)
    likeness[np.round(weak).astype(int)] = 0.6
    found = candidates(likeness, likeness)
    ratios = [period(each) / length for each in found]
    for wanted in (0.5, 1, 2):
        assert min(abs(ratio / wanted - 1) for ratio in ratios) < 0.06
    phases = {round(float(np.median((each - start) % length)) / length * 2) % 2 for each in found}
    assert phases == {0, 1}
    for one, other in combinations(found, 2):
        near = np.abs(one[:, None] - other).min(axis=1) <= 4
        assert len(one) != len(other) or near.mean() <= 0.9 or abs(period(one) / period(other) - 1) > 0.1


@pytest.mark.parametrize("seed", range(5))
def test_nothing_comes_again_in_noise(seed):
    noise = np.random.default_rng(seed).random(round(SECONDS * FRAME_RATE))
    assert candidates(noise, noise) == []
