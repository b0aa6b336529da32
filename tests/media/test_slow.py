"""Slow copies last longer at their own pitch, and what happens in them happens at its place."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import find_peaks

from izmet.media.slow import PIECE_SECONDS, SEEK_SECONDS, slowed
from izmet.sound.source import Source

RATE = 44100


def tones(seconds: float, left: float, right: float) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    pair = [0.4 * np.sin(2 * np.pi * hertz * t) for hertz in (left, right)]
    return np.stack(pair, axis=1).astype(np.float32)


def whole(samples: np.ndarray, factor: int) -> np.ndarray:
    return np.concatenate(list(slowed(Source.of(samples, RATE), factor)))


def loudest_hertz(samples: np.ndarray) -> float:
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples)), 4 * len(samples)))
    return float(np.argmax(spectrum)) * RATE / (4 * len(samples))


@pytest.mark.parametrize("factor", [2, 4])
def test_pitch_and_level_are_kept_across_pieces_and_channels_apart(factor):
    sound = tones(PIECE_SECONDS + 3, 220.0, 1567.98)
    slow = whole(sound, factor)
    assert slow.shape == (len(sound) * factor, 2)
    last = round(PIECE_SECONDS * factor * RATE)
    seams = range(round((PIECE_SECONDS - SEEK_SECONDS) * factor * RATE), last, RATE)
    # Where two pieces fade into each other, a pure tone may be out of step with itself for a moment.
    for begin, least in ((RATE, 0.8), *((at, 0.4) for at in seams), (len(slow) - 2 * RATE, 0.8)):
        for channel, hertz in ((0, 220.0), (1, 1567.98)):
            heard = slow[begin : begin + RATE, channel]
            assert loudest_hertz(heard) == pytest.approx(hertz, rel=0.01)  # a semitone is 6 %
            level = np.sqrt(np.mean(heard.reshape(-1, RATE // 20) ** 2, axis=1)) / (0.4 / np.sqrt(2))
            assert least < level.min()
            assert level.max() < 1.1


def test_pieces_meet_where_the_song_is_softest():
    """A note every 1.3 s with a rest after it: none of them is cut by a seam."""
    sound = tones(3 * PIECE_SECONDS, 220.0, 330.0)
    into = np.arange(len(sound)) / RATE % 1.3
    sound[into >= 1.1] = 0.0
    slow = whole(sound, 2)
    for begin in np.arange(0.0, 3 * PIECE_SECONDS - 1.3, 1.3):
        note = slow[round((begin + 0.1) * 2 * RATE) : round((begin + 1.0) * 2 * RATE)]
        pieces = note[: len(note) // 20 * 20].reshape(20, -1, 2)
        level = np.sqrt(np.mean(pieces**2, axis=1)) / (0.4 / np.sqrt(2))
        assert 0.8 < level.min() < level.max() < 1.15


@pytest.mark.parametrize("factor", [2, 4])
def test_hits_stay_at_their_place(factor):
    """Within 10 ms: two sounds so near are heard as one (common practice, no source)."""
    rng = np.random.default_rng(0)
    at = np.arange(0.5, PIECE_SECONDS + 2, 0.5)
    samples = np.zeros((round((PIECE_SECONDS + 3) * RATE), 1), np.float32)
    burst = rng.standard_normal(800) * np.exp(-np.arange(800) / 200)
    for time in at:
        samples[round(time * RATE) : round(time * RATE) + 800, 0] = 0.5 * burst
    slow = whole(samples, factor)[:, 0]
    peaks, _ = find_peaks(np.abs(slow), height=0.3 * np.abs(slow).max(), distance=round(0.3 * factor * RATE))
    assert len(peaks) == len(at)
    assert peaks / RATE == pytest.approx(at * factor, abs=0.01)


def test_the_work_tells_how_far_it_is_and_can_be_stopped():
    steps: list[tuple[int, int]] = []

    class Enough(Exception):
        pass

    def stop(done: int, total: int) -> None:
        steps.append((done, total))
        if done == 2:
            raise Enough

    with pytest.raises(Enough):
        list(slowed(Source.of(tones(2 * PIECE_SECONDS + 1, 300, 300), RATE), 2, stop))
    assert steps == [(1, 3), (2, 3)]
