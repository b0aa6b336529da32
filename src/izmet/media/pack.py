"""The frame pack: a take's proxy, as small intra-coded pictures in one file.

Two files: the JPEGs one after another, and an index that gives for each source frame
where its JPEG begins and ends (two uint32, little-endian). The browser fetches ranges
and reaches any frame without decoding another.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import simplejpeg
from av.video.reformatter import Colorspace

from izmet.core.refusal import Refusal
from izmet.media.faults import writing
from izmet.media.frametable import FrameTable, build_table
from izmet.media.pictures import Plane, decode_all, fit, planes, small_luma
from izmet.media.probe import probe
from izmet.picture.watching import SIZE, Seen, Watcher

BOUNDS = (480, 270)
QUALITY = 72
WORKERS = 2
AHEAD = 12


@dataclass(frozen=True)
class Looked:
    """What one pass over a take tells: its frames, and what was measured in each of them."""

    table: FrameTable
    seen: Seen


@dataclass(frozen=True)
class _Small:
    stamp: int
    tick: Fraction
    luma: Plane
    jpeg: bytes


def write_pack(
    take: Path, name: str, size: tuple[int, int], pack: Path, index: Path, progress: Callable[[int], None]
) -> Looked:
    """Decode a take once, write its pack and index, and look at its frames.

    Args:
        size: the take's upright width and height, from the probe.
        progress: called with the count of pictures done; may raise to cancel.

    Raises:
        Refusal: no picture, a file that cannot be read, a full disk.
    """
    offsets = [0]

    def keep(jpeg: bytes) -> None:
        file.write(jpeg)
        offsets.append(file.tell())

    with writing(name), pack.open("wb") as file:
        looked = _read(take, name, fit(size, BOUNDS), keep, progress)
        picture = looked.table.picture
        begin, end = np.array(offsets[:-1])[picture], np.array(offsets[1:])[picture]
        index.write_bytes(np.stack([begin, end], axis=1).astype("<u4").tobytes())
    return looked


def look_at(take: Path, name: str, progress: Callable[[int], None]) -> Looked:
    """What ``write_pack`` learns of a take, without keeping the pictures."""
    facts = probe(take, name)
    if facts.video is None:
        raise Refusal("no-picture", "The file has sound but no picture.", name, "Choose a video file.")
    return _read(take, name, fit((facts.video.width, facts.video.height), BOUNDS), None, progress)


def read_frame(pack: Path, index: Path, frame: int) -> bytes | None:
    """One source frame's JPEG from a pack, or None when the take has no such frame."""
    with index.open("rb") as file:
        file.seek(8 * frame)
        place = np.frombuffer(file.read(8), "<u4")
    if len(place) < 2:
        return None
    with pack.open("rb") as file:
        file.seek(int(place[0]))
        return file.read(int(place[1] - place[0]))


def _read(
    take: Path,
    name: str,
    proxy: tuple[int, int],
    keep: Callable[[bytes], None] | None,
    progress: Callable[[int], None],
) -> Looked:
    watcher = Watcher()
    stamps: list[int] = []
    last: _Small | None = None
    for small in _shrink_all(decode_all(take, name), proxy, keep is not None):
        if keep is not None:
            keep(small.jpeg)
        stamps.append(small.stamp)
        watcher.look(small.luma)
        last = small
        progress(len(stamps))
    if last is None:
        raise Refusal(
            "not-media", "Not one picture could be decoded.", name, "Check that it plays elsewhere."
        )
    seen = watcher.seen()
    table = build_table(np.array(stamps), last.tick, seen.change)
    return Looked(table, seen.at(table.picture))


def _shrink_all(frames: Iterator[av.VideoFrame], size: tuple[int, int], coded: bool) -> Iterator[_Small]:
    """Shrunk pictures in order; scaling and coding run beside the decoder."""
    with ThreadPoolExecutor(WORKERS) as pool:
        waiting: deque[Future[_Small]] = deque()
        last: int | None = None
        for frame in frames:
            assert frame.pts is not None
            if last is not None and frame.pts <= last:
                continue  # two pictures with one stamp: the first is the one that is found again
            last = frame.pts
            waiting.append(pool.submit(_shrink, frame, size, coded))
            if len(waiting) >= AHEAD:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()


def _shrink(frame: av.VideoFrame, size: tuple[int, int], coded: bool) -> _Small:
    jpeg = b""
    if coded:
        jpeg = simplejpeg.encode_jpeg_yuv_planes(
            *planes(frame, size, "yuvj420p", Colorspace.ITU601, full_range=True), quality=QUALITY
        )
    assert frame.pts is not None
    assert frame.time_base is not None
    return _Small(frame.pts, frame.time_base, small_luma(frame, fit(size, SIZE)), jpeg)
