"""Sound that keeps its pitch: as high as recorded from half to twice the speed, attacks on their sample."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Build, Dip, Steady
from izmet.core.shown.mix import SONG, voices
from izmet.sound.mixer import Mixer
from izmet.sound.source import Source
from tests.core.examples import tied_edit

RATE = 48_000
SILENT = Source.of(np.zeros((RATE, 1), np.float32), RATE)


def mixer(ties, samples, shapes=None, kept=True, rate=RATE) -> Mixer:
    """A clip's own sound, tied as is said: the cue's second, the take's frame."""
    edit = do.apply(tied_edit(ties, shapes), do.SetLevel(clip="clip-1", level=1, pitch_kept=kept))
    return Mixer.of(voices(edit), {SONG: SILENT, "gannet": Source.of(samples, rate)})


def tone(hertz: float, seconds: float = 17, rate: int = RATE) -> np.ndarray:
    x = np.arange(round(seconds * rate)) / rate
    return (0.5 * np.sin(2 * np.pi * hertz * x)).astype(np.float32)[:, None]


def strikes(*frames: int, rate: int = RATE) -> np.ndarray:
    """A hum, and a burst of noise that dies away at each of some source frames, of 60 a second."""
    out = 0.02 * tone(110, rate=rate)
    for frame in frames:
        at = round(frame / 60 * rate)
        length = round(0.15 * rate)
        burst = np.random.default_rng(frame).uniform(-1, 1, length)
        out[at : at + length, 0] += (0.7 * burst * np.exp(-np.arange(length) / (0.03 * rate))).astype(
            np.float32
        )
    return out


def highest(heard: np.ndarray) -> float:
    """The strongest frequency, in Hz: the top of the parabola about the largest line of the spectrum."""
    lines = np.log(np.abs(np.fft.rfft(heard * np.hanning(len(heard)))) + 1e-12)
    k = int(np.argmax(lines[1:-1])) + 1
    left, here, right = lines[k - 1 : k + 2]
    return float((k + (left - right) / (2 * (left - 2 * here + right))) * RATE / len(heard))


@given(st.floats(0.52, 1.95), st.floats(150, 3000), st.sampled_from([44_100, 48_000]))
@settings(max_examples=15, deadline=None)
def test_a_tone_is_as_high_as_it_was_and_as_loud(speed, hertz, rate):
    last = 60 + round(speed * 120)
    heard = mixer([(1.0, 60), (3.0, last)], tone(hertz, rate=rate), rate=rate).block(RATE + RATE // 2, RATE)[
        :, 0
    ]
    assert highest(heard) == pytest.approx(hertz, rel=0.006)
    assert 20 * np.log10(heard.std() / (0.5 / 2**0.5)) == pytest.approx(0, abs=1.5)


def test_backwards_it_keeps_its_pitch_too():
    edit = do.apply(tied_edit([(1.0, 60), (3.0, 150)]), do.SetLevel(clip="clip-1", level=1, pitch_kept=True))
    turned = do.apply(edit, do.ReverseClip(clip="clip-1"))
    (own,) = (voice for voice in voices(turned) if voice.source == "gannet")
    mix = Mixer.of([own], {"gannet": Source.of(tone(700), RATE)})
    assert highest(mix.block(round(own.begin * RATE) + RATE // 2, RATE)[:, 0]) == pytest.approx(700, rel=0.01)


def test_through_a_ramp_the_pitch_strays_by_less_than_a_semitone():
    # Half a semitone within a piece, and what the vocoder's own look at a changing sound blurs.
    mix = mixer([(1.0, 60), (5.0, 300)], tone(440), [Build(start=0.6, end=1.6, softness=1.0)])
    found = [highest(mix.block(at, 4800)[:, 0]) for at in range(RATE + 9600, 5 * RATE - 9600, 4800)]
    assert np.abs(12 * np.log2(np.array(found) / 440)).max() < 1


@given(st.floats(0.55, 1.9), st.floats(0.55, 1.9), st.sampled_from([44_100, 48_000]), st.floats(0, 0.9))
@settings(max_examples=15, deadline=None)
def test_each_attack_is_on_its_sample_and_not_heard_before(before, after, rate, dip):
    struck = 200
    ties = [(1.0, struck - round(60 * before)), (2.0, struck), (3.0, struck + round(60 * after))]
    mix = mixer(ties, strikes(struck, rate=rate), [Dip(strength=dip / 2), Steady()], rate=rate)
    heard = np.abs(mix.block(2 * RATE - 4800, 9600)[:, 0])
    first = int(np.argmax(heard > 0.1)) - 4800
    # The burst's first sample may be any from -1 to 1: what counts is where it first is loud in the take.
    recorded = np.abs(strikes(struck, rate=rate)[:, 0])
    wanted = (int(np.argmax(recorded > 0.1)) / rate - struck / 60) * RATE
    assert abs(first - wanted) <= 1.5
    assert heard[: 4800 - 48].max() < 0.1


def test_what_is_not_tied_is_heard_when_it_is_seen():
    frames = [100, 130, 160, 190]
    ties = [(1.0, 60), (5.0, 222)]  # 162 frames in 240: .675 of real time
    heard = np.abs(mixer(ties, strikes(*frames)).block(RATE, 4 * RATE)[:, 0])
    for frame in frames:
        at = round((frame - 60) / 162 * 4 * RATE)
        near = heard[at - 4800 : at + 4800]
        assert abs(int(np.argmax(near > 0.5 * near.max())) - 4800) < 0.012 * RATE


@given(st.lists(st.integers(1, 60_000), min_size=1, max_size=5))
@settings(max_examples=10, deadline=None)
def test_blocks_join_without_a_seam(cuts):
    mix = mixer([(1.0, 60), (1.5, 90), (2.2, 130)], strikes(90, 110), [Dip(strength=0.6), Steady()])
    edges = np.cumsum([RATE, *cuts])
    pulled = np.concatenate([mix.block(int(a), int(b - a)) for a, b in pairwise(edges)])
    np.testing.assert_allclose(pulled, mix.block(RATE, int(edges[-1]) - RATE), atol=1e-6)


@pytest.mark.parametrize("speed", [0.3, 3.0])
def test_beyond_half_and_twice_the_speed_it_goes_along(speed):
    ties = [(1.0, 60), (3.0, 60 + round(120 * speed))]
    one, other = (mixer(ties, tone(500), kept=kept).block(RATE, 2 * RATE) for kept in (True, False))
    np.testing.assert_allclose(one, other, atol=1e-6)
    assert highest(one[RATE // 2 : RATE, 0]) == pytest.approx(500 * speed, rel=0.01)


def test_where_a_clip_comes_to_half_its_speed_the_sound_goes_over_without_a_gap():
    mix = mixer([(1.0, 60), (4.0, 222)], tone(300), [Dip(strength=0.8)])
    heard = mix.block(RATE + 4800, 3 * RATE - 9600)[:, 0].reshape(-1, 480)
    assert heard.std(axis=1).min() > 0.12
