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


PEAKED = "EBU Tech 3341, minimum requirements, cases 15 to 23, from memory: within +0.2 and −0.4 dBTP."


def as_peaked(sound: np.ndarray) -> float:
    """The true peak of a tone in dBTP, which comes and goes softly: broken off it would reach higher."""
    at = np.arange(len(sound))
    fades = np.interp(at, [0, 4000, len(sound) - 4000, len(sound)], [0, 1, 1, 0])
    return decibels(heard((fades * sound)[:, None], 48000).true_peak)


@pytest.mark.parametrize(
    ("part", "degrees", "amplitude", "expected"),
    [(4, 0, 0.5, -6), (4, 45, 0.5, -6), (6, 60, 0.5, -6), (8, 67.5, 0.5, -6), (4, 45, 1.41, 3)],
)
def test_a_tone_between_its_samples_reaches_higher_than_they_tell(part, degrees, amplitude, expected):
    """A tone of a part of the rate: what its samples tell is up to 3 dB less."""
    phase = 2 * np.pi * np.arange(48000) / part + np.deg2rad(degrees)
    found = as_peaked(amplitude * np.sin(phase))
    assert expected - 0.4 <= found <= expected + 0.2, PEAKED


@pytest.mark.parametrize("offset", range(4))
def test_a_single_wave_that_is_higher_is_found_wherever_it_is_sampled(offset):
    """One wave twice as high, made at four times the rate and taken from each of the four places."""
    fine = 0.5 * np.sin(2 * np.pi * np.arange(4 * 24000) / 24)
    fine[24 * 2000 : 24 * 2001] *= 2
    # What lies above half the rate goes first, as in anything that is sampled.
    sampled = soxr.resample(np.roll(fine, offset), 192000, 48000, quality="VHQ")
    found = as_peaked(sampled)
    reached = decibels(np.abs(soxr.resample(sampled, 48000, 192000 * 2, quality="VHQ")[8000:-8000]).max())
    assert reached - 0.4 <= found <= reached + 0.2, PEAKED


def test_all_channels_but_that_of_low_frequencies_count():
    """EBU Tech 3341, case 6, from memory: 1 kHz, −28 dBFS left and right, −24 in the middle, −30 behind."""
    levels = (-28.0, -28.0, -24.0, 0.0, -30.0, -30.0)
    sound = np.column_stack([tone(1000, level, 20)[:, 0] for level in levels])
    sound[:, 3] = 0.5 * np.sin(2 * np.pi * 40 * np.arange(len(sound)) / 48000)
    assert heard(sound, 48000).integrated == pytest.approx(-23, abs=0.1)


def test_momentary_loudness_holds_over_what_comes_and_goes():
    """EBU Tech 3341, case 12, from memory: −20 dBFS for 0.18 s and −30 for 0.22 s in turn; −23 all along."""
    turn = np.concatenate([tone(1000, -20, 0.18), tone(1000, -30, 0.22)])
    found = heard(np.tile(turn, (25, 1)), 48000).momentary
    assert found[7:] == pytest.approx(np.full(len(found) - 7, -23), abs=0.1)


@pytest.mark.parametrize("rate", [44100, 48000, 22050])
def test_the_loudest_moment_is_found_wherever_it_begins(rate):
    """EBU Tech 3341, cases 13 and 14, from memory: tones of 400 ms at −23 dBFS, each begun 20 ms later than
    the one before; and at −38 to −19 dBFS one after the other, a second apart; within 0.1 LU."""
    for k in range(20):
        before = np.zeros((round((0.02 * k + 0.001) * rate), 2))
        found = heard(np.concatenate([before, tone(1000, -23, 0.4, rate)]), rate)
        found.add(np.zeros((rate, 2)))
        assert found.loudest == pytest.approx(-23, abs=0.1)
    meter, nothing = Loudness(rate, 2), np.zeros((rate, 2))
    for level in range(-38, -18):
        meter.add(np.concatenate([nothing, tone(1000, level, 0.4, rate)]))
        meter.add(nothing)
        assert meter.loudest == pytest.approx(level, abs=0.1)


@given(st.integers(0, 500), st.floats(0.5, 12))
def test_what_is_limited_stays_under_the_ceiling_between_its_samples_too(seed, drive):
    rng = np.random.default_rng(seed)
    sound = (drive * 0.3 * soxr.resample(rng.standard_normal((4000, 2)), 24000, 48000)).astype(np.float32)
    more = spare(48000)
    whole = np.concatenate([np.zeros((more, 2), np.float32), sound, np.zeros((more, 2), np.float32)])
    out = limited(whole, 48000)
    reached = np.abs(soxr.resample(out.astype(np.float64), 48000, 192000, quality="VHQ")).max()
    assert decibels(reached) <= decibels(CEILING) + 0.1
