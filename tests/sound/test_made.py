"""The sounds that come along: where each begins, is fullest and ends, and that none clicks or is cut off."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from izmet.core.shown.mix import Plain, Voice
from izmet.core.shown.sounds import PEAK
from izmet.sound.attack import refine
from izmet.sound.loudness import Loudness
from izmet.sound.made import LOUDEST, MAKERS, RATE, _samples, made
from izmet.sound.mixer import Mixer

HITS, RISING = ("boom", "drop", "click"), ("riser", "swell")


def samples(name: str, seconds: float, seed: int = 0) -> np.ndarray:
    source = made(name, seconds, seed)
    return source.stretch(0, source.count)[:, 0].astype(float)


def strength(wave: np.ndarray, seconds: float = 0.05) -> np.ndarray:
    """The mean strength over a stretch around each sample."""
    count = round(seconds * RATE)
    return np.sqrt(np.convolve(np.square(wave), np.ones(count) / count, "same"))


@settings(max_examples=25)
@given(st.sampled_from(sorted(MAKERS)), st.floats(0.05, 6), st.integers(0, 1000))
def test_each_is_as_long_as_it_is_asked_to_be_and_the_same_again(name, seconds, seed):
    wave = samples(name, seconds, seed)
    assert len(wave) == round(seconds * RATE)
    assert np.abs(wave).max() == pytest.approx(LOUDEST, abs=1e-6)
    assert wave[-1] == 0, "it does not end in a step"
    _samples.cache_clear()
    np.testing.assert_array_equal(wave, samples(name, seconds, seed))


@pytest.mark.parametrize("name", HITS)
@pytest.mark.parametrize("seconds", [0.2, 1.5])
def test_a_hit_begins_on_its_first_sample(name, seconds):
    """Found again by the attack finder, with silence before it."""
    wave = np.concatenate([np.zeros(RATE // 4), samples(name, seconds)]).astype(np.float32)
    assert np.abs(wave[RATE // 4]) > 0.1
    assert refine(wave, RATE, 0.25 + 0.004) * RATE == pytest.approx(RATE // 4, abs=1)
    early, late = strength(wave)[RATE // 4 + 600], strength(wave)[-1200:].max()
    assert early > 3 * late


@pytest.mark.parametrize("name", RISING)
def test_what_rises_is_fullest_at_its_end(name):
    wave = samples(name, 3.0)
    level = strength(wave)[:: RATE // 10]
    assert level[-1] == max(level)
    assert level[2] < 0.1 * level[-1]


def test_a_whoosh_is_fullest_at_its_peak():
    for seed in range(4):
        level = strength(samples("whoosh", 2.0, seed), 0.15)
        assert np.argmax(level) / RATE == pytest.approx(2.0 * PEAK, abs=0.1)
        assert max(level[:4800].max(), level[-4800:].max()) < 0.35 * level.max()


def test_a_riser_rises_in_pitch():
    wave = samples("riser", 4.0)
    low, high = (
        sosfilt(butter(4, edge, kind, fs=RATE, output="sos"), wave)
        for edge, kind in ((800, "low"), (3000, "high"))
    )
    part = strength(high, 0.2) / (strength(low, 0.2) + strength(high, 0.2))
    assert part[round(3.5 * RATE)] > 3 * part[RATE // 2]


@pytest.mark.parametrize("rate", [44_100, 48_000])
@pytest.mark.parametrize("at", [1.0, 0.73218])
def test_in_a_mix_its_first_sample_is_that_of_its_place(rate, at):
    voice = Voice("made", Plain(at), at, at + 0.5, 1.0)
    mix = Mixer([voice], {"made": made("click", 0.5, 0)}, rate, 1)
    heard = mix.block(0, 2 * rate)[:, 0]
    assert np.argmax(np.abs(heard) > 0.3 * np.abs(heard).max()) == pytest.approx(at * rate, abs=1)


def test_none_is_out_of_all_proportion_to_the_others():
    found = {}
    for name in MAKERS:
        meter = Loudness(RATE, 1)
        meter.add(samples(name, 2.0).astype(np.float32)[:, None])
        found[name] = meter.integrated
    assert max(found.values()) - min(value for name, value in found.items() if name != "click") < 16
