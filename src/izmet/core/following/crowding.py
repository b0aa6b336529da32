"""What would a change hide, bury or leave open?

Later clips lie over earlier ones, so a clip that grows can hide its neighbours without a
word, and one that shrinks leaves a hole. What the edit shows before and after tells both.
Frames that are meant to be black count for nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Edit
from izmet.core.document.words import counted
from izmet.core.retime.solve import Curve, curves_of
from izmet.core.shown.framemap import BLACK, FrameMap
from izmet.core.shown.stack import frames_along, meant_dark


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
    (was, old), (now, new) = (_laid(edit) for edit in (before, after))
    hidden = [
        id
        for id in new.clips
        if new.seen[new.index_of[id]] == 0 and (id not in old.index_of or old.seen[old.index_of[id]])
    ]
    buried = sum(max(0, count - was.get(id, 0)) for id, count in now.items() if id not in hidden)
    return Crowding(len(hidden), buried, _opened(after, old, new))


def _laid(edit: Edit) -> tuple[dict[str, int], FrameMap]:
    """How many frames of each clip lie under others, and what the edit shows."""
    curves = curves_of(edit)
    shown = frames_along(edit, curves)
    return _under(edit, curves, shown), shown


def _under(edit: Edit, curves: Sequence[Curve], shown: FrameMap) -> dict[str, int]:
    """How many frames of each clip lie under others. A last one alone is a cut, unless a tie lands on it."""
    dark = meant_dark(edit, shown)
    found = {}
    for index, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        if shown.seen[index] == curve.last - curve.first + 1:
            found[clip.id] = 0
            continue
        mine = shown.part_of(range(curve.first, curve.last + 1))
        seen = shown.clip[mine] == index
        if clip.inset is not None:
            seen, _ = shown.seen_of(index, curve.covered)
        over = ~seen & ~dark[mine]
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
