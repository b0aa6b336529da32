"""The automatic pass over a song: beats and bars, hits by kind, rolls, drops and sections.

A cue is where a sound begins, not where an analysis window saw it. The pass is
deterministic: the same samples give the same cues, to the last bit, for one
``VERSION``.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from izmet.core.document.cuekinds import CueKind
from izmet.core.document.edit import Cue, Section
from izmet.core.music.counting import BEAT_STRENGTH, DOWNBEAT_STRENGTH
from izmet.sound.beatnet import hear
from izmet.sound.grid import place
from izmet.sound.hits import Hit, find_hits
from izmet.sound.learned import Weights, learned
from izmet.sound.meter import Music, Reading, bars, heard, readings
from izmet.sound.mono import split
from izmet.sound.onsets import RATE, find_onsets
from izmet.sound.rolls import Roll, find_rolls
from izmet.sound.sections import Drop, find_drops, find_levels, find_sections
from izmet.sound.source import Source
from izmet.sound.track import Floats, Signal, blocks

Doubles = NDArray[np.float64]
Progress = Callable[[float], None]
Relation = Literal["double", "half", "off-beat", "three-four", "other"]

VERSION = 10
"""Counts up when the same song would get other cues."""
LONGEST_SECONDS = 3600.0
"""How much of a song is heard: memory has a bound, whatever a file claims."""
MOST_ALTERNATIVES = 5
ALWAYS_TOLD, LEAST_LIKELIHOOD = 3, 0.002
"""So many readings are told however unlikely they are, others from so likely on."""
SAME_TEMPO = 0.06
"""How far two tempos may lie apart, as a part, and be the same."""
WEAKER_KIND = 0.8
"""A hit's second kind counts this part of its first."""


class Beats(BaseModel):
    """One way to count the song.

    ``times`` are instants of beats in seconds; every ``meter`` of them makes a bar,
    from index ``downbeat`` on. ``likelihood`` is that of this reading among all.
    """

    tempo: float
    meter: int
    downbeat: int
    likelihood: float
    steady: bool
    relation: Relation | None
    times: tuple[float, ...]


class Confidence(BaseModel):
    """How sure the machine is, 0..1, of the tempo up to its octave, the octave, the phase, the bars."""

    tempo: float = 0.0
    octave: float = 0.0
    phase: float = 0.0
    bar: float = 0.0


class Found(BaseModel):
    """All that was found in the first ``heard`` seconds.

    ``beats`` are readings of the beat, likeliest first, none without a pulse.
    """

    version: int = VERSION
    heard: float
    beats: tuple[Beats, ...]
    confidence: Confidence
    cues: tuple[Cue, ...]
    sections: tuple[Section, ...]

    @property
    def tempo(self) -> float:
        """Beats a minute, 0 where there is no pulse."""
        return self.beats[0].tempo if self.beats else 0.0


def find_cues(samples: Floats, rate: int, progress: Progress = lambda part: None) -> Found:
    """Everything that may be landed on in samples of shape (count, channels)."""
    return listen(Source.of(samples, rate), progress)


def listen(sound: Source, progress: Progress = lambda part: None) -> Found:
    """Everything that may be landed on in a song, of which ``LONGEST_SECONDS`` are heard.

    Args:
        sound: its samples are finite.
        progress: told the part done, 0..1; what it raises ends the pass.
    """
    sound = sound.first(LONGEST_SECONDS)
    native, rate = split(sound, sound.rate)[0], sound.rate
    if not any(block.any() for block in blocks(native)):
        return Found(heard=sound.duration, beats=(), confidence=Confidence(), cues=(), sections=())
    mono, sides = split(sound, RATE)
    weights = learned()
    hits = find_hits(mono, sides, native, rate, weights)
    progress(0.4)
    onsets = find_onsets(mono)
    progress(0.6)
    music = heard(onsets, hits, hear(onsets.picture, weights.arrays))
    ways = readings(music, weights)
    progress(0.8)
    beats, bar_likelihood = _counted(ways, music, native, rate, weights)
    progress(0.9)
    times = np.array(beats[0].times if beats else (), np.float64)
    rolls = find_rolls(hits)
    levels = find_levels(mono)
    drops = find_drops(levels, hits, times)
    sections = find_sections(levels, times, drops, rolls)
    progress(1.0)
    return Found(
        heard=sound.duration,
        beats=beats,
        confidence=_confidence(ways, bar_likelihood),
        cues=tuple(_cues(beats, hits, rolls, drops)),
        sections=tuple(sections),
    )


