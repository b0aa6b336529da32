"""Where does the music drop, what builds up to it, and where does it break?

Levels of the low end and of the whole are compared over some beats before and after
every strong hit. A **drop** is where both rise sharply after a stretch that was
thinner for a while and stay up; a **build** is the stretch that leads to it; a
**break** is a thin stretch inside the song.

Source: the words are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from izmet.core.document.edit import Section
from izmet.sound.hits import Hit
from izmet.sound.onsets import RATE
from izmet.sound.rolls import Roll
from izmet.sound.track import Signal

Doubles = NDArray[np.float64]

STEP = 441
STEP_RATE = RATE / STEP
BLOCK = STEP * 4096
LOW_HZ = 140.0
NEAR_BEATS, FAR_BEATS = 4, 8
LOW_RISE_DB, FULL_RISE_DB, LONG_RISE_DB = 5.0, 1.5, 4.0
BELOW_LOUD_DB = 6.0
"""How far below the song's loud passages the low end after a drop may be."""
MOST_LOW_DB, MOST_FULL_DB, FULL_COUNTS = 18.0, 3.0, 2.0
"""Rises of the low end and of the whole count up to so much: out of silence they have no end."""
PART_OF_SHARPEST = 0.75
"""Rises less sharp than this part of the song's sharpest are no drops."""
MUCH_DB = 15.0
APART_BEATS = 12
LONGEST_BUILD_BEATS = 32
BREAK_DB = 9.0
SHORTEST_BREAK_BEATS = 6
USUAL_BEAT = 0.5
"""Seconds, where the music has no beat."""
QUIETEST_DB = -90.0


class Levels(NamedTuple):
    """Power of the low end and of the whole, every ``STEP`` samples, each of shape (steps,)."""

    low: Doubles
    full: Doubles


@dataclass(frozen=True)
class Drop:
    """The hit on which the music drops, in seconds, and how sharply, 0..1."""

    time: float
    strength: float


