"""Sound at any speed: against closed forms and another resampler; seams, rests, and the way back."""

from itertools import pairwise

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Dip, Swell
from izmet.core.shown.mix import SONG, voices
from izmet.sound.mixer import Mixer
from izmet.sound.source import Source
from izmet.sound.varispeed import loudness, read_at
from tests.core.examples import tied_edit

RATE = 48_000


def tone(hertz: float, at: np.ndarray) -> np.ndarray:
    return np.sin(2 * np.pi * hertz * at / RATE)


def decibels(wanted: np.ndarray, found: np.ndarray) -> float:
    """How far below a sound what differs from it lies."""
    return float(10 * np.log10((wanted**2).mean() / ((found - wanted) ** 2).mean()))


@given(st.floats(100, 9000), st.floats(0.02, 2), st.floats(0.02, 2), st.sampled_from([1, -1]))
def test_a_tone_along_a_ramp_of_speed_is_what_the_formula_says(hertz, slow, fast, way):
    x = np.arange(4000) / 4000
    step = slow + (fast - slow) * x
    at = 6000 + way * (4000 * (slow * x + (fast - slow) * x * x / 2))
    long = np.arange(-3000, 16_000)
    samples = np.stack([tone(hertz, long), tone(hertz / 2, long)], axis=1).astype(np.float32)
    found = read_at(samples, at + 3000, step)
    assert decibels(tone(hertz, at), found[:, 0]) > 80
    assert decibels(tone(hertz / 2, at), found[:, 1]) > 80


@given(st.floats(1.3, 20), st.floats(1.1, 1.9))
@settings(max_examples=30)
def test_what_is_too_high_to_be_heard_is_left_out(speed, above):
    hertz = above * RATE / 2 / speed
    length = int(3000 * speed) + 2000
    samples = tone(hertz, np.arange(length)).astype(np.float32)[:, None]
    found = read_at(samples, 1000 + speed * np.arange(3000), np.full(3000, speed))
    assert 20 * np.log10(np.abs(found[100:-100]).max()) < -60


@pytest.mark.parametrize("speed", [0.5, 2.0, 1.25])
def test_at_one_speed_it_is_what_another_resampler_gives(speed):
    """soxr at its best is the reference; noise without what lies near the edge of either."""
    noise = np.random.default_rng(3).standard_normal(24_000)
    low = soxr.resample(soxr.resample(noise, RATE, RATE * 0.35, "VHQ"), RATE * 0.35, RATE, "VHQ")
    samples = low.astype(np.float32)[:, None]
    wanted = soxr.resample(low, RATE * speed, RATE, "VHQ")
    count = len(wanted)
    found = read_at(samples, speed * np.arange(count), np.full(count, speed))[:, 0]
    middle = slice(count // 4, -count // 4)
    assert decibels(wanted[middle], found[middle]) > 80


def test_where_it_is_read_as_it_lies_it_is_as_it_was():
    samples = np.random.default_rng(4).standard_normal((500, 2)).astype(np.float32)
    np.testing.assert_allclose(read_at(samples, np.arange(500.0), np.ones(500)), samples, atol=1e-6)


def mixer(shapes, level=0.5, rate=44_100) -> tuple[Mixer, Source]:
    ties = [(1.0, 60), (1.5, 100), (2.0, 130)][: len(shapes) + 1]
    edit = do.apply(tied_edit(ties, shapes), do.SetLevel(clip="clip-1", level=level))
    x = np.arange(4 * rate) / rate
    own = Source.of((0.8 * np.sin(2 * np.pi * 200 * x)).astype(np.float32)[:, None], rate)
    song = Source.of(np.zeros((3 * RATE, 1), np.float32), RATE)
    return Mixer.of(voices(edit), {SONG: song, "gannet": own}), own


@given(st.lists(st.integers(1, 60_000), min_size=1, max_size=5))
@settings(max_examples=30)
def test_blocks_of_a_bent_sound_join_without_a_seam(cuts):
    mix, _ = mixer([Dip(strength=0.8), Swell(strength=0.5)])
    edges = np.cumsum([0, *cuts])
    pulled = np.concatenate([mix.block(int(a), int(b - a)) for a, b in pairwise(edges)])
    np.testing.assert_allclose(pulled, mix.block(0, int(edges[-1])), atol=1e-6)


def test_a_clip_turned_round_is_heard_from_its_end_to_its_beginning():
    mix, own = mixer([Dip(strength=0.5)])
    there = mix.block(RATE, RATE // 2)[:, 0]
    edit = do.apply(
        tied_edit([(1.0, 60), (1.5, 100)], [Dip(strength=0.5)]), do.SetLevel(clip="clip-1", level=0.5)
    )
    turned = do.apply(edit, do.ReverseClip(clip="clip-1"))
    back = Mixer.of(voices(turned)[1:], {"gannet": own})
    begin = round(voices(turned)[1].begin * RATE)
    frame = RATE // 60  # its last picture is seen for a frame, too, and so is heard
    heard = back.block(begin, RATE // 2 + frame)[:, 0]
    assert np.corrcoef(there[2000:-2000], heard[: len(there)][::-1][2000:-2000])[0, 1] > 0.99


def test_a_rest_is_silent_and_begins_without_a_click():
    edit = do.apply(tied_edit([(1.0, 60), (1.5, 90)]), do.SetLevel(clip="clip-1", level=1))
    edit = do.apply(edit, do.HoldPicture(clip="clip-1", pin="pin-0", frames=20))
    own = Source.of(np.full((4 * RATE, 1), 0.5, np.float32), RATE)
    heard = Mixer.of(voices(edit)[1:], {"gannet": own}).block(RATE, RATE // 2)[:, 0]
    assert not heard[1000:15_000].any()
    assert heard[17_000:].min() == pytest.approx(0.5, abs=1e-3)
    assert np.abs(np.diff(heard)).max() < 0.01


def test_sound_that_moves_fades_no_more_than_it_must():
    assert (loudness(np.full(700, -0.05), 120) == 1).all()
    assert loudness(np.full(700, 0.025), 120) == pytest.approx(0.5)
