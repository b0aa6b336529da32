"""The first automatic pass over a song: its beats and its strong hits, as cues.

A beat that falls on a hit takes that hit's attack as its instant, so a cue is where
the sound begins and not where an analysis window saw it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from izmet.core.edit import Cue, CueKind
from izmet.sound.beats import find_beats
from izmet.sound.hits import Hit, find_hits
from izmet.sound.onsets import Floats, onset_strength, to_mono

VERSION = 1
"""Counts up when the same song would get other cues."""
ON_BEAT_SECONDS = 0.05
STRONG = 0.45
BAR = 4


@dataclass(frozen=True)
class Found:
    """Tempo in beats a minute, 0 where there is no pulse, and the cues in order of time."""

    tempo: float
    cues: tuple[Cue, ...]


def find_cues(samples: Floats, rate: int) -> Found:
    """Beats, downbeats and strong hits of a song.

    Args:
        samples: shape (count, channels).
        rate: samples a second.
    """
    mono = to_mono(samples, rate)
    strength = onset_strength(mono)
    beats = find_beats(strength)
    hits = find_hits(mono, strength, samples.mean(axis=1, dtype=np.float32), rate)
    times = [_on_attack(float(time), hits) for time in beats.times]
    first_of_bar = _downbeat(times, hits)
    marks: list[tuple[float, CueKind, float]] = [
        (
            time,
            "downbeat" if index % BAR == first_of_bar else "beat",
            0.8 if index % BAR == first_of_bar else 0.5,
        )
        for index, time in enumerate(times)
    ]
    marks += [(hit.time, hit.kind, hit.strength) for hit in hits if hit.strength >= STRONG]
    marks.sort()
    cues = [
        Cue(id=f"cue-{index + 1}", time=max(0.0, time), kind=kind, strength=strength, made="auto")
        for index, (time, kind, strength) in enumerate(marks)
    ]
    return Found(beats.tempo, tuple(cues))


def _on_attack(time: float, hits: list[Hit]) -> float:
    near = [hit for hit in hits if abs(hit.time - time) <= ON_BEAT_SECONDS]
    return max(near, key=lambda hit: hit.strength).time if near else time


def _downbeat(times: list[float], hits: list[Hit]) -> int:
    """Which beat of the bar is its first: the one on which most kick and bass falls."""
    weight = np.zeros(BAR)
    low = np.array([hit.time for hit in hits if hit.kind in ("kick", "bass")])
    strengths = np.array([hit.strength for hit in hits if hit.kind in ("kick", "bass")])
    for index, time in enumerate(times):
        weight[index % BAR] += strengths[np.abs(low - time) <= ON_BEAT_SECONDS].sum() if len(low) else 0
    return int(np.argmax(weight))