def find_levels(mono: Signal) -> Levels:
    """The levels of mono samples at ``RATE``, block by block, so that memory stays flat."""
    sos = butter(4, LOW_HZ, "lowpass", fs=RATE, output="sos")
    state = np.zeros((len(sos), 2))
    low, full = [np.zeros(0)], [np.zeros(0)]
    for begin in range(0, len(mono) - STEP + 1, BLOCK):
        block = mono[begin : begin + BLOCK]
        block = block[: len(block) // STEP * STEP]
        heard, state = sosfilt(sos, block, zi=state)
        low.append(np.square(heard).reshape(-1, STEP).mean(axis=1))
        full.append(np.square(block, dtype=np.float64).reshape(-1, STEP).mean(axis=1))
    return Levels(np.concatenate(low), np.concatenate(full))


def find_drops(levels: Levels, hits: list[Hit], beats: Doubles) -> list[Drop]:
    """The drops of a song, in order of time."""
    if len(levels.low) == 0:
        return []
    beat = _beat(beats)
    hits = [hit for hit in hits if hit.time >= beat * FAR_BEATS]
    rises = sorted(_rises(levels, hits, beat), reverse=True)
    drops: list[Drop] = []
    for sharp, time in rises:
        if sharp < PART_OF_SHARPEST * rises[0][0]:
            break
        if all(abs(time - drop.time) > APART_BEATS * beat for drop in drops):
            near = [hit.time for hit in hits if abs(hit.time - time) <= NEAR_BEATS * beat]
            exact = _sharpest(levels.low, near, beat)
            sharpest = MOST_LOW_DB + FULL_COUNTS * MOST_FULL_DB
            if _goes_on(levels, exact, beat):
                drops.append(Drop(exact, float(np.clip(sharp / sharpest, 0.3, 1.0))))
    return sorted(drops, key=lambda drop: drop.time)


def _rises(levels: Levels, hits: list[Hit], beat: float) -> Iterator[tuple[float, float]]:
    """The hits after which low end and whole rise and stay up: how sharply, and when."""
    low, full = levels
    loud = _decibels(np.percentile(_mean_over(low, np.arange(len(low)), 0, beat * NEAR_BEATS), 90))
    for hit in hits:
        at = round(hit.time * STEP_RATE)
        before_low, after_low = _around(low, at, beat * NEAR_BEATS)
        before, after = _around(full, at, beat * NEAR_BEATS)
        long_before, long_after = _around(low, at, beat * FAR_BEATS)
        enough = (
            before > QUIETEST_DB
            and after_low - before_low >= LOW_RISE_DB
            and after - before >= FULL_RISE_DB
            and long_after - long_before >= LONG_RISE_DB
            and after_low >= loud - BELOW_LOUD_DB
        )
        if enough and _goes_on(levels, hit.time, beat):
            sharp = min(after_low - before_low, MOST_LOW_DB) + FULL_COUNTS * min(after - before, MOST_FULL_DB)
            yield sharp, hit.time


def _goes_on(levels: Levels, time: float, beat: float) -> bool:
    """Whether enough follows for one to know that it stays up: at a cut one cannot."""
    return len(levels.low) - round(time * STEP_RATE) >= beat * NEAR_BEATS * STEP_RATE


def find_sections(levels: Levels, beats: Doubles, drops: list[Drop], rolls: list[Roll]) -> list[Section]:
    """Rolls, builds and breaks, in order of time."""
    low = levels.low
    beat = _beat(beats)
    sections = [Section(kind="roll", start=roll.start, end=roll.end) for roll in rolls]
    thin = _thin(low, beat)
    for begin, end in thin:
        lands = next((drop.time for drop in drops if abs(drop.time - end) <= 2 * beat), None)
        if lands is None:
            sections.append(Section(kind="break", start=begin, end=end))
            continue
        start = max(begin, lands - LONGEST_BUILD_BEATS * beat)
        led = [roll.start for roll in rolls if start <= roll.start < lands and roll.end >= lands - 2 * beat]
        build = min(led, default=max(start, lands - 16 * beat))
        sections.append(Section(kind="build", start=build, end=lands))
        if build - begin >= SHORTEST_BREAK_BEATS * beat:
            sections.append(Section(kind="break", start=begin, end=build))
    built = [section.end for section in sections if section.kind == "build"]
    for drop in drops:
        if drop.time not in built:
            sections.append(Section(kind="build", start=max(0.0, drop.time - 8 * beat), end=drop.time))
    return sorted(sections, key=lambda section: (section.start, section.kind))


def _beat(beats: Doubles) -> float:
    return float(np.median(np.diff(beats))) if len(beats) > 1 else USUAL_BEAT


def _around(power: Doubles, at: int, seconds: float) -> tuple[float, float]:
    """Levels in dB before and after a step; before leaves out the last moment, which the attack may reach."""
    reach = round(seconds * STEP_RATE)
    before, after = power[max(0, at - reach) : max(0, at - 2)], power[at : at + reach]
    return _decibels(before.mean() if len(before) else 0.0), _decibels(after.mean() if len(after) else 0.0)


def _decibels(power: float) -> float:
    return float(10 * np.log10(max(float(power), 10 ** (QUIETEST_DB / 10))))


def _mean_over(power: Doubles, at: NDArray[np.intp], begin: float, end: float) -> Doubles:
    """Mean power from ``begin`` to ``end`` seconds after each step."""
    total = np.concatenate([[0.0], np.cumsum(power)])
    first = np.clip(at + round(begin * STEP_RATE), 0, len(power))
    last = np.clip(at + round(end * STEP_RATE), 0, len(power))
    mean: Doubles = (total[last] - total[first]) / np.maximum(last - first, 1)
    return mean


def _sharpest(power: Doubles, times: list[float], beat: float) -> float:
    """The instant after which a beat is loudest, if a bar before it is much quieter."""

    def rise(time: float) -> float:
        at = round(time * STEP_RATE)
        before, after = _around(power, at, NEAR_BEATS * beat)[0], _around(power, at, beat)[1]
        return after + min(after - before, MUCH_DB)

    return max(times, key=rise)


def _thin(low: Doubles, beat: float) -> list[tuple[float, float]]:
    """Stretches in seconds whose low end is far below the song's usual, not the one after its last beat."""
    if len(low) == 0 or low.max() <= 0:
        return []
    smooth = _mean_over(low, np.arange(len(low)), -beat, beat)
    usual = np.percentile(smooth, 75)
    thin = smooth < usual * 10 ** (-BREAK_DB / 10)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], thin, [False]])))
    found = []
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        if end < len(low) and (end - begin) / STEP_RATE >= SHORTEST_BREAK_BEATS * beat:
            found.append((begin / STEP_RATE, end / STEP_RATE))
    return found
