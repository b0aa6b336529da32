"""What is too loud is turned down, not cut off: below the ceiling, in shape, and the same in any blocks."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core.shown.mix import SONG, Plain, Voice
from izmet.sound.limiter import CEILING, limited, spare
from izmet.sound.loudness import SPARE, true_peaks
from izmet.sound.mixer import Mixer
from izmet.sound.source import Source

RATE = 8000


def whole(samples: np.ndarray, rate: int = RATE) -> np.ndarray:
    """All of a sound limited at once, with silence around it."""
    silence = np.zeros((spare(rate), samples.shape[1]), np.float32)
    return limited(np.concatenate([silence, samples.astype(np.float32), silence]), rate)


def overtones(samples: np.ndarray, hertz: float, rate: int) -> float:
    """What a tone has besides itself, as a part of it; the middle second."""
    middle = samples[rate : 2 * rate, 0].astype(np.float64) * np.hanning(rate)
    power = np.abs(np.fft.rfft(middle)) ** 2
    at = round(hertz)
    return float(np.sqrt((power.sum() - power[at - 3 : at + 4].sum()) / power.sum()))


@given(seed=st.integers(0, 999), loud=st.floats(0.5, 12), channels=st.integers(1, 2))
def test_no_sample_is_over_and_what_is_not_near_one_stays_as_it_is(seed, loud, channels):
    chance = np.random.default_rng(seed)
    samples = np.zeros((3000, channels), np.float32)
    for at in chance.integers(0, 3000, 4):
        samples[at : at + 60] += (loud * chance.standard_normal((60, channels))[: 3000 - at]).astype(
            np.float32
        )
    out = whole(samples)
    assert np.abs(out).max() <= CEILING
    over = true_peaks(samples) > CEILING
    near = np.convolve(over, np.ones(2 * spare(RATE) + 1), "same") > 0.5
    assert (out[~near] == samples[~near]).all()
    # One gain for all channels, above 0 and never above 1.
    sound = np.abs(samples) > 1e-3
    gain = out[sound] / samples[sound]
    assert gain.min() > 0
    assert gain.max() <= 1 + 1e-6


def test_the_gain_is_the_mean_of_the_least_that_each_neighbourhood_asks():
    """The definition, written out sample by sample."""
    chance = np.random.default_rng(7)
    samples = (1.3 * chance.standard_normal((900, 1))).astype(np.float32)
    reach = (spare(RATE) - SPARE) // 2
    silence = np.zeros((SPARE, 1), np.float32)
    peaks = true_peaks(np.concatenate([silence, samples, silence]))[SPARE:-SPARE]
    need = np.pad(CEILING / np.maximum(peaks, CEILING), 2 * reach, constant_values=1)
    held = np.array([need[max(0, n - reach) : n + reach + 1].min() for n in range(len(need))])
    flat = np.ones(reach + 1) / (reach + 1)
    gain = np.convolve(held, np.convolve(flat, flat), "same")[2 * reach : -2 * reach]
    limit = np.clip(samples[:, 0] * gain, -CEILING, CEILING)
    np.testing.assert_allclose(whole(samples)[:, 0], limit, atol=2e-6)


@pytest.mark.parametrize("hertz", [60, 220, 1000])
def test_a_tone_that_is_too_loud_stays_a_tone(hertz):
    tone = 2 * np.sin(2 * np.pi * hertz * np.arange(3 * 48_000) / 48_000)[:, None]
    assert overtones(np.clip(tone, -1, 1), hertz, 48_000) > 0.2
    assert overtones(whole(tone, 48_000), hertz, 48_000) < 0.002


@given(st.lists(st.integers(1, 4000), min_size=1, max_size=6))
def test_a_mix_is_limited_alike_in_any_blocks(cuts):
    chance = np.random.default_rng(3)
    song = Source.of((0.9 * chance.standard_normal((16_000, 2))).astype(np.float32), RATE)
    mix = Mixer.of([Voice(SONG, Plain(0), 0, 2, 1.5)], {SONG: song})
    edges = np.cumsum([0, *cuts])
    pulled = np.concatenate([mix.block(int(a), int(b - a)) for a, b in pairwise(edges)])
    np.testing.assert_allclose(pulled, mix.block(0, len(pulled)), atol=1e-6)
    assert np.abs(pulled).max() <= CEILING
