"""Files that people upload: songs of each kind are placed to the sample, and bad ones are named."""

import gc
import signal
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
import soundfile
from av.video.reformatter import Colorspace

from izmet.core.document.edit import Clip, Edit, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Media
from izmet.material.reading import check_kept
from izmet.media import pictures
from izmet.media.drawing import place
from izmet.media.faults import reading
from izmet.media.frametable import build_table
from izmet.media.pack import read_frame, write_pack
from izmet.media.pictures import decode_all, planes, small_luma
from izmet.media.probe import answered, probe
from izmet.media.songfile import read_song
from izmet.media.warm import Ending
from tests.media.files import (
    click_samples,
    click_times,
    encode_song,
    read_number,
    write_clicks,
    write_numbered,
)

CLICKS = [0.25, 0.8, 1.5]


def test_probe_tells_what_is_inside(tmp_path):
    take = probe(write_numbered(tmp_path / "a.mp4", 10, size=(192, 108)), "a.mp4")
    assert (take.video.width, take.video.height, take.video.codec, take.sounds) == (192, 108, "h264", [])
    song = probe(write_clicks(tmp_path / "b.flac", CLICKS, 2, rate=44100), "b.flac")
    assert (song.sounds[0].sample_rate, song.sounds[0].channels, song.video) == (44100, 2, None)
    assert song.duration == pytest.approx(2)


@pytest.mark.parametrize(
    ("suffix", "codec", "tolerance"),
    [("wav", "pcm_s16le", 0), ("flac", "flac", 0), ("m4a", "aac", 0.002), ("ogg", "libopus", 0.002),
     ("mp3", "libmp3lame", 0.002)],
)  # fmt: skip
def test_songs_of_each_kind_keep_their_instants(tmp_path, suffix, codec, tolerance):
    rate = 48000 if codec == "libopus" else 44100
    source = write_clicks(tmp_path / "source.wav", CLICKS, 2, rate)
    path = source if suffix == "wav" else encode_song(source, tmp_path / f"song.{suffix}", codec, rate)
    sound = read_song(path, path.name)
    found = click_times(sound.stretch(0, sound.count).mean(axis=1), sound.rate, CLICKS)
    assert np.abs(np.array(found) - CLICKS).max() <= tolerance + 0.5 / rate


@pytest.mark.parametrize(("channels", "kept"), [(1, 1), (2, 2), (6, 2)])
def test_surround_is_mixed_to_two_channels(tmp_path, channels, kept):
    sound = read_song(write_clicks(tmp_path / "a.wav", CLICKS, 2, channels=channels), "a")
    assert (sound.count, sound.channels) == (96000, kept)


def test_damage_costs_only_the_pictures_that_it_hit(tmp_path):
    data = bytearray(write_numbered(tmp_path / "a.mp4", 90).read_bytes())
    middle = data.index(b"mdat") + 1500
    data[middle : middle + 12] = bytes(12)
    hurt = tmp_path / "hurt.mp4"
    hurt.write_bytes(data)
    table = write_pack(hurt, "hurt", (192, 108), tmp_path / "p", tmp_path / "i", lambda done: None).table
    assert 60 <= len(table.stamps) <= 90
    assert len(table) == 90


TURNS = [(1, 0, 0, 1), (0, 1, -1, 0), (-1, 0, 0, -1), (0, -1, 1, 0)]
MIRRORED = [(-1, 0, 0, 1), (1, 0, 0, -1), (0, 1, 1, 0), (0, -1, -1, 0)]


def turned_by(path, turn):
    """A numbered take whose track header's matrix turns or mirrors it (ISO/IEC 14496-12, tkhd)."""
    data = write_numbered(path, 12).read_bytes()
    one, zero = ((value * 0x10000).to_bytes(4, "big") for value in (1, 0))
    unity, fixed = one + zero * 3 + one + zero * 3, (0x40000000).to_bytes(4, "big")
    a, b, c, d = ((value * 0x10000).to_bytes(4, "big", signed=True) for value in turn)
    turned = a + b + zero + c + d + zero * 3
    at = data.index(unity + fixed, data.index(b"tkhd"))
    path.write_bytes(data[:at] + turned + data[at + len(turned) :])
    return path


