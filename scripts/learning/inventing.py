"""Grooves drawn at random: figures that nobody wrote down, so that learning meets more than a few dozen.

A part plays each step of the bar with a chance that depends on how heavy the step is:
the first of the bar, its middle, another beat, the middle of a beat (the last third
where beats have three steps), any other. The manners of playing are common practice,
no source.
"""

from __future__ import annotations

import numpy as np

from scripts.learning import grooves
from scripts.learning.grooves import Groove

Random = np.random.Generator
Chances = tuple[float, float, float, float, float]
"""Of a part to play the first step of the bar, its middle, other beats, middles of beats, other steps."""

NEVER: Chances = (0, 0, 0, 0, 0)
FIRST: Chances = (1, 0, 0, 0, 0)
HALF_BARS: Chances = (1, 1, 0, 0, 0)
BEATS: Chances = (1, 1, 1, 0, 0)
MIDDLES: Chances = (0, 0, 0, 1, 0)
BEATS_AND_MIDDLES: Chances = (1, 1, 1, 1, 0)
ALL: Chances = (1, 1, 1, 1, 1)
BETWEEN: Chances = (0, 0, 1, 0, 0)
KICKS = (FIRST, HALF_BARS, BEATS, (1, 0.5, 0.05, 0.3, 0.12), (1, 0.3, 0.1, 0.5, 0.25))
SNARES = (
    BETWEEN,
    BETWEEN,
    (0, 0, 1, 0.1, 0.15),
    (0, 1, 0, 0, 0),
    MIDDLES,
    (0.1, 0.4, 0.4, 0.4, 0.4),
    NEVER,
)
CYMBALS = (ALL, BEATS_AND_MIDDLES, (1, 1, 1, 1, 0.3), BEATS, MIDDLES, BETWEEN, NEVER)
TOMS: Chances = (0.6, 0.4, 0.3, 0.4, 0.3)
BASSES = (FIRST, HALF_BARS, BEATS, BEATS_AND_MIDDLES, ALL, MIDDLES, (1, 0.4, 0.2, 0.4, 0.2))
CHORDS = (FIRST, BEATS, (0, 1, 1, 0, 0), BETWEEN, MIDDLES, ALL, (0.8, 0.4, 0.3, 0.4, 0.2), NEVER)
TEMPI = {
    (4, 4): (66, 146),
    (4, 2): (96, 204),
    (4, 3): (56, 150),
    (3, 2): (84, 204),
    (3, 4): (66, 112),
    (2, 3): (54, 126),
}
"""The slowest and the fastest tempo, by beats a bar and steps a beat."""
HOW_OFTEN = (0.32, 0.18, 0.18, 0.12, 0.06, 0.14)
SPREAD = 1.12
"""A groove is played at tempi that lie within this factor."""
UNDRUMMED, TOMMED, SWUNG = 0.15, 0.2, 0.25
"""How many grooves have no drums, have toms, swing."""


def invent(number: int) -> Groove:
    """The groove of a number, always the same."""
    rng = np.random.default_rng([number, 1])
    beats, steps = list(TEMPI)[rng.choice(len(TEMPI), p=HOW_OFTEN)]
    low, high = TEMPI[beats, steps]
    tempo = float(np.exp(rng.uniform(np.log(low), np.log(high / SPREAD))))
    return Groove(
        name=f"invented {number}",
        beats=beats,
        steps=steps,
        tempo=(round(tempo), round(tempo * SPREAD)),
        drums={} if rng.random() < UNDRUMMED else _drums(rng, beats, steps),
        bass=_bass(rng, beats, steps),
        chords=_line(rng, beats, steps, _one(rng, CHORDS), "xo"),
        swing=float(rng.uniform(0.15, 0.35)) if steps != 3 and rng.random() < SWUNG else 0.0,
        lead=float(rng.uniform(0.5, 3)),
        bass_program=int(rng.choice([grooves.FINGERED, grooves.PICKED, grooves.SYNTH_BASS, grooves.UPRIGHT])),
        chord_program=int(rng.choice([grooves.PIANO, grooves.GUITAR, grooves.STRINGS, grooves.SYNTH])),
        lead_program=int(rng.choice([grooves.FLUTE, grooves.BRASS, grooves.SYNTH, grooves.VIBES])),
    )


