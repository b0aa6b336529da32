"""Onset strengths rise where something begins, in the band in which it begins, and nowhere else.

Reference: librosa (McFee et al., SciPy 2015).
"""

from __future__ import annotations

import librosa
import mir_eval
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import find_peaks

from izmet.sound import onsets
from izmet.sound.mono import mixed_down, split
from izmet.sound.onsets import FRAME_RATE, RATE, find_onsets
from izmet.sound.source import Source
from tests.sound.machine import play


def struck(times: list[float], hertz: float, seconds: float = 4.0) -> np.ndarray:
    """Tones that begin at once and die away."""
    samples = np.zeros(round(seconds * RATE))
    t = np.arange(round(0.25 * RATE)) / RATE
    for time in times:
        at = round(time * RATE)
        samples[at : at + len(t)] += np.sin(2 * np.pi * hertz * t) * np.exp(-t / 0.05)
    return (0.3 * samples).astype(np.float32)


def peaks(strength: np.ndarray) -> np.ndarray:
    """Instants in seconds of the peaks that stand out."""
    return find_peaks(np.pad(strength, 1), height=0.4 * strength.max(), distance=10)[0] / FRAME_RATE


BANDS = {"low": 60.0, "mid": 900.0, "high": 9000.0}
instants = st.lists(st.integers(0, 17), min_size=1, max_size=6, unique=True)


@settings(max_examples=20, deadline=None)
@given(instants, st.sampled_from(sorted(BANDS)))
def test_what_begins_is_found_at_its_instant_in_its_band(places, band):
    times = sorted(0.3 + 0.2 * place for place in places)
    found = find_onsets(struck(times, BANDS[band]))
    heard = peaks(getattr(found, band))
    assert len(heard) == len(times)
    assert np.abs(heard - times).max() <= 0.03
    assert found.full == pytest.approx(found.low + found.mid + found.high, abs=1e-3)


def test_a_band_hears_its_own_tones_most():
    found = {tone: find_onsets(struck([1.0, 2.0], hertz)) for tone, hertz in BANDS.items()}
    for band in BANDS:
        heard = {tone: float(getattr(each, band).sum()) for tone, each in found.items()}
        assert all(heard[band] > 2 * heard[tone] for tone in BANDS if tone != band)


def test_a_glide_is_no_onset_though_it_crosses_many_bands():
    t = np.arange(4 * RATE) / RATE
    glide = 0.3 * np.sin(2 * np.pi * (300 * t + 60 * np.sin(2 * np.pi * 0.5 * t)))
    strength = find_onsets(glide.astype(np.float32)).full
    assert strength[50:-50].max() < 0.1 * find_onsets(struck([1.0], 300)).full.max()


def test_peaks_are_those_of_a_reference():
    samples = play(118, bars=4, seed=2).samples[:, 0]
    sampled = {"sr": RATE, "hop_length": onsets.HOP, "units": "time"}
    ours = librosa.onset.onset_detect(onset_envelope=find_onsets(samples).full, **sampled)
    theirs = librosa.onset.onset_detect(y=samples, **sampled)
    assert mir_eval.onset.f_measure(theirs, ours, window=0.03)[0] > 0.9


def test_a_change_of_chord_is_told_from_the_same_one_played_again():
    def chord(*hertz: float) -> np.ndarray:
        return np.sum([struck([0.0, 0.25, 0.5, 0.75], each, 1.0) for each in hertz], axis=0)

    one, other = chord(220, 277.2, 329.6), chord(246.9, 311.1, 370.0)
    change = find_onsets(np.concatenate([one, one, other, other])).chord
    inside = change[50:-50]
    assert np.argmax(inside) / FRAME_RATE + 0.5 == pytest.approx(2.0, abs=0.1)
    assert change[90:110].max() < 0.2 * inside.max()


@pytest.mark.parametrize("block", [1, 7, 100])
def test_blocks_leave_no_seams(monkeypatch, block):
    samples = play(124, bars=1, seed=4).samples[:, 0][: 2 * RATE]
    whole = find_onsets(samples)
    monkeypatch.setattr(onsets, "BLOCK", block)
    parts = find_onsets(samples)
    for name in ("full", "low", "mid", "high", "chord"):
        assert getattr(parts, name) == pytest.approx(getattr(whole, name), abs=1e-4)


@settings(max_examples=15, deadline=None)
@given(st.sampled_from([8000, 11_025, 22_050, 32_000, 48_000, 96_000, 192_000]), st.floats(0.1, 0.8))
def test_any_rate_becomes_the_one_of_the_analysis_and_nothing_moves(rate, at):
    samples = np.exp(-(((np.arange(rate) / rate - at) / 0.004) ** 2)).astype(np.float32)
    track, _ = split(Source.of(samples[:, None], rate), RATE)
    other = track[:]
    assert len(other) == pytest.approx(RATE, abs=1)
    assert np.argmax(other) / RATE == pytest.approx(at, abs=1 / rate + 1 / RATE)
    assert other.max() == pytest.approx(1.0, abs=0.02)


@given(st.sampled_from([2, 4]), st.integers(0, 1000), st.floats(0.99, 1.0))
def test_channels_that_take_each_other_away_leave_the_first(channels, seed, gain):
    first = np.random.default_rng(seed).uniform(-1, 1, 50).astype(np.float32)
    samples = np.stack([first, -np.float32(gain) * first] * (channels // 2), axis=1)
    assert (mixed_down(samples) == first).all()
    assert not split(Source.of(samples, RATE), RATE)[1][:].any()


@given(st.integers(1, 8), st.integers(0, 1000))
def test_channels_are_mixed_to_their_mean(channels, seed):
    samples = np.random.default_rng(seed).uniform(-1, 1, (50, channels)).astype(np.float32)
    assert mixed_down(samples) == pytest.approx(samples.mean(axis=1), abs=1e-6)
    middle, sides = split(Source.of(samples, RATE), RATE)
    assert middle[:] == pytest.approx(samples.mean(axis=1), abs=1e-6)
    left, right = samples[:, 0], samples[:, min(1, channels - 1)]
    assert sides[:] == pytest.approx((left - right) / 2, abs=1e-6)