def laid_back(picture, turn):
    """A picture as it was coded: each place (x, y) is fetched from (a·x + c·y, b·x + d·y)."""
    a, b, c, d = turn
    high, wide = picture.shape[::-1] if b else picture.shape
    y, x = np.mgrid[:high, :wide]
    across, down = a * x + c * y, b * x + d * y
    return picture[down - down.min(), across - across.min()]


@pytest.mark.parametrize("turn", [*TURNS, *MIRRORED])
def test_a_turned_or_mirrored_take_is_seen_upright(tmp_path, turn):
    path = turned_by(tmp_path / "turned.mp4", turn)
    size = (108, 192) if turn[1] else (192, 108)
    facts = probe(path, "turned")
    assert facts.video.size == size
    table = write_pack(path, "turned", size, tmp_path / "p", tmp_path / "i", lambda done: None).table
    assert len(table) == 12
    take = Take(
        id="t", media=Media(name="turned", path="t"), rate=table.rate, frames=12, distinct=table.rate,
        width=size[0], height=size[1],
    )  # fmt: skip
    edit = Edit(rate=table.rate, width=size[0], height=size[1], takes=(take,))
    clip = Clip(id="c", take="t", pins=(Pin(id="a", n=0, p=0), Pin(id="b", n=11, p=11)), spans=(Steady(),))
    for number, frame in enumerate(decode_all(path, "turned")):
        jpeg = read_frame(tmp_path / "p", tmp_path / "i", number)
        packed = cv2.imdecode(np.frombuffer(jpeg, np.uint8), cv2.IMREAD_GRAYSCALE)
        exported = place(edit, clip, frame).to_ndarray(format="gray")
        looked_at = small_luma(frame, size)
        for picture in (packed, exported, looked_at):
            assert (picture.shape[0] > picture.shape[1]) == bool(turn[1])
            assert read_number(laid_back(picture, turn)) == number


@pytest.mark.parametrize("turn", [TURNS[0], MIRRORED[0]])
def test_a_picture_that_was_looked_at_leaves_the_memory_at_once(tmp_path, turn):
    """Not when the garbage collector comes by: a second of 4K pictures is half a gigabyte."""
    path = turned_by(tmp_path / "turned.mp4", turn)
    gc.disable()
    try:
        before = pictures_in_memory()
        for frame in decode_all(path, "turned"):
            small_luma(frame, (64, 36))
            planes(frame, (64, 36), "yuv420p", Colorspace.ITU709, full_range=False)
            del frame
        assert pictures_in_memory() - before <= 1
    finally:
        gc.enable()


def pictures_in_memory():
    return sum(issubclass(type(each), av.VideoFrame) for each in gc.get_objects())


def cut_off(tmp_path):
    path = write_numbered(tmp_path / "a.mp4", 30)
    path.write_bytes(path.read_bytes()[:-900])
    return path


def no_numbers(tmp_path):
    samples = click_samples(CLICKS, 2)
    samples[100] = np.nan
    soundfile.write(tmp_path / "nan.wav", samples, 48000, subtype="FLOAT")
    return tmp_path / "nan.wav"


def unknown_codec(tmp_path):
    path = write_numbered(tmp_path / "a.avi", 5, codec="mjpeg", pixels="yuvj420p")
    path.write_bytes(path.read_bytes().replace(b"MJPG", b"ZZQ9"))
    return path


def text(tmp_path):
    (tmp_path / "notes.mp4").write_text("not a film at all\n" * 100)
    return tmp_path / "notes.mp4"


def empty(tmp_path):
    (tmp_path / "empty.mp4").touch()
    return tmp_path / "empty.mp4"


@pytest.mark.parametrize(
    ("make", "code"),
    [(text, "not-media"), (empty, "empty-file"), (cut_off, "not-media"), (unknown_codec, "unknown-codec"),
     (lambda tmp: tmp / "gone.mp4", "media-missing")],
)  # fmt: skip
def test_bad_files_are_named_and_say_what_to_do(tmp_path, make, code):
    with pytest.raises(Refusal) as refused:
        probe(make(tmp_path), "my file")
    assert refused.value.code == code
    assert refused.value.where == "my file"
    assert refused.value.remedy


