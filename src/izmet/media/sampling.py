"""From what a frame asks for to a picture of its take.

A sampler gives the pictures of each request of a clip, in their order. Pictures are
decoded forward, whatever way a clip runs: rising runs in one pass, and where the order
goes back, a block of pictures at a time is decoded, kept, and handed out as asked.
``VERSION`` goes up with any change to what comes out, so that nothing old is joined with new.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from izmet.core.retime.sampling import Frames
from izmet.core.shown.pictures import Counted
from izmet.media.frametable import FrameTable
from izmet.media.pictures import decode_wanted

VERSION = 1
BLOCK = 24
"""Pictures that are held at a time where the order goes back."""


@dataclass(frozen=True)
class TakeFile:
    """Where a take's file is, what to call it, and which picture each of its frames holds."""

    path: Path
    name: str
    table: FrameTable


def counted_in(takes: Mapping[str, TakeFile]) -> Counted:
    """Per take id, its pictures."""
    return {id: file.table.pictures for id, file in takes.items()}


def sampled(file: TakeFile, asked: Frames, seen: NDArray[np.bool_]) -> Iterator[list[av.VideoFrame]]:
    """The pictures of each request, in the order asked. One that is asked again in a row is the same object.

    Args:
        asked: source frames of each request, shape (requests, pictures).
        seen: which of them are wanted, at least one of each request, shape as ``asked``.
    """
    pictures = file.table.picture[asked]
    low = np.where(seen, pictures, len(file.table)).min(axis=1)
    high = np.where(seen, pictures, -1).max(axis=1)
    for run in _runs(low, high, max(1, BLOCK // asked.shape[1])):
        wanted = np.unique(pictures[run][seen[run]])
        decoded = decode_wanted(file.path, file.name, file.table, wanted.tolist())
        coming = iter(wanted.tolist())
        rising = (np.diff(low[run]) >= 0).all() and (np.diff(high[run]) >= 0).all()
        held: dict[int, av.VideoFrame] = {}
        newest = -1
        for row, least, most in zip(range(run.start, run.stop), low[run], high[run], strict=True):
            while newest < most:
                newest = next(coming)
                held[newest] = next(decoded)
            if rising:
                for old in [picture for picture in held if picture < least]:
                    del held[old]
            yield [held[picture] for picture in pictures[row][seen[row]].tolist()]


def _runs(low: Frames, high: Frames, block: int) -> list[slice]:
    """Runs of requests whose first and last pictures rise, the short ones of them joined into blocks."""
    back = (np.diff(low) < 0) | (np.diff(high) < 0)
    edges = [0, *(np.flatnonzero(back) + 1).tolist(), len(low)]
    runs: list[slice] = []
    open_block = False
    for begin, end in pairwise(edges):
        short = end - begin <= block
        if short and open_block and end - runs[-1].start <= block:
            runs[-1] = slice(runs[-1].start, end)
        else:
            runs.append(slice(begin, end))
        open_block = short
    return runs
