"""An attack is found to the sample, and the peaks that are drawn are the song's."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from izmet.sound.attack import REACH_SECONDS, felt, refine
from izmet.sound.peaks import BASE, FACTOR, SETTLE_SAMPLES, band_peaks, band_samples
from izmet.sound.source import Source

RATE = 44100


@pytest.mark.parametrize("off", [-0.018, 0.0, 0.015])
def test_an_attack_is_found_to_the_sample(off):
    rng = np.random.default_rng(2)
    samples = 0.001 * rng.standard_normal(RATE)
    samples[20000:24000] += rng.standard_normal(4000) * np.exp(-np.arange(4000) / 800)
    assert refine(samples.astype(np.float32), RATE, 20000 / RATE + off) * RATE == pytest.approx(20000, abs=2)


@settings(max_examples=40)
@given(
    st.sampled_from([22050, 44100, 48000, 96000]),
    st.floats(-0.012, 0.012),
    st.floats(40, 160),
    st.floats(600, 3000),
    st.floats(-26, -6),
)
def test_a_soft_note_is_found_while_a_loud_one_rings_on(rate, off, loud_hz, soft_hz, decibels):
    t = np.arange(rate // 2) / rate
    begins = round(0.25 * rate)
    ringing = np.sin(2 * np.pi * loud_hz * t) * np.exp(-t / 0.4)
    soft = np.sin(2 * np.pi * soft_hz * (t - t[begins])) * (t >= t[begins])
    heard = (ringing + 10 ** (decibels / 20) * soft).astype(np.float32)
    assert refine(heard, rate, begins / rate + off) == pytest.approx(begins / rate, abs=0.001)


@given(
    arrays(
        np.float32,
        st.integers(0, 3000),
        elements=st.sampled_from([0.0, 1e-45, 1e-30, 1e-9, 0.3, -0.3, 1.0, -1.0]),
        fill=st.sampled_from([0.0, 1e-45, 0.5]),
    ),
    st.floats(0, 0.08),
)
def test_whatever_sounds_an_instant_within_reach_is_told(samples, time):
    assert abs(refine(samples, RATE, time) - time) <= REACH_SECONDS + 1 / RATE


@pytest.mark.parametrize("level", [0.0, 0.5])
def test_where_nothing_begins_the_rough_instant_stays(level):
    assert refine(np.full(RATE, level, np.float32), RATE, 0.3) == 0.3
    assert refine(np.full(60, level, np.float32), RATE, 0.001) == 0.001


def low_then_high() -> np.ndarray:
    t = np.arange(RATE) / RATE
    samples = np.where(t < 0.5, np.sin(2 * np.pi * 60 * t), 0.5 * np.sin(2 * np.pi * 9000 * t))
    return samples.astype(np.float32)[:, None]


def test_peaks_are_the_loudest_sample_of_each_band_at_every_level():
    levels = band_peaks(Source.of(low_then_high(), RATE))
    assert len(levels[0]) == -(-RATE // BASE)
    first, second = levels[0][: len(levels[0]) // 2 - 16], levels[0][len(levels[0]) // 2 + 16 :]
    # A single block of BASE samples is shorter than the low tone's period: look at a few together.
    assert (
        first[40:].reshape(-1, 3)[: len(first[40:]) // 16 * 16].reshape(-1, 16, 3).max(axis=1)[:, 0].min()
        > 150
    )
    assert first[40:, 2].max() < 30
    assert second[40:, 2].min() > 5 * second[40:, 0].max()
    for finer, coarser in pairwise(levels):
        assert len(coarser) == -(-len(finer) // FACTOR)
        assert coarser.max() == finer.max()


def test_single_samples_of_the_bands_add_up_to_what_the_peaks_say():
    samples = low_then_high()
    bands = band_samples(samples, RATE)
    levels = band_peaks(Source.of(samples, RATE))[0]
    loudest = np.abs(bands).max()
    block = SETTLE_SAMPLES // BASE + 5
    for band in range(3):
        peak = np.abs(bands[block * BASE : (block + 1) * BASE, band]).max()
        assert levels[block, band] / 255 == pytest.approx(peak / loudest, abs=0.01)


@pytest.mark.parametrize("lead", [0, 1, 40, 300, 30_000])
@pytest.mark.parametrize("rise", [0, 100])
def test_a_sound_by_itself_is_felt_to_begin_at_its_attack(lead, rise):
    """Noise that sets in after some samples, over hiss 60 dB below; also where it comes in over 2 ms."""
    rng = np.random.default_rng(lead + rise)
    hiss = 0.0005 * rng.normal(0, 1, lead + 40_000)
    blow = 0.5 * rng.normal(0, 1, 40_000) * np.exp(-np.arange(40_000) / 9_000)
    if rise:
        blow[:rise] *= np.linspace(0, 1, rise)
    hiss[lead:] += blow
    assert felt(hiss.astype(np.float32), RATE) * RATE == pytest.approx(lead, abs=2 + rise / 2)


def test_silence_is_felt_to_begin_at_once():
    assert felt(np.zeros(4000, np.float32), RATE) == 0
