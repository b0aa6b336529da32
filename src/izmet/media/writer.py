"""Encoding a finished edit: its pictures in parts, then all of them and the sound in one container.

``formats`` says which files can be written. Parts are coded alike, so that joining them
is copying. Encoder delay is declared by the
containers (an edit list in MP4, codec delay in WebM), so sound sample 0 is heard
with picture 0.
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from types import TracebackType
from typing import cast
from uuid import uuid4

import av
import numpy as np
import soxr

from izmet.core.music.chapters import Chapter
from izmet.media.faults import writing
from izmet.media.formats import THREADS, Format, Quality, Video, options_of
from izmet.media.threads import take_turns
from izmet.sound.mixer import Excerpt
from izmet.sound.track import Samples

os.environ.setdefault("SVT_LOG", "1")
"""One of the encoders tells of every file that it begins, unless it is told to speak of errors alone."""
BT709, LIMITED = 1, 1
MICROSECOND = Fraction(1, 1_000_000)
SOUND_BLOCK = 1024
PULLED_SAMPLES = 16 * SOUND_BLOCK
SAFE_RATE = 48_000


class PartWriter:
    """One part of a file's pictures; use it as a context manager, add pictures in order, then it is whole.

    Parts are kept in containers whose stamps are exact at every rate.

    Args:
        path: the file to write. It appears whole or not at all.
    """

    def __init__(self, path: Path, coding: Video, quality: Quality, rate: Fraction, size: tuple[int, int]):
        self._final = path
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=".part-")
        os.close(handle)
        self._path = Path(name)
        self._container = av.open(str(self._path), "w", format=coding.parts)
        self._tick = 1 / rate
        video = self._container.add_stream(coding.codec, rate=rate, options=options_of(coding, quality))
        self._video = cast(av.VideoStream, video)
        self._video.width, self._video.height = size
        self._video.pix_fmt = self._pixels = coding.pixels
        context = self._video.codec_context
        context.time_base = self._tick
        context.thread_type, context.thread_count = "AUTO", THREADS
        mark_colour(context)
        # The header of a part stands in the joined file once, for all.
        context.flags |= av.codec.context.Flags.global_header
        self._container.start_encoding()
        take_turns()
        self._count = 0

    def __enter__(self) -> PartWriter:
        return self

    def add(self, frame: av.VideoFrame) -> None:
        """Encode the next picture, in 4:2:0 and 8 bits. The frame's stamp is overwritten."""
        if frame.format.name != self._pixels:
            frame = frame.reformat(format=self._pixels)
        # Some encoders ask the picture, not the stream, how it is coded.
        frame.color_primaries, frame.color_trc = BT709, BT709
        frame.pts, frame.time_base = self._count, self._tick
        # A decoded frame remembers how it was coded; the encoder must choose for itself.
        frame.pict_type = 0
        self._container.mux(self._video.encode(frame))
        self._count += 1

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            if kind is None:
                self._container.mux(self._video.encode(None))
            self._container.close()
            if kind is None:
                name_whole(self._path, self._final)
        finally:
            self._container.close()
            self._path.unlink(missing_ok=True)


def name_whole(part: Path, final: Path) -> None:
    """Give a file that is written its name, once it lies on the disk: a name is never of half a file."""
    with part.open("rb") as written:
        os.fsync(written.fileno())
    part.replace(final)


@contextmanager
def whole_file(out: Path) -> Iterator[Path]:
    """A file to write, which gets its name when it is whole.

    Each attempt has one of its own: another one may have begun while this one slept.
    """
    part = out.with_name(f".{out.name}-{uuid4().hex[:12]}.part")
    with writing(out.name):
        try:
            yield part
            name_whole(part, out)
        finally:
            part.unlink(missing_ok=True)


class SpoiledParts(Exception):
    """Parts that do not hold their pictures any more."""

    def __init__(self, paths: Sequence[Path]):
        super().__init__(", ".join(path.name for path in paths))
        self.paths = paths


def join(
    parts: Sequence[tuple[Path, int]],
    rate: Fraction,
    sound: Excerpt | None,
    out: Path,
    chosen: Format,
    chapters: Sequence[Chapter] = (),
) -> None:
    """Write one file from parts (a file and its count of frames each), and the sound that belongs to them.

    Args:
        chapters: stretches of the file by its own frames, and their names.

    Raises:
        SpoiledParts: parts that hold other than their frames, each of them once; nothing is written.
    """
    orders = [_order(path, rate) for path, _ in parts]
    spoiled = [
        path
        for (path, count), order in zip(parts, orders, strict=True)
        if sorted(order) != list(range(count))
    ]
    if spoiled:
        raise SpoiledParts(list(dict.fromkeys(spoiled)))
    # By how much packets come before their pictures are due: one measure for the whole file.
    ahead = max(k - place for order in orders for k, place in enumerate(order))
    # No dates and no random numbers: the same pictures and sound are the same file.
    options = {**chosen.container_options, "fflags": "bitexact"}
    with av.open(str(out), "w", format=chosen.container, options=options) as container:
        with av.open(str(parts[0][0])) as first:
            # As it was read: what decodes a codec need not be able to encode it.
            video = container.add_stream_from_template(first.streams.video[0], opaque=True)
            mark_colour(video.codec_context)  # not every part carries it
            if chosen.video is not None and chosen.video.tag is not None:
                video.codec_context.codec_tag = chosen.video.tag
        track = _SoundTrack(container, chosen, sound) if sound is not None else None
        if chapters:
            container.set_chapters([_chapter(at, each, rate) for at, each in enumerate(chapters)])
        begin = 0
        for (path, count), order in zip(parts, orders, strict=True):
            with av.open(str(path)) as held:
                for k, packet in enumerate(_packets(held)):
                    packet.time_base = 1 / rate
                    packet.pts, packet.dts, packet.duration = begin + order[k], begin + k - ahead, 1
                    packet.stream = video
                    if track is not None:
                        track.write_until(float((begin + order[k]) / rate))
                    container.mux(packet)
            begin += count
        if track is not None:
            track.finish()


