"""What does a new set of cues change in an old one?

A cue of the new set is the same as an old one of its kind that lies close by, nearest
pairs first; it keeps the old one's id, so that whatever refers to it follows.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterable

from pydantic import BaseModel

from izmet.core.document.edit import Cue, Song

SAME_SECONDS = 0.03
MOVED_SECONDS = 0.0005
"""From where a cue counts as moved."""


class CueMove(BaseModel):
    """A cue that a new analysis puts elsewhere, in seconds of the song."""

    cue: Cue
    time: float


class CueChanges(BaseModel):
    """What taking over a new set of cues would do. Cues made by hand are never among them."""

    added: list[Cue]
    removed: list[Cue]
    moved: list[CueMove]
    kept: int


def same_cues(old: Iterable[Cue], new: Iterable[Cue], within: float = SAME_SECONDS) -> dict[str, str]:
    """Which new cue (by id) is which old one (by id): one to one, the same kind, within some seconds."""
    of_kind: dict[str, list[Cue]] = defaultdict(list)
    for cue in sorted(old, key=lambda cue: cue.time):
        of_kind[cue.kind].append(cue)
    pairs = []
    for cue in new:
        others = of_kind[cue.kind]
        first = bisect_left(others, cue.time - within, key=lambda other: other.time)
        last = bisect_right(others, cue.time + within, key=lambda other: other.time)
        near = [(abs(cue.time - other.time), cue.id, other.id) for other in others[first:last]]
        pairs += [pair for pair in near if pair[0] <= within]  # sums round, and may reach a hair too far
    same: dict[str, str] = {}
    taken: set[str] = set()
    for _, new_id, old_id in sorted(pairs):
        if new_id not in same and old_id not in taken:
            same[new_id] = old_id
            taken.add(old_id)
    return same


def merged(song: Song, found: Iterable[Cue]) -> list[Cue]:
    """The song's cues after a new analysis: made by hand kept, struck ones not brought back, ids followed."""
    by_hand = [cue for cue in song.cues if cue.made == "hand"]
    automatic = [cue for cue in song.cues if cue.made == "auto"]
    found = list(found)
    known = same_cues([*by_hand, *song.struck], found)
    fresh = [cue for cue in found if cue.id not in known]
    same = same_cues(automatic, fresh)
    used = {cue.id for cue in song.cues}
    number = max((int(id.rpartition("-")[2]) for id in used if id.rpartition("-")[2].isdigit()), default=0)
    result = list(by_hand)
    for cue in fresh:
        if cue.id in same:
            result.append(cue.model_copy(update={"id": same[cue.id]}))
        else:
            number += 1
            result.append(cue.model_copy(update={"id": f"cue-{number}"}))
    return sorted(result, key=lambda cue: cue.time)


def changes(song: Song, found: Iterable[Cue]) -> CueChanges:
    """What ``merged`` would change."""
    after = {cue.id: cue for cue in merged(song, found)}
    before = song.by_id
    moved = [
        CueMove(cue=cue, time=after[cue.id].time)
        for cue in song.cues
        if cue.id in after and abs(after[cue.id].time - cue.time) > MOVED_SECONDS
    ]
    return CueChanges(
        added=[cue for cue in after.values() if cue.id not in before],
        removed=[cue for cue in song.cues if cue.id not in after],
        moved=moved,
        kept=len(before.keys() & after.keys()) - len(moved),
    )
