"""Encoding a finished edit: pictures and sound, interleaved into one container.

``FORMATS`` says which files can be written. Encoder delay is declared by the
containers (an edit list in MP4, codec delay in WebM), so sound sample 0 is heard
with picture 0.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from types import TracebackType
from typing import Literal, cast

import av
import numpy as np
import soxr

from izmet.media.songfile import Samples, Sound

FormatName = Literal["mp4", "webm", "mkv"]
SOUND_BLOCK = 1024


@dataclass(frozen=True)
class Format:
    """A container and its two codecs."""

    video: str
    video_options: dict[str, str]
    sound: str
    sound_format: str
    sound_rate: int | None = None
    container_options: dict[str, str] = field(default_factory=dict)


FORMATS: dict[FormatName, Format] = {
    "mp4": Format(
        "libx264",
        {"preset": "veryfast", "crf": "18"},
        "aac",
        "fltp",
        container_options={"movflags": "faststart"},
    ),
    "webm": Format(
        "libvpx-vp9",
        {"crf": "30", "b": "0", "deadline": "realtime", "cpu-used": "7", "row-mt": "1"},
        "libopus",
        "flt",
        sound_rate=48000,
    ),
    "mkv": Format("ffv1", {"level": "3", "slices": "4", "slicecrc": "1"}, "flac", "s32"),
}


class Writer:
    """One output file; use it as a context manager, add pictures in order, then it is whole.

    Args:
        path: where to write; the caller renames it when all went well.
        sound: what is heard from picture 0 on, or None for a silent file.
    """

    def __init__(
        self, path: Path, format: FormatName, rate: Fraction, size: tuple[int, int], sound: Sound | None
    ):
        chosen = FORMATS[format]
        container = "matroska" if format == "mkv" else format
        self._container = av.open(str(path), "w", format=container, options=chosen.container_options)
        self._tick = 1 / rate
        video = self._container.add_stream(chosen.video, rate=rate, options=chosen.video_options)
        self._video = cast(av.VideoStream, video)
        self._video.width, self._video.height = size
        self._video.pix_fmt = "yuv420p"
        context = self._video.codec_context
        context.time_base = self._tick
        context.thread_type = "AUTO"
        context.color_range, context.colorspace = 1, 1
        context.color_primaries, context.color_trc = 1, 1
        self._sound = _SoundTrack(self._container, chosen, sound) if sound is not None else None
        self._count = 0

    def __enter__(self) -> Writer:
        return self

    def add(self, frame: av.VideoFrame) -> None:
        """Encode the next picture, and the sound up to it. The frame's stamp is overwritten."""
        frame.pts, frame.time_base = self._count, self._tick
        # A decoded frame remembers how it was coded; the encoder must choose for itself.
        frame.pict_type = 0
        if self._sound is not None:
            self._sound.write_until(float(self._count * self._tick))
        self._container.mux(self._video.encode(frame))
        self._count += 1

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            if kind is None:
                self._container.mux(self._video.encode(None))
                if self._sound is not None:
                    self._sound.finish()
        finally:
            self._container.close()


class _SoundTrack:
    """The sound stream of a writer; writes its samples block by block."""

    def __init__(self, container: av.container.OutputContainer, format: Format, sound: Sound):
        rate = format.sound_rate or sound.rate
        samples = sound.samples if rate == sound.rate else resampled(sound.samples, sound.rate, rate)
        self._container = container
        self._rate = rate
        self._layout = "mono" if samples.shape[1] == 1 else "stereo"
        stream = container.add_stream(
            format.sound, rate=rate, layout=self._layout, format=format.sound_format
        )
        self._stream = cast(av.AudioStream, stream)
        if format.sound != "flac":
            self._stream.bit_rate = 192_000
        self._samples = samples
        self._format = format.sound_format
        self._written = 0

    def write_until(self, seconds: float) -> None:
        """Encode all whole blocks that begin before an instant."""
        while self._written < min(len(self._samples), seconds * self._rate):
            self._write_block()

    def finish(self) -> None:
        """Encode what is left, and flush the encoder."""
        while self._written < len(self._samples):
            self._write_block()
        self._container.mux(self._stream.encode(None))

    def _write_block(self) -> None:
        block = self._samples[self._written : self._written + SOUND_BLOCK]
        frame = av.AudioFrame.from_ndarray(
            _as_format(block, self._format), format=self._format, layout=self._layout
        )
        frame.sample_rate = self._rate
        frame.pts, frame.time_base = self._written, Fraction(1, self._rate)
        self._written += len(block)
        self._container.mux(self._stream.encode(frame))


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
