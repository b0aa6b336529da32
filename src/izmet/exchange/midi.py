"""Standard MIDI Files: the beats as a tempo map, and a note for each cue.

Each beat lies on a quarter note, so the grid of any program that opens the file is
the song's own. Drums are on channel 10 with their General MIDI keys.

Source: MIDI 1.0 Standard MIDI Files 1.0; General MIDI 1 percussion key map.
"""

from __future__ import annotations

import io
from collections.abc import Iterable

import mido
import numpy as np

from izmet.core.document.cuekinds import CueKind
from izmet.core.document.edit import Cue, Song
from izmet.core.document.refusal import Refusal
from izmet.core.music.counting import beats_of
from izmet.exchange.marks import Mark

TICKS_A_BEAT = 9600
MICROSECONDS = 1_000_000
LONGEST_BEAT = 1.6
"""Seconds; a longer gap is filled with beats: ticks stay fine, and tempo events within their bounds."""
PERCUSSION, BASS, NOTES = 9, 1, 0
NOTE_TICKS = 480
KEYS: dict[CueKind, tuple[int, int]] = {
    "beat": (PERCUSSION, 33),
    "downbeat": (PERCUSSION, 34),
    "kick": (PERCUSSION, 36),
    "snare": (PERCUSSION, 38),
    "hat": (PERCUSSION, 42),
    "drop": (PERCUSSION, 49),
    "roll": (PERCUSSION, 25),
    "hand": (PERCUSSION, 56),
    "bass": (BASS, 36),
    "note": (NOTES, 60),
}
ALSO: dict[int, CueKind] = {
    35: "kick",
    40: "snare",
    37: "snare",
    39: "snare",
    44: "hat",
    46: "hat",
    57: "drop",
}
BASS_BELOW = 48


def write(song: Song, cues: Iterable[Cue]) -> bytes:
    """The song's beats as tempo map, and the cues as notes; velocity is strength."""
    beats = beats_of(song.cues)
    ticks, tempi = _tempo_map([beat.time for beat in beats], song.duration)
    conductor = mido.MidiTrack()
    first = next((beat.time for beat in beats if beat.kind == "downbeat"), 0.0)
    events = [(tick, mido.MetaMessage("set_tempo", tempo=tempo)) for tick, tempo in tempi]
    at = round(float(np.interp(first, *ticks)))
    events.append((at, mido.MetaMessage("time_signature", numerator=song.meter, denominator=4)))
    _fill(conductor, events)
    notes = mido.MidiTrack()
    struck = []
    for cue in cues:
        channel, key = KEYS[cue.kind]
        tick = round(float(np.interp(cue.time, *ticks)))
        velocity = max(1, round(cue.strength * 127))
        struck.append((tick, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
        struck.append((tick + NOTE_TICKS, mido.Message("note_off", channel=channel, note=key)))
    _fill(notes, struck)
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=TICKS_A_BEAT, tracks=[conductor, notes]).save(file=out)
    return out.getvalue()


def read(data: bytes, name: str) -> list[Mark]:
    """Every note as a mark, at its exact instant. Raises Refusal when it is not a MIDI file."""
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
        tempi = _tempi(file)
    except (OSError, EOFError, ValueError, KeyError, IndexError):
        raise Refusal("not-midi", "This is not a Standard MIDI File.", name, "Choose a .mid file.") from None
    marks = []
    for number, track in enumerate(file.tracks, start=1):
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "note_on" and message.velocity > 0:
                time = float(np.interp(tick, *tempi))
                where = f"{name}, track {number}, tick {tick}"
                marks.append(Mark(time, _kind(message), message.velocity / 127, where))
    return sorted(marks)


def _tempo_map(
    beats: list[float], duration: float
) -> tuple[tuple[list[float], list[float]], list[tuple[int, int]]]:
    """Points (seconds, ticks) between which ticks run evenly; tempo events (tick, microseconds a beat)."""
    times = sorted({0.0, *(beats if len(beats) > 1 else [0.5])})
    times.append(max(times[-1] + (times[-1] - times[-2]), duration))
    edges = times[:1]
    for time in times[1:]:
        while time - edges[-1] > LONGEST_BEAT:
            edges.append(edges[-1] + LONGEST_BEAT / 2)
        edges.append(time)
    tempi: list[tuple[int, int]] = []
    told = [0]
    for index, edge in enumerate(edges[1:]):
        length = max(1, round(edge * MICROSECONDS) - told[-1])  # what rounding took is given back by the next
        told.append(told[-1] + length)
        if not tempi or tempi[-1][1] != length:
            tempi.append((index * TICKS_A_BEAT, length))
    ticks = [float(index * TICKS_A_BEAT) for index in range(len(edges))]
    return ([at / MICROSECONDS for at in told], ticks), tempi


def _fill(track: mido.MidiTrack, events: list[tuple[int, mido.Message | mido.MetaMessage]]) -> None:
    last = 0
    for tick, message in sorted(events, key=lambda event: event[0]):
        track.append(message.copy(time=tick - last))
        last = tick


def _tempi(file: mido.MidiFile) -> tuple[list[float], list[float]]:
    """Points (ticks, seconds) between which time runs evenly."""
    if file.ticks_per_beat <= 0:
        raise ValueError("frames as ticks")
    changes = {0: 500_000}
    for track in file.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "set_tempo":
                changes[tick] = message.tempo
    ticks, seconds = [0.0], [0.0]
    ordered = sorted(changes.items())
    last = max(sum(message.time for message in track) for track in file.tracks) if file.tracks else 0
    for (tick, tempo), (following, _) in zip(
        ordered, [*ordered[1:], (max(last, ordered[-1][0] + 1), 0)], strict=True
    ):
        ticks.append(float(following))
        seconds.append(seconds[-1] + (following - tick) * tempo / MICROSECONDS / file.ticks_per_beat)
    return ticks, seconds


def _kind(note: mido.Message) -> CueKind:
    by_key = {key: kind for kind, (channel, key) in KEYS.items() if channel == PERCUSSION} | ALSO
    if note.channel == PERCUSSION:
        return by_key.get(note.note, "note")
    return "bass" if note.note < BASS_BELOW else "note"