def _chapter(number: int, chapter: Chapter, rate: Fraction) -> av.container.core.Chapter:
    """A chapter as the container is told of it, to the microsecond."""
    start, end = (round(n / rate / MICROSECOND) for n in (chapter.frames.start, chapter.frames.stop))
    told = {"id": number + 1, "start": start, "end": end, "time_base": MICROSECOND}
    return cast("av.container.core.Chapter", {**told, "metadata": {"title": chapter.name}})


def write_sound(sound: Excerpt, out: Path, chosen: Format) -> None:
    """Write a file of sound alone."""
    with av.open(str(out), "w", format=chosen.container, options={"fflags": "bitexact"}) as container:
        _SoundTrack(container, chosen, sound).finish()


def mark_colour(context: av.VideoCodecContext) -> None:
    """Say how pictures are coded: BT.709 in limited range, by its numbers in ITU-T H.273."""
    context.color_range, context.colorspace = LIMITED, BT709
    context.color_primaries, context.color_trc = BT709, BT709


def _packets(held: av.container.InputContainer) -> Iterator[av.Packet[av.VideoStream]]:
    return (packet for packet in held.demux(video=0) if packet.size)


def _order(path: Path, rate: Fraction) -> list[int]:
    """Which picture of a part, counted from 0, each of its packets holds; none where it cannot be read."""
    try:
        with av.open(str(path)) as held:
            base = held.streams.video[0].time_base
            assert base is not None
            stamps = [packet.pts or 0 for packet in _packets(held)]
    except (av.FFmpegError, IndexError):
        return []
    return [round((stamp - min(stamps)) * base * rate) for stamp in stamps]


class _SoundTrack:
    """The sound stream of a file; pulls its samples block by block."""

    def __init__(self, container: av.container.OutputContainer, format: Format, sound: Excerpt):
        own, channels = sound.mixer.rate, sound.mixer.channels
        rate = _rate_for(format, own)
        self._container = container
        self._sound = sound
        self._rate = rate
        self._layout = "mono" if channels == 1 else "stereo"
        stream = container.add_stream(
            format.sound, rate=rate, layout=self._layout, format=format.sound_format
        )
        self._stream = cast(av.AudioStream, stream)
        if format.sound_format in ("flt", "fltp"):
            self._stream.bit_rate = 192_000
        self._resampler = None
        if rate != own:
            self._resampler = soxr.ResampleStream(own, rate, channels, dtype="float32", quality="VHQ")
        self._format = format.sound_format
        self._pulled = 0
        self._written = 0
        self._left = np.zeros((0, channels), np.float32)

    def write_until(self, seconds: float) -> None:
        """Encode all whole blocks that begin before an instant."""
        while self._written < seconds * self._rate and self._pull():
            self._write_whole()

    def finish(self) -> None:
        """Encode what is left, and flush the encoder."""
        while self._pull():
            self._write_whole()
        if len(self._left):
            self._write(self._left)
        self._container.mux(self._stream.encode(None))

    def _pull(self) -> bool:
        """Take the next samples; whether there were any."""
        if self._pulled >= self._sound.count:
            return False
        block = self._sound.block(self._pulled, PULLED_SAMPLES)
        self._pulled += len(block)
        if self._resampler is not None:
            block = self._resampler.resample_chunk(block, last=self._pulled >= self._sound.count)
        self._left = np.concatenate([self._left, block])
        return True

    def _write_whole(self) -> None:
        whole = len(self._left) // SOUND_BLOCK * SOUND_BLOCK
        for at in range(0, whole, SOUND_BLOCK):
            self._write(self._left[at : at + SOUND_BLOCK])
        self._left = self._left[whole:]

    def _write(self, block: Samples) -> None:
        frame = av.AudioFrame.from_ndarray(
            _as_format(block, self._format), format=self._format, layout=self._layout
        )
        frame.sample_rate = self._rate
        frame.pts, frame.time_base = self._written, Fraction(1, self._rate)
        self._written += len(block)
        self._container.mux(self._stream.encode(frame))


def _rate_for(format: Format, rate: int) -> int:
    """The rate itself where the codec takes it, else one that every codec does."""
    taken = av.Codec(format.sound, "w").audio_rates
    return rate if taken is None or rate in taken else SAFE_RATE


def resampled(samples: Samples, rate: int, wanted: int) -> Samples:
    """Samples at another rate, shape (count, channels), aligned to the same instants."""
    out: Samples = soxr.resample(samples, rate, wanted, quality="VHQ").astype(np.float32)
    return out


def _as_format(block: Samples, format: str) -> np.ndarray:
    """A block in PyAV's shape: planar (channels, count), or packed (1, count × channels)."""
    if format.endswith("p"):
        return np.ascontiguousarray(block.T)
    packed = np.ascontiguousarray(block).reshape(1, -1)
    if format == "s32":
        # 24 significant bits: the encoder keeps those, and a float32 sample has no more.
        return (np.clip(np.round(packed.astype(np.float64) * 2**23), -(2**23), 2**23 - 1) * 256).astype(
            np.int32
        )
    return packed
