"""What practice songs say of themselves is so: learning, and every figure about it, rests on that.

Source of the keys of General MIDI's drums and basses: General MIDI System Level 1, from memory.
"""

from __future__ import annotations

import struct
from io import BytesIO
from itertools import pairwise

import mido
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from scripts.learning import pieces
from scripts.learning.grooves import GROOVES
from scripts.learning.inventing import BROKEN_TEMPI, SPREAD, TEMPI, invent, invent_broken
from scripts.learning.kits import RATE, synth_kit
from scripts.learning.practice import DRUMS, compose, tempo_map, write_midi

BASS_DRUM, ACOUSTIC_SNARE, CLOSED_HAT, RIDE, FINGERED_BASS, PIANO = 36, 38, 42, 51, 33, 0
BASS, KEYS = 1, 2


def played(events):
    """A MIDI file of (beat, message) at 120 beats a minute, then 60 from beat 4 on."""
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=500_000)])
    last = 0
    changed = (4, mido.MetaMessage("set_tempo", tempo=1_000_000))
    for beat, message in sorted([*events, changed], key=lambda event: event[0]):
        tick = round(480 * beat)
        track.append(message.copy(time=tick - last))
        last = tick
    file = BytesIO()
    mido.MidiFile(ticks_per_beat=480, tracks=[track]).save(file=file)
    return file.getvalue()


def note(beat, channel, key):
    return (beat, mido.Message("note_on", channel=channel, note=key, velocity=90))


PIECE = played(
    [
        (0, mido.Message("program_change", channel=BASS, program=FINGERED_BASS)),
        (0, mido.Message("program_change", channel=KEYS, program=PIANO)),
        *[note(beat, DRUMS, BASS_DRUM) for beat in (0, 2, 4, 6)],
        *[note(beat, DRUMS, ACOUSTIC_SNARE) for beat in (1, 3, 5)],
        *[note(beat, DRUMS, CLOSED_HAT) for beat in range(8)],
        note(7, DRUMS, RIDE),
        *[note(beat, BASS, 40) for beat in (0, 4)],
        note(2, KEYS, 60),
        (3, mido.Message("sysex", data=(126, 127, 9, 1))),
    ]
)
SECONDS = np.array([0, 0.5, 1, 1.5, 2, 3, 4, 5])
"""Of the beats of the piece."""


def test_the_beats_of_a_piece_are_its_quarters_whatever_its_tempo_does():
    beats, downbeats = pieces.beats_of(mido.MidiFile(file=BytesIO(PIECE)))
    assert beats[: len(SECONDS) - 1] == pytest.approx(SECONDS[:-1])
    assert downbeats[:2] == pytest.approx([0, 2])


def test_bars_begin_anew_where_a_piece_says_how_they_are_counted_and_no_beat_is_told_twice():
    """A bar of four, then two of six eighths, which are two beats each."""
    sixes = mido.MetaMessage("time_signature", numerator=6, denominator=8)
    events = [(0, mido.MetaMessage("time_signature")), (4, sixes)]
    events += [note(beat, BASS, 40) for beat in range(11)]
    beats, downbeats = pieces.beats_of(mido.MidiFile(file=BytesIO(played(events))))
    at = [0, 1, 2, 3, 4, 5.5, 7, 8.5]
    assert np.diff(beats).min() > 0
    assert len(beats[: len(at)]) == len(at)
    assert downbeats[:3] == pytest.approx([beats[0], beats[4], beats[6]])


def test_a_piece_that_was_played_freely_tells_no_beats():
    rng = np.random.default_rng(1)
    events = [note(beat, BASS, 40) for beat in np.sort(rng.uniform(0, 90, 200))]
    assert pieces.beats_of(mido.MidiFile(file=BytesIO(played(events)))) is None


@pytest.mark.parametrize("seed", range(6))
def test_a_piece_tells_each_hit_at_its_instant_whatever_is_drawn_anew(seed):
    rng = np.random.default_rng(seed)
    faster = rng.uniform(*pieces.FASTER)
    events = pieces.arranged(pieces.stretch(mido.MidiFile(file=BytesIO(PIECE)), faster, 0.0), rng)
    assert all(hasattr(message, "channel") for _, message in events)
    told = pieces.hits_of(events)
    times = {kind: np.array([time for time, _ in hits]) for kind, hits in told.items()}
    tempo = times["hat"][-1] / SECONDS[-1]
    assert 1 / pieces.FASTER[1] <= tempo <= 1 / pieces.FASTER[0]
    beats = {"kick": [0, 2, 4, 6], "snare": [1, 3, 5], "hat": range(8), "bass": [0, 4], "note": [2, 7]}
    for kind, at in beats.items():
        assert times[kind] == pytest.approx(SECONDS[list(at)] * tempo, abs=1e-6)


