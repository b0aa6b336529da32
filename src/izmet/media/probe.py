"""What is in this file?

Headers of unknown files are parsed in a process apart, with limits of memory and of
work (``warm``), because a few bytes can make a demuxer claim gigabytes or spin. What is
counted is the work, not the time: a good file may have to wait for a busy machine.
Counts and rates in headers lie, so they serve only to choose and to describe; the
frame table has the truth.
"""

from __future__ import annotations

import signal
from pathlib import Path
from typing import Any

import av
from pydantic import BaseModel

from izmet.core.document.refusal import Refusal
from izmet.media.faults import reading
from izmet.media.pictures import LARGEST_PICTURE, first_picture, is_hdr, picture_stream
from izmet.media.upright import turn_of
from izmet.media.warm import Ending, Limits, Warm, serve

LIMITS = Limits(memory=3 << 30, work=20, wait=180)
"""The wait is for what stands still, such as a disk that does not answer."""


class VideoFacts(BaseModel):
    """The picture stream: its size as it is meant to be seen, upright and with square pixels.

    ``interlaced`` and ``hdr`` (a transfer of ITU-R BT.2100) are as its first picture says;
    ``frames`` is what the header makes one expect, 0 when it does not say.
    """

    codec: str
    width: int
    height: int
    interlaced: bool = False
    hdr: bool = False
    frames: int = 0

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.width, self.height


class SoundFacts(BaseModel):
    """A sound stream as its header describes it."""

    codec: str
    sample_rate: int
    channels: int


class MediaFacts(BaseModel):
    """What a file holds. ``duration`` in seconds, 0 when the header does not say."""

    container: str
    duration: float
    video: VideoFacts | None = None
    sounds: list[SoundFacts] = []


class _Answer(BaseModel):
    facts: MediaFacts | None = None
    refusal: dict[str, Any] | None = None


def probe(path: Path, name: str) -> MediaFacts:
    """The facts about a file.

    Args:
        name: what to call the file when it is refused.

    Raises:
        Refusal: empty, not media, an unknown codec, a file that exhausts the limit of
            memory or of work, or one that cannot be read in time.
    """
    answer = answered(_WARM.ask(str(path), name), name)
    if answer.refusal is not None:
        raise Refusal.of_dict(answer.refusal)
    assert answer.facts is not None
    return answer.facts


_WARM = Warm(__name__)


def answered(ending: Ending, name: str) -> _Answer:
    """What the reading of a header answered. Raises Refusal when it came to a bad end."""
    if ending.code is None:
        raise Refusal(
            "not-read-in-time",
            f"The file could not be read within {LIMITS.wait:g} s.",
            name,
            "The disk or the computer was too busy; try again.",
        )
    if ending.code == -signal.SIGXCPU:
        raise _too_hard(name, f"took more than {LIMITS.work} s of work")
    if ending.answer is None:
        raise _too_hard(name, "asked for too much memory")
    return _Answer.model_validate_json(ending.answer)


def picture_of(found: MediaFacts, name: str) -> VideoFacts:
    """The facts about a take's picture.

    Raises:
        Refusal: the file has none.
    """
    if found.video is None:
        raise Refusal("no-picture", "The file has sound but no picture.", name, "Choose a video file.")
    return found.video


def _too_hard(name: str, how: str) -> Refusal:
    return Refusal("not-media", f"Reading the file's header {how}.", name, "It is damaged; export it again.")


def _facts(path: Path, name: str) -> MediaFacts:
    with reading(path, name), av.open(str(path), metadata_errors="replace") as container:
        facts = MediaFacts(
            container=container.format.name,
            duration=(container.duration or 0) / av.time_base,
            video=_video(container, name),
            sounds=[_sound(stream) for stream in container.streams.audio],
        )
    if facts.video is None and not facts.sounds:
        raise Refusal("not-media", "The file holds neither sound nor picture.", name, "Choose another file.")
    return facts


def _video(container: av.container.InputContainer, name: str) -> VideoFacts | None:
    stream = picture_stream(container)
    if stream is None:
        return None
    if stream.codec_context is None:
        raise av.DecoderNotFoundError(0, "the picture's codec")
    if stream.width * stream.height > LARGEST_PICTURE:
        raise Refusal(
            "picture-too-large",
            f"The pictures are {stream.width}×{stream.height}, larger than Izmet reads.",
            name,
            "Scale the video down to 8K (8192×4608) or less.",
        )
    frame = first_picture(container, stream)
    if frame is None:
        raise Refusal(
            "not-media", "Not one picture could be decoded.", name, "Check that it plays elsewhere."
        )
    coded = round(frame.width * float(stream.sample_aspect_ratio or 1)), frame.height
    width, height = turn_of(frame).size(coded)
    return VideoFacts(
        codec=stream.codec_context.name,
        width=width,
        height=height,
        interlaced=bool(frame.interlaced_frame),
        hdr=is_hdr(frame),
        frames=stream.frames or round((container.duration or 0) / av.time_base * (stream.average_rate or 0)),
    )


def _sound(stream: av.AudioStream) -> SoundFacts:
    if stream.codec_context is None:
        raise av.DecoderNotFoundError(0, "the sound's codec")
    context = stream.codec_context
    return SoundFacts(codec=context.name, sample_rate=context.sample_rate, channels=context.channels)


def _answer(path: Path, name: str) -> _Answer:
    try:
        return _Answer(facts=_facts(path, name))
    except Refusal as refusal:
        return _Answer(refusal=refusal.as_dict())


if __name__ == "__main__":
    av.logging.set_level(None)
    serve(lambda path, name: _answer(Path(path), name).model_dump_json(), LIMITS)
