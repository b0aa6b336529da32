"""Where does light rise at once, in all of the picture or in a part of it?

Light that rises in many blocks from one picture to the next, while few get darker, is a
flash when the scene stays the same: either its structure is still there (light was
added), or all is as it was where no light was added, or what was there before comes back
(all was white). Else it is a cut to a brighter scene. A lamp that stays on is a rise of
light too.

Source: own; abrupt luminance change by blocks, and the difference of a flash from a cut
by comparing the pictures before and after it, as in D. Zhang, W. Qi, H. J. Zhang, "A
new shot boundary detection algorithm", PCM 2001. Thresholds were set on takes made by
the tests and on demo takes (validation, not a test).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.picture import local
from izmet.picture.proposal import Proposal
from izmet.picture.scenes import gives_way
from izmet.picture.watching import Blocks, Floats, Seen

LEVELS = 6.0
"""A block that rises by less does not count."""
SPREAD = 0.1
"""Part of the blocks that must rise."""
LEAST = 6.5
"""Mean rise over the whole picture, in levels: a quarter of the picture by a quarter of white is 16."""
SUDDEN = 5.0
"""How many times what is usual around it."""
DARKER = 1.5
"""How much more counts what gets darker: a thing that moves makes as much dark as bright."""
REACH_SECONDS = 0.5
RISE_PART, LONGEST_RISE = 0.3, 3
KEPT, REACH, LEAST_KEPT = 0.5, 6, 0.25
"""How much of the structure is kept where the scene stays: as part of what was usual in so many pictures
before, and at least."""
ELSEWHERE, CHANGED, BARELY_KEPT = 0.1, 0.25, 0.06
"""In so much of the picture at least no light was added; it changed there by at most so much of what there is
to see; and so much of the whole structure is kept at least, for dark scenes are alike where they are dark."""
APART_SECONDS = 0.12
FULL = 40.0
"""Mean rise of the whole picture that has the full weight."""


def flashes(seen: Seen, rate: float) -> list[Proposal]:
    """The flashes of a take, by their first picture."""
    if len(seen) < 3:
        return []
    blocks = seen.blocks.astype(np.float32)
    step = np.diff(blocks, axis=0, prepend=blocks[:1])
    rise = np.maximum(step - LEVELS / 2, 0).mean(axis=(1, 2))
    fall = np.maximum(-step - LEVELS / 2, 0).mean(axis=(1, 2))
    net = np.maximum(rise - DARKER * fall, 0).astype(np.float32)
    spread = (step > LEVELS).mean(axis=(1, 2))
    usual, stray = local.around(net, max(3, round(REACH_SECONDS * rate)))
    bar = np.maximum(LEAST, SUDDEN * (usual + stray))
    struck = np.flatnonzero((net > bar) & (spread >= SPREAD))
    found = []
    for group in local.groups(struck, max(1, round(APART_SECONDS * rate))):
        peak = int(group[np.argmax(net[group])])
        first = local.first_of_rise(net, peak, RISE_PART, LONGEST_RISE)
        if first > 0 and _same_scene(seen, first, peak, rate):
            found.append(_proposal(net, spread, step, first, peak))
    return found


def _same_scene(seen: Seen, first: int, peak: int, rate: float) -> bool:
    """Whether the scene before it is the scene after it."""
    before = float(np.median(seen.kept[max(0, first - REACH) : first]))
    kept = float(seen.kept[first : peak + 1].min())
    return (
        kept > max(KEPT * before, LEAST_KEPT)
        or (kept > BARELY_KEPT and _as_before_elsewhere(seen, first, peak))
        or gives_way(seen, first, peak, rate)
    )


def _as_before_elsewhere(seen: Seen, first: int, peak: int) -> bool:
    """Whether all is as it was where no light was added, and whether there was anything to see there."""
    before = seen.blocks[first - 1].astype(np.float32)
    change = seen.blocks[peak] - before
    unlit = change <= LEVELS
    if np.count_nonzero(unlit) < ELSEWHERE * unlit.size:
        return False
    return bool(np.abs(change[unlit]).mean() < CHANGED * before[unlit].std())


def _proposal(net: Floats, spread: NDArray[np.float64], step: Floats, first: int, peak: int) -> Proposal:
    rows, columns = np.nonzero(step[peak] > LEVELS)
    part = float(spread[peak])
    strength = float(step[peak][step[peak] > LEVELS].mean()) / 255
    where = "all over" if part > 0.7 else f"in {part:.0%} of the picture, {_place(rows, columns, step[peak])}"
    weight = float(np.clip(net[peak] / FULL, 0.1, 1))
    return Proposal(first, "flash", round(weight, 3), f"light rises by {strength:.0%} {where}")


def _place(rows: NDArray[np.intp], columns: NDArray[np.intp], grid: Blocks | Floats) -> str:
    """Where in the picture blocks lie, in words."""
    high, wide = grid.shape
    down, across = rows.mean() / (high - 1), columns.mean() / (wide - 1)
    vertical = "above" if down < 1 / 3 else "below" if down > 2 / 3 else ""
    side = "left" if across < 1 / 3 else "right" if across > 2 / 3 else ""
    return " ".join(word for word in (vertical, side) if word) or "in the middle"
