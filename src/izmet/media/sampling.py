"""From what a frame asks for to a picture of its take.

A sampler gives the picture of each request of a clip, in their order. Pictures are
decoded forward, whatever way a clip runs: rising runs in one pass, and where the order
goes back, a block of pictures at a time is decoded, kept, and handed out as asked.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np

from izmet.core.retime.sampling import Frames
from izmet.media.frametable import FrameTable
from izmet.media.pictures import decode_wanted

BLOCK = 24
"""Pictures that are held at a time where the order goes back."""


@dataclass(frozen=True)
class TakeFile:
    """Where a take's file is, what to call it, and which picture each of its frames holds."""

    path: Path
    name: str
    table: FrameTable


def nearest(file: TakeFile, shown: Frames) -> Iterator[av.VideoFrame]:
    """The picture of each source frame in ``shown``. A picture repeated in a row is the same object."""
    for run in _runs(file.table.picture[shown]):
        wanted, asked = np.unique(run, return_inverse=True)
        decoded = decode_wanted(file.path, file.name, file.table, wanted.tolist())
        if (np.diff(asked) >= 0).all():
            for frame, count in zip(decoded, np.bincount(asked), strict=True):
                yield from (frame for _ in range(count))
        else:
            held = list(decoded)
            yield from (held[index] for index in asked)


def _runs(pictures: Frames) -> list[Frames]:
    """Rising runs, the short ones of them joined into blocks."""
    runs: list[Frames] = []
    rising = np.split(pictures, np.flatnonzero(np.diff(pictures) < 0) + 1)
    open_block = False
    for run in rising:
        short = len(run) <= BLOCK
        if short and open_block and len(runs[-1]) + len(run) <= BLOCK:
            runs[-1] = np.concatenate([runs[-1], run])
        else:
            runs.append(run)
        open_block = short
    return runs
