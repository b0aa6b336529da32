"""Is it the same scene again?

Pictures are compared by the light of their blocks, softened and wherever one has moved
meanwhile: the greatest normalised correlation of the inner blocks.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from izmet.picture.watching import Seen

BACK_SECONDS = 0.8
BACK = 0.75
SEARCH = 4
"""How many blocks a picture may have moved."""
SOFT = 1.0


def comes_back(seen: Seen, first: int, last: int, rate: float) -> bool:
    """Whether what was seen before ``first`` is seen again soon after ``last``."""
    before = _softened(seen, first - 1)[SEARCH:-SEARCH, SEARCH:-SEARCH]
    later = range(last + 1, min(len(seen), last + 2 + round(BACK_SECONDS * rate)))
    return any(
        float(cv2.matchTemplate(_softened(seen, at), before, cv2.TM_CCOEFF_NORMED).max()) > BACK
        for at in later
    )


def _softened(seen: Seen, at: int) -> Any:
    return cv2.GaussianBlur(seen.blocks[at].astype(np.float32), (0, 0), SOFT)
