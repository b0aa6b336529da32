"""Files to test with, written and read with plain PyAV, apart from the code under test.

A numbered take carries each frame's number as a row of black and white blocks, so
that a decoded picture says which frame it is. A click song is silent but for single
decaying clicks at known instants.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import soundfile

from izmet.media.threads import take_turns

BITS = 12


def number_picture(number: int, size: tuple[int, int]) -> np.ndarray:
    """A grey picture (height, width) with ``number`` as BITS vertical bars."""
    width, height = size
    edges = np.linspace(0, width, BITS + 1).astype(int)
    picture = np.full((height, width), 30, np.uint8)
    for bit in range(BITS):
        if number >> bit & 1:
            picture[:, edges[bit] : edges[bit + 1]] = 220
    return picture


def read_number(picture: np.ndarray) -> int:
    """The number on a grey picture, from the middle of each bar."""
    height, width = picture.shape
    edges = np.linspace(0, width, BITS + 1)
    middles = ((edges[:-1] + edges[1:]) / 2).astype(int)
    return sum(
        1 << bit for bit, x in enumerate(middles) if picture[height // 3 : height // 2, x].mean() > 125
    )


def write_numbered(
    path: Path,
    count: int,
    rate: Fraction = Fraction(60),
    size: tuple[int, int] = (192, 108),
    codec: str = "libx264",
    pixels: str = "yuv420p",
    stamps: Sequence[float] | None = None,
    numbers: Sequence[int] | None = None,
    options: dict[str, str] | None = None,
) -> Path:
    """A take whose frame k shows ``numbers[k]`` (or k) at ``stamps[k]`` seconds (or k/rate)."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate, options=options or {"g": "24"})
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        if stamps is not None:
            stream.codec_context.time_base = Fraction(1, 1000)
        container.start_encoding()
        take_turns()
        for k in range(count):
            picture = number_picture(numbers[k] if numbers is not None else k, size)
            frame = av.VideoFrame.from_ndarray(picture, format="gray").reformat(format=pixels)
            frame.pts, frame.time_base = k, 1 / rate
            if stamps is not None:
                frame.pts, frame.time_base = round(stamps[k] * 1000), Fraction(1, 1000)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def add_sound(picture: Path, samples: np.ndarray, out: Path, rate: int = 48000) -> Path:
    """The file with a mono sound stream beside its picture, which is copied."""
    with av.open(str(picture)) as source, av.open(str(out), "w") as container:
        video = container.add_stream_from_template(source.streams.video[0])
        sound = container.add_stream("aac", rate=rate, layout="mono")
        for packet in source.demux(video=0):
            if packet.dts is not None:
                packet.stream = video
                container.mux(packet)
        frame = av.AudioFrame.from_ndarray(samples.astype(np.float32)[None], "fltp", "mono")
        frame.sample_rate, frame.pts = rate, 0
        container.mux(sound.encode(frame))
        container.mux(sound.encode(None))
    return out


def write_colours(
    path: Path,
    colours: Sequence[tuple[int, int, int] | np.ndarray],
    size: tuple[int, int],
    matrix: int,
    rate: Fraction = Fraction(60),
) -> Path:
    """A lossless take of plain RGB colours, or of whole pictures, one a frame, coded and marked with a matrix
    (ITU-T H.273)."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("ffv1", rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.codec_context.colorspace, stream.codec_context.color_range = int(matrix), 1
        for k, colour in enumerate(colours):
            picture = np.full((size[1], size[0], 3), colour, np.uint8)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(
                format="yuv420p", dst_colorspace=matrix, dst_color_range=1
            )
            frame.pts, frame.time_base = k, 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def read_numbers(path: Path) -> list[int]:
    """The number on every picture of a file, in order, decoded with plain PyAV."""
    with av.open(str(path)) as container:
        return [read_number(frame.to_ndarray(format="gray")) for frame in container.decode(video=0)]


def click_samples(times: Sequence[float], seconds: float, rate: int = 48000, channels: int = 2) -> np.ndarray:
    """Samples (count, channels): at each instant, to the sample, a click that dies away in 4 ms."""
    samples = np.zeros((round(seconds * rate), channels), np.float32)
    decay = np.exp(-np.arange(round(0.02 * rate)) / (0.004 * rate))
    click = (0.8 * decay * np.cos(2 * np.pi * 2500 * np.arange(len(decay)) / rate))[:, None]
    for time in times:
        at = round(time * rate)
        samples[at : at + len(click)] += click[: len(samples) - at]
    return samples


def write_clicks(
    path: Path, times: Sequence[float], seconds: float, rate: int = 48000, channels: int = 2
) -> Path:
    """A click song as WAV or FLAC by the path's suffix, 24 bit."""
    soundfile.write(path, click_samples(times, seconds, rate, channels), rate, subtype="PCM_24")
    return path


