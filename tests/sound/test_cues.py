"""The automatic pass against music with known truth, an open recording, and everything unmusical.

Measures are those of mir_eval (Raffel et al., ISMIR 2014).
"""

from __future__ import annotations

from pathlib import Path

import librosa
import mir_eval
import numpy as np
import pygame
import pytest

from izmet.demo.songs import RATE as DEMO_RATE
from izmet.demo.songs import SONGS, synthesise
from izmet.media.songfile import read_song
from izmet.sound.cues import Found, find_cues, listen
from tests.sound.machine import RATE, Played, play


def times(found: Found, *kinds: str) -> np.ndarray:
    return np.array([cue.time for cue in found.cues if cue.kind in kinds])


@pytest.fixture(scope="module")
def steady() -> tuple[Played, Found]:
    played = play(124, seed=1)
    return played, find_cues(played.samples, RATE)


@pytest.fixture(scope="module")
def kits(steady) -> list[tuple[Played, Found]]:
    """The groove on several kits."""
    others = [play(tempo, bars=8, seed=seed) for seed, tempo in ((2, 100), (3, 90), (4, 140), (5, 112))]
    return [steady, *((played, find_cues(played.samples, RATE)) for played in others)]


def offsets(truth: np.ndarray, found: np.ndarray) -> np.ndarray:
    """Distance in seconds of each matched beat from its true instant."""
    pairs = mir_eval.util.match_events(truth, found, 0.07)
    return np.array([abs(truth[i] - found[j]) for i, j in pairs])


@pytest.mark.parametrize(("tempo", "drift", "worst_ms"), [(96, 0, 5), (124, 0, 5), (142, 0.02, 12)])
def test_beats_and_bars_are_where_they_were_played(tempo, drift, worst_ms):
    played = play(tempo, drift=drift)
    found = find_cues(played.samples, RATE)
    beats = times(found, "beat", "downbeat")
    assert found.tempo == pytest.approx(tempo, rel=0.02)
    assert mir_eval.beat.f_measure(played.beats, beats, 0.02) > 0.95
    assert np.percentile(offsets(played.beats, beats), 95) * 1000 <= worst_ms
    assert mir_eval.beat.f_measure(played.downbeats, times(found, "downbeat")) > 0.9
    assert found.beats[0].steady == (drift == 0)


def test_a_song_that_changes_its_tempo_at_once_is_counted_on():
    slow, fast = play(112, bars=9, seed=3), play(140, bars=12, seed=3)
    turn = round((slow.beats[-1] + 60 / 112) * RATE)
    samples = np.concatenate([slow.samples[:turn], fast.samples])
    truth = np.concatenate([slow.beats, fast.beats + turn / RATE])
    found = find_cues(samples, RATE)
    assert mir_eval.beat.f_measure(truth, times(found, "beat", "downbeat")) > 0.9
    assert not found.beats[0].steady


@pytest.mark.parametrize(("kind", "least"), [("kick", 0.9), ("snare", 0.75), ("hat", 0.85), ("bass", 0.6)])
def test_hits_have_their_kind_at_their_attack(kits, kind, least):
    reached = [
        mir_eval.onset.f_measure(played.hits[kind], times(found, kind), 0.015)[0] for played, found in kits
    ]
    assert np.mean(reached) >= least


def test_hits_are_found_on_their_attack(steady):
    played, found = steady
    every = np.unique(np.concatenate(list(played.hits.values())))
    heard = np.unique(times(found, "kick", "snare", "hat", "bass", "note"))
    assert mir_eval.onset.f_measure(every, heard, 0.01)[0] >= 0.9
    assert all(0 < cue.strength <= 1 for cue in found.cues)


def test_the_drop_is_on_its_frame_and_the_roll_that_leads_to_it_is_found():
    for song in SONGS[:2]:
        samples, truth = synthesise(song)
        found = find_cues(samples.astype(np.float32)[:, None], DEMO_RATE)
        drops = times(found, "drop")
        for drop in truth["drops"]:
            assert np.abs(drops - drop).min() < 1 / 60
            beat = 60 / song.tempo
            roll = min((s for s in found.sections if s.kind == "roll"), key=lambda s: abs(s.end - drop))
            assert roll.start == pytest.approx(drop - 4 * beat, abs=beat)
            assert roll.end == pytest.approx(drop - beat / 4, abs=beat)
            assert any(s.kind == "build" and s.end == pytest.approx(drop, abs=0.02) for s in found.sections)
        assert len(drops) <= len(truth["drops"]) + 1


@pytest.mark.parametrize(
    ("tempo", "plan"),
    [
        (92, ["thin"] * 4 + ["full"] * 8 + ["thin"] * 3 + ["roll"] + ["full"] * 6),
        (128, ["full"] * 4 + ["thin"] * 4 + ["full"] * 8),
        (140, ["thin"] * 6 + ["roll"] * 2 + ["full"] * 8),
    ],
)
def test_every_drop_of_another_machine_is_on_its_frame_and_none_is_made_up(tempo, plan):
    played = play(tempo, seed=tempo, plan=plan)
    found = find_cues(played.samples, RATE)
    drops = times(found, "drop")
    assert len(drops) == len(played.drops)
    assert np.abs(drops - played.drops).max() < 1 / 60
    for start, end in played.rolls[-1:]:
        roll = min((s for s in found.sections if s.kind == "roll"), key=lambda s: abs(s.end - end))
        assert roll.end == pytest.approx(end, abs=60 / tempo)
        assert roll.start <= start + 60 / tempo


