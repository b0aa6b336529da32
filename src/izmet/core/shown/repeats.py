"""Which output frames repeat a picture, and which pass pictures over?

Told from what the edit shows, so a clip that lies under another one repeats nothing
there, and a cut between two clips of one take can. A take may hold fewer distinct
pictures than frames, so a frame number alone does not tell whether two frames look
different: the pictures that were counted do.
"""

from __future__ import annotations

import numpy as np

from izmet.core.document.edit import Edit
from izmet.core.memo import Memo
from izmet.core.retime.sampling import Frames
from izmet.core.shown.framemap import BLACK, HOWS, FrameMap, Mix
from izmet.core.shown.pictures import UNCOUNTED, Counted

HIDDEN = -1
"""In place of a step where a clip is not seen."""


WEIGHT_DECIMALS = 3
"""Weights that differ by less look the same."""


def steps(edit: Edit, shown: FrameMap, counted: Counted = UNCOUNTED) -> Frames:
    """Distinct pictures passed from each output frame to the next, either way, shape (count,).

    0 marks a repeat, more than 1 a skip. The first frame counts as one, and so does a
    cut to another picture. A mix is a picture of its own, and what is seen in it is not skipped; a frame
    that waits for one with which nothing may be mixed repeats nothing by accident.

    Args:
        counted: the pictures of takes; of another one every frame counts as a picture of its own.
    """
    if len(shown) == 0:
        return np.empty(0, np.int64)
    places = {take.id: index for index, take in enumerate(edit.takes)}
    take_of = np.array([*(places[clip.take] for clip in edit.clips), BLACK])
    take = take_of[shown.clip]  # BLACK counts from the end
    seen = _looks(shown.picture, take, [counted[id].distinct if id in counted else None for id in places])
    passed = np.abs(np.diff(seen, prepend=seen[0] - 1))
    cut = np.diff(shown.clip, prepend=shown.clip[0]) != 0
    other = np.diff(take, prepend=take[0]) != 0
    found = np.where(cut, np.minimum(passed, 1) | other, passed)
    for clip, mix in shown.mixes.items():
        at = np.flatnonzero((shown.clip == clip) & ~cut)
        at = at[at > 0]
        found[at] = _steps_mixed(mix, at + (shown.first - mix.first), found[at])
    return found


def _steps_mixed(mix: Mix, at: Frames, passed: Frames) -> Frames:
    """What is passed into frames of a mix, by their places in it, given what passes without it."""
    pictures, weights = mix.pictures, np.round(mix.weights, WEIGHT_DECIMALS)
    same = (pictures[at] == pictures[at - 1]) & (weights[at] == weights[at - 1])
    within = np.count_nonzero(weights[at], axis=1) - 1
    repeated = same.all(axis=1) & (mix.how[at] != HOWS.index("guarded"))
    return np.where(repeated, 0, np.maximum(1, passed - within))


def _looks(picture: Frames, take: Frames, held: list[Frames | None]) -> Frames:
    """The number of the picture that each frame looks like; without pictures its number."""
    parts = tuple(each for each in held if each is not None)
    if not parts:
        return picture
    # One long row for all takes: a question to each of them would cost more than all the rest.
    row = _ROWS.recall(parts, (), lambda: np.concatenate(parts))
    counts = np.array([0 if each is None else len(each) for each in held] + [0])
    begins = np.cumsum(counts) - counts
    count = counts[take]
    place = begins[take] + np.clip(picture, 0, np.maximum(count - 1, 0))
    return np.where(count > 0, row[np.minimum(place, len(row) - 1)], picture)


_ROWS: Memo[Frames] = Memo(16)
