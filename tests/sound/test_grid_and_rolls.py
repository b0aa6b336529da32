"""Beats are placed on what is heard beside them, and a roll is told from a groove."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.sound.grid import place
from izmet.sound.hits import KINDS, Hit
from izmet.sound.onsets import FRAME_RATE
from izmet.sound.pulse import activation
from izmet.sound.rolls import find_rolls

RATE = 44100


def clicks(times: np.ndarray, seed: int) -> np.ndarray:
    """Mono samples with a short click at each instant."""
    rng = np.random.default_rng(seed)
    samples = 1e-4 * rng.standard_normal(round((times[-1] + 1) * RATE))
    for time in times:
        at = round(time * RATE)
        samples[at : at + 400] += rng.standard_normal(400) * np.exp(-np.arange(400) / 80) * 0.5
    return samples.astype(np.float32)


def heard(times: np.ndarray, count: int) -> np.ndarray:
    """Likeness to an onset, frame by frame, with a bump at each instant as wide as a window is long."""
    strength = np.zeros(count, np.float32)
    for frame in np.round(times * FRAME_RATE).astype(int):
        strength[frame - 2 : frame + 3] += (0.3, 0.8, 1.0, 0.8, 0.3)
    return activation(strength)


@settings(max_examples=15, deadline=None)
@given(
    tempo=st.floats(70, 180),
    start=st.floats(0.3, 1.0),
    gone=st.floats(0, 0.3),
    seed=st.integers(0, 1000),
)
def test_a_steady_train_becomes_one_grid_though_some_beats_are_not_played(tempo, start, gone, seed):
    rng = np.random.default_rng(seed)
    beats = start + 60 / tempo * np.arange(32)
    played = beats[(rng.random(32) >= gone) | (np.arange(32) % 31 == 0)]
    native = clicks(played, seed)
    train = np.round(beats * FRAME_RATE) + rng.integers(-2, 3, 32)  # known to some hundredths only
    times, steady = place(train, heard(played, round(len(native) / RATE * FRAME_RATE) + 1), native, RATE)
    assert steady
    assert np.abs(times - beats).max() < 0.002
    assert np.ptp(np.diff(times)) < 1e-9


@settings(max_examples=15, deadline=None)
@given(drift=st.floats(0.03, 0.06), seed=st.integers(0, 1000))
def test_a_drifting_train_follows_its_beats(drift, seed):
    lengths = 0.5 * (1 + drift * np.sin(np.linspace(0, 4 * np.pi, 48)))
    beats = 0.5 + np.concatenate([[0.0], np.cumsum(lengths)])
    native = clicks(beats, seed)
    train = np.round(beats * FRAME_RATE)
    times, steady = place(train, heard(beats, round(len(native) / RATE * FRAME_RATE) + 1), native, RATE)
    assert not steady
    assert np.percentile(np.abs(times - beats), 95) < 0.004
    assert (np.diff(times) > 0).all()


def snares(times: np.ndarray) -> list[Hit]:
    """Hits that are surely snares."""
    chances = tuple(0.9 if kind == "snare" else 0.05 for kind in KINDS)
    return [Hit(float(time), ("snare",), 0.8, chances) for time in times]


groove = st.floats(0.55, 1.1)


@given(gap=groove, bars=st.integers(6, 20))
def test_a_groove_is_no_roll_however_long_it_goes_on(gap, bars):
    assert find_rolls(snares(np.arange(4 * bars) * gap)) == []


@given(gap=groove, strokes=st.integers(7, 24), step=st.floats(0.07, 0.2))
def test_a_run_of_quick_strokes_in_a_groove_is_a_roll_from_its_first_to_its_last(gap, strokes, step):
    before = np.arange(16) * gap
    run = before[-1] + gap + np.arange(strokes) * step
    after = run[-1] + gap + np.arange(16) * gap
    (roll,) = find_rolls(snares(np.concatenate([before, run, after])))
    assert roll.end == pytest.approx(run[-1])
    assert run[0] - gap - 1e-9 <= roll.start <= run[0] + 1e-9
    assert set(np.round(run, 6)) <= set(np.round(roll.hits, 6))


@given(gap=groove)
def test_strokes_that_quicken_are_one_roll(gap):
    before = np.arange(16) * gap
    gaps = np.concatenate([np.full(4, gap / 2), np.full(4, gap / 4), np.full(8, gap / 8)])
    run = before[-1] + np.cumsum(gaps)
    rolls = find_rolls(snares(np.concatenate([before, run, run[-1] + gap * np.arange(1, 17)])))
    assert len(rolls) == 1
    assert rolls[0].end == pytest.approx(run[-1])
    assert rolls[0].start <= run[4]