def test_a_hit_just_before_a_cut_is_no_drop():
    """One that the song is cut off after may be loud, but nobody knows whether it stays so."""
    played = play(118, seed=4, plan=["full"] * 8 + ["thin"] * 3 + ["roll"])
    for seconds in (15.5, 16.0, 16.5):
        assert len(times(find_cues(played.samples[: round(seconds * RATE)], RATE), "drop")) == 0


def test_other_ways_to_count_are_offered_and_all_likelihoods_fit_together(steady):
    _, found = steady
    shares = [beats.likelihood for beats in found.beats]
    assert shares == sorted(shares, reverse=True)
    assert sum(shares) <= 1 + 1e-9
    assert found.beats[0].relation is None
    assert all(beats.relation is not None for beats in found.beats[1:])
    assert 0.5 < found.confidence.tempo <= 1 + 1e-9


def test_the_pass_is_deterministic_and_the_same_in_stereo(steady):
    played, found = steady
    assert find_cues(played.samples, RATE) == found
    assert find_cues(np.repeat(played.samples, 2, axis=1), RATE) == found


def test_the_pass_can_be_cancelled(steady):
    played, _ = steady

    class Enough(Exception):
        pass

    def stop(part: float) -> None:
        raise Enough

    with pytest.raises(Enough):
        find_cues(played.samples, RATE, stop)


def test_an_open_recording_agrees_with_librosa():
    """``house_lo`` ships with pygame (LGPL). Reference: librosa (McFee et al., SciPy 2015)."""
    path = Path(pygame.__file__).parent / "examples" / "data" / "house_lo.ogg"
    sound = read_song(path, path.name)
    found = listen(sound)
    mono = sound.stretch(0, sound.count).mean(axis=1)
    tempo, _ = librosa.beat.beat_track(y=mono, sr=sound.rate)
    octaves = [np.log2(beats.tempo / float(np.atleast_1d(tempo)[0])) for beats in found.beats]
    same = next(beats for beats, o in zip(found.beats, octaves, strict=True) if abs(o - round(o)) < 0.05)
    onsets = librosa.onset.onset_detect(y=mono, sr=sound.rate, units="time", hop_length=64)
    assert np.mean([np.abs(onsets - beat).min() < 0.05 for beat in same.times]) > 0.7


class TestUnmusical:
    @pytest.mark.parametrize("seconds", [0.0, 0.01, 1.0, 12.0])
    def test_silence_holds_nothing(self, seconds):
        assert find_cues(np.zeros((round(seconds * RATE), 1), np.float32), RATE).cues == ()

    @pytest.mark.parametrize("seed", [1, 2, 3])
    def test_noise_has_no_beat_and_no_drop(self, seed):
        noise = np.random.default_rng(seed).standard_normal((12 * RATE, 1)).astype(np.float32) * 0.1
        found = find_cues(noise, RATE)
        assert found.tempo == 0
        assert len(times(found, "beat", "downbeat", "drop")) == 0

    def test_a_single_click_is_one_hit(self):
        samples = np.zeros((4 * RATE, 1), np.float32)
        samples[RATE : RATE + 60, 0] = np.random.default_rng(0).standard_normal(60) * 0.5
        found = find_cues(samples, RATE)
        assert found.beats == ()
        assert set(np.round(times(found, "kick", "snare", "hat", "bass", "note"), 3)) == {1.0}

    @pytest.mark.parametrize("rate", [8000, 192_000])
    def test_any_rate_finds_the_same_beat(self, rate):
        played = play(120, bars=8)
        samples = librosa.resample(played.samples[:, 0], orig_sr=RATE, target_sr=rate)
        found = find_cues(samples[:, None], rate)
        assert mir_eval.beat.f_measure(played.beats, times(found, "beat", "downbeat"), 0.02) > 0.9

    def test_clipping_and_an_offset_do_no_harm(self):
        played = play(120, bars=8)
        spoiled = np.clip(played.samples * 6 + 0.4, -1, 1).astype(np.float32)
        found = find_cues(spoiled, RATE)
        assert mir_eval.beat.f_measure(played.beats, times(found, "beat", "downbeat"), 0.02) > 0.9

    @pytest.mark.parametrize("count", [1, 100, 440, 442, 3000])
    def test_a_few_samples_have_no_beat(self, count):
        assert find_cues(np.full((count, 1), 0.3, np.float32), RATE).beats == ()

    def test_one_second_of_music_is_no_crash(self):
        found = find_cues(play(120, bars=2).samples[:RATE], RATE)
        assert found.beats == () or len(found.beats[0].times) >= 2
