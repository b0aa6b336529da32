"""Which cue could take up each tie whose own cue is gone?

Ties that were on different instants go to different frames, in the order in which they
were, whichever clip they are of: so no two clips are drawn onto one another. Each stays
between the pins beside it, and between its clip's cuts. Of all ways to do so the one is
proposed that ties the most of them, and then moves them the least in all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import groupby

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from izmet.core.document.cuekinds import LANDED_ON, rank
from izmet.core.document.edit import Clip, Cue, Edit
from izmet.core.document.limits import MOST_SECONDS
from izmet.core.document.places import Pin
from izmet.core.memo import Memo
from izmet.core.retime.pins import pin_name

LEFT = 10.0 * MOST_SECONDS
"""What it costs to leave a tie loose, in seconds: more than to move any."""


class LooseTie(BaseModel):
    """A tie whose cue is gone, ``was`` in seconds of the edit, and the cue that is proposed instead."""

    clip: str
    pin: str
    label: str
    was: float
    proposed: str | None


def loose_ties(edit: Edit) -> list[LooseTie]:
    """The loose ties of all clips, in order."""
    loose = [clip for clip in edit.clips if any(pin.loose is not None for pin in clip.pins)]
    if not loose:
        return []
    facts = (edit.rate, edit.landing)
    # Pins that follow cues and names that follow moments depend on nothing else.
    return _KEPT.recall((edit.song, edit.takes, *loose), facts, lambda: _proposed(edit, loose))


_KEPT: Memo[list[LooseTie]] = Memo(8)


def _proposed(edit: Edit, clips: Sequence[Clip]) -> list[LooseTie]:
    ties = [(clip, pin) for clip in clips for pin in clip.pins if pin.loose is not None]
    ordered = sorted(ties, key=lambda tie: tie[1].loose or 0.0)
    groups = [list(group) for _, group in groupby(ordered, key=lambda tie: tie[1].loose)]
    cues = landed_on(edit)
    taken = _assigned(edit, groups, cues)
    found = {
        (clip.id, pin.id): None if place is None else cues[place].id
        for group, place in zip(groups, taken, strict=True)
        for clip, pin in group
    }
    return [
        LooseTie(
            clip=clip.id,
            pin=pin.id,
            label=pin_name(edit, clip, pin),
            was=pin.loose or 0.0,
            proposed=found[(clip.id, pin.id)],
        )
        for clip, pin in ties
    ]


def landed_on(edit: Edit) -> list[Cue]:
    """One cue for each output frame on which something may land, in order."""
    best: dict[int, Cue] = {}
    for cue in edit.song.cues if edit.song else ():
        n = edit.frame_of(cue.id)
        if cue.kind in LANDED_ON and (n not in best or rank(cue.kind) < rank(best[n].kind)):
            best[n] = cue
    return [best[n] for n in sorted(best)]


def _assigned(edit: Edit, groups: Sequence[list[tuple[Clip, Pin]]], cues: list[Cue]) -> list[int | None]:
    """The place among the cues for each group of ties, rising; None where one has to stay loose.

    Dynamic programming: ``costs[g][j]`` is the least cost of the first g groups on the first j cues.
    """
    frames = np.array([edit.frame_of(cue.id) for cue in cues])
    instants = np.array([edit.instant(cue.id) for cue in cues])
    costs: list[NDArray[np.float64]] = [np.zeros(len(cues) + 1)]
    ending: list[NDArray[np.float64]] = []
    for group in groups:
        after, before = _bounds(edit, group)
        away = np.abs(instants - (group[0][1].loose or 0.0))
        here = np.where((frames > after) & (frames < before), away, np.inf)
        ending.append(np.concatenate([[np.inf], costs[-1][:-1] + here]))
        costs.append(np.minimum(np.minimum.accumulate(ending[-1]), costs[-1] + LEFT))
    found: list[int | None] = []
    j = len(cues)
    for left, on in zip(costs[-2::-1], ending[::-1], strict=True):
        place = int(on[: j + 1].argmin())
        if on[place] <= left[j] + LEFT and np.isfinite(on[place]):
            found.append(place - 1)
            j = place - 1
        else:
            found.append(None)
    return found[::-1]


def _bounds(edit: Edit, group: Sequence[tuple[Clip, Pin]]) -> tuple[float, float]:
    """Output frames between which all ties of a group have to stay, both excluded."""
    after, before = -math.inf, math.inf
    for clip, pin in group:
        at = clip.pins.index(pin)
        fixed = [
            None if other.loose is not None or other.open_n else edit.place_of(other) for other in clip.pins
        ]
        after = max([after, *(n for n in fixed[:at] if n is not None)])
        before = min([before, *(n for n in fixed[at + 1 :] if n is not None)])
        n = pin.n or 0
        if clip.since is not None and (since := edit.place_of(clip.since)) <= n:
            after = max(after, since - 1)
        if clip.until is not None and (until := edit.place_of(clip.until)) > n:
            before = min(before, until)
    return after, before
