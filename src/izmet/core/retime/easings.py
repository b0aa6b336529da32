"""How does a move come about: from 0 at its beginning to 1 at its end?

Each course is a cubic Bézier from (0, 0) to (1, 1), as CSS Easing Functions Level 1 has them; the
named ones are those of its section 2.2.1. Kept as a table of 4,097 values, which is right to 2e-7.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from izmet.core.document.values import Easing
from izmet.core.retime.profile import Floats

CONTROLS: dict[Easing, tuple[float, float, float, float]] = {
    "straight": (1 / 3, 1 / 3, 2 / 3, 2 / 3),
    "soft": (1 / 3, 0, 2 / 3, 1),
    "sharp": (1 / 3, 1, 2 / 3, 1),
    "ease": (0.25, 0.1, 0.25, 1),
    "ease-in": (0.42, 0, 1, 1),
    "ease-out": (0, 0, 0.58, 1),
    "ease-in-out": (0.42, 0, 0.58, 1),
}
"""Soft is the smoothstep 3x² − 2x³, sharp is 1 − (1 − x)³."""
PLACES = np.linspace(0, 1, 4097)


def eased(easing: Easing, x: Floats) -> tuple[Floats, Floats]:
    """How far a move has come, and how fast it is, at parts of its time; shapes as given."""
    course, slope = _table(easing)
    return np.interp(x, PLACES, course), np.interp(x, PLACES, slope)


@cache
def _table(easing: Easing) -> tuple[Floats, Floats]:
    x1, y1, x2, y2 = CONTROLS[easing]
    t = np.linspace(0, 1, 65537)
    x, y = (
        3 * (1 - t) ** 2 * t * first + 3 * (1 - t) * t**2 * second + t**3
        for first, second in ((x1, x2), (y1, y2))
    )
    course = np.interp(PLACES, x, y)
    return course, np.gradient(course, PLACES)
