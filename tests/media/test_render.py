"""The deepest check: a file is exported, decoded by other code, and all is in its place."""

from dataclasses import replace
from fractions import Fraction
from itertools import product

import av
import numpy as np
import pytest
import soundfile
from av.video.reformatter import Colorspace
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.commands import Configure, apply
from izmet.core.commands.clips import SetLevel
from izmet.core.commands.music import PlaceSong
from izmet.core.commands.spans import SetValue
from izmet.core.document.edit import Build, Clip, Cue, Dip, Edit, Moment, Section, Song, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Media
from izmet.core.following.workings import derive
from izmet.core.shown.mix import SONG, voices
from izmet.core.shown.stack import frames_shown
from izmet.media import render as rendering
from izmet.media.formats import FORMATS
from izmet.media.frametable import build_table
from izmet.media.pack import write_pack
from izmet.media.pictures import decode_all
from izmet.media.readback import measure, whole
from izmet.media.render import render
from izmet.media.sampling import TakeFile, sampled
from izmet.media.songfile import read_song
from izmet.sound.mixer import Mixer
from tests.media.files import (
    click_times,
    decode_sound,
    read_number,
    read_numbers,
    write_clicks,
    write_colours,
    write_numbered,
)

CUES = (0.5, 1.3, 2.0)
CLICKS = (0.5, 1.3, 1.777, 2.0)
REORDERED = {codec: {"g": "24", "bf": "2"} for codec in ("mpeg1video", "mpeg4")}
"""What makes these decode in another order than they show; others do by themselves."""


def numbered_file(path, count, rate, **options) -> TakeFile:
    write_numbered(path, count, rate, **options)
    return looked_at(path, options.get("size", (192, 108)))


def looked_at(path, size=(192, 108)) -> TakeFile:
    looked = write_pack(
        path, path.name, size, path.with_suffix(".pack"), path.with_suffix(".index"), lambda done: None
    )
    return TakeFile(path, path.name, looked.table)


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
        id="clip-1", take="take-1", spans=(Steady(speed=1), *shapes),
        pins=(Pin(id="start", p=0), *pins),
    )  # fmt: skip
    song = Song(media=Media(name="clicks", path="clicks.wav"), duration=3, sample_rate=48000, cues=cues)
    return Edit(rate=rate, width=192, height=108, song=song, takes=(take,), clips=(clip,))


def mix_of(edit, song):
    return Mixer.of(voices(edit), {SONG: song})


def export(edit, file, mix, out, format="mkv", **options):
    render(edit, {"take-1": file}, mix, out, format, **options)
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
    assert read_numbers(out) == derived.map.source.tolist()
    assert all(landing.exact for landing in derived.landings)
    measured = measure(edit, frames_shown(edit), derived.landings, {"take-1": file}, None, out).landings
    assert [m.measured_frame for m in measured] == [landing.wanted_frame for landing in derived.landings]


WITH_PICTURES = [name for name, each in FORMATS.items() if each.video is not None]


@pytest.mark.parametrize("format", WITH_PICTURES)
def test_pictures_and_sound_of_each_format_are_in_place(tmp_path, format):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    song = read_song(write_clicks(tmp_path / "clicks.wav", CLICKS, 3), "clicks")
    edit = edit_of(file, Fraction(30))
    derived = derive(edit)
    out = export(edit, file, mix_of(edit, song), tmp_path / f"out.{FORMATS[format].ending}", format)
    assert read_numbers(out) == derived.map.source.tolist()

    with av.open(str(out)) as written:
        assert written.duration / 1e6 == pytest.approx(len(derived.map.clip) / 30, abs=0.07)

    start = derived.map.first / 30
    expected = [
        time - start for time in CLICKS if time < (derived.map.first + len(derived.map.clip)) / 30 - 0.03
    ]
    samples, sound_rate = decode_sound(out)
    tolerance = 1 / sound_rate if format in ("mkv", "mov") else 0.005
    found = click_times(samples, sound_rate, expected)
    assert np.abs(np.array(found) - expected).max() <= tolerance * 1.001
    read = measure(edit, frames_shown(edit), derived.landings, {"take-1": file}, mix_of(edit, song), out)
    for m in read.landings[:2]:
        assert abs(m.sound_offset_ms) <= tolerance * 1001


