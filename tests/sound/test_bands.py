"""Levels are those of what sounds, in its band, at its moment, in the middle or at the sides."""

from __future__ import annotations

import numpy as np
import pytest

from izmet.sound import bands
from izmet.sound.bands import BANDS, EDGES, HOP, MOMENTS, SPLIT, Pictures, band_levels
from izmet.sound.onsets import RATE
from tests.sound.machine import levels, play


def tone(hertz: float) -> np.ndarray:
    return (0.5 * np.sin(2 * np.pi * hertz * np.arange(2 * RATE) / RATE)).astype(np.float32)


@pytest.mark.parametrize("hertz", [55.0, 440.0, 3000.0, 12_000.0])
def test_a_tone_is_loudest_in_the_band_that_holds_it(hertz):
    seen = levels(tone(hertz))
    band = np.searchsorted(EDGES, hertz) - 1
    assert abs(int(seen[100, :, 0].argmax()) - band) <= 1  # low bands are as narrow as the window's lobe


def test_what_is_at_the_sides_is_seen_beside_the_middle_and_heard_louder():
    middle, aside = tone(1000), tone(6000)
    seen = band_levels(middle + aside, aside / 4)[150]
    one, other = (np.searchsorted(EDGES, hertz) - 1 for hertz in (1000, 6000))
    assert seen[[one, other], 0].min() > 4
    assert seen[other, 1] == pytest.approx(seen[other, 0], abs=0.02)  # four times as loud as it is
    assert seen[one, 1] < 0.5
    assert levels(middle + aside)[:, SPLIT:, 1].max() == 0


@pytest.mark.parametrize("hertz", [48.0, 70.0, 100.0, 140.0, 200.0, 300.0])
def test_the_pitch_of_a_low_tone_is_clearer_through_the_longer_window(hertz):
    seen = levels(tone(hertz))[150, :SPLIT]
    near = np.abs(np.log2(np.sqrt(EDGES[:SPLIT] * EDGES[1 : SPLIT + 1]) / hertz)) < 0.5
    beside = (10 ** seen[~near] - 1).sum(axis=0) / (10**seen - 1).sum(axis=0)
    assert beside[1] < 0.02
    assert beside[1] <= beside[0]


@pytest.mark.parametrize("gain", [0.01, 0.5, 20.0])
def test_levels_are_against_the_songs_own(gain):
    samples = play(120, bars=2, seed=3).samples[:, 0]
    assert levels(samples * np.float32(gain)) == pytest.approx(levels(samples), abs=0.01)


def test_a_picture_is_what_sounds_around_its_hit_and_nothing_sounds_before_the_song():
    samples = play(120, bars=2, seed=3).samples[:, 0]
    logs = levels(samples)
    assert len(logs) == len(samples) // HOP + 1
    frames = np.array([0, 3, 200, len(logs) - 1])
    seen = Pictures(logs, frames)[:]
    assert seen.shape == (4, len(MOMENTS), BANDS, 2)
    for picture, frame in zip(seen, frames, strict=True):
        for moment, row in zip(MOMENTS, picture, strict=True):
            at = frame + moment
            expected = np.zeros((BANDS, 2)) if at < 0 else logs[min(at, len(logs) - 1)]
            assert (row == expected).all()


@pytest.mark.parametrize("block", [1, 7, 100])
def test_blocks_leave_no_seams(monkeypatch, block):
    samples = play(124, bars=1, seed=4).samples[:, 0][: 2 * RATE]
    whole = levels(samples)
    monkeypatch.setattr(bands, "BLOCK", block)
    assert levels(samples) == pytest.approx(whole, abs=1e-4)
