"""Which picture does each frame of a take hold, and where does another scene begin?

A document knows how many distinct pictures a take holds a second, and for how long it
usually holds one. What was counted when its file was read tells each of them.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Take
from izmet.core.retime.sampling import Frames

Flags = NDArray[np.bool_]
NO_FRAMES: Frames = np.empty(0, np.int64)


@dataclass(frozen=True, eq=False)
class TakePictures:
    """The pictures of a take.

    Attributes:
        distinct: number of the distinct picture that each source frame holds, shape (source frames,).
        breaks: source frames on which another scene begins, or light comes at once, rising.
        still: which source frames hold a picture that hardly differs from the one before it, shape
            (source frames,); None where nobody looked.
        far: which hold one that has moved too far since for flow to follow, in the same way.
    """

    distinct: Frames
    breaks: Frames = field(default_factory=lambda: NO_FRAMES)
    still: Flags | None = None
    far: Flags | None = None


Counted = Mapping[str, TakePictures]
"""Per take id, its pictures, of the takes of which somebody counted them."""
UNCOUNTED: Counted = MappingProxyType({})
_COUNTED: ContextVar[Counted] = ContextVar("counted", default=UNCOUNTED)


@contextmanager
def counted_pictures(counted: Counted) -> Iterator[None]:
    """Commands that count repeats count these, for as long as it lasts: what a document does not hold."""
    token = _COUNTED.set(counted)
    try:
        yield
    finally:
        _COUNTED.reset(token)


def pictures_of(take: Take) -> TakePictures:
    """The pictures of a take: as counted, else spread evenly."""
    return fitting(take, _COUNTED.get().get(take.id))


def fitting(take: Take, counted: TakePictures | None) -> TakePictures:
    """What was counted of a take, if it is of as many frames; else its pictures spread evenly."""
    return spread(take) if counted is None or len(counted.distinct) != take.frames else counted


def spread(take: Take) -> TakePictures:
    """The pictures of a take that holds them evenly, and one scene."""
    part = take.distinct / take.rate
    return TakePictures(np.arange(take.frames, dtype=np.int64) * part.numerator // part.denominator)
