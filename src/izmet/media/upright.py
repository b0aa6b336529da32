"""Which way up is a picture meant to be seen?

A file may say that its pictures are to be turned by quarters or mirrored: a matrix that
takes a place (x, y) of the coded picture to (a·x + c·y, b·x + d·y) of the one to be
seen, right and down positive. Of a turn that is no whole quarter the nearest is taken.

Source: ISO/IEC 14496-12, tkhd; kept by FFmpeg's libavutil/display.h as nine integers
``a b u c d v x y w`` in the machine's byte order.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

NUMBERS = 9


class Turn(NamedTuple):
    """What makes a picture upright: rows made columns first, then turned round across, and down."""

    swapped: bool = False
    across: bool = False
    down: bool = False

    def size(self, size: tuple[int, int]) -> tuple[int, int]:
        """Width and height upright from those coded, or the other way round."""
        return (size[1], size[0]) if self.swapped else size

    def upright(self, plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """A plane of the picture, shape (high, wide), as it is meant to be seen."""
        turned = plane.T if self.swapped else plane
        return np.ascontiguousarray(turned[:: -1 if self.down else 1, :: -1 if self.across else 1])


AS_IT_IS = Turn()


def turn_of(frame: av.VideoFrame) -> Turn:
    """How a picture is to be turned, as ``with_turns`` has told it."""
    return frame.opaque if isinstance(frame.opaque, Turn) else AS_IT_IS


def with_turns(frames: Iterator[av.VideoFrame]) -> Iterator[av.VideoFrame]:
    """Pictures as they come, each told how it is to be turned.

    A picture and its side data, as PyAV has them, hold each other: once it was asked for them its memory is
    free only when the garbage collector comes by. So only one of those turned alike is asked.
    """
    rotation: int | None = None
    turn = AS_IT_IS
    for frame in frames:
        if frame.rotation != rotation:
            rotation, turn = frame.rotation, _matrix_turn(frame)
        if turn != AS_IT_IS:
            frame.opaque = Turn(*turn)  # PyAV forgets a value with the first picture that has it.
        yield frame


def _matrix_turn(frame: av.VideoFrame) -> Turn:
    """How a picture is to be turned, as its file says."""
    told: Any = frame.side_data.get("DISPLAYMATRIX")
    if told is None:
        return AS_IT_IS
    numbers = np.frombuffer(told, np.int32)
    if len(numbers) < NUMBERS:
        return AS_IT_IS
    a, b, _, c, d = numbers[:5].astype(np.int64).tolist()
    if abs(a) + abs(d) >= abs(b) + abs(c):
        return Turn(False, across=a < 0, down=d < 0)
    return Turn(True, across=c < 0, down=b < 0)
