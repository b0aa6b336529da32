"""A song's samples, as the file means them to be heard.

Encoder delay is taken off by the decoder where the file declares it, and sound that
begins after the container does stays late, so sample 0 is the instant 0 of the song.
"""

from __future__ import annotations

import io
import os
import tempfile
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
import soundfile

from izmet.core.document.limits import MOST_SECONDS, MOST_SONG_SECONDS
from izmet.core.document.refusal import Refusal
from izmet.media.faults import decoded, reading, writing
from izmet.media.pictures import picture_stream
from izmet.sound.source import Source
from izmet.sound.track import BLOCK, Samples

SAMPLE_BYTES = 4
LEAST_GAP = 0.06
"""In seconds: where packets are lost, sound goes on so much later, or more; less are rounded stamps."""


class Block(NamedTuple):
    """Decoded samples, shape (count, channels); ``begin`` is in seconds of the file's clock."""

    begin: float
    samples: Samples
    rate: int


def sound_blocks(path: Path, name: str) -> Iterator[Block]:
    """The first sound stream of a file, block by block; more than two channels are mixed down to two.

    Raises:
        Refusal: no sound in the file, samples that are not numbers, or a file
            that cannot be read.
    """
    with reading(path, name), av.open(str(path), metadata_errors="replace") as container:
        if not container.streams.audio:
            raise Refusal(
                "no-sound", "The file has no sound.", name, "Choose a song: wav, flac, ogg, mp3 or m4a."
            )
        stream = container.streams.audio[0]
        rate = stream.codec_context.sample_rate
        layout = "mono" if stream.codec_context.channels == 1 else "stereo"
        begin, done, due = None, 0, None
        for frame, parts in _alike(decoded(container.demux(stream)), layout, rate):
            if begin is None:
                begin = (frame and frame.time) or 0.0
            if frame is not None and frame.time is not None:
                begin += _missing(due, frame.time)
                due = frame.time + frame.samples / frame.sample_rate
            for part in parts:
                samples = part.to_ndarray().astype(np.float32, copy=False).T
                if not np.isfinite(samples).all():
                    raise Refusal(
                        "bad-samples",
                        "The file holds samples that are not numbers.",
                        name,
                        "Export it again from the program that wrote it.",
                    )
                yield Block(begin + done / rate, np.ascontiguousarray(samples), rate)
                done += len(samples)


def _missing(due: float | None, begin: float) -> float:
    """How many seconds are lost before a frame that is heard from ``begin`` on and was due before."""
    gap = 0.0 if due is None else begin - due
    return gap if LEAST_GAP < gap < MOST_SONG_SECONDS else 0.0


def _alike(
    frames: Iterator[av.VideoFrame | av.AudioFrame], layout: str, rate: int
) -> Iterator[tuple[av.AudioFrame | None, list[av.AudioFrame]]]:
    """Each frame with what it comes to in one layout and rate; a damaged file may change its own midway."""
    resampler: av.AudioResampler | None = None
    coded: tuple[str, str, int] | None = None
    for frame in frames:
        assert isinstance(frame, av.AudioFrame)
        now = (frame.format.name, frame.layout.name, frame.sample_rate)
        if resampler is None or now != coded:
            left = resampler.resample(None) if resampler is not None else []
            resampler, coded = av.AudioResampler(format="fltp", layout=layout, rate=rate), now
            yield frame, [*left, *resampler.resample(frame)]
        else:
            yield frame, resampler.resample(frame)
    if resampler is not None:
        yield None, resampler.resample(None)


def read_song(path: Path, name: str, folder: Path | None = None) -> Source:
    """Decode a whole song into a nameless file of raw samples, and read it from there.

    Args:
        folder: where that file lies; it goes when the source does, or the process.

    Raises:
        Refusal: as ``sound_blocks`` does, when nothing can be decoded, and when the
            song is longer than any that is taken.
    """
    with writing(name):
        file = tempfile.TemporaryFile(dir=folder)  # noqa: SIM115 - it lives as long as the source
        rate, channels, count = 0, 0, 0
        for start, samples, rate in _placed(sound_blocks(path, name), _start(path, name)):
            channels, count = samples.shape[1], start + len(samples)
            if count / rate > MOST_SONG_SECONDS:
                raise _too_long(name)
            # What is late leaves a hole in the file, which takes no room.
            file.seek(start * channels * SAMPLE_BYTES)
            file.write(samples.tobytes())
        file.flush()
    if not rate:
        raise Refusal(
            "not-media", "No sound could be decoded from the file.", name, "Check that it plays elsewhere."
        )

    def read(start: int, wanted: int) -> Samples:
        most = max(0, min(wanted, count - start))
        size = channels * SAMPLE_BYTES
        found = np.frombuffer(os.pread(file.fileno(), most * size, start * size), np.float32)
        return found.reshape(-1, channels)

    return Source(read, rate, channels, count)


