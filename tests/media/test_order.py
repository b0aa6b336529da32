"""Times of pictures in files that keep none, or whose clock starts again."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from izmet.core.following.workings import derive
from izmet.media.order import AHEAD, BACK, Clock
from izmet.media.songfile import read_song
from tests.media.files import click_times, read_numbers, write_clicks, write_numbered
from tests.media.test_render import edit_of, export, looked_at

TICK = Fraction(1, 90_000)


def told(stamps: list[int]) -> tuple[list[int], list[int], bool]:
    """Which pictures with these stamps are kept, the stamps they get, and whether the clock restarted."""
    pictures = []
    for stamp in stamps:
        picture = av.VideoFrame(2, 2, "gray")
        picture.pts, picture.time_base = stamp, TICK
        pictures.append(picture)
    clock = Clock()
    kept = list(clock.told(iter(pictures)))
    return [pictures.index(each) for each in kept], [each.pts or 0 for each in kept], clock.restarted


@settings(max_examples=100)
@given(st.lists(st.integers(-(1 << 32), 1 << 32), max_size=30))
def test_stamps_rise_whatever_a_file_says(stamps):
    kept, found, _ = told(stamps)
    assert found == sorted(set(found))
    assert kept[:1] == [0][: len(stamps)]


@settings(max_examples=100)
@given(st.integers(-(1 << 32), 1 << 32), st.lists(st.integers(1, 90_000 * 60), max_size=30))
def test_stamps_that_rise_are_left_as_they_are(first, steps):
    rising = [first]
    for step in steps:
        rising.append(rising[-1] + step)
    assert told(rising) == (list(range(len(rising))), rising, False)


@settings(max_examples=100)
@given(st.lists(st.integers(1000, 9000), min_size=2, max_size=20), st.integers(-(1 << 32), 1 << 32))
def test_a_clock_that_starts_again_goes_on(steps, again):
    """The same steps twice, the second time from elsewhere: each step is kept."""
    once = [sum(steps[:k]) for k in range(len(steps) + 1)]
    assume(not -BACK <= (again - once[-1]) * TICK <= AHEAD)
    kept, found, restarted = told(once + [again + at for at in once])
    assert restarted
    assert kept == list(range(2 * len(once)))
    gaps = [b - a for a, b in pairwise(found)]
    assert gaps == [*steps, steps[-1], *steps]


def test_two_recordings_joined_byte_by_byte_are_one_take(tmp_path):
    """Each picture of both is read, and found again on its own."""
    parts = [
        write_numbered(tmp_path / f"{begin}.ts", 130, Fraction(30), numbers=range(begin, begin + 130))
        for begin in (0, 130)
    ]
    take = tmp_path / "take.ts"
    take.write_bytes(b"".join(part.read_bytes() for part in parts))
    file = looked_at(take)
    assert (len(file.table), file.table.rate, file.table.steady) == (260, 30, True)
    edit = edit_of(file, Fraction(60), moments=(100, 140, 220))
    out = export(edit, file, None, tmp_path / "out.mkv")
    assert read_numbers(out) == derive(edit).map.source.tolist()


@settings(max_examples=12, deadline=None)
@given(st.sampled_from([22050, 44100, 48000]), st.floats(0.4, 0.9), st.floats(0.2, 0.7))
def test_sound_after_lost_packets_is_heard_where_it_was(rate, begin, length):
    """Clicks at 0.2 and 1.9 s, of the packets between them some are missing."""
    with tempfile.TemporaryDirectory() as name:
        whole = write_clicks(Path(name) / "whole.wav", (0.2, 1.9), 2.5, rate=rate)
        holed = Path(name) / "holed.mkv"
        with av.open(str(whole)) as source, av.open(str(holed), "w") as out:
            stream = out.add_stream("pcm_s16le", rate=rate, layout="stereo")
            for frame in source.decode(audio=0):
                if not begin < (frame.time or 0) < begin + length:
                    out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
        heard = read_song(holed, "holed")
        assert heard.duration == pytest.approx(2.5, abs=0.03)
        found = click_times(heard.stretch(0, heard.count).mean(axis=1), rate, (0.2, 1.9))
        assert found == pytest.approx([0.2, 1.9], abs=1e-3)
