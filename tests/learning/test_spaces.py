"""Amplifiers and rooms change how a song sounds, and leave its hits where they are.

A room's decay is measured as ISO 3382 does: its answer to a click is integrated backwards
(M. R. Schroeder, 1965).
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from scripts.learning.grooves import GROOVES
from scripts.learning.practice import BREATH, HELD, PHRASE_BARS, breathed
from scripts.learning.spaces import BOX_HERTZ, DECAY_SECONDS, WET_DB, amplify, in_room

RATE, SECONDS, AT = 44100, 3, 4410


@pytest.mark.parametrize("seed", range(8))
def test_a_room_answers_after_what_comes_straight_and_dies_away_within_its_bounds(seed):
    click = np.zeros((SECONDS * RATE, 2))
    click[AT] = 1.0
    heard = in_room(click, RATE, np.random.default_rng(seed))
    assert heard.shape == click.shape
    assert np.abs(heard[:AT]).max() < 1e-9
    assert heard[AT] == pytest.approx([1, 1])
    answer = heard[AT + 1 :, 0]
    wet = 10 * np.log10(np.sum(answer**2))
    assert WET_DB[0] - 0.5 < wet < WET_DB[1] + 0.5
    left = 10 * np.log10(np.cumsum(answer[::-1] ** 2)[::-1] / np.sum(answer**2) + 1e-12)
    fell = [np.argmax(left < level) / RATE for level in (-10, -30)]
    assert DECAY_SECONDS[0] * 0.7 < 3 * (fell[1] - fell[0]) < DECAY_SECONDS[1] * 1.3


@pytest.mark.parametrize("seed", range(8))
def test_an_amplifier_adds_overtones_keeps_loudness_and_moves_nothing(seed):
    times = np.arange(SECONDS * RATE) / RATE
    tone = np.where(times >= AT / RATE, np.sin(2 * np.pi * 220 * times), 0.0)[:, None].repeat(2, axis=1)
    driven = amplify(tone, RATE, np.random.default_rng(seed))
    assert np.sqrt(np.mean(driven**2)) == pytest.approx(np.sqrt(np.mean(tone**2)))
    assert np.abs(driven[:AT]).max() < 1e-9
    assert np.abs(driven[AT : AT + RATE // 500]).max() > 0.1
    power = np.abs(np.fft.rfft(driven[-RATE:, 0] * np.hanning(RATE))) ** 2
    assert power[[440, 660, 880]].sum() > 0.01 * power[220]
    assert power[round(3 * BOX_HERTZ[1]) :].sum() < 0.02 * power.sum()


def test_silence_goes_through_an_amplifier_as_silence():
    assert not amplify(np.zeros((100, 2)), RATE, np.random.default_rng(0)).any()


@given(st.sampled_from(GROOVES), st.integers(0, 1000), st.integers(1, 9))
def test_a_song_that_breathes_is_slower_at_the_ends_of_each_phrase(groove, seed, phrases):
    beats = PHRASE_BARS * groove.beats
    even = np.arange(phrases * beats + 1) * 0.5
    lengths = np.diff(breathed(even, groove.beats, np.random.default_rng(seed))) / 0.5
    for phrase in lengths.reshape(phrases, beats):
        assert phrase[beats // 2] < 1 < phrase[0] <= 1 + BREATH[1]
        assert phrase[-2] <= phrase[-1] <= (1 + BREATH[1]) * (1 + HELD[1])