@pytest.mark.parametrize(
    ("ending", "code"),
    [(Ending(None, -signal.SIGXCPU), "not-media"), (Ending(None, None), "not-read-in-time"),
     (Ending(None, -signal.SIGSEGV), "not-media"), (Ending(None, 1), "not-media")],
)  # fmt: skip
def test_a_file_that_is_too_much_work_is_bad_but_one_that_waits_is_not(ending, code):
    with pytest.raises(Refusal) as refused:
        answered(ending, "my file")
    assert (refused.value.code, refused.value.where) == (code, "my file")


def test_songs_without_sound_or_numbers_are_refused(tmp_path):
    with pytest.raises(Refusal) as refused:
        read_song(write_numbered(tmp_path / "silent.mp4", 10), "silent")
    assert refused.value.code == "no-sound"
    with pytest.raises(Refusal, match="not numbers"):
        read_song(no_numbers(tmp_path), "nan")
    with pytest.raises(Refusal, match="no picture"):
        write_pack(
            write_clicks(tmp_path / "a.wav", [1], 2), "song", (2, 2), tmp_path / "p", tmp_path / "i", print
        )


def test_interlaced_and_hdr_pictures_are_told(tmp_path):
    plain = probe(write_numbered(tmp_path / "plain.mp4", 8), "plain").video
    woven = probe(write_numbered(tmp_path / "woven.mp4", 8, options={"x264-params": "tff=1"}), "woven").video
    bright = probe(
        write_numbered(
            tmp_path / "bright.mp4", 8, pixels="yuv420p10le",
            options={"x264-params": "transfer=smpte2084:colorprim=bt2020:colormatrix=bt2020nc"},
        ),
        "bright",
    ).video  # fmt: skip
    assert (plain.interlaced, plain.hdr) == (False, False)
    assert (woven.interlaced, woven.hdr) == (True, False)
    assert (bright.interlaced, bright.hdr) == (False, True)


def test_pictures_whose_times_make_no_sense_are_refused_and_a_few_that_are_too_quick_are_told():
    """A file may claim two thousand million pictures a second; read on any grid, nearly none is left."""
    rising, level = np.arange(30), np.full(30, 9.0)
    table = build_table(rising, Fraction(1, 2 * 10**9), level, level)
    assert table.left_out == 28
    with pytest.raises(Refusal) as refused:
        check_kept(table, "quick.mov")
    assert (refused.value.code, refused.value.where) == ("times-make-no-sense", "quick.mov")
    stamps = np.concatenate([rising * 1000, [29001, 29002]])
    table = build_table(stamps, Fraction(1, 30000), np.full(32, 9.0), np.full(32, 9.0))
    check_kept(table, "a few.mov")
    assert table.left_out == len(table.stamps) - len(set(table.picture.tolist())) > 0


def test_large_pictures_are_bounded_where_they_are_decoded(tmp_path, monkeypatch):
    """The header may lie, or the size change in mid-stream: the decoder itself goes no farther."""
    path = write_numbered(tmp_path / "a.avi", 8, codec="png", pixels="rgb24")
    assert len(list(decode_all(path, "a"))) == 8
    threads = []
    decode = pictures._decode

    def noted(container, stream):
        threads.append(stream.codec_context.thread_count)
        return decode(container, stream)

    monkeypatch.setattr(pictures, "_decode", noted)
    monkeypatch.setattr(pictures, "DECODING_BYTES", 3 * 192 * 108 * 2)
    assert len(list(decode_all(path, "a"))) == 8
    assert threads == [2]
    monkeypatch.setattr(pictures, "LARGEST_PICTURE", 192 * 108 - 1)
    with pytest.raises(Refusal) as refused:
        list(decode_all(path, "a"))
    assert (refused.value.code, refused.value.where) == ("not-media", "a")


def test_memory_that_is_not_there_is_not_the_files_fault(tmp_path):
    path = write_numbered(tmp_path / "a.mp4", 3)
    with pytest.raises(MemoryError), reading(path, "a"):
        raise av.error.MemoryError(12, "Cannot allocate memory")
