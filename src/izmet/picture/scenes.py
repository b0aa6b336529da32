"""Is it the same scene again?

Pictures are compared by the light of their blocks, softened and wherever one has moved
meanwhile: by the greatest normalised correlation of the inner blocks, which a change of
light leaves alone, and by the least difference of their levels, which tells flat
pictures too.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from izmet.picture.watching import Seen

BACK_SECONDS = 0.8
BACK, CLEARLY = 0.78, 0.1
SEARCH = 4
"""How many blocks a picture may have moved."""
SOFT = 1.0
FLAT = 1.0
"""In levels: blocks that differ less have nothing to compare."""
REST, NEARER, FARTHER = 0.4, 0.55, 0.25
"""What is left of a change when it has given way, what may be left where the structure tells so too, and how
much nearer than what came the picture is to the one before, as a part."""


def comes_back(seen: Seen, first: int, rate: float, as_light: bool) -> bool:
    """Whether what was seen before ``first`` is seen again soon after it; ``as_light``: its levels are too.

    Where little was lost, what was before may be there all the time.
    """
    bar = NEARER * apart(seen, first, first - 1) if as_light else np.inf
    return any(
        alike(seen, at, first - 1) > BACK and apart(seen, at, first - 1) < bar
        for at in _later(seen, first, rate)
    )


def gives_way(seen: Seen, first: int, last: int, rate: float) -> bool:
    """Whether what came at ``first`` and is there at ``last`` soon gives way to what was before it."""
    changed = apart(seen, last, first - 1)
    found, at = _again(seen, first, last, rate)
    if found > BACK and found > alike(seen, at, last) and apart(seen, at, first - 1) < NEARER * changed:
        return True
    later = _later(seen, last, rate)
    return any(is_over(seen, at, first, last) for at in later)


def is_over(seen: Seen, at: int, first: int, last: int) -> bool:
    """Whether what came at ``first`` and was there at ``last`` is over: its light is that of before."""
    left = apart(seen, at, first - 1)
    return left < REST * apart(seen, last, first - 1) and nearer(seen, at, first, last)


def nearer(seen: Seen, at: int, first: int, last: int) -> bool:
    """Whether the light is much nearer to that of before ``first`` than to that of ``last``."""
    return apart(seen, at, first - 1) < FARTHER * apart(seen, at, last)


def _again(seen: Seen, first: int, last: int, rate: float) -> tuple[float, int]:
    """How much of what was seen before ``first`` is seen again soon after ``last``, at best; and where."""
    later = _later(seen, last, rate)
    return max(((alike(seen, at, first - 1), at) for at in later), default=(0.0, last))


def _later(seen: Seen, last: int, rate: float) -> range:
    return range(last + 1, min(len(seen), last + 2 + round(BACK_SECONDS * rate)))


def stays(seen: Seen, first: int, seconds: float, rate: float) -> bool:
    """Whether what came at ``first`` is still there after a while, clearly rather than what was before."""
    later = min(len(seen) - 1, first + round(seconds * rate))
    return later > first and alike(seen, later, first) > max(BACK, alike(seen, later, first - 1) + CLEARLY)


def alike(seen: Seen, at: int, known: int) -> float:
    """How much of a known picture's inner blocks is found in another one, at best; nothing of a flat one."""
    inner = _softened(seen, known)[SEARCH:-SEARCH, SEARCH:-SEARCH]
    if inner.std() < FLAT:
        return 0.0
    return float(cv2.matchTemplate(_softened(seen, at), inner, cv2.TM_CCOEFF_NORMED).max())


def apart(seen: Seen, at: int, known: int) -> float:
    """By how many levels a known picture's inner blocks differ from another one's (rms), at best."""
    inner = _softened(seen, known)[SEARCH:-SEARCH, SEARCH:-SEARCH]
    least = cv2.matchTemplate(_softened(seen, at), inner, cv2.TM_SQDIFF).min()
    return float(np.sqrt(max(0.0, least) / inner.size))


def _softened(seen: Seen, at: int) -> Any:
    return cv2.GaussianBlur(seen.blocks[at].astype(np.float32), (0, 0), SOFT)
