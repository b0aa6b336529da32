"""By how much did the whole picture move since the one before?

Conventions
    Pictures are luma, uint8, shape (high, wide), and looked at from half their size down.
    A movement (dx, dy) is the content's, in pixels of the picture given, right and down
    positive: what was at (x, y) is now at (x + dx, y + dy).

The movement is the shift that makes one picture most like the other, found from coarse
to fine by least squares, with what does not follow it (a boat before a coast) counting
less and less, and what stands out of the picture (a bright counter that lies over it)
no more than the rest. Pictures are freed of slow changes of light first, so a flash is no
movement. It begins from the best of: no movement, the last one, phase correlation; where
one of them fits already, the coarsest level is left out.

Source: B. D. Lucas, T. Kanade, "An iterative image registration technique", IJCAI 1981,
in the inverse form of S. Baker, I. Matthews, "Lucas-Kanade 20 years on", IJCV 56, 2004;
C. D. Kuglin, D. C. Hines, "The phase correlation image alignment method", 1975; weights
of S. Geman, D. E. McClure, 1987.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from izmet.picture import pixels
from izmet.picture.pixels import FARTHEST, LEVEL, Level, Ready
from izmet.picture.shrinking import Picture

Shift = tuple[float, float]

LEVELS = 3
COARSEST = 2.0**-LEVELS
"""Size of the coarsest level, as part of the picture's."""
ROUNDS = (1, 1, 3)
"""Least squares at each level, from the coarsest."""
STANDS_OUT = 2.0
"""How many times the usual contrast is the most that counts in a guess."""
FITS, SURE = 0.5, 0.2
"""Error, as part of what there is to see, at which a guess is good enough to begin from, and to skip the
coarsest level."""
LEAST_ERROR = 0.05
"""In levels: what differs by less has no movement to look for."""
LEAST_SIDE = 6
"""In pixels of the coarsest level, of a picture in which a movement can be looked for."""
STILL: Shift = (0.0, 0.0)


@dataclass(frozen=True)
class View:
    """A picture made ready to be followed, at all sizes."""

    sizes: tuple[Ready, ...]
    """From the coarsest to the finest."""
    rough: Level
    """The coarsest one in which nothing stands out."""

    @classmethod
    def of(cls, luma: Picture) -> View:
        """From a picture's luma."""
        sizes = pixels.ready_at_all_sizes(luma)
        return cls(sizes, pixels.limited(sizes[0][LEVEL], STANDS_OUT))


def movement(before: View, after: View, last: Shift = STILL) -> Shift:
    """The content's movement from one picture to the next; ``last`` is that into the one before."""
    if min(before.rough.shape) < LEAST_SIDE:
        return STILL
    guess, fits = _guessed(before.rough, after.rough, last)
    return _followed(before, after, guess, range(1 if fits else 0, LEVELS))


def refined(before: View, after: View, shift: Shift) -> Shift:
    """A movement that is nearly known, told better."""
    return _followed(before, after, (shift[0] * COARSEST, shift[1] * COARSEST), range(1, LEVELS))


def _followed(before: View, after: View, shift: Shift, levels: range) -> Shift:
    """A movement in the picture's pixels, from one in those of the coarsest level."""
    dx, dy = (way * 2 ** levels[0] for way in shift)
    for level in levels:
        if level > levels[0]:
            dx, dy = 2 * dx, 2 * dy
        dx, dy = pixels.followed(before.sizes[level], after.sizes[level], dx, dy, ROUNDS[level])
    return 2 * dx, 2 * dy


def _guessed(before: Level, after: Level, last: Shift) -> tuple[Shift, bool]:
    """The best guess in pixels of the coarsest level, and whether it fits already."""
    guesses = [STILL, (last[0] * COARSEST, last[1] * COARSEST)]
    errors = [pixels.mean_error(before, after, *guess) for guess in guesses]
    there = pixels.contrast(before)
    if min(errors) > max(FITS * there, LEAST_ERROR):
        guesses.append(_correlated(before, after))
        errors.append(pixels.mean_error(before, after, *guesses[-1]))
    return guesses[int(np.argmin(errors))], min(errors) <= SURE * there


def unlike(before: View, after: View, shift: Shift) -> tuple[Level, float]:
    """What of a picture does not follow a movement: its error by pixel of the finest level, and how much
    of its structure is kept (a correlation, 1: all of it)."""
    dx, dy = shift
    found: tuple[Level, float] = pixels.unlike(before.sizes[-1], after.sizes[-1], dx / 2, dy / 2)
    return found


def _correlated(before: Level, after: Level) -> Shift:
    """A first guess by phase correlation."""
    (dx, dy), _ = cv2.phaseCorrelate(before, after, _window(before.shape[0], before.shape[1]))
    high, wide = before.shape
    return (dx, dy) if abs(dx) < FARTHEST * wide and abs(dy) < FARTHEST * high else STILL


_WINDOWS: dict[tuple[int, int], Any] = {}


def _window(high: int, wide: int) -> Any:
    if (high, wide) not in _WINDOWS:
        _WINDOWS[high, wide] = cv2.createHanningWindow((wide, high), cv2.CV_32F)
    return _WINDOWS[high, wide]
