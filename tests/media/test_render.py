"""The deepest check: a file is exported, decoded by other code, and all is in its place."""

from dataclasses import replace
from fractions import Fraction
from itertools import product

import numpy as np
import pytest

from izmet.core.commands import apply
from izmet.core.commands.music import PlaceSong
from izmet.core.derived import derive
from izmet.core.edit import Build, Clip, Cue, Dip, Edit, Media, Moment, Pin, Song, Steady, Take
from izmet.core.framemap import frame_map
from izmet.core.refusal import Refusal
from izmet.core.retime.solve import solve
from izmet.media import render as rendering
from izmet.media.frametable import build_table
from izmet.media.pack import write_pack
from izmet.media.readback import measure
from izmet.media.render import TakeFile, render
from izmet.media.songfile import as_heard, read_song
from tests.media.files import (
    click_times,
    decode_sound,
    read_numbers,
    write_clicks,
    write_numbered,
)

CUES = (0.5, 1.3, 2.0)
CLICKS = (0.5, 1.3, 1.777, 2.0)


def numbered_file(path, count, rate, **options) -> TakeFile:
    write_numbered(path, count, rate, **options)
    size = options.get("size", (192, 108))
    table = write_pack(
        path, path.name, size, path.with_suffix(".pack"), path.with_suffix(".index"), lambda done: None
    )
    return TakeFile(path, table)


def edit_of(
    file: TakeFile,
    rate: Fraction,
    moments=(20, 50, 110),
    shapes=(Dip(strength=0.6), Build(start=0.2, change=0.6)),
) -> Edit:
    media = Media(name=file.path.name, path=file.path.name)
    take = Take(
        id="take-1", media=media, rate=file.table.rate, frames=len(file.table), distinct=file.table.distinct,
        width=192, height=108, moments=tuple(Moment(id=f"m-{i}", frame=f) for i, f in enumerate(moments)),
    )  # fmt: skip
    cues = tuple(Cue(id=f"c-{i}", time=t) for i, t in enumerate(CUES))
    pins = [Pin(id=f"p-{i}", cue=f"c-{i}", moment=f"m-{i}") for i in range(3)]
    clip = Clip(
        id="clip-1", take="take-1", spans=(Steady(), *shapes),
        pins=(Pin(id="start", p=0, speed=1), *pins),
    )  # fmt: skip
    song = Song(media=Media(name="clicks", path="clicks.wav"), duration=3, sample_rate=48000, cues=cues)
    return Edit(rate=rate, width=192, height=108, song=song, takes=(take,), clips=(clip,))


def shown_by(edit):
    return frame_map([solve(edit, clip) for clip in edit.clips])


def export(edit, file, song, out, format="mkv"):
    render(edit, {"take-1": file}, song, out, format)
    return out


@pytest.mark.parametrize(
    ("rate", "take_rate"),
    [(Fraction(a), Fraction(b)) for a, b in product(["24000/1001", "60"], ["25", "30000/1001", "120"])]
    + [(Fraction(24), Fraction(60)), (Fraction(50), Fraction("24000/1001")), (Fraction(120), Fraction(30))],
)
def test_every_exported_picture_is_the_source_frame_that_the_core_said(tmp_path, rate, take_rate):
    file = numbered_file(tmp_path / "take.mp4", 130, take_rate)
    assert file.table.rate == take_rate
    edit = edit_of(file, rate)
    derived = derive(edit)
    out = export(edit, file, None, tmp_path / "out.mkv")
    assert read_numbers(out) == derived.map.source
    assert all(landing.exact for landing in derived.landings)
    measured = measure(edit, shown_by(edit), derived.landings, {"take-1": file}, None, out)
    assert [m.measured_frame for m in measured] == [landing.wanted_frame for landing in derived.landings]


@pytest.mark.parametrize("format", ["mp4", "webm", "mkv"])
def test_pictures_and_sound_of_each_format_are_in_place(tmp_path, format):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    song = read_song(write_clicks(tmp_path / "clicks.wav", CLICKS, 3), "clicks")
    edit = edit_of(file, Fraction(30))
    derived = derive(edit)
    out = export(edit, file, song, tmp_path / f"out.{format}", format)
    assert read_numbers(out) == derived.map.source

    start = derived.map.first / 30
    expected = [
        time - start for time in CLICKS if time < (derived.map.first + len(derived.map.clip)) / 30 - 0.03
    ]
    samples, sound_rate = decode_sound(out)
    tolerance = 1 / sound_rate if format == "mkv" else 0.005
    found = click_times(samples, sound_rate, expected)
    assert np.abs(np.array(found) - expected).max() <= tolerance * 1.001
    for m in measure(edit, shown_by(edit), derived.landings, {"take-1": file}, song, out)[:2]:
        assert abs(m.sound_offset_ms) <= tolerance * 1001


@pytest.mark.parametrize("moved", [0.25, -0.2])
def test_a_song_that_is_moved_and_trimmed_sounds_there_and_nowhere_else(tmp_path, moved):
    """Each click of the part that is heard lies on its sample, ties follow the cues, all else is silent."""
    file = numbered_file(tmp_path / "take.mp4", 190, Fraction(60))
    song = read_song(write_clicks(tmp_path / "clicks.wav", CLICKS, 3), "clicks")
    before = edit_of(file, Fraction(30), moments=(20, 70, 130))
    edit = apply(before, PlaceSong(start=moved, heard_from=1.0, heard_to=1.9))
    derived = derive(edit)
    assert [x.wanted_frame for x in derived.landings] == [int((t + moved) * 30 + 0.5) for t in CUES]
    assert all(landing.exact for landing in derived.landings)
    out = export(edit, file, as_heard(edit.song, song), tmp_path / "out.mkv")
    samples, rate = decode_sound(out)
    start = derived.map.first / 30
    expected = [time + moved - start for time in (1.3, 1.777)]
    assert np.abs(np.array(click_times(samples, rate, expected)) - expected).max() <= 1.001 / rate
    level = np.abs(samples).reshape(len(samples), -1).max(axis=1)
    outside = np.ones(len(level), bool)
    outside[round((1.0 + moved - start) * rate) : round((1.9 + moved - start) * rate)] = False
    assert level[outside].max() < 1e-4


