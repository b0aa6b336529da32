"""What does each output frame of an edit show?"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Edit
from izmet.core.retime.solve import Curve, solve
from izmet.core.shown.framemap import FrameMap, frame_map


def frames_shown(edit: Edit) -> FrameMap:
    """What each output frame of an edit asks for. Raises Refusal when a clip cannot be solved."""
    return frames_along(edit, curves_of(edit))


def curves_of(edit: Edit) -> list[Curve]:
    """The curves of all clips, in their order. Raises Refusal when one cannot be solved."""
    return [solve(edit, clip) for clip in edit.clips]


def frames_along(edit: Edit, curves: Sequence[Curve]) -> FrameMap:
    """What each output frame asks for, given the curves of all clips."""
    return frame_map([clip.id for clip in edit.clips], curves, dark_ranges(edit))


def frames_exported(edit: Edit) -> FrameMap:
    """What the frames of an edit ask for that are exported: those of its range, if it has one."""
    shown = frames_shown(edit)
    return shown if edit.range is None else shown.between(edit.frames_in(edit.range))


def meant_dark(edit: Edit, shown: FrameMap) -> NDArray[np.bool_]:
    """Which of the frames shown are meant to be black, shape (count,)."""
    dark = np.zeros(len(shown), bool)
    for black in dark_ranges(edit):
        dark[shown.part_of(black)] = True
    return dark


def dark_ranges(edit: Edit) -> list[range]:
    """The output frames of each stretch that is meant to be black."""
    return [edit.frames_in(each) for each in edit.blacks]
