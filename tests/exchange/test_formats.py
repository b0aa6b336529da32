"""Cues go out and come back, and other libraries read the same instants from the files."""

from __future__ import annotations

import io

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Cue, Section, Song
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Media
from izmet.exchange.formats import FORMATS, read_cues

KINDS = tuple(CUE_KINDS)
EXACT_SECONDS = {"csv": 1e-6, "txt": 1e-6, "vtt": 0.000501, "mid": 0.0001}
"""What each format keeps: six decimals, half a millisecond, about half a tick."""


def song(times: list[float], drift: float = 0.0) -> Song:
    beats = [
        Cue(
            id=f"beat-{i}",
            time=0.37 + i * 0.51 + drift * i * i,
            kind="downbeat" if i % 3 == 0 else "beat",
        )
        for i in range(40)
    ]
    hits = [
        Cue(id=f"hit-{i}", time=time, kind=KINDS[i % len(KINDS)], strength=(i % 5 + 1) / 5)
        for i, time in enumerate(times)
    ]
    cues = sorted([*beats, *hits], key=lambda cue: cue.time)
    return Song(
        media=Media(name="song", path="song.wav"),
        duration=60,
        sample_rate=44100,
        meter=3,
        cues=cues,
        sections=(Section(kind="build", start=2, end=9),),
    )


@pytest.mark.parametrize("ending", FORMATS)
@settings(max_examples=30, deadline=None)
@given(times=st.lists(st.floats(0, 59), max_size=30), drift=st.floats(0, 0.003))
def test_cues_come_back_as_they_went(ending, times, drift):
    before = song(times, drift)
    marks = read_cues(FORMATS[ending].write(before, before.cues), f"cues.{ending}", before.duration)
    assert len(marks) == len(before.cues) or ending == "vtt"  # chapters of one millisecond share a title
    left = sorted(before.cues, key=lambda cue: cue.time)
    for mark in marks:
        same = min((c for c in left if c.kind == mark.kind), key=lambda cue: abs(cue.time - mark.time))
        assert abs(same.time - mark.time) <= EXACT_SECONDS[ending]
        if ending in ("csv", "mid"):
            assert any(
                abs(cue.strength - mark.strength) < 0.005
                for cue in left
                if cue.kind == mark.kind and abs(cue.time - mark.time) <= EXACT_SECONDS[ending]
            )


def test_another_reader_hears_the_notes_at_their_instants_and_beats_on_quarter_notes():
    """Reference: mido's own playing of the file, which follows tempo maps by code that Izmet does not use."""
    before = song([1.0, 7.25, 30.125], drift=0.002)
    data = FORMATS["mid"].write(before, before.cues)
    now, heard = 0.0, []
    for message in mido.MidiFile(file=io.BytesIO(data)):
        now += message.time
        if message.type == "note_on":
            heard.append(now)
    assert heard == pytest.approx([cue.time for cue in before.cues], abs=1e-4)
    file = mido.MidiFile(file=io.BytesIO(data))
    ticks = _note_ticks(file, 33, 34)
    assert {tick % file.ticks_per_beat for tick in ticks} == {0}
    assert next(m for m in file.tracks[0] if m.type == "time_signature").numerator == 3


def _note_ticks(file: mido.MidiFile, *keys: int) -> list[int]:
    tick, found = 0, []
    for message in file.tracks[1]:
        tick += message.time
        if message.type == "note_on" and message.note in keys:
            found.append(tick)
    return found


def test_notes_of_a_foreign_midi_file_come_in_exactly():
    track = mido.MidiTrack(
        [
            mido.MetaMessage("set_tempo", tempo=600_000),
            mido.Message("note_on", channel=9, note=36, velocity=127, time=96),
            mido.Message("note_on", channel=9, note=36, velocity=0, time=10),
            mido.MetaMessage("set_tempo", tempo=300_000, time=86),
            mido.Message("note_on", channel=9, note=38, velocity=64, time=48),
            mido.Message("note_on", channel=2, note=40, velocity=127, time=48),
        ]
    )
    out = io.BytesIO()
    mido.MidiFile(ticks_per_beat=96, tracks=[track]).save(file=out)
    marks = read_cues(out.getvalue(), "drums.midi", 60)
    assert [(round(mark.time, 9), mark.kind) for mark in marks] == [
        (0.6, "kick"),
        (1.35, "snare"),
        (1.5, "bass"),
    ]


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.csv", b"when,what\n1,kick\n", "column"),
        ("a.csv", b"time,kind\n1.0,kick\nsoon,kick\n", "row 3"),
        ("a.csv", b"time,strength\n1,7\n", "strength"),
        ("a.csv", b"time\n-1\n", "not a time"),
        ("a.csv", b"time,kind\n", "no cues"),
        ("a.csv", b"\xff\xfe\x00", "UTF-8"),
        ("a.txt", b"1.0\tkick\n", "line 1"),
        ("a.txt", b"just words\n", "line 1"),
        ("a.vtt", b"00:01.000 --> 00:02.000\nkick\n", "WEBVTT"),
        ("a.vtt", b"WEBVTT\n\n1 --> 2\nkick\n", "line 3"),
        ("a.mid", b"MThd nonsense", "MIDI"),
        ("a.mid", b"", "MIDI"),
        ("a.docx", b"PK", "not read"),
        ("a.csv", b"time\n59.9\n60.1\n3\n", "row 3"),
        ("a.txt", b"1\t1\tkick\n75.5\t75.5\tkick\n", "line 2"),
        ("a.vtt", b"WEBVTT\n\n02:00.000 --> 02:01.000\nkick\n", "line 3"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(name, data, says):
    with pytest.raises(Refusal) as refused:
        read_cues(data, name, 60)
    assert says in f"{refused.value}"


def test_cues_of_a_file_come_in_order_of_time():
    marks = read_cues(b"time,kind\n7,kick\n3,snare\n5,hat\n", "a.csv", 60)
    assert [(mark.time, mark.kind) for mark in marks] == [(3, "snare"), (5, "hat"), (7, "kick")]


def test_of_a_label_track_come_instants_and_beginnings_and_no_stretch_of_the_songs_form():
    """Lines of frequencies belong to the label before; only a build that lasts is no instant."""
    lines = ("1\t1\tkick", "\\\t120.0\t480.0", "", "2\t9\tBuild", "3\t3\tbuild", "4\t6\tsnare", "5\t5")
    marks = read_cues("\n".join(lines).encode(), "a.txt", 60)
    assert [(mark.time, mark.kind) for mark in marks] == [(1, "kick"), (3, "hand"), (4, "snare"), (5, "hand")]
