"""A song's samples, as the file means them to be heard.

Encoder delay is taken off by the decoder where the file declares it, and sound that
begins after the container does stays late, so sample 0 is the instant 0 of the song.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np
import soundfile

from izmet.core.refusal import Refusal
from izmet.media.faults import decoded, reading
from izmet.media.pictures import picture_stream
from izmet.sound.mixer import Samples, Source


@dataclass(frozen=True)
class Sound:
    """Samples of shape (count, channels), one or two channels, float32 in −1..1, and their rate in Hz."""

    samples: Samples
    rate: int

    @property
    def source(self) -> Source:
        """The sound as a source of a mix."""
        return Source.of(self.samples, self.rate)

    @property
    def duration(self) -> float:
        """Length in seconds."""
        return len(self.samples) / self.rate


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
        begin, done = None, 0
        for frame, parts in _alike(decoded(container, stream), layout, rate):
            if begin is None:
                begin = (frame and frame.time) or 0.0
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


def read_song(path: Path, name: str) -> Sound:
    """Decode a whole song. Raises Refusal as ``sound_blocks`` does, and when nothing can be decoded."""
    blocks = list(sound_blocks(path, name))
    if not blocks:
        raise Refusal(
            "not-media", "No sound could be decoded from the file.", name, "Check that it plays elsewhere."
        )
    rate, samples = blocks[0].rate, np.concatenate([block.samples for block in blocks])
    return Sound(_placed(samples, round((blocks[0].begin - _start(path)) * rate)), rate)


def write_sound(path: Path, name: str, picture: int, out: Path) -> None:
    """Write a take's own sound as FLAC, sample 0 being heard with its first picture.

    Args:
        picture: the stamp of that picture, in its stream's ticks.
    """
    file: soundfile.SoundFile | None = None
    with av.open(str(path), metadata_errors="replace") as container:
        stream = picture_stream(container)
        assert stream is not None
        assert stream.time_base is not None
        begin = float(picture * stream.time_base)
    try:
        for block in sound_blocks(path, name):
            samples = block.samples
            if file is None:
                file = soundfile.SoundFile(
                    str(out),
                    "w",
                    block.rate,
                    samples.shape[1],
                    "PCM_16",
                    format="FLAC",
                    compression_level=QUICK,
                )
                samples = _placed(samples, round((block.begin - begin) * block.rate))
            file.write(np.clip(samples, -1, 1))
    finally:
        if file is not None:
            file.close()


def _start(path: Path) -> float:
    """When the file's clock begins, in seconds."""
    with av.open(str(path), metadata_errors="replace") as container:
        return (container.start_time or 0) / av.time_base


def _placed(samples: Samples, offset: int) -> Samples:
    """Samples moved so that index 0 is the instant 0: padded when late, cut when early."""
    if offset > 0:
        return np.concatenate([np.zeros((offset, samples.shape[1]), np.float32), samples])
    return samples[-offset:]


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
    """A source that reads each stretch of a FLAC file when it is asked for."""
    with soundfile.SoundFile(str(path)) as file:
        return Source(
            lambda start, count: read_stretch(path, start, count, 0)[0], file.samplerate, file.channels
        )


QUICK = 0.0
"""A person waits for it; packing it closer saves a few per cent."""


def write_flac(path: Path, sound: Sound) -> None:
    """Write a song as 16-bit FLAC, for the browser to play: one codec, no delay, the same samples."""
    with path.open("wb") as file:
        soundfile.write(
            file,
            np.clip(sound.samples, -1, 1),
            sound.rate,
            format="FLAC",
            subtype="PCM_16",
            compression_level=QUICK,
        )
