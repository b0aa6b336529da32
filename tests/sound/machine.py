"""A drum machine for tests: music whose every beat and hit is known to the sample."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.signal import chirp

from izmet.sound.bands import band_levels

RATE = 44100
ROCK = {
    "kick": "X.....X.X.......",
    "snare": "....X.......X...",
    "hat": "x.x.x.x.x.x.x.x.",
    "bass": "x..x..x.x..x..x.",
}
LEVEL = {"x": 0.7, "X": 1.0}


PATTERNS = {
    "full": ROCK,
    "thin": {"hat": "x.x.x.x.x.x.x.x."},
    "roll": {"snare": "x.x.x.x.xxxxxxxx"},
}


@dataclass
class Played:
    """Samples of shape (count, channels), beats, every fourth of which begins a bar, and hits by kind.

    ``drops`` are where a full bar follows another; ``rolls`` the start and end of each roll.
    """

    samples: np.ndarray
    beats: np.ndarray
    hits: dict[str, np.ndarray] = field(default_factory=dict)
    drops: list[float] = field(default_factory=list)
    rolls: list[tuple[float, float]] = field(default_factory=list)

    @property
    def downbeats(self) -> np.ndarray:
        return self.beats[::4]


def levels(samples: np.ndarray) -> np.ndarray:
    """What the pass sees of one channel with nothing at its sides."""
    return band_levels(samples, np.zeros_like(samples))


def play(
    tempo: float,
    bars: int = 16,
    drift: float = 0.0,
    seed: int = 0,
    start: float = 0.7,
    plan: Sequence[str] | None = None,
    aside: float = 0.0,
) -> Played:
    """A rock groove, or a ``PATTERNS`` for each bar; its tempo swings by a part ``drift`` to either side.

    With hats ``aside``, -1 to 1, it is in stereo.
    """
    rng = np.random.default_rng(seed)
    plan = plan or ["full"] * bars
    count = len(plan) * 4
    lengths = 60 / (tempo * (1 + drift * np.sin(np.linspace(0, 4 * np.pi, count))))
    beats = start + np.concatenate([[0.0], np.cumsum(lengths)])
    samples = 0.001 * rng.standard_normal(round((beats[-1] + 1) * RATE))
    sides = np.zeros_like(samples)
    kit = {kind: _sound(kind, rng) for kind in ROCK}
    played = Played(samples, beats[:-1])
    hits: dict[str, list[float]] = {kind: [] for kind in ROCK}
    for bar, part in enumerate(plan):
        note = (1.0, 1.335, 1.5, 1.335)[bar % 4]
        for kind, line in PATTERNS[part].items():
            for step, sign in enumerate(line):
                if sign == ".":
                    continue
                time = float(np.interp(bar * 4 + step / 4, np.arange(len(beats)), beats))
                at = round(time * RATE)
                sound = _bass(55 * note) if kind == "bass" else kit[kind]
                room = min(len(sound), len(samples) - at)
                struck = sound[:room] * LEVEL[sign] * rng.uniform(0.9, 1.0)
                samples[at : at + room] += struck
                if kind == "hat":
                    sides[at : at + room] += aside * struck
                hits[kind].append(at / RATE)
        if part == "full" and bar and plan[bar - 1] != "full":
            played.drops.append(float(beats[4 * bar]))
        if part == "roll":
            end = float(np.interp(bar * 4 + 15 / 4, np.arange(len(beats)), beats))
            played.rolls.append((float(beats[4 * bar]), end))
    channels = [samples + sides, samples - sides] if aside else [samples]
    played.samples = (0.8 / np.abs(samples).max() * np.stack(channels, axis=1)).astype(np.float32)
    played.hits = {kind: np.array(times) for kind, times in hits.items()}
    return played


def _sound(kind: str, rng: np.random.Generator) -> np.ndarray:
    t = np.arange(round(0.3 * RATE)) / RATE
    noise = rng.standard_normal(len(t))
    if kind == "kick":
        return chirp(t, 170, 0.08, 46) * np.exp(-t / 0.09) + 0.2 * noise * np.exp(-t / 0.003)
    if kind == "snare":
        return 0.5 * noise * np.exp(-t / 0.07) + 0.5 * np.sin(2 * np.pi * 190 * t) * np.exp(-t / 0.06)
    return 0.3 * np.diff(noise, prepend=0) * np.exp(-t / 0.025)


def _bass(hertz: float) -> np.ndarray:
    t = np.arange(round(0.22 * RATE)) / RATE
    fade = np.minimum(1, t / 0.003) * np.minimum(1, (0.22 - t) / 0.02)
    return 0.35 * (np.sin(2 * np.pi * hertz * t) + 0.3 * np.sin(4 * np.pi * hertz * t)) * fade