BACKBEATS = (
    (4, 12),
    (4, 10),
    (4, 13),
    (3, 12),
    (4, 15),
    (6, 12),
    (4, 10, 15),
    (3, 9, 12),
    (7, 12),
    (4, 11, 14),
)
"""Steps of a bar of sixteen on which a broken beat has its loud snares: few are where one expects them."""
BROKEN_KICKS, BROKEN_GHOSTS = (0.25, 0.5), 0.15
BROKEN_TEMPI = ((82, 104), (124, 150), (150, 186))


def invent_broken(number: int) -> Groove:
    """A broken beat of a number, always the same: syncopated kicks, snares that dodge the backbeat."""
    rng = np.random.default_rng([number, 2])
    backbeat = BACKBEATS[rng.integers(len(BACKBEATS))]
    kicks = rng.random(16) < rng.uniform(*BROKEN_KICKS)
    kicks[0], kicks[list(backbeat)] = True, False
    ghosts = rng.random(16) < BROKEN_GHOSTS
    snares = ["X" if step in backbeat else "o" if ghosts[step] else "." for step in range(16)]
    cymbal = int(rng.choice([grooves.HAT, grooves.HAT, grooves.RIDE, grooves.SHAKER]))
    low, high = BROKEN_TEMPI[rng.integers(len(BROKEN_TEMPI))]
    tempo = float(rng.uniform(low, high / SPREAD))
    return Groove(
        name=f"invented broken {number}",
        beats=4,
        steps=4,
        tempo=(round(tempo), round(tempo * SPREAD)),
        drums={
            grooves.KICK: "".join("X" if kick else "." for kick in kicks),
            grooves.SNARE: "".join(snares),
            cymbal: _line(rng, 4, 4, _one(rng, CYMBALS), "xo"),
        },
        bass=_bass(rng, 4, 4),
        chords=_line(rng, 4, 4, _one(rng, CHORDS), "xo"),
        swing=float(rng.uniform(0.1, 0.3)) if rng.random() < SWUNG else 0.0,
        lead=float(rng.uniform(0.2, 2)),
        bass_program=int(rng.choice([grooves.SYNTH_BASS, grooves.FINGERED, grooves.PICKED])),
        chord_program=int(rng.choice([grooves.PAD, grooves.SYNTH, grooves.STRINGS, grooves.OVERDRIVE])),
        lead_program=int(rng.choice([grooves.SYNTH, grooves.FLUTE, grooves.VIBES])),
    )


def _drums(rng: Random, beats: int, steps: int) -> dict[int, str]:
    cymbal = int(rng.choice([grooves.HAT, grooves.HAT, grooves.RIDE, grooves.SHAKER, grooves.TAMBOURINE]))
    snare = int(rng.choice([grooves.SNARE, grooves.SNARE, grooves.CLAP, grooves.SIDE]))
    manners = {grooves.KICK: _one(rng, KICKS), snare: _one(rng, SNARES), cymbal: _one(rng, CYMBALS)}
    if rng.random() < TOMMED:
        manners |= {grooves.TOM_LOW: TOMS, grooves.TOM_HIGH: TOMS}
    return {key: _line(rng, beats, steps, chances, "Xx") for key, chances in manners.items()}


def _bass(rng: Random, beats: int, steps: int) -> str:
    line = _line(rng, beats, steps, _one(rng, BASSES), "11")
    return line[0] + "".join(str(rng.choice(list("11158"))) if sign == "1" else sign for sign in line[1:])


def _one(rng: Random, manners: tuple[Chances, ...]) -> Chances:
    return manners[rng.integers(len(manners))]


def _line(rng: Random, beats: int, steps: int, chances: Chances, signs: str) -> str:
    """The steps of a bar: the first of two ``signs`` on beats, the second between, ``.`` for a rest."""
    return "".join(
        (signs[0] if step % steps == 0 else signs[1])
        if rng.random() < chances[_weight(step, beats, steps)]
        else "."
        for step in range(beats * steps)
    )


def _weight(step: int, beats: int, steps: int) -> int:
    """How heavy a step is: its place in ``Chances``."""
    if step == 0:
        return 0
    if beats % 2 == 0 and step == beats * steps // 2:
        return 1
    if step % steps == 0:
        return 2
    middle = 2 if steps == 3 else steps // 2
    return 3 if step % steps == middle else 4
