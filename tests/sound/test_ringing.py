"""A song that rings out: it dies away in the time that is asked for, and nothing else changes."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.shown.mix import RING, SONG, voices
from izmet.sound.mixer import Mixer
from izmet.sound.ringing import SOFTER, ring_of
from izmet.sound.source import Source
from tests.core.examples import tied_edit

RATE = 44_100
CUT = 5.0


def song(seed: int = 1) -> Source:
    noise = 0.1 * np.random.default_rng(seed).standard_normal((8 * RATE, 2))
    return Source.of(noise.astype(np.float32), RATE)


def cut(**values: float):
    edit = do.apply(tied_edit([(1.0, 60), (3.0, 180)]), do.PlaceSong(start=0.5, heard_to=CUT))
    return do.apply(edit, do.FadeSong(**values))


def mixer(edit, sound: Source) -> Mixer:
    return Mixer.of(voices(edit), {SONG: sound, RING: ring_of(edit.song, sound)})


def level(samples: np.ndarray) -> float:
    return float(20 * np.log10(np.sqrt(np.square(samples).mean()) + 1e-9))


@given(st.floats(0.5, 6), st.integers(0, 50))
@settings(max_examples=15, deadline=None)
def test_it_dies_away_over_the_time_that_is_asked_for(seconds, seed):
    sound, edit = song(seed), cut(ring_out=seconds)
    mix, end = mixer(edit, sound), round((CUT + 0.5) * RATE)
    before = level(mix.block(end - RATE // 4, RATE // 4))
    tail = mix.block(end + 400, round(seconds * RATE) - 400)
    tenth = len(tail) // 10
    levels = [level(tail[k * tenth : (k + 1) * tenth]) for k in range(9)]
    assert levels[0] - before == pytest.approx(20 * np.log10(SOFTER), abs=6)
    assert levels == sorted(levels, reverse=True)
    assert levels[0] - levels[8] == pytest.approx(60 * 0.8, abs=14), "60 dB over all of it"
    assert level(mix.block(end + round(seconds * RATE) + 400, RATE)) < -100
    assert level(tail[:, 0] - tail[:, 1]) > level(tail) - 6, "it is wide, not in the middle"


def test_without_it_the_song_ends_at_its_cut_and_before_that_nothing_changes():
    sound = song()
    rung, dry = (mixer(edit, sound) for edit in (cut(ring_out=2), cut(ring_out=0)))
    end = round((CUT + 0.5) * RATE)
    np.testing.assert_array_equal(rung.block(end - RATE, RATE - 400), dry.block(end - RATE, RATE - 400))
    assert not dry.block(end + 400, RATE).any()
    np.testing.assert_array_equal(rung.block(end, 5000), mixer(cut(ring_out=2), song()).block(end, 5000))


def test_a_song_that_is_faded_out_or_softer_rings_as_much_softer():
    assert voices(cut(ring_out=2, fade_out=1))[1].level == 0
    plain, soft = (voices(cut(ring_out=2, level=each))[1] for each in (0.0, -6.0))
    assert soft.level == pytest.approx(plain.level * 10 ** (-6 / 20))
    assert (plain.begin, plain.end) == (CUT + 0.5, CUT + 2.5)