def write_covered(path: Path, times: Sequence[float], seconds: float) -> Path:
    """A click song as MP3 with a cover picture and a tag that is no text (ID3v2.3, id3.org)."""
    encode_song(write_clicks(path.with_suffix(".wav"), times, seconds), path, "libmp3lame")
    sound = path.read_bytes()
    if sound.startswith(b"ID3"):
        sound = sound[10 + _synchsafe_value(sound[6:10]) :]
    cover = cv2.imencode(".jpg", np.full((64, 64, 3), 90, np.uint8))[1].tobytes()
    frames = b"".join(
        name + len(body).to_bytes(4, "big") + b"\0\0" + body
        for name, body in ((b"TIT2", b"\x01\xff\xfe\x00\xd8"), (b"APIC", b"\0image/jpeg\0\x03\0" + cover))
    )
    size = bytes(len(frames) >> shift & 0x7F for shift in (21, 14, 7, 0))
    path.write_bytes(b"ID3\x03\0\0" + size + frames + sound)
    return path


def _synchsafe_value(size: bytes) -> int:
    return sum(byte << shift for byte, shift in zip(size, (21, 14, 7, 0), strict=True))


def encode_song(source: Path, path: Path, codec: str, rate: int = 44100) -> Path:
    """Another coding of a song, by plain PyAV."""
    samples, native = soundfile.read(source, dtype="float32", always_2d=True)
    with av.open(str(path), "w") as container:
        layout = {1: "mono", 2: "stereo", 6: "5.1"}[samples.shape[1]]
        stream = container.add_stream(codec, rate=rate, layout=layout)
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(samples).reshape(1, -1), format="flt", layout=layout
        )
        frame.sample_rate, frame.pts = native, 0
        resampler = av.AudioResampler(format=stream.format, layout=layout, rate=rate, frame_size=1024)
        for block in [*resampler.resample(frame), *resampler.resample(None)]:
            container.mux(stream.encode(block))
        container.mux(stream.encode(None))
    return path


def decode_sound(path: Path) -> tuple[np.ndarray, int]:
    """Mono samples of a file and their rate, by plain PyAV, honouring the first stamp."""
    with av.open(str(path)) as container:
        frames = list(container.decode(audio=0))
    rate = frames[0].sample_rate
    samples = np.concatenate([_mono(frame) for frame in frames])
    offset = round(float(frames[0].pts * frames[0].time_base) * rate)
    return (np.pad(samples, (offset, 0)) if offset > 0 else samples[-offset:]), rate


def _mono(frame: av.AudioFrame) -> np.ndarray:
    array: np.ndarray = frame.to_ndarray()
    scale = np.iinfo(array.dtype.str).max if array.dtype.kind == "i" else 1
    channels = frame.layout.nb_channels
    planar = array if frame.format.is_planar else array.reshape(-1, channels).T
    return (planar / scale).mean(axis=0)


def click_times(samples: np.ndarray, rate: int, near: Sequence[float], window: float = 0.02) -> list[float]:
    """Where each click is: the lag of best match with the known click, around each expected instant."""
    pattern = click_samples([0], 0.02, rate, 1)[:, 0]
    found = []
    for time in near:
        begin = max(0, round((time - window) * rate))
        piece = samples[begin : round((time + window) * rate) + len(pattern)]
        found.append((begin + int(np.argmax(np.correlate(piece, pattern, mode="valid")))) / rate)
    return found
