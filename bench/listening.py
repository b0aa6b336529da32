"""Figures of the automatic pass: how right and how fast, beside librosa's beat tracker in the same run.

The music is synthesised by the tests' drum machine and by the demo, so its truth is
known; neither is among the songs that the weights were learned from.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import librosa
import mir_eval
import numpy as np
import soundfile

from bench.figures import median, told
from izmet.demo.songs import SONGS, synthesise
from izmet.media.songfile import sound_blocks
from izmet.sound.cues import Found, find_cues
from tests.sound.machine import RATE, Played, play

TEMPOS = (78, 96, 111, 124, 142, 168)
PLANS = (
    ["full"] * 4 + ["thin"] * 4 + ["full"] * 8,
    ["thin"] * 4 + ["full"] * 8 + ["thin"] * 3 + ["roll"] + ["full"] * 6,
)
"""Songs with drops, bar by bar."""
KINDS = {"kick": 0.90, "snare": 0.75, "hat": 0.85, "bass": 0.60}


def listening_figures() -> list[bool]:
    """Whether each bound is met."""
    songs = [play(tempo, bars=24, drift=0.02 * (i % 3 == 2), seed=i) for i, tempo in enumerate(TEMPOS)]
    begun = time.perf_counter()
    heard = [find_cues(song.samples, RATE) for song in songs]
    ours = time.perf_counter() - begun
    begun = time.perf_counter()
    theirs = [librosa.beat.beat_track(y=s.samples[:, 0], sr=RATE, units="time")[1] for s in songs]
    reference = time.perf_counter() - begun
    minutes = sum(len(song.samples) for song in songs) / RATE / 60
    each = f"{ours / minutes:.2f} s a minute; librosa {reference / minutes:.2f} s"
    print(f"{minutes:.1f} min of music: {each}")
    return [*_accuracy(songs, heard, theirs), *_drops(), *_speed()]


def _accuracy(songs: list[Played], heard: list[Found], theirs: list[np.ndarray]) -> list[bool]:
    def mean_f(window: float, found: list[np.ndarray]) -> float:
        pairs = zip(songs, found, strict=True)
        return float(np.mean([mir_eval.beat.f_measure(song.beats, beats, window) for song, beats in pairs]))

    ours = [_times(found, "beat", "downbeat") for found in heard]
    print(f"     librosa: F {mean_f(0.07, theirs):.3f} at 70 ms, {mean_f(0.02, theirs):.3f} at 20 ms")
    downs = [
        mir_eval.beat.f_measure(s.downbeats, _times(f, "downbeat")) for s, f in zip(songs, heard, strict=True)
    ]
    verdicts = [
        told("beats, F at 70 ms", mean_f(0.07, ours), 0.85),
        told("beats, F at 20 ms", mean_f(0.02, ours), 0.82),
        told("downbeats, F at 70 ms", float(np.mean(downs)), 0.70),
    ]
    for kind, least in KINDS.items():
        found = [
            mir_eval.onset.f_measure(s.hits[kind], _times(f, kind), 0.015)[0]
            for s, f in zip(songs, heard, strict=True)
        ]
        verdicts.append(told(f"{kind}, F at 15 ms", float(np.mean(found)), least))
    return verdicts


def _drops() -> list[bool]:
    played = [play(tempo, seed=tempo, plan=plan) for tempo in TEMPOS for plan in PLANS]
    songs = [(song.samples, song.drops) for song in played]
    for song in SONGS:
        samples, truth = synthesise(song)
        songs.append((samples.astype(np.float32)[:, None], truth["drops"]))
    true = found = false = 0
    for samples, drops in songs:
        heard = _times(find_cues(samples, RATE), "drop")
        right = sum(bool(np.any(np.abs(heard - drop) < 1 / 60)) for drop in drops)
        true, found, false = true + len(drops), found + right, false + len(heard) - right
    return [
        told(f"drops of {true} within a frame at 60 fps", found / true, 0.9),
        told("false drops a song", false / len(songs), 1, at_least=False),
    ]


def _speed() -> list[bool]:
    four = np.tile(play(120, bars=30).samples, (4, 1))[: 240 * RATE]
    begun = time.perf_counter()
    find_cues(four, RATE)
    took = time.perf_counter() - begun
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "four-minutes.flac"
        soundfile.write(path, np.repeat(four, 2, axis=1), RATE)
        bare = median(lambda: sum(len(block.samples) for block in sound_blocks(path, path.name)))
        first = _first_result(path)
        print(f"     four minutes are on the rail after {first:.1f} s; decoding alone takes {bare:.1f} s")
    heard = subprocess.run([sys.executable, "-m", "bench.memory"], capture_output=True, check=True)
    megabytes = float(heard.stdout)
    return [
        told("times faster than real time", 240 / took, 20),
        told("four minutes on the rail, in bare decodes", first / bare, 4, at_least=False),
        told("memory for an hour in stereo", megabytes, 1000, " MB", at_least=False),
    ]


def _first_result(path: Path) -> float:
    """Seconds from a file that has arrived to its waveform and cues being there."""
    from izmet.jobs.reading import read_asset
    from izmet.store.assets import Assets
    from izmet.store.database import open_database
    from izmet.store.datafolder import DataFolder
    from izmet.store.models import database

    folder = DataFolder(path.parent / "data").prepare()
    open_database(folder)
    with database.connection_context():
        assets = Assets(folder)
        asset = assets.adopt(Path(shutil.copy(path, assets.incoming / "copy")), path.name, "song")
        begun = time.perf_counter()
        read_asset(assets, asset, lambda done, total: None)
        return time.perf_counter() - begun


def _times(found: Found, *kinds: str) -> np.ndarray:
    return np.array([cue.time for cue in found.cues if cue.kind in kinds])