def _beat_marks(beats: Beats) -> list[tuple[float, CueKind, float]]:
    """The beats of a reading as (time, kind, strength)."""
    return [
        (time, "downbeat", DOWNBEAT_STRENGTH)
        if (index - beats.downbeat) % beats.meter == 0
        else (time, "beat", BEAT_STRENGTH)
        for index, time in enumerate(beats.times)
    ]


def _counted(
    ways: list[Reading], music: Music, native: Signal, rate: int, weights: Weights
) -> tuple[tuple[Beats, ...], float]:
    """The readings that are likely enough, placed on the attacks, and how likely the first one's bars are."""
    counted: list[Beats] = []
    sure_of_bars = 0.0
    for way in ways[: MOST_ALTERNATIVES + 1]:
        if len(counted) >= ALWAYS_TOLD and way.likelihood < LEAST_LIKELIHOOD:
            break
        meter, downbeat, likelihood = bars(way.train, music, weights)
        sure_of_bars = sure_of_bars or likelihood
        times, steady = place(way.train, music["full"], native, rate)
        tempo = 60 / float(np.median(np.diff(times)))
        if steady:
            tempo = 60 * (len(times) - 1) / float(times[-1] - times[0])
        counted.append(
            Beats(
                tempo=tempo,
                meter=meter,
                downbeat=downbeat,
                likelihood=way.likelihood,
                steady=steady,
                relation=_relation(way, ways[0]) if counted else None,
                times=tuple(times.tolist()),
            )
        )
    return tuple(counted), sure_of_bars


def _relation(way: Reading, best: Reading) -> Relation:
    ratio = way.tempo / best.tempo
    if abs(ratio - 1) < SAME_TEMPO:
        return "off-beat"
    if abs(ratio / 2 - 1) < SAME_TEMPO:
        return "double"
    if abs(ratio * 2 - 1) < SAME_TEMPO:
        return "half"
    near = (3 / 4, 4 / 3, 3 / 2, 2 / 3)
    return "three-four" if any(abs(ratio / other - 1) < SAME_TEMPO for other in near) else "other"


def _confidence(ways: list[Reading], bar_likelihood: float) -> Confidence:
    if not ways:
        return Confidence()
    best = ways[0]
    octaves = sum(way.likelihood for way in ways if _is_octave(way.tempo / best.tempo))
    same = sum(way.likelihood for way in ways if abs(way.tempo / best.tempo - 1) < SAME_TEMPO)
    return Confidence(tempo=octaves, octave=same / octaves, phase=best.likelihood / same, bar=bar_likelihood)


def _is_octave(ratio: float) -> bool:
    octaves = math.log2(ratio)
    return abs(octaves - round(octaves)) < SAME_TEMPO


def _cues(beats: tuple[Beats, ...], hits: list[Hit], rolls: list[Roll], drops: list[Drop]) -> list[Cue]:
    marks = _beat_marks(beats[0]) if beats else []
    for hit in hits:
        marks += [
            (hit.time, kind, hit.strength * (WEAKER_KIND if place else 1))
            for place, kind in enumerate(hit.kinds)
        ]
    marks += [(roll.start, "roll", roll.strength) for roll in rolls]
    marks += [(drop.time, "drop", drop.strength) for drop in drops]
    return [
        Cue(id=f"cue-{index + 1}", time=max(0.0, time), kind=kind, strength=round(strength, 3), made="auto")
        for index, (time, kind, strength) in enumerate(sorted(marks))
    ]
