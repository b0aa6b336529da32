"""What sounds like a beat: the net does what its kernels say, wherever its blocks begin."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import convolve

from izmet.sound import beatnet
from izmet.sound.learned import learned
from izmet.sound.mono import split
from izmet.sound.onsets import FRAME_RATE, PICTURED, find_onsets
from izmet.sound.onsets import RATE as HEARD_RATE
from izmet.sound.source import Source
from tests.sound.machine import RATE, play


@settings(max_examples=25, deadline=None)
@given(count=st.integers(1, 60), dilation=st.sampled_from([1, 2, 8, 64]), seed=st.integers(0, 99))
def test_a_layer_is_the_convolution_that_scipy_knows(count, dilation, seed):
    rng = np.random.default_rng(seed)
    units = rng.normal(size=(count, 3)).astype(np.float32)
    kernel = rng.normal(size=(5, 3, 2)).astype(np.float32)
    found = beatnet._taps(units, kernel, dilation)
    spread = np.zeros((4 * dilation + 1, 3, 2))
    spread[::dilation] = kernel[::-1]  # a layer correlates
    for out in range(2):
        each = [convolve(units[:, of], spread[:, of, out])[2 * dilation :][:count] for of in range(3)]
        assert found[:, out] == pytest.approx(np.sum(each, axis=0), abs=1e-4)


def test_a_song_is_heard_the_same_in_any_blocks(monkeypatch):
    picture = np.random.default_rng(1).random((9000, PICTURED)).astype(np.float32)
    whole = beatnet.hear(picture, learned().arrays)
    monkeypatch.setattr(beatnet, "BLOCK", 700)
    parts = beatnet.hear(picture, learned().arrays)
    assert parts.beat == pytest.approx(whole.beat, abs=1e-5)
    assert parts.downbeat == pytest.approx(whole.downbeat, abs=1e-5)
    assert parts.tempo == pytest.approx(whole.tempo, abs=1e-5)


def test_silence_of_no_length_is_heard():
    heard = beatnet.hear(np.zeros((0, PICTURED), np.float32), learned().arrays)
    assert (len(heard.beat), len(heard.downbeat)) == (0, 0)
    assert heard.tempo.sum() == pytest.approx(1)


@pytest.mark.parametrize("tempo", [92, 120, 150])
def test_the_drum_machines_beats_sound_like_beats_and_what_lies_between_does_not(tempo):
    """No sound of that machine was learned from."""
    song = play(tempo, bars=16, seed=tempo)
    mono, _ = split(Source.of(song.samples, RATE), HEARD_RATE)
    heard = beatnet.hear(find_onsets(mono).picture, learned().arrays)
    beats = np.array(song.beats[4:-4])
    on, off = (np.round(at * FRAME_RATE).astype(int) for at in (beats, beats + 15 / tempo))
    assert np.median(heard.beat[on]) > 5 * np.median(heard.beat[off])
    likeliest = beatnet.TEMPOS[np.argmax(heard.tempo)]
    assert min(abs(np.log2(likeliest / (tempo * octave))) for octave in (0.5, 1, 2)) < 0.1
