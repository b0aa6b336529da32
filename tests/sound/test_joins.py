"""A song joined to itself: found where it is like itself, joined on the sample, without a click."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.music.joining import Join, best_joins
from izmet.sound.joins import FADE_SECONDS, joined_source
from izmet.sound.likeness import Heard, aligned
from izmet.sound.source import Source

RATE, BAR = 44_100, 2.0


def bar(seed: int, key: float) -> np.ndarray:
    """A bar of eight plucked tones with a noise on each."""
    rng = np.random.default_rng(seed)
    out = np.zeros(round(BAR * RATE))
    for step in range(8):
        at = step * round(BAR / 8 * RATE)
        n = np.arange(len(out) - at)
        hertz = key * 2 ** (rng.integers(0, 12) / 12)
        out[at:] += 0.2 * np.sin(2 * np.pi * hertz * n / RATE) * np.exp(-6 * n / RATE)
        out[at : at + 3000] += 0.2 * rng.standard_normal(3000) * np.exp(-np.arange(3000) / 600)
    return out


def song(form: str, hiss: float = 0.0) -> Source:
    """Four bars for each letter; the same letter is the same music, with its own hiss."""
    parts = {
        name: [bar(ord(name) * 10 + n, 90.0 + 7 * (ord(name) % 9)) for n in range(4)] for name in set(form)
    }
    samples = np.concatenate([each for name in form for each in parts[name]])
    samples = samples + hiss * np.random.default_rng(1).standard_normal(len(samples))
    return Source.of(samples.astype(np.float32)[:, None], RATE)


@pytest.mark.parametrize(
    ("form", "longer", "wanted"),
    [("ABABCAB", -16, {8, 12}), ("ABCDBCE", -24, {12}), ("ABCABD", 24, {12}), ("ABCBD", 16, {8})],
)
def test_joins_are_found_where_the_song_comes_again(form, longer, wanted):
    sound = song(form, hiss=0.01)
    bars = (BAR * np.arange(4 * len(form))).tolist()
    best = best_joins(bars, longer, Heard(sound, bars).alike)[0]
    assert best.alike > 0.8
    assert best.bars in wanted
    one, other = (round(at / BAR) for at in best.join[:2])
    # At the join both places lie in, or between, the same letters.
    after = [form[place // 4] if place < 4 * len(form) else "" for place in (one, other)]
    before = [form[(place - 1) // 4] for place in (one, other)]
    assert after[0] == after[1] or before[0] == before[1]


def test_music_that_does_not_come_again_is_said_to_be_unlike():
    sound = song("ABCDEFG")
    bars = (BAR * np.arange(28)).tolist()
    assert best_joins(bars, -16, Heard(sound, bars).alike)[0].alike < 0.7


@given(st.integers(-350, 350))
@settings(max_examples=15, deadline=None)
def test_a_bar_that_is_marked_beside_its_place_is_joined_where_the_waves_fit(off):
    sound = song("ABABAB", hiss=0.002)
    found = aligned(sound, Join(BAR * 8, BAR * 16 + off / RATE))
    assert round((found.enter - found.leave) * RATE) == round(BAR * 8 * RATE)


def test_a_song_is_gone_on_with_from_its_beginning_at_the_earliest():
    # The same again, but 40 samples late: where the waves fit lies before the song.
    once = np.random.default_rng(3).standard_normal((4 * 8000 + 40, 1)).astype(np.float32)
    sound = Source.of(np.concatenate([once, once]), 8000)
    assert aligned(sound, Join(4.0, 0.001)).enter == 0


def test_a_join_of_what_comes_again_is_not_heard_at_all():
    whole, join = song("ABABC"), Join(4 * BAR, 12 * BAR)
    heard = joined_source(whole, join)
    shorter = song("ABC")
    assert heard.count == shorter.count
    np.testing.assert_allclose(heard.stretch(0, heard.count), shorter.stretch(0, heard.count), atol=1e-6)


@given(
    st.floats(1, 8),
    st.floats(1, 8),
    st.integers(1, 3),
    st.lists(st.integers(1, 90_000), min_size=1, max_size=6),
)
@settings(max_examples=30, deadline=None)
def test_it_is_the_same_in_whatever_blocks_it_is_read(leave, enter, times, cuts):
    sound = Source.of(np.random.default_rng(2).standard_normal((9 * 8000, 2)).astype(np.float32), 8000)
    heard = joined_source(sound, Join(leave, enter, times if enter < leave else 1))
    edges = np.minimum(np.cumsum([0, *cuts]), heard.count)
    pulled = np.concatenate([heard.read(int(a), int(b - a)) for a, b in pairwise(edges)])
    np.testing.assert_array_equal(pulled, heard.read(0, int(edges[-1])))
    # Away from the joins each sample is one of the song's own.
    at = round(leave * 8000) + round(FADE_SECONDS * 8000)
    if at < heard.count and times == 1:
        np.testing.assert_array_equal(
            heard.read(at, 1), sound.stretch(round(enter * 8000) + at - round(leave * 8000), 1)
        )
