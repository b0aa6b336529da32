"""Turns what the libraries throw at a damaged or unsuitable file into a clear refusal."""

from __future__ import annotations

import errno
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import av

from izmet.core.document.refusal import Refusal


@contextmanager
def reading(path: Path, name: str) -> Iterator[None]:
    """Inside, any failure to read ``path`` becomes a refusal that speaks of ``name``."""
    try:
        if not path.exists():
            raise Refusal(
                "media-missing", "The file is not there any more.", name, "Put it back or link another file."
            )
        if path.stat().st_size == 0:
            raise Refusal("empty-file", "The file is empty (0 bytes).", name, "Copy or export it again.")
        yield
    except MemoryError:
        raise  # the machine's fault, not the file's
    except av.DecoderNotFoundError as error:
        raise Refusal(
            "unknown-codec",
            f"No decoder here knows how this file is coded ({error.strerror}).",
            name,
            "Convert it to a common codec such as H.264 or FLAC.",
        ) from None
    except (av.FFmpegError, EOFError, UnicodeDecodeError, IndexError) as error:
        raise Refusal(
            "not-media",
            f"The file cannot be read as sound or video ({_reason(error)}).",
            name,
            "Check that it plays elsewhere; it may be cut off or of another kind.",
        ) from None


def decoded(
    packets: Iterable[av.Packet[Any]],
) -> Iterator[av.VideoFrame | av.AudioFrame]:
    """All frames of a stream's packets; damaged ones are passed over.

    ``container.decode`` would give up at the first of them and lose the rest.
    """
    for packet in packets:
        try:
            frames = packet.decode()
        except av.InvalidDataError:
            continue
        for frame in frames:
            assert isinstance(frame, av.VideoFrame | av.AudioFrame)
            yield frame


@contextmanager
def writing(name: str) -> Iterator[None]:
    """Inside, a full disk becomes a refusal; the caller removes what it had begun."""
    try:
        yield
    except OSError as error:
        full = full_disk(error, name)
        if full is None:
            raise
        raise full from None


def full_disk(error: OSError, name: str = "") -> Refusal | None:
    """The refusal when it was a full disk that failed; None when it was something else."""
    if error.errno not in (errno.ENOSPC, errno.EDQUOT):
        return None
    return Refusal(
        "disk-full",
        "The disk is full; nothing half-written was kept.",
        name,
        "Free some space and try again.",
    )


def _reason(error: Exception) -> str:
    return getattr(error, "strerror", None) or str(error) or type(error).__name__
