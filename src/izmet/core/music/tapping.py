"""Where was a tap meant?"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np


def draw_to(times: Sequence[float], attacks: Sequence[float], window: float) -> list[float]:
    """Each time moved to the nearest attack within ``window`` seconds; without one it stays.

    Args:
        times: seconds.
        attacks: seconds, in order.
    """
    known = np.asarray(attacks, np.float64)
    drawn = []
    for time in times:
        near = known[np.abs(known - time) <= window]
        drawn.append(float(near[np.abs(near - time).argmin()]) if len(near) else time)
    return drawn
