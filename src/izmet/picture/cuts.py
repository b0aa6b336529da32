"""Where does a take cut to another scene?

At a cut nothing of the structure is kept, and what comes stays: the pictures before and
after it keep theirs. A flash is no cut.

Source: as in ``flashes``; thresholds likewise.
"""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from izmet.picture import local
from izmet.picture.proposal import Proposal
from izmet.picture.scenes import comes_back, stays
from izmet.picture.watching import Seen

REACH = 6
LOST = 0.35
"""By how much less is kept than is usual around it."""
MOST_KEPT = 0.6
TIMES = 2.5
"""How many times more changes than in the pictures beside it."""
LEAST_CHANGE = 3.0
"""In levels."""
FLASH_FRAMES = 2
STAYS_SECONDS = 0.25
"""Longer than most passes by; a quick pan has not left its scene behind yet."""


def cuts(seen: Seen, rate: float, flashes: Collection[int]) -> list[Proposal]:
    """The cuts of a take, by the first picture of the new scene."""
    if len(seen) < 3:
        return []
    usual, _ = local.around(seen.kept, REACH)
    lost = usual - seen.kept
    beside = np.maximum(np.roll(seen.change, 1), np.roll(seen.change, -1))
    beside[0] = beside[-1] = seen.change[1] if len(seen) > 1 else 0
    sudden = seen.change > np.maximum(LEAST_CHANGE, TIMES * np.minimum(beside, np.roll(seen.change, -2)))
    found = np.flatnonzero((lost > LOST) & (seen.kept < MOST_KEPT) & sudden)
    return [
        Proposal(
            int(frame), "cut", round(float(np.clip(lost[frame], 0, 1)), 3), "another scene: nothing is kept"
        )
        for frame in found
        if frame > 0
        and not any(0 <= frame - lit <= FLASH_FRAMES for lit in flashes)
        and (stays(seen, int(frame), STAYS_SECONDS, rate) or not comes_back(seen, int(frame), rate))
    ]