@pytest.mark.parametrize("format", WITH_PICTURES)
def test_chapters_stand_in_the_file_to_the_frame(tmp_path, format):
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    edit = edit_of(file, Fraction(30))
    song = edit.song.model_copy(update={"sections": (Section(kind="build", start=1.0, end=1.9),)})
    edit = edit.model_copy(update={"song": song})
    out = export(edit, file, None, tmp_path / f"out.{FORMATS[format].ending}", format, chapters=True)
    first, last = frames_shown(edit).first, len(frames_shown(edit))
    with av.open(str(out)) as held:
        found = [
            (each["metadata"]["title"], *(float(each[side] * each["time_base"]) for side in ("start", "end")))
            for each in held.chapters()
        ]
    expected = [("Start", 0, (30 - first) / 30), ("Build", (30 - first) / 30, last / 30)]
    assert [name for name, *_ in found] == ["Start", "Build"]
    for (_, *times), (_, *wanted) in zip(found, expected, strict=True):
        assert times == pytest.approx(wanted, abs=0.001)
    assert len(read_numbers(out)) == last


BARS = [(191, 191, 191), (191, 191, 0), (0, 191, 191), (0, 191, 0), (191, 0, 191), (191, 0, 0), (0, 0, 191)]
"""Bars of 75 % of full scale: white, yellow, cyan, green, magenta, red, blue (as SMPTE RP 219 has them)."""


@pytest.mark.parametrize("quality", ["small", "good", "best"])
@pytest.mark.parametrize("format", WITH_PICTURES)
def test_colour_bars_come_out_as_they_went_in(tmp_path, format, quality):
    """In levels of ITU-R BT.709, limited range, by its formulas; and the file says so (ITU-T H.273)."""
    wide = 64
    picture = np.concatenate([np.full((108, wide, 3), bar, np.uint8) for bar in BARS], axis=1)
    size = (picture.shape[1], 108)
    take = looked_at(write_colours(tmp_path / "bars.mkv", [picture] * 130, size, 1), size)
    edit = edit_of(take, Fraction(30))
    takes = (with_size(edit.takes[0], size),)
    edit = apply(edit.model_copy(update={"takes": takes}), Configure(width=size[0]))
    out = export(edit, take, None, tmp_path / f"out.{FORMATS[format].ending}", format, quality=quality)
    with av.open(str(out)) as held:
        coded = held.streams.video[0].codec_context
        frames = list(held.decode(video=0))
        tags = (coded.color_primaries, coded.color_trc, coded.colorspace, coded.color_range)
    assert tags == (1, 1, 1, 1)
    seen = frames[len(frames) // 2].reformat(format="yuv444p")
    planes = seen.to_ndarray().astype(float)
    for k, (r, g, b) in enumerate(np.array(BARS) / 255):
        luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
        wanted = [16 + 219 * luma, 128 + 224 * (b - luma) / 1.8556, 128 + 224 * (r - luma) / 1.5748]
        found = planes[:, 30:80, k * wide + 20 : (k + 1) * wide - 20].mean(axis=(1, 2))
        assert np.abs(found - wanted).max() <= 2, (k, found, wanted)


def with_size(take: Take, size: tuple[int, int]) -> Take:
    return take.model_copy(update={"width": size[0], "height": size[1]})


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
    out = export(edit, file, mix_of(edit, song), tmp_path / "out.mkv")
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
    out = export(edit, file, mix_of(edit, song), tmp_path / "out.mp4", "mp4")
    early = measure(
        edit,
        replace(frames_shown(edit), first=derived.map.first + 1),
        derived.landings,
        {"take-1": file},
        mix_of(edit, song),
        out,
    ).landings
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
        ("flv", "libx264", "yuv420p", (192, 108)),
        ("wmv", "wmv2", "yuv420p", (192, 108)),
        ("mp4", "libsvtav1", "yuv420p10le", (192, 108)),
        # Decoded in another order than shown; the last four keep no times of their own.
        ("mpg", "mpeg1video", "yuv420p", (192, 108)),
        ("avi", "libx264", "yuv420p", (192, 108)),
        ("avi", "mpeg4", "yuv420p", (192, 108)),
        ("h264", "libx264", "yuv420p", (192, 108)),
        ("hevc", "libx265", "yuv420p", (192, 108)),
    ],
)
def test_common_containers_codecs_depths_and_odd_sizes_read_frame_by_frame(
    tmp_path, suffix, codec, pixels, size
):
    file = numbered_file(
        tmp_path / f"take.{suffix}",
        130,
        Fraction(30),
        size=size,
        codec=codec,
        pixels=pixels,
        options=REORDERED.get(codec),
    )
    assert (file.table.rate, len(file.table), file.table.steady) == (30, 130, True)
    edit = edit_of(file, Fraction(60))
    take = edit.takes[0].model_copy(update={"width": size[0], "height": size[1]})
    # Fitted in, not filled: the number is told by the whole width of the picture.
    clip = edit.clips[0].model_copy(update={"fit": "fit"})
    edit = edit.model_copy(update={"takes": (take,), "clips": (clip,)})
    out = export(edit, file, None, tmp_path / "out.mkv")
    assert read_numbers(out) == derive(edit).map.source.tolist()


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


