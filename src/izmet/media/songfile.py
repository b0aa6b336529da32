"""A song's samples, as the file means them to be heard.

Encoder delay is taken off by the decoder where the file declares it, and sound that
begins after the container does stays late, so sample 0 is the instant 0 of the song.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from izmet.core.edit import Song
from izmet.core.refusal import Refusal
from izmet.media.faults import decoded, reading

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Sound:
    """Samples of shape (count, channels), one or two channels, float32 in −1..1, and their rate in Hz."""

    samples: Samples
    rate: int

    @property
    def duration(self) -> float:
        """Length in seconds."""
        return len(self.samples) / self.rate


def read_song(path: Path, name: str) -> Sound:
    """Decode a whole song; more than two channels are mixed down to two.

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
        resampler = av.AudioResampler(format="fltp", layout=layout, rate=rate)
        blocks: list[Samples] = []
        first: float | None = None
        for frame in decoded(container, stream):
            assert isinstance(frame, av.AudioFrame)
            if first is None:
                first = (frame.time or 0.0) - (container.start_time or 0) / av.time_base
            blocks += map(_array, resampler.resample(frame))
        blocks += map(_array, resampler.resample(None))
    if not blocks:
        raise Refusal(
            "not-media", "No sound could be decoded from the file.", name, "Check that it plays elsewhere."
        )
    samples = _placed(np.concatenate(blocks, axis=1).T, round((first or 0.0) * rate))
    if not np.isfinite(samples).all():
        raise Refusal(
            "bad-samples",
            "The file holds samples that are not numbers.",
            name,
            "Export it again from the program that wrote it.",
        )
    return Sound(np.ascontiguousarray(samples), rate)


def _array(block: av.AudioFrame) -> Samples:
    return block.to_ndarray().astype(np.float32, copy=False)


def _placed(samples: Samples, offset: int) -> Samples:
    """Samples moved so that index 0 is the instant 0: padded when late, cut when early."""
    if offset > 0:
        return np.concatenate([np.zeros((offset, samples.shape[1]), np.float32), samples])
    return samples[-offset:]


def as_heard(song: Song, sound: Sound) -> Sound:
    """A song in the time of its edit: moved to where it starts, silent outside the part that is heard."""
    begin = round(song.heard_from * sound.rate)
    end = len(sound.samples) if song.heard_to is None else round(song.heard_to * sound.rate)
    heard = sound.samples.copy()
    heard[:begin] = 0
    heard[end:] = 0
    return Sound(_placed(heard, round(song.start * sound.rate)), sound.rate)


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
