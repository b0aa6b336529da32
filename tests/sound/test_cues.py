"""The first pass finds what a drum machine played, to the frame, and nothing in silence or noise."""

from itertools import pairwise

import numpy as np
import pytest
from scipy.signal import chirp

from izmet.sound.attack import refine
from izmet.sound.cues import find_cues
from izmet.sound.onsets import RATE
from izmet.sound.peaks import BASE, FACTOR, band_peaks

BEAT = 60 / 120


def drum(kind: str, rng: np.random.Generator) -> np.ndarray:
    t = np.arange(round(0.15 * RATE)) / RATE
    if kind == "kick":
        return chirp(t, 160, 0.1, 45) * np.exp(-t / 0.05)
    noise = rng.standard_normal(len(t))
    if kind == "snare":
        return 0.35 * (noise * np.exp(-t / 0.04) + np.sin(2 * np.pi * 190 * t) * np.exp(-t / 0.06))
    return 0.2 * np.diff(noise, prepend=0) * np.exp(-t / 0.02)


@pytest.fixture(scope="module")
def song():
    """Sixteen bars at 120: kicks on 1 and 3, snares on 2 and 4, hats between; with the truth."""
    rng = np.random.default_rng(4)
    samples = 0.002 * rng.standard_normal(round(34 * RATE))
    truth = []
    for step in range(16 * 8):
        time = 1.0 + step * BEAT / 2
        kind = "hat" if step % 2 else ("kick" if step % 4 == 0 else "snare")
        at = round(time * RATE)
        sound = drum(kind, rng) * (1.0 if step % 8 == 0 else 0.8)
        samples[at : at + len(sound)] += sound
        truth.append((at / RATE, kind))
    return samples.astype(np.float32)[:, None], truth


def test_beats_and_hits_are_found_to_the_millisecond(song):
    samples, truth = song
    found = find_cues(samples, RATE)
    assert found.tempo == pytest.approx(120, abs=0.5)
    beats = np.array([cue.time for cue in found.cues if cue.kind in ("beat", "downbeat")])
    expected = np.array([time for time, kind in truth if kind != "hat"])
    misses = [np.abs(beats - time).min() for time in expected]
    assert np.mean(np.array(misses) < 0.002) > 0.95
    drums = {kind: np.array([c.time for c in found.cues if c.kind == kind]) for kind in ("kick", "snare")}
    for kind, times in drums.items():
        wanted = np.array([time for time, what in truth if what == kind])
        assert np.mean([np.abs(times - time).min() < 0.003 for time in wanted]) > 0.95


def test_the_pass_is_the_same_at_other_rates_and_channels(song):
    samples, _ = song
    stereo = np.repeat(samples, 2, axis=1)
    assert find_cues(stereo, RATE) == find_cues(samples, RATE)


@pytest.mark.parametrize("seconds", [0.0, 0.01, 1.0, 12.0])
def test_silence_and_noise_hold_no_beats(seconds):
    count = round(seconds * RATE)
    assert find_cues(np.zeros((count, 1), np.float32), RATE).cues == ()
    noise = np.random.default_rng(1).standard_normal((count, 1)).astype(np.float32) * 0.1
    assert find_cues(noise, RATE).tempo == 0


@pytest.mark.parametrize("off", [-0.018, 0.0, 0.015])
def test_an_attack_is_found_to_the_sample(off):
    rng = np.random.default_rng(2)
    samples = 0.001 * rng.standard_normal(RATE)
    samples[20000:24000] += rng.standard_normal(4000) * np.exp(-np.arange(4000) / 800)
    assert refine(samples.astype(np.float32), RATE, 20000 / RATE + off) * RATE == pytest.approx(20000, abs=2)


def test_peaks_are_the_loudest_sample_of_each_band_at_every_level():
    t = np.arange(RATE) / RATE
    samples = np.where(t < 0.5, np.sin(2 * np.pi * 60 * t), 0.5 * np.sin(2 * np.pi * 9000 * t))
    levels = band_peaks(samples.astype(np.float32)[:, None], RATE)
    assert len(levels[0]) == -(-RATE // BASE)
    first, second = levels[0][: len(levels[0]) // 2 - 4], levels[0][len(levels[0]) // 2 + 4 :]
    assert first[10:, 0].min() > 5 * first[10:, 2].max()
    assert second[10:, 2].min() > 5 * second[10:, 0].max()
    for finer, coarser in pairwise(levels):
        assert len(coarser) == -(-len(finer) // FACTOR)
        assert coarser.max() == finer.max()
