"""In which formats is an edit exported? One table: what each is called, holds, and is sent as."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

FormatName = Literal["mp4", "hevc", "av1", "webm", "mkv", "mov", "wav", "gif", "webp", "png"]
Kind = Literal["gif", "webp", "png"]
TICKS: dict[Kind, int] = {"gif": 100, "webp": 1000}
"""In what parts of a second a loop says how long each of its pictures is seen."""
Quality = Literal["small", "good", "best"]
Options = dict[str, str]
THREADS = 4
"""Of an encoder, on machines of all sizes: some write other bits with another count."""


@dataclass(frozen=True)
class Video:
    """How pictures are coded: the encoder, its options, and those of each quality, in ``pixels``; ``parts``
    of a file are kept in that container, whose name is their ending too."""

    codec: str
    options: Options
    qualities: dict[Quality, Options] = field(default_factory=dict)
    pixels: str = "yuv420p"
    tag: str | None = None
    parts: Literal["nut", "mov"] = "nut"


@dataclass(frozen=True)
class Format:
    """A container and its two codecs; without ``video`` it holds sound alone, with ``stills`` pictures alone.

    ``mimetype`` is as registered with IANA; Matroska's is of RFC 9559.
    """

    name: str
    note: str
    ending: str
    mimetype: str
    container: str = ""
    video: Video | None = None
    sound: str = ""
    sound_format: str = ""
    stills: Kind | None = None
    container_options: Options = field(default_factory=dict)

    @property
    def pictures(self) -> bool:
        """Whether it holds pictures."""
        return self.video is not None or self.stills is not None

    @property
    def qualities(self) -> bool:
        """Whether it can be better and larger."""
        return self.loops or (self.video is not None and bool(self.video.qualities))

    @property
    def loops(self) -> bool:
        """Whether it is a loop, which is small and has few pictures a second."""
        return self.stills in TICKS


def _factors(small: int, good: int, best: int) -> dict[Quality, Options]:
    """Constant quality by an encoder's own rate factor: the lower, the better and the larger."""
    return {"small": {"crf": str(small)}, "good": {"crf": str(good)}, "best": {"crf": str(best)}}


def _mp4(name: str, note: str, video: Video) -> Format:
    return Format(
        name=name,
        note=note,
        ending="mp4",
        mimetype="video/mp4",
        container="mp4",
        video=video,
        sound="aac",
        sound_format="fltp",
        container_options={"movflags": "faststart"},
    )


X265 = {"preset": "ultrafast", "x265-params": "log-level=error"}
FORMATS: dict[FormatName, Format] = {
    "mp4": _mp4(
        "MP4",
        "H.264, AAC. Plays everywhere.",
        Video("libx264", {"preset": "veryfast"}, _factors(24, 18, 13)),
    ),
    "hevc": _mp4(
        "MP4, H.265",
        "H.265, AAC. Smaller, for newer devices.",
        Video("libx265", X265, _factors(28, 22, 16), tag="hvc1"),
    ),
    "av1": _mp4(
        "MP4, AV1",
        "AV1, AAC. Small, for new devices.",
        Video("libsvtav1", {"preset": "10"}, _factors(40, 30, 20)),
    ),
    "webm": Format(
        name="WebM",
        note="VP9, Opus. Smaller, slower to make.",
        ending="webm",
        mimetype="video/webm",
        container="webm",
        video=Video(
            "libvpx-vp9",
            {"b": "0", "deadline": "realtime", "cpu-used": "7", "row-mt": "1"},
            _factors(38, 30, 18),
        ),
        sound="libopus",
        sound_format="flt",
    ),
    "mov": Format(
        name="MOV",
        note="ProRes 422, PCM. For other editing programs.",
        ending="mov",
        mimetype="video/quicktime",
        container="mov",
        video=Video(
            "prores_ks",
            {},
            {"small": {"profile": "lt"}, "good": {"profile": "standard"}, "best": {"profile": "hq"}},
            pixels="yuv422p10le",
            parts="mov",
        ),
        sound="pcm_s24le",
        sound_format="s32",
    ),
    "mkv": Format(
        name="MKV",
        note="FFV1, FLAC. Lossless, large.",
        ending="mkv",
        mimetype="video/matroska",
        container="matroska",
        video=Video("ffv1", {"level": "3", "slices": "4", "slicecrc": "1"}),
        sound="flac",
        sound_format="s32",
    ),
    "wav": Format(
        name="WAV",
        note="The sound alone, 24 bits.",
        ending="wav",
        mimetype="audio/wav",
        container="wav",
        sound="pcm_s24le",
        sound_format="s32",
    ),
    "gif": Format("GIF", "A silent loop for any page.", "gif", "image/gif", stills="gif"),
    "webp": Format("WebP", "A silent loop, smaller.", "webp", "image/webp", stills="webp"),
    "png": Format("PNG", "Each frame a picture, in a ZIP.", "zip", "application/zip", stills="png"),
}


def options_of(video: Video, quality: Quality) -> Options:
    """What an encoder is told."""
    return video.options | video.qualities.get(quality, {})


def how_written(video: Video, quality: Quality) -> str:
    """All that decides how pictures are coded, in words."""
    return f"{video.codec} {sorted(options_of(video, quality).items())} {video.pixels} {THREADS}"
