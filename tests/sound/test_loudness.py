"""Loudness and true peak, against the standard's own values, EBU's signals and pyloudnorm."""

import numpy as np
import pyloudnorm
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from izmet.sound.limiter import CEILING, limited, spare
from izmet.sound.loudness import Loudness, decibels, filters


def heard(samples: np.ndarray, rate: int, block: int = 7001) -> Loudness:
    meter = Loudness(rate, samples.shape[1])
    for begin in range(0, len(samples), block):
        meter.add(samples[begin : begin + block].astype(np.float32))
    return meter


def tone(frequency: float, level: float, seconds: float, rate: int = 48000) -> np.ndarray:
    """A sine of both channels at a level in dBFS."""
    at = np.arange(round(seconds * rate)) / rate
    return np.repeat((10 ** (level / 20) * np.sin(2 * np.pi * frequency * at))[:, None], 2, axis=1)


def test_the_filters_are_those_that_the_standard_prints():
    """ITU-R BS.1770, tables 1 and 2, for 48 kHz."""
    shelf, passed = filters(48000)
    np.testing.assert_allclose(
        shelf,
        [1.53512485958697, -2.69169618940638, 1.19839281085285, 1, -1.69065929318241, 0.73248077421585],
        atol=1e-9,
    )
    np.testing.assert_allclose(passed, [1, -2, 1, 1, -1.99004745483398, 0.99007225036621], atol=1e-9)


@pytest.mark.parametrize("rate", [44100, 48000, 96000])
@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-23, 20)], -23),
        ([(-33, 20)], -33),
        ([(-36, 10), (-23, 60), (-36, 10)], -23),
        ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23),
        ([(-26, 20), (-20, 20.1), (-26, 20)], -23),
    ],
)
def test_ebu_signals(rate, parts, expected):
    """EBU Tech 3341, minimum requirements, cases 1 to 5: tones of 1 kHz at levels; within 0.1 LU."""
    sound = np.concatenate([tone(1000, level, seconds, rate) for level, seconds in parts])
    assert heard(sound, rate).integrated == pytest.approx(expected, abs=0.1)


@given(st.integers(0, 1000), st.sampled_from([44100, 48000]), st.sampled_from([1, 2, 5]), st.floats(-40, 0))
def test_loudness_is_that_of_pyloudnorm(seed, rate, channels, level):
    rng = np.random.default_rng(seed)
    seconds = 4
    shape = np.repeat(rng.uniform(0, 1, seconds * 10), rate // 10)[:, None]
    sound = 10 ** (level / 20) * 0.3 * shape * rng.standard_normal((len(shape), channels))
    ours = heard(sound, rate).integrated
    if channels == 5:  # there, all of five count; the fourth of files is for low frequencies
        sound = np.insert(sound, 3, 0, axis=1)
        ours = heard(sound, rate).integrated
        sound = np.delete(sound, 3, axis=1)
    theirs = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(sound)
    assert ours == pytest.approx(theirs, abs=0.1)


@given(st.integers(0, 1000), st.integers(100, 9000))
def test_true_peak_is_that_of_a_finer_sound(seed, block):
    """Reference: soxr, at four times the rate."""
    rng = np.random.default_rng(seed)
    sound = soxr.resample(rng.standard_normal((6000, 2)) * 0.2, 24000, 48000)
    found = heard(sound, 48000, block).true_peak
    expected = np.abs(soxr.resample(sound, 48000, 192000, quality="VHQ")).max()
    assert decibels(found) == pytest.approx(decibels(expected), abs=0.3)
    silent = heard(np.zeros((5000, 2)), 48000)
    assert (silent.integrated, silent.true_peak) == (float("-inf"), 0)


def test_a_tone_between_its_samples_reaches_higher_than_they_tell():
    """EBU Tech 3341, case 16: a quarter of the rate, at 45 degrees; its samples reach −3 dB of its peak."""
    at = np.arange(48000)
    fades = np.interp(at, [0, 4000, 44000, 48000], [0, 1, 1, 0])
    sound = 0.5 * (fades * np.sin(np.pi / 2 * at + np.pi / 4))[:, None]
    assert decibels(np.abs(sound).max()) == pytest.approx(-9.03, abs=0.01)
    assert decibels(heard(sound, 48000).true_peak) == pytest.approx(-6, abs=0.4)


@given(st.integers(0, 500), st.floats(0.5, 12))
def test_what_is_limited_stays_under_the_ceiling_between_its_samples_too(seed, drive):
    rng = np.random.default_rng(seed)
    sound = (drive * 0.3 * soxr.resample(rng.standard_normal((4000, 2)), 24000, 48000)).astype(np.float32)
    more = spare(48000)
    whole = np.concatenate([np.zeros((more, 2), np.float32), sound, np.zeros((more, 2), np.float32)])
    out = limited(whole, 48000)
    reached = np.abs(soxr.resample(out.astype(np.float64), 48000, 192000, quality="VHQ")).max()
    assert decibels(reached) <= decibels(CEILING) + 0.1
