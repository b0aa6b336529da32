"""In which formats is an edit exported? One table: what each is called, holds, and is sent as."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

FormatName = Literal["mp4", "webm", "mkv"]
"""A format's name is also the ending of its files."""


@dataclass(frozen=True)
class Format:
    """A container and its two codecs.

    ``mimetype`` is as registered with IANA; Matroska's is of RFC 9559.
    """

    name: str
    note: str
    mimetype: str
    container: str
    video: str
    video_options: dict[str, str]
    sound: str
    sound_format: str
    container_options: dict[str, str] = field(default_factory=dict)


FORMATS: dict[FormatName, Format] = {
    "mp4": Format(
        name="MP4",
        note="H.264, AAC. Plays everywhere.",
        mimetype="video/mp4",
        container="mp4",
        video="libx264",
        video_options={"preset": "veryfast", "crf": "18"},
        sound="aac",
        sound_format="fltp",
        container_options={"movflags": "faststart"},
    ),
    "webm": Format(
        name="WebM",
        note="VP9, Opus. Smaller, slower to make.",
        mimetype="video/webm",
        container="webm",
        video="libvpx-vp9",
        video_options={"crf": "30", "b": "0", "deadline": "realtime", "cpu-used": "7", "row-mt": "1"},
        sound="libopus",
        sound_format="flt",
    ),
    "mkv": Format(
        name="MKV",
        note="FFV1, FLAC. Lossless, large.",
        mimetype="video/matroska",
        container="matroska",
        video="ffv1",
        video_options={"level": "3", "slices": "4", "slicecrc": "1"},
        sound="flac",
        sound_format="s32",
    ),
}


def how_written(format: FormatName) -> str:
    """All that decides how the pictures of a format are coded, in words."""
    chosen = FORMATS[format]
    return f"{chosen.video} {sorted(chosen.video_options.items())}"
