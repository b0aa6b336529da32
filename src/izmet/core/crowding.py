"""What would a change hide, bury or leave open?

Later clips lie over earlier ones, so a clip that grows can hide its neighbours without a
word, and one that shrinks leaves a hole. What the edit shows before and after tells both.
Frames that are meant to be black count for nothing.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from izmet.core.edit import Edit
from izmet.core.following import frames_shown, meant_dark
from izmet.core.framemap import BLACK, FrameMap
from izmet.core.retime.solve import solve
from izmet.core.words import counted


class Crowding(NamedTuple):
    """Clips that are wholly hidden now, frames that lie under other clips now, and frames with no picture."""

    hidden: int
    buried: int
    opened: int

    def __str__(self) -> str:
        said = []
        if self.hidden:
            said.append(f"hide {counted(self.hidden, 'clip')}")
        if self.buried:
            said.append(f"bury {counted(self.buried, 'frame')} under other clips")
        if self.opened:
            said.append(f"leave {counted(self.opened, 'frame')} without a picture")
        return " and ".join([", ".join(said[:-1]), said[-1]] if said[1:] else said)


def crowding(before: Edit, after: Edit) -> Crowding:
    """What a change from one edit to another hides, buries and opens. Raises Refusal as ``solve`` does."""
    old, new = frames_shown(before), frames_shown(after)
    was, now = _under(before, old), _under(after, new)
    hidden = [
        id
        for id in new.clips
        if new.seen[new.index_of[id]] == 0 and (id not in old.index_of or old.seen[old.index_of[id]])
    ]
    buried = sum(max(0, count - was.get(id, 0)) for id, count in now.items() if id not in hidden)
    return Crowding(len(hidden), buried, _opened(after, old, new))


def _under(edit: Edit, shown: FrameMap) -> dict[str, int]:
    """How many frames of each clip lie under others. A last one alone is a cut, unless a tie lands on it."""
    dark = meant_dark(edit, shown)
    found = {}
    for clip in edit.clips:
        curve, index = solve(edit, clip), shown.index_of[clip.id]
        if shown.seen[index] == curve.last - curve.first + 1:
            found[clip.id] = 0
            continue
        mine = shown.part_of(range(curve.first, curve.last + 1))
        over = (shown.clip[mine] != index) & ~dark[mine]
        count = int(np.count_nonzero(over))
        is_cut = count == 1 and over[-1] and not (clip.pins[-1].is_tie and curve.pins[-1].n == curve.last)
        found[clip.id] = 0 if is_cut else count
    return found


def _opened(edit: Edit, old: FrameMap, new: FrameMap) -> int:
    """Frames that had a picture and have none, between others that have."""
    part = old.part_of(new.frames)
    had = old.clip[part] != BLACK
    inside = new.part_of(old.frames)
    return int(np.count_nonzero(had & ((new.clip == BLACK) & ~meant_dark(edit, new))[inside]))
