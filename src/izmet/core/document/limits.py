"""How large may an edit be?

Stated once, and in the schema where it can say so. Beyond them a wish is refused with
the figure, so that a few bytes of input never cost minutes or gigabytes.
"""

from __future__ import annotations

MOST_SECONDS = 24 * 3600.0
"""Of an edit and of a take."""

MOST_SONG_SECONDS = 6 * 3600.0

MOST_FRAMES = 10**7
"""Of an edit and of a take: more than a day at 100 frames a second."""

LEAST_SPEED, MOST_SPEED = 0.0001, 100.0

LONGEST_EFFECT = 600
"""Output frames of an overlap, and of an accent's lead and tail."""

LONGEST_TURN, WIDEST_SPACING = 60, 6
"""Output frames of a strobe's turn, and between two copies of a trail."""

LONGEST_SOUND = 60.0
"""Seconds, or beats, of a sound that is made, of a fade, and of how long the song gives way."""

LONGEST_TITLE, MOST_LINES = 500, 12
LONGEST_NOTE, MOST_NOTES = 500, 10_000

LONGEST_ID = 40
MOST_CUES = 100_000
MOST_TAKES = 5_000
MOST_CLIPS = 10_000
MOST_MOMENTS = 10_000
MOST_SELECTS = 1_000
MOST_TAGS = 20
MOST_PINS = 2_000
MOST_PASSES = 20
MOST_KNOTS = 200
MOST_TRACKS = 100
LONGEST_TRACK = 20_000
MOST_CORNERS = 32

MOST_SIDE = 16_384
"""Of a picture, in pixels."""

MOST_SAMPLE_RATE = 768_000
