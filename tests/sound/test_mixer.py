"""The mix: every voice on its sample, and the same whatever blocks it is pulled in."""

from itertools import pairwise

import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from izmet.core.shown.mix import SONG, Plain, Voice
from izmet.sound.limiter import CEILING
from izmet.sound.mixer import EDGE_SECONDS, Excerpt, Mixer
from izmet.sound.source import Source


def voice(source=SONG, origin=0.0, begin=0.0, end=10.0, level=1.0) -> Voice:
    return Voice(source, Plain(origin), begin, end, level)


def noise(count: int, channels: int = 1, seed: int = 1) -> np.ndarray:
    return (0.2 * np.random.default_rng(seed).standard_normal((count, channels))).astype(np.float32)


@given(
    origin=st.floats(-1, 1),
    begin=st.floats(0, 1),
    length=st.floats(0, 2),
    level=st.floats(0.1, 1),
    start=st.integers(0, 1500),
    count=st.integers(1, 1500),
)
def test_a_voice_is_heard_on_its_samples_and_nowhere_else(origin, begin, length, level, start, count):
    rate, samples = 1000, noise(1500)
    mix = Mixer.of(
        [voice("take", origin, begin, begin + length, level)], {"take": Source.of(samples, 48_000)}
    )
    assert mix.rate == 48_000
    mix = Mixer(mix.voices, {"take": Source.of(samples, rate)}, rate, 1)
    block = mix.block(start, count)[:, 0]
    for index in range(0, count, 37):
        at = start + index
        own = at - round(origin * rate)
        first, end, edge = round(begin * rate), round((begin + length) * rate), round(EDGE_SECONDS * rate)
        # All of it on its own samples; beside them it comes and goes evenly.
        part = min(1, max(0, (at - first + edge) / edge), max(0, (end + edge - 1 - at) / edge))
        expected = level * part * samples[own, 0] if 0 <= own < len(samples) else 0
        assert block[index] == pytest.approx(expected, abs=1e-6)


@given(st.lists(st.integers(1, 9000), min_size=1, max_size=6))
def test_blocks_join_without_a_seam_at_another_rate(cuts):
    """The whole resampled at once by soxr is the reference; the mix is pulled in pieces."""
    take, song = 0.5 * noise(44_100, seed=2), np.zeros((48_000, 2), np.float32)
    sources = {SONG: Source.of(song, 48_000), "take": Source.of(take, 44_100)}
    mix = Mixer.of([voice(), voice("take", end=1.0)], sources)
    edges = np.cumsum([0, *cuts])
    pulled = np.concatenate([mix.block(int(a), int(b - a)) for a, b in pairwise(edges)])
    silence = np.zeros((4410, 1), np.float32)  # as the mix is silent before its sound begins
    whole = soxr.resample(np.concatenate([silence, take]), 44_100, 48_000, quality="VHQ")[4800:, 0]
    edge = round(EDGE_SECONDS * 48_000)
    count = min(len(pulled), len(whole) - edge)
    np.testing.assert_allclose(pulled[:count, 0], whole[:count], atol=2e-4)


def test_voices_add_up_and_never_leave_the_range():
    loud = np.full((100, 1), 0.8, np.float32)
    sources = {SONG: Source.of(loud, 100), "take": Source.of(loud, 100)}
    assert Mixer.of([voice(), voice("take")], sources).block(0, 50).max() <= CEILING
    assert Mixer.of([voice(level=0.5), voice("take", level=0.25)], sources).block(0, 50)[
        0, 0
    ] == pytest.approx(0.6)


def test_what_has_no_sound_is_silent_and_sets_no_rate():
    mix = Mixer.of([voice("take"), voice("other", level=0)], {"other": Source.of(noise(10, 2), 8000)})
    assert (mix.voices, mix.rate, mix.channels) == ([], 48_000, 1)
    assert not mix.block(0, 100).any()


def test_a_stretch_ends_where_it_ends():
    mix = Mixer.of([voice()], {SONG: Source.of(noise(1000), 1000)})
    stretch = Excerpt(mix, 400, 130)
    pulled = np.concatenate([stretch.block(0, 100), stretch.block(100, 100)])
    np.testing.assert_array_equal(pulled, mix.block(400, 130))
    assert len(stretch.block(130, 100)) == 0


@given(st.integers(0, 47), st.floats(0.1, 0.9))
def test_what_is_cut_off_does_not_click(phase, end):
    """A tone that is cut on a wave's crest: beside the cut, what lies far above it is 40 dB down."""
    rate = 48_000
    tone = 0.4 * np.sin(2 * np.pi * (300 * np.arange(rate) / rate + phase / 48))[:, None].astype(np.float32)
    mix = Mixer.of([voice("take", end=end)], {"take": Source.of(tone, rate)})
    at = round(end * rate)
    heard = mix.block(at - 2048, 4096)[:, 0] * np.hanning(4096)
    power = np.abs(np.fft.rfft(heard)) ** 2
    high = power[round(6000 / rate * 4096) :].sum()
    assert 10 * np.log10(high / power.sum()) < -40
