"""What the practice songs play: grooves of one bar, written as steps.

A groove line has ``beats · steps`` signs, one a step: ``.`` rest, ``o`` soft, ``x``
plain, ``X`` loud. A bass line names scale steps: ``1`` root, ``3``, ``5``, ``8``
octave. They are common figures of dance, folk and band music, written down from
memory, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

KICK, SNARE, SIDE, CLAP, HAT, OPEN, PEDAL = 36, 38, 37, 39, 42, 46, 44
CRASH, RIDE, TOM_LOW, TOM_HIGH, SHAKER, TAMBOURINE, CLAVES = 49, 51, 45, 50, 70, 54, 75

PIANO, GUITAR, OVERDRIVE, STRINGS, ORGAN, SYNTH, ACCORDION = (0, 25, 29, 48, 16, 81, 21)
HARP, BRASS, FLUTE, VIBES, PAD = 46, 61, 73, 11, 89
FINGERED, PICKED, SYNTH_BASS, UPRIGHT, TUBA, CELLO = 33, 34, 38, 32, 58, 42


@dataclass(frozen=True)
class Groove:
    """A bar of a style. ``swing`` moves every odd step by this part of a step; ``lead`` is notes a beat."""

    name: str
    beats: int
    steps: int
    tempo: tuple[int, int]
    drums: dict[int, str]
    bass: str
    chords: str
    swing: float = 0.0
    lead: float = 1.0
    bass_program: int = FINGERED
    chord_program: int = PIANO
    lead_program: int = FLUTE


GROOVES = (
    Groove(
        "rock",
        4,
        2,
        (96, 150),
        {KICK: "X...X.x.", SNARE: "..X...X.", HAT: "xoxoxoxo"},
        "11111111",
        "x...x...",
        bass_program=PICKED,
        chord_program=OVERDRIVE,
    ),
    Groove(
        "rock late kick",
        4,
        4,
        (80, 120),
        {KICK: "X.........X.x...", SNARE: "....X.......X..o", HAT: "x.o.x.o.x.o.x.o."},
        "1.1...1...5.1...",
        "x.....x.....x...",
        chord_program=GUITAR,
    ),
    Groove(
        "four on the floor",
        4,
        4,
        (118, 134),
        {
            KICK: "X...X...X...X...",
            CLAP: "....X.......X...",
            OPEN: "..x...x...x...x.",
            HAT: "xooxxooxxooxxoox",
        },
        "..1...1...1...1.",
        "x.....x.....x...",
        bass_program=SYNTH_BASS,
        chord_program=SYNTH,
        lead_program=SYNTH,
    ),
    Groove(
        "trance",
        4,
        4,
        (130, 145),
        {KICK: "X...X...X...X...", HAT: "..X...X...X...X.", CLAP: "....x.......x..."},
        ".111.111.111.111",
        "x...............",
        lead=4,
        bass_program=SYNTH_BASS,
        chord_program=PAD,
        lead_program=SYNTH,
    ),
    Groove(
        "half time",
        4,
        4,
        (130, 160),
        {KICK: "X.....x.......x.", SNARE: "........X.......", HAT: "x.xxx.x.x.x.xxxx"},
        "1.......5.....1.",
        "x...............",
        bass_program=SYNTH_BASS,
        chord_program=STRINGS,
    ),
    Groove(
        "hip hop",
        4,
        4,
        (82, 102),
        {KICK: "X......x..X.....", SNARE: "....X.......X...", HAT: "x.x.x.x.x.x.x.xo"},
        "1.....1...3.....",
        "x.......x.......",
        swing=0.25,
        chord_program=VIBES,
    ),
    Groove(
        "broken",
        4,
        4,
        (160, 176),
        {KICK: "X.........X.....", SNARE: "....X..o.o..X..o", RIDE: "x.x.x.x.x.x.x.x."},
        "1.........5.....",
        "x...............",
        bass_program=SYNTH_BASS,
        chord_program=PAD,
    ),
    Groove(
        "shuffle",
        4,
        3,
        (95, 140),
        {KICK: "X.....X....x", SNARE: "...X.....X..", HAT: "x.ox.ox.ox.o"},
        "1.13.35.58.8",
        "x.....x.....",
        chord_program=ORGAN,
    ),
    Groove(
        "swing",
        4,
        3,
        (120, 190),
        {RIDE: "x..x.ox..x.o", PEDAL: "...x.....x..", KICK: "o.....o....."},
        "1..3..5..8..",
        "x....x......",
        bass_program=UPRIGHT,
    ),
    Groove(
        "off-beat",
        4,
        4,
        (70, 96),
        {KICK: "........X.......", SIDE: "........X.......", HAT: "x.x.x.xox.x.x.x."},
        "1.....3.5...1...",
        "..x...x...x...x.",
        chord_program=GUITAR,
    ),
    Groove(
        "two step",
        4,
        2,
        (96, 126),
        {KICK: "X...X...", SNARE: "..x...x.", SHAKER: "xoxoxoxo"},
        "1...5...",
        "..x...x.",
        bass_program=TUBA,
        chord_program=ACCORDION,
    ),
    Groove(
        "march",
        4,
        4,
        (100, 124),
        {KICK: "X.......X.......", SNARE: "x..xx..xx..xx.xx", CRASH: "x..............."},
        "1...5...1...5...",
        "....x.......x...",
        bass_program=TUBA,
        chord_program=BRASS,
        lead_program=BRASS,
    ),
    Groove(
        "waltz",
        3,
        2,
        (90, 180),
        {KICK: "X.....", SNARE: "..o.o.", HAT: "..x.x."},
        "1.....",
        "..x.x.",
        bass_program=UPRIGHT,
        chord_program=ACCORDION,
    ),
    Groove(
        "slow three",
        3,
        4,
        (76, 110),
        {KICK: "X.....x.....", SNARE: "....x...x...", HAT: "x.o.x.o.x.o."},
        "1.....5.....",
        "x...x...x...",
        chord_program=GUITAR,
    ),
    Groove(
        "country three",
        3,
        2,
        (100, 150),
        {KICK: "X.....", TAMBOURINE: "..x.x."},
        "1.5.5.",
        "x.xox.",
        chord_program=GUITAR,
    ),
    Groove("pastoral three", 3, 2, (84, 140), {}, "1..5..", "xxxxxx", chord_program=HARP, bass_program=CELLO),
    Groove(
        "ballad",
        4,
        3,
        (54, 76),
        {KICK: "X.....x....x", SNARE: "...X.....X..", HAT: "xooxooxooxoo"},
        "1.....5.....",
        "xxxxxxxxxxxx",
        chord_program=PIANO,
    ),
    Groove("piano", 4, 2, (66, 120), {}, "1...5...", "xxxxxxxx", chord_program=PIANO, bass_program=PIANO),
    Groove("strings", 4, 2, (72, 132), {}, "1...1.5.", "x.x.x.x.", chord_program=STRINGS, bass_program=CELLO),
    Groove(
        "clave",
        4,
        4,
        (84, 116),
        {KICK: "X..x..x.X..x..x.", CLAVES: "x..x..x...x.x...", SHAKER: "xoxoxoxoxoxoxoxo"},
        "1.....5.8.....5.",
        "x..x..x...x.x...",
        chord_program=PIANO,
        bass_program=UPRIGHT,
    ),
    Groove(
        "funk",
        4,
        4,
        (92, 116),
        {KICK: "X.x....x..x..x..", SNARE: "....X..o.o..X..o", HAT: "x.xxx.xxx.xxx.xx"},
        "1..1..8...1.5.1.",
        "..x..x....x..x..",
        chord_program=GUITAR,
    ),
    Groove(
        "trap",
        4,
        4,
        (64, 78),
        {KICK: "X.....x...X.....", CLAP: "....X.......X...", HAT: "xxxxxxxxxxxxxoxx"},
        "1.........1.....",
        "x...............",
        bass_program=SYNTH_BASS,
        chord_program=PAD,
    ),
    Groove(
        "sparse machine",
        4,
        4,
        (98, 128),
        {KICK: "X.....X.....X...", SNARE: "....X.......X...", SHAKER: "..x...x...x...x."},
        "1.1.1.1.1.1.1.1.",
        "x.......x.......",
        bass_program=SYNTH_BASS,
        chord_program=ORGAN,
    ),
    Groove(
        "jig",
        2,
        3,
        (100, 130),
        {KICK: "X..x..", TAMBOURINE: "xoxxox"},
        "1..5..",
        "x.xx.x",
        lead=3,
        chord_program=GUITAR,
    ),
)