def test_a_stretch_of_a_long_piece_keeps_what_was_set_before_it():
    events = [(0, mido.Message("program_change", channel=BASS, program=FINGERED_BASS))]
    events += [note(beat, BASS, 40) for beat in range(200)]
    file = mido.MidiFile(file=BytesIO(played(events)))
    stretches = [pieces.stretch(file, 1.1, begin) for begin in (0.0, 1.2, 30.0, 60.0)]
    begun_late = 0
    for each in stretches:
        notes = [time for time, message in each if message.type == "note_on"]
        assert 40 < len(notes) < 75
        assert all(0 <= time <= pieces.SECONDS for time in notes)
        assert len(pieces.hits_of(each)["bass"]) == len(notes)
        gaps = {round(later - time, 6) for time, later in pairwise(notes)}
        begun_late += len(gaps) == 1  # after the tempo has changed
    assert 0 < begun_late < len(stretches)


def test_pieces_are_found_in_an_archive(tmp_path, monkeypatch):
    other = b"PNAM pictures and such"
    directory = struct.pack("<ii8s", 12, len(other), b"PICTURES")
    directory += struct.pack("<ii8s", 12 + len(other), len(PIECE), b"D_FIRST")
    head = struct.pack("<4sii", b"PWAD", 2, 12 + len(other) + len(PIECE))
    (tmp_path / "game.wad").write_bytes(head + other + PIECE + directory)
    (tmp_path / "alone.mid").write_bytes(PIECE)
    monkeypatch.setattr(pieces, "GAMES", tmp_path)
    monkeypatch.setattr(pieces, "FOLDERS", (tmp_path,))
    assert list(pieces.pieces()) == [("alone", PIECE), ("d_first", PIECE)]


def test_a_piece_without_drums_or_one_that_cannot_be_read_is_left_out(tmp_path):
    flats, mode = 1, 7  # major is 0, minor is 1
    key = b"\0\xff\x59\x02" + struct.pack("bb", -flats, mode)
    head, track = PIECE.split(b"MTrk")
    broken = head + b"MTrk" + struct.pack(">I", len(key) + len(track) - 4) + key + track[4:]
    assert pieces.write_piece("broken", broken, 0, tmp_path) is None
    assert pieces.write_piece("quiet", played([note(1, KEYS, 60)]), 0, tmp_path) is None
    assert list(tmp_path.iterdir()) == []


def test_messages_are_written_at_their_instants(tmp_path):
    times = np.sort(np.random.default_rng(0).uniform(0, 60, 200))
    write_midi(tmp_path / "x.mid", [note(time, DRUMS, BASS_DRUM) for time in times])
    read = [m.time for m in mido.MidiFile(tmp_path / "x.mid") if m.type == "note_on"]
    assert np.cumsum(read) == pytest.approx(times, abs=0.0006)  # half a tick


@given(st.sampled_from([invent, invent_broken]), st.integers(0, 5000))
def test_a_groove_drawn_at_random_can_be_played(drawn, number):
    groove = drawn(number)
    assert groove == drawn(number)
    tempi = BROKEN_TEMPI if drawn is invent_broken else (TEMPI[groove.beats, groove.steps],)
    first, last = groove.tempo
    assert any(low - 1 <= first < last <= high + 1 for low, high in tempi)
    assert groove.tempo[1] / groove.tempo[0] == pytest.approx(SPREAD, rel=0.02)
    steps = groove.beats * groove.steps
    assert {len(line) for line in (*groove.drums.values(), groove.bass, groove.chords)} == {steps}
    score = compose(groove, np.random.default_rng(number), bars=4)
    assert score.notes
    assert all(0 <= beat < 4 * groove.beats and 0 < velocity < 128 for beat, _, _, _, velocity in score.notes)


@given(st.sampled_from(GROOVES), st.integers(0, 1000))
def test_a_song_keeps_near_its_tempo_and_one_that_turns_goes_on_at_another(groove, seed):
    beats = 16 * groove.beats
    steady, turned = (
        60 / np.diff(tempo_map(groove, np.random.default_rng(seed), beats, turns)) for turns in (False, True)
    )
    assert steady.min() > groove.tempo[0] * 0.93
    assert steady.max() < groove.tempo[1] * 1.07
    change = np.median(turned[-2 * groove.beats :]) / np.median(turned[: 2 * groove.beats])
    assert 0.6 < change < 0.95 or 1.03 < change < 1.6


@pytest.mark.parametrize("seed", range(3))
def test_synthesised_drums_begin_at_once(seed):
    for key, sound in synth_kit(np.random.default_rng(seed)).items():
        begins = np.argmax(np.abs(sound) > 0.1 * np.abs(sound).max()) / RATE
        assert begins < 0.005, key
