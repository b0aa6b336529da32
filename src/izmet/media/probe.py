"""What is in this file?

Headers of unknown files are parsed in a subprocess of its own, with limits of memory
and of work, because a few bytes can make a demuxer claim gigabytes or spin. What is
counted is the work, not the time: a good file may have to wait for a busy machine.
Counts and rates in headers lie, so they serve only to choose and to describe; the
frame table has the truth.
"""

from __future__ import annotations

import resource
import signal
import subprocess
import sys
from pathlib import Path

import av
from pydantic import BaseModel

from izmet.core.refusal import Refusal
from izmet.media.faults import reading
from izmet.media.pictures import first_picture, is_hdr, picture_stream
from izmet.media.upright import turn_of

MEMORY_LIMIT = 3 << 30
WORK_SECONDS = 20
"""Of one processor."""
WAIT_SECONDS = 180
"""What stands still so long, such as a disk that does not answer, is given up."""
LARGEST_PICTURE = 8192 * 8192


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
    refusal: dict[str, str | float | None] | None = None


def probe(path: Path, name: str) -> MediaFacts:
    """The facts about a file.

    Args:
        name: what to call the file when it is refused.

    Raises:
        Refusal: empty, not media, an unknown codec, a file that exhausts the limit of
            memory or of work, or one that cannot be read in time.
    """
    try:
        run = subprocess.run(
            [sys.executable, "-m", "izmet.media.probe", str(path), name],
            capture_output=True,
            timeout=WAIT_SECONDS,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise Refusal(
            "not-read-in-time",
            f"The file could not be read within {WAIT_SECONDS} s.",
            name,
            "The disk or the computer was too busy; try again.",
        ) from None
    if run.returncode == -signal.SIGXCPU:
        raise _too_hard(name, f"took more than {WORK_SECONDS} s of work")
    if run.returncode != 0 or not run.stdout:
        raise _too_hard(name, "asked for too much memory")
    answer = _Answer.model_validate_json(run.stdout)
    if answer.refusal is not None:
        raise Refusal(**answer.refusal)  # type: ignore[arg-type]
    assert answer.facts is not None
    return answer.facts


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
            "Scale the video down to at most 8192×8192.",
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
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    resource.setrlimit(resource.RLIMIT_CPU, (WORK_SECONDS, WORK_SECONDS + 1))
    av.logging.set_level(None)
    print(_answer(Path(sys.argv[1]), sys.argv[2]).model_dump_json())
