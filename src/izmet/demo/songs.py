"""The songs of the Skerry Run: the simulated music library.

Each is synthesised from a plan of bars, so every beat, hit and drop is known to the
sample and written beside the file.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

RATE = 44100
BEATS_A_BAR = 4
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class DemoSong:
    """A song to synthesise. ``sections`` are (bars, part); ``drift`` is how far the tempo strays."""

    name: str
    tempo: float
    sections: tuple[tuple[int, str], ...]
    root: float = 55.0
    drift: float = 0.0
    seed: int = 1

    @property
    def file_name(self) -> str:
        return self.name.lower().replace(" ", "-") + ".wav"

    @property
    def bars(self) -> int:
        return sum(bars for bars, _ in self.sections)

    def beat_times(self) -> Floats:
        """Instants of all beats, in seconds."""
        count = self.bars * BEATS_A_BAR
        tempo = self.tempo * (1 + self.drift * np.sin(np.linspace(0, 2 * np.pi, count)))
        return np.concatenate([[LEAD_IN], LEAD_IN + np.cumsum(60 / tempo)])[:count]


LEAD_IN = 0.25

SONGS = (
    DemoSong(
        "Tin Lantern",
        112,
        ((4, "thin"), (4, "groove"), (3, "thin"), (1, "roll"), (8, "full"), (4, "groove"), (4, "thin")),
    ),
    DemoSong(
        "Cold Slipway",
        140,
        ((4, "groove"), (3, "thin"), (1, "roll"), (12, "full"), (4, "thin")),
        root=49.0,
        seed=2,
    ),
    DemoSong(
        "Slack Water",
        88,
        ((4, "thin"), (8, "groove"), (6, "full"), (2, "thin")),
        root=65.4,
        drift=0.03,
        seed=3,
    ),
)


@dataclass
class _Mix:
    samples: Floats
    hits: list[dict[str, Any]] = field(default_factory=list)

    def add(self, time: float, sound: Floats, level: float, kind: str = "") -> None:
        at = round(time * RATE)
        room = max(0, min(len(sound), len(self.samples) - at))
        self.samples[at : at + room] += sound[:room] * level
        if kind:
            self.hits.append({"kind": kind, "time": at / RATE})


def synthesise(song: DemoSong) -> tuple[Floats, dict[str, Any]]:
    """A song's samples, shape (count,), and the truth about it."""
    beats = song.beat_times()
    beat = float(np.median(np.diff(beats)))
    mix = _Mix(np.zeros(round((beats[-1] + 4 * beat) * RATE)))
    rng = np.random.default_rng(song.seed)
    kit = _kit(rng)
    drops, bar, last = [], 0, ""
    for bars, part in song.sections:
        if part == "full" and last in ("roll", "thin"):
            drops.append(float(beats[bar * BEATS_A_BAR]))
            mix.add(drops[-1], _boom(song.root), 0.9)
        for _ in range(bars):
            first = bar * BEATS_A_BAR
            times = [*beats[first : first + BEATS_A_BAR], beats[min(len(beats) - 1, first + BEATS_A_BAR)]]
            _play_bar(mix, part, times, beat, kit, song.root * NOTES[bar % len(NOTES)])
            bar += 1
        last = part
    samples = np.tanh(1.2 * mix.samples)
    samples *= 0.89 / np.abs(samples).max()
    truth = {
        "tempo": song.tempo,
        "beats": beats.tolist(),
        "downbeats": beats[::BEATS_A_BAR].tolist(),
        "hits": sorted(mix.hits, key=lambda hit: hit["time"]),
        "drops": drops,
    }
    return samples, truth


NOTES = (1.0, 1.0, 0.749, 0.891)


def write_song(song: DemoSong, folder: Path) -> Path:
    """Synthesise a song into a WAV file, and write its truth beside it."""
    samples, truth = synthesise(song)
    path = folder / song.file_name
    soundfile.write(path, samples, RATE, subtype="PCM_16")
    path.with_suffix(".truth.json").write_text(json.dumps(truth, indent=1))
    return path


def _play_bar(
    mix: _Mix, part: str, times: list[float], beat: float, kit: dict[str, Floats], note: float
) -> None:
    chord = _pad(note, times[-1] - times[0] or 4 * beat)
    mix.add(times[0], chord, 0.16 if part != "full" else 0.12)
    for index, time in enumerate(times[:BEATS_A_BAR]):
        if part in ("groove", "full"):
            drum, level = ("kick", 0.95) if index % 2 == 0 else ("snare", 0.6)
            mix.add(time, kit[drum], level, drum)
            mix.add(time + beat / 2, kit["hat"], 0.22, "hat")
        elif part == "thin":
            mix.add(time, kit["hat"], 0.16 if index else 0.24, "hat")
        elif part == "roll":
            strokes = 2 if index < 2 else 4
            for stroke in range(strokes):
                mix.add(time + beat * stroke / strokes, kit["snare"], 0.28 + 0.09 * index, "snare")
        if part == "full":
            mix.add(time + beat / 2, _bass(note, beat * 0.45), 0.5, "bass")
    if part == "thin":
        mix.add(times[0], _pluck(note * 8), 0.18)
        mix.add(times[2], _pluck(note * 12), 0.14)


def _kit(rng: np.random.Generator) -> dict[str, Floats]:
    t = np.arange(round(0.35 * RATE)) / RATE
    noise = rng.standard_normal(len(t))
    bright = np.diff(noise, prepend=0)
    sweep = 2 * np.pi * np.cumsum(46 + 130 * np.exp(-t / 0.028)) / RATE
    return {
        "kick": np.sin(sweep) * np.exp(-t / 0.12) + 0.25 * bright * np.exp(-t / 0.003),
        "snare": 0.55 * noise * np.exp(-t / 0.07) + 0.6 * np.sin(2 * np.pi * 186 * t) * np.exp(-t / 0.05),
        "hat": 0.7 * bright * np.exp(-t / 0.024),
    }


def _bass(note: float, seconds: float) -> Floats:
    t = np.arange(round(seconds * RATE)) / RATE
    fade = np.minimum(1, t / 0.004) * np.minimum(1, (seconds - t) / 0.03)
    tone: Floats = (np.sin(2 * np.pi * note * t) + 0.4 * np.sin(4 * np.pi * note * t)) * fade
    return tone


def _boom(note: float) -> Floats:
    t = np.arange(round(1.6 * RATE)) / RATE
    tone: Floats = np.sin(2 * np.pi * np.cumsum(note * 0.75 + 30 * np.exp(-t / 0.1)) / RATE) * np.exp(
        -t / 0.6
    )
    return tone


def _pad(note: float, seconds: float) -> Floats:
    t = np.arange(round(seconds * RATE)) / RATE
    fade = np.minimum(1, np.minimum(t / 0.15, (seconds - t) / 0.15))
    tones = [
        np.sin(2 * np.pi * note * ratio * t + 0.3 * np.sin(2 * np.pi * 0.4 * t)) for ratio in (4, 5.04, 6)
    ]
    pad: Floats = sum(tones) * np.maximum(fade, 0) / 3
    return pad


def _pluck(note: float) -> Floats:
    t = np.arange(round(0.8 * RATE)) / RATE
    tone: Floats = np.sin(2 * np.pi * note * t) * np.exp(-t / 0.16) * np.minimum(1, t / 0.003)
    return tone
