"""The film in a review page: every frame of the file, its colours, and its sound in its place."""

from __future__ import annotations

import base64
import re
from fractions import Fraction

import av
import numpy as np
import pytest

from izmet.core.document.refusal import Refusal
from izmet.jobs.poster import poster_of
from izmet.jobs.review import LONGEST, review_page, small_copy
from izmet.media.songfile import read_song
from tests.media.files import click_times, decode_sound, read_numbers, write_clicks
from tests.media.test_render import CLICKS, edit_of, export, mix_of, numbered_file


@pytest.mark.parametrize("format", ["mp4", "mkv", "mov"])
def test_the_small_copy_has_each_frame_and_each_sound_in_its_place(tmp_path, format):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    song = read_song(write_clicks(tmp_path / "clicks.wav", CLICKS, 3), "clicks")
    edit = edit_of(file, Fraction(30))
    out = export(edit, file, mix_of(edit, song), tmp_path / f"out.{format}", format)
    small = small_copy(out, tmp_path / "small.mp4", 2)
    assert read_numbers(small) == read_numbers(out)
    with av.open(str(small)) as held:
        context = held.streams.video[0].codec_context
        assert (context.color_range, context.colorspace) == (1, 1)
    both = [decode_sound(each) for each in (out, small)]
    expected = [time for time in CLICKS if time < len(both[0][0]) / both[0][1] - 0.05]
    found = [np.array(click_times(samples, rate, expected)) for samples, rate in both]
    assert np.abs(found[0] - found[1]).max() <= 0.003
    # It is made once.
    before = small.stat().st_mtime_ns
    assert small_copy(out, small, 2).stat().st_mtime_ns == before


@pytest.mark.parametrize("format", ["mp4", "webm", "mkv", "mov", "av1"])
def test_a_poster_is_the_very_picture_of_the_file(tmp_path, format):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    out = export(edit_of(file, Fraction(30)), file, None, tmp_path / f"out.{format}", format)
    numbers = read_numbers(out)
    for index in (0, 1, 17, len(numbers) - 1):
        jpeg = tmp_path / f"{index}.jpg"
        jpeg.write_bytes(poster_of(out, index))
        assert read_numbers(jpeg) == [numbers[index]]
    with pytest.raises(Refusal):
        poster_of(out, len(numbers))


def test_the_page_holds_the_film_and_nothing_can_break_out_of_it(tmp_path):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    edit = edit_of(file, Fraction(30))
    (tmp_path / "small.mp4").write_bytes(b"a film")
    line = {"wanted_frame": 3, "measured_frame": 3, "label": "</script><b>", "cue_kind": "hand"}
    report = {"rate": "30", "first_frame": 0, "frames": 60, "landings": [line]}
    page = review_page(report, tmp_path / "small.mp4", edit, "<Heat three>")
    assert base64.b64decode(re.search('base64,([^"]+)', page)[1]) == b"a film"
    assert "&lt;Heat three&gt;" in page
    assert "</script><b>" not in page
    assert "http" not in page, "nothing is fetched"


def test_a_film_that_is_too_long_is_refused(tmp_path):
    with pytest.raises(Refusal, match="minutes") as refused:
        small_copy(tmp_path / "out.mp4", tmp_path / "small.mp4", LONGEST + 1)
    assert refused.value.remedy