def _too_long(name: str) -> Refusal:
    return Refusal(
        "too-long",
        f"The song is longer than {MOST_SONG_SECONDS / 3600:.0f} hours, the most that is taken.",
        name,
        "Cut it to the part you need.",
    )


def write_sound(path: Path, name: str, picture: int, out: Path) -> None:
    """Write a take's own sound as FLAC, sample 0 being heard with its first picture.

    Args:
        picture: the stamp of that picture, in its stream's ticks.
    """
    with av.open(str(path), metadata_errors="replace") as container:
        stream = picture_stream(container)
        assert stream is not None
        assert stream.time_base is not None
        begin = float(picture * stream.time_base)
    file: soundfile.SoundFile | None = None
    written = 0
    try:
        for start, samples, rate in _placed(sound_blocks(path, name), begin):
            file = file or flac_writer(out, rate, samples.shape[1])
            gap = min(start - written, round(MOST_SECONDS * rate))
            for silent in _silence(gap, samples.shape[1]):
                file.write(silent)
            file.write(np.clip(samples, -1, 1))
            written = start + len(samples)
    finally:
        if file is not None:
            file.close()


def own_sound(path: Path, name: str, picture: int, out: Path) -> Source | None:
    """A take's own sound, written as ``write_sound`` does and read from there; None when nothing decodes."""
    write_sound(path, name, picture, out)
    return flac_source(out) if out.exists() else None


def _placed(blocks: Iterable[Block], zero: float) -> Iterator[tuple[int, Samples, int]]:
    """Blocks with the sample each begins at, counted from the instant ``zero`` of the file's clock.

    What is heard before it is left out. Each comes with its rate.
    """
    at: int | None = None
    for begin, samples, rate in blocks:
        # Blocks follow each other to the sample, but where something is missing.
        due = round((begin - zero) * rate)
        if at is None or due > at + 1:
            at = due
        yield max(0, at), samples[max(0, -at) :], rate
        at += len(samples)


def _start(path: Path, name: str) -> float:
    """When the file's clock begins, in seconds."""
    with reading(path, name), av.open(str(path), metadata_errors="replace") as container:
        return (container.start_time or 0) / av.time_base


def _silence(count: int, channels: int) -> Iterator[Samples]:
    """Silence in blocks that are small however long it lasts."""
    return (np.zeros((min(BLOCK, count - begin), channels), np.float32) for begin in range(0, count, BLOCK))


def read_stretch(path: Path, begin: int, count: int, before: int) -> tuple[Samples, int, int]:
    """Samples of a FLAC file from ``begin`` on, with up to ``before`` more ahead of them.

    Returns:
        The samples, shape (≤ before + count, channels), how many of them lie ahead, and the rate.
    """
    with soundfile.SoundFile(str(path)) as file:
        begin = min(begin, file.frames)
        start = max(0, begin - before)
        file.seek(start)
        samples = file.read(begin - start + count, dtype="float32", always_2d=True)
        return samples, begin - start, file.samplerate


def flac_source(path: Path) -> Source:
    """A source that reads each stretch of a FLAC file when it is asked for; the same for the same file."""
    return _flac_source(path, path.stat().st_mtime_ns)


@lru_cache(maxsize=256)
def _flac_source(path: Path, written: int) -> Source:
    with soundfile.SoundFile(str(path)) as file:
        return Source(
            lambda start, count: read_stretch(path, start, count, 0)[0],
            file.samplerate,
            file.channels,
            file.frames,
        )


def wav_stretch(path: Path, begin: int, seconds: int) -> bytes | None:
    """Some seconds of a FLAC file as a WAV file; None beyond its end."""
    source = flac_source(path)
    samples = source.read(begin * source.rate, seconds * source.rate)
    return wav_of(samples, source.rate) if len(samples) else None


def wav_of(samples: Samples, rate: int) -> bytes:
    """Some samples as a WAV file of 16 bits."""
    wav = io.BytesIO()
    soundfile.write(wav, samples, rate, "PCM_16", format="WAV")
    return wav.getvalue()


QUICK = 0.0
"""A person waits for it; packing it closer saves a few per cent."""


def write_flac(path: Path, rate: int, channels: int, blocks: Iterable[Samples]) -> None:
    """Write sound as 16-bit FLAC, for the browser to play: one codec, no delay, the same samples."""
    with flac_writer(path, rate, channels) as file:
        for block in blocks:
            file.write(np.clip(block, -1, 1))


def flac_writer(path: Path, rate: int, channels: int) -> soundfile.SoundFile:
    """A new FLAC file, quickly packed."""
    return soundfile.SoundFile(
        str(path), "w", rate, channels, "PCM_16", format="FLAC", compression_level=QUICK
    )
