"""Following a point through a take, for an edit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from izmet.core.commands.framing import SaveTrack, check_inside
from izmet.core.document.edit import Take
from izmet.core.document.framing import Track, TrackPoint
from izmet.core.document.refusal import Refusal
from izmet.core.shown.framing import tracked
from izmet.jobs.changing import change
from izmet.jobs.kinds import FollowPoint
from izmet.material.reading import Progress
from izmet.material.takes import table_of
from izmet.media.pictures import small_luma
from izmet.media.sampling import TakeFile, sampled
from izmet.picture.tracking import Plane, followed, thinned
from izmet.store import edits
from izmet.store.assets import Assets

WIDEST = 1280
"""Pixels across in which a point is looked for."""
OFF = 0.1
"""Pixels that a point may lie off the straight lines that its track keeps."""
DECIMALS = 6


def follow_point(assets: Assets, work: FollowPoint, progress: Progress) -> None:
    """Follow a track from one frame of a take on, both ways, and keep it in the edit.

    Raises:
        Refusal: the point is lost at once, or the frame, the track or the file is not there.
    """
    edit = edits.current(work.into).edit
    take, track = edit.take(work.take), edit.track(work.take, work.track)
    check_inside(take, work.frame)
    file = TakeFile(assets.path(take.media.sha256 or ""), take.media.name, table_of(assets, take.media))
    last = min(work.end, take.frames - 1)
    total = last - work.begin + 1
    found: dict[int, tuple[float, float]] = {}
    for way in (range(work.frame, last + 1), range(work.frame, work.begin - 1, -1)):
        for frame, point in zip(way, _followed(file, take, track, way), strict=False):
            found[frame] = point
            progress(len(found), total)
    if len(found) < 2 and total > 1:
        raise Refusal(
            "lost",
            f"The point was lost straight away, at frame {work.frame}.",
            where=take.media.name,
            remedy="Pick a spot with clear detail, such as a corner.",
        )
    frames = np.array(sorted(found))
    points = np.array([found[frame] for frame in frames.tolist()])
    kept = thinned(frames, points * [take.width, take.height], OFF)
    told = tuple(
        TrackPoint(frame=frame, x=round(x, DECIMALS), y=round(y, DECIMALS))
        for frame, (x, y) in zip(frames[kept].tolist(), points[kept].tolist(), strict=True)
    )
    command = SaveTrack(take=take.id, track=track.id, points=told, over=(int(frames[0]), int(frames[-1])))
    change(work.into, command)


def _followed(file: TakeFile, take: Take, track: Track, way: range) -> Iterator[tuple[float, float]]:
    """Where a track's point is in each picture of a way through a take, in parts of it, until it is lost."""
    wide = min(WIDEST, take.width)
    size = (wide, max(1, round(take.height * wide / take.width)))
    sides = np.array(size)
    start = tracked(track, np.array([way.start], float))[:, 0] * sides
    for x, y in followed(_pictures(file, way, size), (float(start[0]), float(start[1]))):
        yield x / size[0], y / size[1]


def _pictures(file: TakeFile, way: range, size: tuple[int, int]) -> Iterator[Plane]:
    asked: NDArray[np.int64] = np.array(way)[:, None]
    for (frame,) in sampled(file, asked, np.ones(asked.shape, bool)):
        yield np.ascontiguousarray(small_luma(frame, size))
