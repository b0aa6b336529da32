"""The frame pack: a take's proxy, as small intra-coded pictures in one file.

Two files: the JPEGs one after another, and an index that gives for each source frame
where its JPEG begins and ends (two uint32, little-endian). The browser fetches ranges
and reaches any frame without decoding another.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import count, islice
from pathlib import Path
from typing import TypeVar

import av
import numpy as np
import simplejpeg
from av.video.reformatter import Colorspace

from izmet.core.document.refusal import Refusal
from izmet.media.faults import writing
from izmet.media.frametable import FrameTable, build_table
from izmet.media.order import Clock
from izmet.media.pictures import decode_all, fit, planes, small_luma
from izmet.picture import flowing
from izmet.picture.proposing import breaks
from izmet.picture.watching import SIZE, Seen, Watcher

Frames = Iterator[av.VideoFrame]
Result = TypeVar("Result")

BOUNDS = (480, 270)
QUALITY = 72
WORKERS = 2
AHEAD = 2
"""How many handfuls of pictures wait to be looked at, and to be coded."""
MOST_PIXELS, MOST_PICTURES = 8 << 20, 16
"""Of a handful: handing over one by one costs more than looking at a small picture's movement does."""


@dataclass(frozen=True)
class Looked:
    """What one pass over a take tells: its frames, what was measured in each, how many had another's time."""

    table: FrameTable
    seen: Seen
    doubled: int


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
    small = fit(size, BOUNDS)

    def keep(jpeg: bytes) -> None:
        file.write(jpeg)
        offsets.append(file.tell())

    def packed(frames: Frames) -> Frames:
        return _beside(frames, WORKERS, lambda frame: _coded(frame, small), keep)

    with writing(name), pack.open("wb") as file:
        looked = look_at(take, name, size, progress, through=packed)
        picture = looked.table.picture
        begin, end = np.array(offsets[:-1])[picture], np.array(offsets[1:])[picture]
        index.write_bytes(np.stack([begin, end], axis=1).astype("<u4").tobytes())
    return looked


def look_at(
    take: Path,
    name: str,
    size: tuple[int, int],
    progress: Callable[[int], None],
    through: Callable[[Frames], Frames] = iter,
) -> Looked:
    """What one pass over a take tells, without keeping its pictures.

    Args:
        size, progress: as for ``write_pack``.
        through: what the pictures pass on their way.

    Raises:
        Refusal: as ``write_pack`` does.
    """
    watcher, clock, done = Watcher(), Clock(), count(1)
    seen_size = fit(size, SIZE)
    stamps: list[int] = []
    tick: Fraction | None = None
    frames = _beside(
        through(clock.told(decode_all(take, name))),
        1,
        lambda frame: watcher.look(small_luma(frame, seen_size)),
        lambda _: progress(next(done)),
    )
    for frame in frames:
        assert frame.pts is not None
        stamps.append(frame.pts)
        tick = frame.time_base
    if tick is None:
        raise Refusal(
            "not-media", "Not one picture could be decoded.", name, "Check that it plays elsewhere."
        )
    all_seen = watcher.seen()
    table = build_table(np.array(stamps), tick, all_seen.change, all_seen.most)
    seen = all_seen.at(table.picture)
    is_new = np.diff(table.distinct_of, prepend=-1) > 0
    table = replace(
        table,
        restarts=clock.restarted,
        breaks=breaks(seen, is_new, float(table.rate)),
        still=flowing.still(seen, is_new),
        far=flowing.far(seen, is_new),
    )
    return Looked(table, seen, clock.dropped)


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


def _beside(
    frames: Frames,
    workers: int,
    work: Callable[[av.VideoFrame], Result],
    then: Callable[[Result], None],
) -> Frames:
    """Pictures as they come, each worked on beside the decoding of the next ones; results come in order."""
    with ThreadPoolExecutor(workers) as hands:
        waiting: deque[Future[list[Result]]] = deque()
        for handful in _handfuls(frames):
            waiting.append(hands.submit(lambda these: [work(frame) for frame in these], handful))
            yield from handful
            while len(waiting) > _ahead_of(handful):
                for result in waiting.popleft().result():
                    then(result)
        for each in waiting:
            for result in each.result():
                then(result)


def _ahead_of(handful: list[av.VideoFrame]) -> int:
    """How many handfuls may wait for their turn: none of large pictures."""
    return AHEAD if handful[0].width * handful[0].height <= MOST_PIXELS else 0


def _handfuls(frames: Frames) -> Iterator[list[av.VideoFrame]]:
    """Pictures, so many together as are quickly handed over and do not fill the memory."""
    for frame in frames:
        pictures = max(1, min(MOST_PICTURES, MOST_PIXELS // (frame.width * frame.height)))
        yield [frame, *islice(frames, pictures - 1)]


def _coded(frame: av.VideoFrame, size: tuple[int, int]) -> bytes:
    drawn = planes(frame, size, "yuvj420p", Colorspace.ITU601, full_range=True)
    jpeg: bytes = simplejpeg.encode_jpeg_yuv_planes(*drawn, quality=QUALITY)
    return jpeg
