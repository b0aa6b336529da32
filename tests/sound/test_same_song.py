"""The same music in another file has the same cues: softer, later, turned over, coded, in surround.

What changes and what must stay is known without any truth about the song.
"""

from __future__ import annotations

import av
import mir_eval
import numpy as np
import pytest

from izmet.media.songfile import read_song
from izmet.sound.cues import Found, find_cues, listen
from tests.sound.machine import RATE, play

PLAN = ["thin"] * 4 + ["full"] * 5 + ["roll"] + ["full"] * 4
HITS = ("kick", "snare", "hat", "bass", "note")


@pytest.fixture(scope="module")
def samples() -> np.ndarray:
    return play(116, seed=6, plan=PLAN).samples


@pytest.fixture(scope="module")
def found(samples) -> Found:
    return find_cues(samples, RATE)


def same(one: Found, other: Found, later: float = 0.0, within: float = 0.002) -> dict[str, float]:
    """F of the second's cues against the first's, by kind."""
    kinds = {cue.kind for cue in one.cues}
    times = {
        kind: [np.array([cue.time for cue in each.cues if cue.kind == kind]) for each in (one, other)]
        for kind in kinds
    }
    return {
        kind: mir_eval.onset.f_measure(first + later, second, window=within)[0]
        for kind, (first, second) in times.items()
    }


@pytest.mark.parametrize("gain", [0.02, 0.3, -1.0, 8.0])
def test_a_song_may_be_softer_louder_or_turned_over(samples, found, gain):
    other = find_cues((samples * gain).astype(np.float32), RATE)
    assert other.tempo == pytest.approx(found.tempo, rel=1e-4)
    assert min(same(found, other).values()) > 0.98
    assert [(s.kind, round(s.start, 1)) for s in other.sections] == [
        (s.kind, round(s.start, 1)) for s in found.sections
    ]


@pytest.mark.parametrize("seconds", [0.0123, 3.0])
def test_a_song_may_begin_later(samples, found, seconds):
    silence = np.zeros((round(seconds * RATE), 1), np.float32)
    other = find_cues(np.concatenate([silence, samples]), RATE)
    assert other.tempo == pytest.approx(found.tempo, rel=1e-3)
    agreed = same(found, other, len(silence) / RATE, within=0.005)
    assert agreed["drop"] == agreed["roll"] == 1.0
    assert min(agreed[kind] for kind in ("beat", "downbeat")) > 0.93  # a beat more in the silence
    assert min(agreed[kind] for kind in HITS if kind in agreed) > 0.93


def test_a_song_that_is_played_twice_has_its_hits_twice(samples, found):
    twice = find_cues(np.concatenate([samples, samples]), RATE)
    for kind in ("kick", "snare", "hat"):
        times = np.array([cue.time for cue in found.cues if cue.kind == kind])
        both = np.concatenate([times, times + len(samples) / RATE])
        heard = np.array([cue.time for cue in twice.cues if cue.kind == kind])
        assert mir_eval.onset.f_measure(both, heard, window=0.005)[0] > 0.95


@pytest.mark.parametrize("aside", [-0.3, 0.7])
def test_a_song_may_have_its_hats_at_one_side(found, aside):
    other = find_cues(play(116, seed=6, plan=PLAN, aside=aside).samples, RATE)
    assert min(same(found, other).values()) > 0.97


@pytest.mark.parametrize("channels", [2, 6])
def test_a_song_may_have_more_channels(samples, found, channels):
    assert min(same(found, find_cues(np.repeat(samples, channels, axis=1), RATE)).values()) > 0.99


def test_a_song_may_have_a_channel_turned_over(samples, found):
    other = find_cues(np.concatenate([samples, -samples], axis=1), RATE)
    assert min(same(found, other).values()) == 1.0


@pytest.mark.parametrize(
    ("container", "codec", "rate", "bits"),
    [("mp3", "libmp3lame", RATE, 96_000), ("ogg", "libopus", 48_000, 64_000)],
)
def test_a_song_may_be_coded_at_a_low_rate(samples, found, container, codec, rate, bits, tmp_path):
    """Coders keep the instants but for a delay that the container tells of."""
    path = tmp_path / f"song.{container}"
    with av.open(path, "w") as out:
        stream = out.add_stream(codec, rate=rate, layout="mono")
        stream.bit_rate = bits
        frame = av.AudioFrame.from_ndarray(samples.T.copy(), format="flt", layout="mono")
        frame.sample_rate = RATE
        resampler = av.AudioResampler(stream.format, "mono", rate, stream.frame_size)
        for each in [*resampler.resample(frame), *resampler.resample(None)]:
            out.mux(stream.encode(each))
        out.mux(stream.encode(None))
    other = listen(read_song(path, path.name))
    agreed = same(found, other, within=0.01)
    assert other.tempo == pytest.approx(found.tempo, rel=1e-3)
    assert agreed["drop"] == 1.0
    assert min(agreed[kind] for kind in ("beat", "downbeat", "kick", "snare", "hat")) > 0.95