def test_readback_tells_when_a_file_is_a_frame_off(tmp_path):
    """A measure that cannot fail proves nothing: shift the cues by a frame after the export."""
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    song = read_song(write_clicks(tmp_path / "clicks.wav", CLICKS, 3), "clicks")
    edit = edit_of(file, Fraction(30))
    derived = derive(edit)
    out = export(edit, file, song, tmp_path / "out.mp4", "mp4")
    early = measure(
        edit,
        replace(shown_by(edit), first=derived.map.first + 1),
        derived.landings,
        {"take-1": file},
        song,
        out,
    )
    assert [m.measured_frame for m in early] == [landing.wanted_frame + 1 for landing in derived.landings]
    assert all(m.sound_offset_ms == pytest.approx(1000 / 30, abs=5) for m in early[:2])


@pytest.mark.parametrize(
    ("suffix", "codec", "pixels", "size"),
    [
        ("mov", "prores_ks", "yuv422p10le", (192, 108)),
        ("webm", "libvpx-vp9", "yuv420p", (192, 108)),
        ("mkv", "libx265", "yuv420p10le", (192, 108)),
        ("mkv", "ffv1", "bgr0", (191, 109)),
        ("avi", "mjpeg", "yuvj420p", (320, 108)),
        ("ts", "libx264", "yuv420p", (192, 108)),
    ],
)
def test_common_containers_codecs_depths_and_odd_sizes_read_frame_by_frame(
    tmp_path, suffix, codec, pixels, size
):
    file = numbered_file(
        tmp_path / f"take.{suffix}", 130, Fraction(30), size=size, codec=codec, pixels=pixels
    )
    assert (file.table.rate, len(file.table), file.table.steady) == (30, 130, True)
    edit = edit_of(file, Fraction(60))
    take = edit.takes[0].model_copy(update={"width": size[0], "height": size[1]})
    edit = edit.model_copy(update={"takes": (take,)})
    out = export(edit, file, None, tmp_path / "out.mkv")
    assert read_numbers(out) == derive(edit).map.source


def test_a_varying_rate_is_read_on_a_steady_grid(tmp_path):
    """60 pictures a second, then 30: on a 60 grid the second half holds each picture twice."""
    stamps = [k / 60 for k in range(60)] + [1 + k / 30 for k in range(40)]
    file = numbered_file(tmp_path / "take.mkv", 100, Fraction(60), stamps=stamps)
    assert not file.table.steady
    assert file.table.rate == 60
    assert file.table.picture.tolist() == [*range(60), *(60 + k // 2 for k in range(79))]
    edit = edit_of(file, Fraction(60))
    out = export(edit, file, None, tmp_path / "out.mkv")
    assert read_numbers(out) == file.table.picture[derive(edit).map.source].tolist()


def test_distinct_pictures_are_counted(tmp_path):
    doubled = numbered_file(tmp_path / "a.mp4", 120, Fraction(60), numbers=[k // 2 for k in range(120)])
    assert doubled.table.distinct == 30
    assert doubled.table.looks.tolist() == [k // 2 for k in range(120)]
    still = build_table(np.arange(100), Fraction(1, 25), np.arange(100) == 0, np.zeros(100))
    assert still.distinct == still.rate == 25


def test_gaps_are_black_and_later_clips_lie_on_top(tmp_path):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    edit = edit_of(file, Fraction(60), shapes=(Steady(), Steady()))
    pins = (Pin(id="a", n=130, p=3), Pin(id="b", n=140, p=13))
    over = Clip(
        id="clip-2",
        take="take-1",
        pins=(Pin(id="a", n=60, p=100), Pin(id="b", n=69, p=109)),
        spans=(Steady(),),
    )
    apart = Clip(id="clip-3", take="take-1", pins=pins, spans=(Steady(),))
    edit = edit.model_copy(update={"clips": (*edit.clips, over, apart)})
    shown = derive(edit).map
    out = export(edit, file, None, tmp_path / "out.mkv")
    expected = [0 if clip < 0 else source for clip, source in zip(shown.clip, shown.source, strict=True)]
    assert read_numbers(out) == expected
    assert expected[60 - shown.first : 70 - shown.first] == list(range(100, 110))
    assert -1 in shown.clip


def test_a_failed_or_cancelled_export_leaves_nothing_behind(tmp_path, monkeypatch):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    edit, out = edit_of(file, Fraction(60)), tmp_path / "out.mp4"

    def cancel(done, of):
        if done == 5:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        render(edit, {"take-1": file}, None, out, "mp4", cancel)

    def full(self, frame):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(rendering.Writer, "add", full)
    with pytest.raises(Refusal, match="disk is full"):
        render(edit, {"take-1": file}, None, out, "mp4")
    assert not list(tmp_path.glob("out*"))


def test_nothing_to_export_says_what_to_do(tmp_path):
    with pytest.raises(Refusal, match="Lay a take"):
        render(Edit(rate="30"), {}, None, tmp_path / "out.mp4", "mp4")
