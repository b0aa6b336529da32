"""Drops, builds and breaks on levels drawn by hand, where every one of them is known.

The words are common practice, no source.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.sound.hits import Hit
from izmet.sound.onsets import RATE
from izmet.sound.rolls import Roll
from izmet.sound.sections import STEP_RATE, Levels, find_drops, find_levels, find_sections

FULL, THIN = (-12.0, -9.0), (-34.0, -16.0)
"""Levels in dB of the low end and of the whole."""
tempi = st.floats(70, 180)


class Drawn:
    """A song of stretches, each so many beats at some levels, with a hit on every beat."""

    def __init__(self, tempo: float, *stretches: tuple[int, tuple[float, float]]):
        self.beat = 60 / tempo
        counts = [count for count, _ in stretches]
        self.edges = np.cumsum([0, *counts]) * self.beat
        self.beats = np.arange(sum(counts)) * self.beat
        self.hits = [Hit(float(time), ("kick",), 1.0) for time in self.beats]
        steps = np.arange(round(self.edges[-1] * STEP_RATE)) / STEP_RATE
        place = np.clip(np.searchsorted(self.edges, steps, "right") - 1, 0, len(counts) - 1)
        decibels = np.array([levels for _, levels in stretches])[place]
        self.levels = Levels(*(10 ** (decibels.T / 10)))

    def drops(self) -> list[float]:
        return [drop.time for drop in find_drops(self.levels, self.hits, self.beats)]

    def sections(self, *kinds: str, rolls: list[Roll] | None = None) -> list[tuple[float, float]]:
        drops = find_drops(self.levels, self.hits, self.beats)
        found = find_sections(self.levels, self.beats, drops, rolls or [])
        return [(section.start, section.end) for section in found if section.kind in kinds]


@given(tempi, st.integers(16, 48), st.integers(8, 32), st.integers(16, 48))
def test_a_drop_is_the_hit_on_which_all_of_it_comes_in(tempo, before, thin, after):
    song = Drawn(tempo, (before, FULL), (thin, THIN), (after, FULL))
    assert song.drops() == [pytest.approx(song.edges[2])]


@given(tempi, st.floats(-50, 20))
def test_how_loud_a_song_is_on_the_whole_changes_nothing(tempo, decibels):
    """Down to where its thin stretches would be silence."""
    found = []
    for louder in (0.0, decibels):
        full, thin = ((low + louder, whole + louder) for low, whole in (FULL, THIN))
        song = Drawn(tempo, (16, full), (16, thin), (24, full))
        found.append((song.drops(), song.sections("build", "break")))
    assert found[0] == found[1]


@given(tempi, st.integers(40, 100))
def test_a_song_that_goes_on_as_it_was_has_no_drop_no_build_and_no_break(tempo, count):
    song = Drawn(tempo, (count, FULL))
    assert song.drops() == []
    assert song.sections("build", "break", "roll") == []


@given(tempi)
def test_what_swells_slowly_does_not_drop(tempo):
    swelling = [(1, (FULL[0] - 22 + step / 2, FULL[1] - 8 + step / 6)) for step in range(44)]
    assert Drawn(tempo, *swelling, (24, FULL)).drops() == []


@given(tempi, st.sampled_from([1, 2, 3, 5, 6, 8]))
def test_a_drop_just_before_the_end_is_not_claimed(tempo, after):
    song = Drawn(tempo, (16, FULL), (16, THIN), (after, FULL))
    assert song.drops() == ([] if after < 4 else [pytest.approx(song.edges[2])])


@given(tempi, st.integers(8, 16))
def test_a_build_leads_to_the_drop_and_no_further_back_than_it_is_thin(tempo, thin):
    song = Drawn(tempo, (24, FULL), (thin, THIN), (24, FULL))
    ((start, end),) = song.sections("build")
    assert end == pytest.approx(song.edges[2])
    assert start == pytest.approx(song.edges[1], abs=1.5 * song.beat)


@given(tempi, st.integers(24, 30), st.integers(3, 8))
def test_where_a_roll_leads_to_the_drop_the_build_is_the_roll_and_a_break_comes_before(tempo, thin, rolled):
    song = Drawn(tempo, (24, FULL), (thin, THIN), (24, FULL))
    drop = song.edges[2]
    roll = Roll(start=drop - rolled * song.beat, end=drop - song.beat / 4, hits=(), strength=1.0)
    assert song.sections("build", rolls=[roll]) == [(pytest.approx(roll.start), pytest.approx(drop))]
    ((start, end),) = song.sections("break", rolls=[roll])
    assert start == pytest.approx(song.edges[1], abs=1.5 * song.beat)
    assert end == pytest.approx(roll.start)
    assert song.sections("roll", rolls=[roll]) == [(roll.start, roll.end)]


@given(tempi, st.integers(12, 24))
def test_a_thin_stretch_that_swells_back_is_a_break(tempo, thin):
    swelling = [(1, (THIN[0] + step, THIN[1] + step / 3)) for step in range(22)]
    song = Drawn(tempo, (32, FULL), (thin, THIN), *swelling, (32, FULL))
    assert song.drops() == []
    ((start, end),) = song.sections("break")
    assert start == pytest.approx(song.edges[1], abs=1.5 * song.beat)
    assert song.edges[2] <= end <= song.edges[-2]


def test_where_the_song_ends_it_does_not_break():
    assert Drawn(120, (40, FULL), (12, THIN)).sections("break") == []


@given(st.floats(20, 120), st.integers(0, 50_000))
def test_levels_are_the_power_of_what_sounds(hertz, more):
    """A sine of amplitude A has the power A²/2; 40 dB and more of what is above the low end is left out."""
    samples = 3 * RATE + more  # not a whole number of steps or blocks
    sine = 0.5 * np.sin(2 * np.pi * hertz * np.arange(samples) / RATE)
    high = 0.25 * np.sin(2 * np.pi * 2000 * np.arange(samples) / RATE)
    levels = find_levels((sine + high).astype(np.float32))
    assert len(levels.low) == len(levels.full) == samples // (RATE // 100)
    settled = slice(100, 300)
    assert levels.full[settled].mean() == pytest.approx(0.5**2 / 2 + 0.25**2 / 2, rel=0.02)
    assert 0.7 * 0.125 < levels.low[settled].mean() <= 1.02 * 0.125


def test_nothing_sounds_in_no_samples():
    levels = find_levels(np.zeros(0, np.float32))
    assert find_drops(levels, [], np.zeros(0)) == []
    assert find_sections(levels, np.zeros(0), [], []) == []
