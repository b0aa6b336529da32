"""A mix comes to the loudness that is asked, measured by pyloudnorm, and stays under the ceiling."""

import numpy as np
import pyloudnorm
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core.shown.mix import SONG, Plain, Voice
from izmet.sound.levelling import levelled
from izmet.sound.limiter import CEILING
from izmet.sound.loudness import decibels
from izmet.sound.mixer import Excerpt, Mixer
from izmet.sound.source import Source

RATE = 48_000


def music(seed: int, seconds: float, level: float) -> np.ndarray:
    """Noise that swells twice a second, with hits that stand out."""
    rng = np.random.default_rng(seed)
    at = np.arange(round(seconds * RATE)) / RATE
    swell = 0.4 + 0.6 * np.exp(-6 * (at % 0.5))
    return (level * 0.2 * swell[:, None] * rng.standard_normal((len(at), 2))).astype(np.float32)


@given(st.integers(0, 50), st.floats(0.15, 1.2), st.sampled_from([-23.0, -14.0]))
def test_a_mix_comes_to_what_is_asked(seed, level, wanted):
    song = Source.of(music(seed, 4, level), RATE)
    heard = levelled(Excerpt(Mixer.of([Voice(SONG, Plain(0), 0, 4, 1)], {SONG: song}), 0, 4 * RATE), wanted)
    out = heard.block(0, 4 * RATE)
    found = pyloudnorm.Meter(RATE, filter_class="DeMan").integrated_loudness(out.astype(np.float64))
    assert found == pytest.approx(wanted, abs=0.25)
    assert np.abs(out).max() <= CEILING
    assert decibels(float(np.abs(out).max())) <= -1


def test_silence_stays_silent():
    quiet = Source.of(np.zeros((RATE, 2), np.float32), RATE)
    heard = Excerpt(Mixer.of([Voice(SONG, Plain(0), 0, 1, 1)], {SONG: quiet}), 0, RATE)
    assert levelled(heard, -14).mixer.gain == 1