@settings(max_examples=40)
@given(st.lists(st.floats(0.6, 3), min_size=5, max_size=60), st.sampled_from([24, 30, 60]))
def test_pictures_of_a_varying_rate_stand_nearest_to_their_real_times(gaps, rate):
    """Half a frame off at most where the pictures are a grid frame apart, never a whole one."""
    stamps = np.round(np.cumsum([0, *gaps]) * 90_000 / rate).astype(np.int64)
    table = build_table(stamps, Fraction(1, 90_000), *np.ones((2, len(stamps)), np.float32))
    first = np.searchsorted(table.picture, np.arange(len(stamps)))  # the frame on which each appears
    shown = np.unique(table.picture)
    off = np.abs(first[shown] / float(table.rate) - stamps[shown] / 90_000) * float(table.rate)
    assert off.max() < 1
    if not table.steady and np.diff(stamps).min() * float(table.rate) >= 90_000:
        assert len(shown) == len(stamps)
        assert off.max() <= 0.5 + 1e-9


def test_distinct_pictures_are_counted(tmp_path):
    doubled = numbered_file(tmp_path / "a.mp4", 120, Fraction(60), numbers=[k // 2 for k in range(120)])
    assert doubled.table.distinct == 30
    assert doubled.table.distinct_of.tolist() == [k // 2 for k in range(120)]
    still = build_table(np.arange(100), Fraction(1, 25), *np.zeros((2, 100), np.float32))
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


@pytest.mark.parametrize("format", ["mp4", "webm", "mkv"])
def test_parts_are_kept_joined_and_made_again_only_where_something_changed(tmp_path, format):
    """Three clips and a gap: pictures in place over every join, and a bent clip costs its own part alone."""
    file = numbered_file(tmp_path / "take.mp4", 190, Fraction(60))
    edit = edit_of(file, Fraction("30000/1001"))
    laid = [
        Clip(
            id=f"clip-{i}", take="take-1", spans=(Dip(strength=0.4),),
            pins=(Pin(id="a", n=n, p=p), Pin(id="b", n=n + 23, p=p + 46)),
        )
        for i, n, p in ((2, 70, 5), (3, 94, 90), (4, 121, 60))
    ]  # fmt: skip
    edit = edit.model_copy(update={"clips": (*edit.clips, *laid)})
    kept = tmp_path / "kept"
    kept.mkdir()
    out = export(edit, file, None, tmp_path / f"out.{format}", format, kept=kept)
    shown = derive(edit).map
    expected = [0 if clip < 0 else p for clip, p in zip(shown.clip, shown.source.tolist(), strict=True)]
    assert read_numbers(out) == expected
    made = {part.name: part.stat().st_ino for part in kept.glob("*.nut")}
    assert len(made) == 6  # four clips and two gaps
    bent = apply(edit, SetValue(clip="clip-3", span=0, name="strength", value=0.1))
    again = export(bent, file, None, tmp_path / f"again.{format}", format, kept=kept)
    assert read_numbers(again) == [
        0 if clip < 0 else p
        for clip, p in zip(derive(bent).map.clip, derive(bent).map.source.tolist(), strict=True)
    ]
    now = {part.name: part.stat().st_ino for part in kept.glob("*.nut")}
    assert now.items() > made.items()
    assert len(now) == 7


@pytest.mark.parametrize("spoil", ["half", "empty", "garbage"])
def test_a_kept_part_that_was_spoiled_is_made_again(tmp_path, spoil):
    file = numbered_file(tmp_path / "take.mp4", 190, Fraction(60))
    edit = edit_of(file, Fraction(30))
    kept = tmp_path / "kept"
    kept.mkdir()
    expected = read_numbers(export(edit, file, None, tmp_path / "first.mkv", "mkv", kept=kept))
    part = max(kept.glob("*.nut"), key=lambda path: path.stat().st_size)
    data = part.read_bytes()
    part.write_bytes({"half": data[: len(data) // 2], "empty": b"", "garbage": b"x" * len(data)}[spoil])
    out = export(edit, file, None, tmp_path / "again.mkv", "mkv", kept=kept)
    assert read_numbers(out) == expected
    assert whole(out).frames == len(expected)
    assert part.read_bytes() == data


def test_pictures_come_in_the_order_that_is_asked_backwards_too(tmp_path):
    """A file with one key picture alone, asked forward, backward, to and fro, and jumping."""
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    there, back = np.arange(0, 120, 2), np.arange(119, 0, -3)
    for asked in (back, np.concatenate([there, back]), np.array([5, 90, 5, 5, 91, 4]), back.repeat(2)):
        rows = sampled(file, asked[:, None], np.ones((len(asked), 1), bool))
        found = [read_number(frame.to_ndarray(format="gray")) for (frame,) in rows]
        assert found == asked.tolist()


def test_what_is_heard_in_a_take_is_heard_on_the_cue_its_moment_lands_on(tmp_path):
    """A single loud sample with each of three moments, reached at three speeds; the export is decoded."""
    file = numbered_file(tmp_path / "take.mp4", 190, Fraction(60))
    moments = (20, 50, 110)
    struck = np.zeros((3 * 44100, 1))
    struck[[frame * 44100 // 60 for frame in moments]] = 0.9
    soundfile.write(tmp_path / "own.wav", struck, 44100, subtype="FLOAT")
    edit = edit_of(file, Fraction(30), moments)
    edit = apply(apply(edit, SetLevel(clip="clip-1", level=1)), PlaceSong(heard_from=2.9))
    song = read_song(write_clicks(tmp_path / "s.wav", (), 3), "s")
    mix = Mixer.of(voices(edit), {"take-1": read_song(tmp_path / "own.wav", "own"), SONG: song})
    samples, rate = decode_sound(export(edit, file, mix, tmp_path / "out.mkv"))
    # A cue may lie between two output frames; the sound goes with the picture, which lands on a frame.
    for wanted in ((round(time * 30) - derive(edit).map.first) / 30 for time in CUES):
        begin = max(0, round((wanted - 0.1) * rate))
        loudest = begin + np.abs(samples[begin : begin + rate // 5]).argmax()
        assert abs(loudest / rate - wanted) <= 1 / rate


def test_colour_comes_through_a_whole_render(tmp_path):
    """Six plain colours, coded as BT.601 and as BT.709: what is exported shows them, marked as BT.709."""
    colours = [(200, 30, 30), (30, 160, 60), (40, 60, 210), (220, 200, 40), (128, 128, 128), (240, 240, 240)]
    for matrix, size in ((Colorspace.ITU601, (160, 90)), (Colorspace.ITU709, (192, 108))):
        path = write_colours(tmp_path / f"colours-{size[0]}.mkv", colours, size, matrix)
        table = write_pack(path, path.name, size, tmp_path / "p", tmp_path / "i", lambda done: None).table
        file = TakeFile(path, path.name, table)
        edit = edit_of(file, Fraction(60), shapes=(Steady(), Steady()))
        take = edit.takes[0].model_copy(update={"width": size[0], "height": size[1], "frames": len(table)})
        pins = (Pin(id="a", n=0, p=0), Pin(id="b", n=len(table) - 1, p=len(table) - 1))
        clip = Clip(id="c", take="take-1", pins=pins, spans=(Steady(),))
        edit = edit.model_copy(update={"takes": (take,), "clips": (clip,)})
        out = export(edit, file, None, tmp_path / f"{size[0]}.mkv")
        for wanted, frame in zip(colours, decode_all(out, "out"), strict=True):
            assert frame.colorspace == 1, "marked as BT.709"
            shown = np.asarray(frame.to_ndarray(format="rgb24", src_colorspace=Colorspace.ITU709))
            middle = shown[40:60, 80:110].reshape(-1, 3).mean(axis=0)
            assert np.abs(middle - wanted).max() < 6, (matrix, wanted, middle)


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

    monkeypatch.setattr(rendering.PartWriter, "add", full)
    with pytest.raises(Refusal, match="disk is full"):
        render(edit, {"take-1": file}, None, out, "mp4")
    assert [file.name for file in tmp_path.iterdir() if not file.name.startswith("take")] == []


def test_nothing_to_export_says_what_to_do(tmp_path):
    with pytest.raises(Refusal, match="Lay a take"):
        render(Edit(rate="30"), {}, None, tmp_path / "out.mp4", "mp4")


@pytest.mark.parametrize("format", ["mp4", "webm"])
def test_sound_beyond_all_bounds_is_exported_as_loud_as_it_can_be(tmp_path, format):
    """A float file may hold samples of a million; encoders are given none beyond 1."""
    file = numbered_file(tmp_path / "take.mp4", 130, Fraction(60))
    loud = 1e6 * np.sin(2 * np.pi * 220 * np.arange(3 * 44100) / 44100)
    soundfile.write(tmp_path / "loud.wav", loud.astype(np.float32), 44100, subtype="FLOAT")
    song = read_song(tmp_path / "loud.wav", "loud")
    edit = edit_of(file, Fraction(30))
    mix = Mixer.of(voices(edit), {SONG: song})
    samples, _ = decode_sound(export(edit, file, mix, tmp_path / f"out.{format}"))
    heard = np.abs(samples[len(samples) // 4 : -len(samples) // 4])
    assert 0.7 < heard.max() < 1.6  # a squared tone rings over when it is coded
    assert np.isfinite(samples).all()
