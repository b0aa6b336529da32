"""Which kinds of cues are there? One table: what each is called, which is meant of several on a frame."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

CueKind = Literal["hand", "drop", "roll", "downbeat", "beat", "kick", "snare", "hat", "bass", "note"]


@dataclass(frozen=True)
class Kind:
    """What is to know of a kind.

    Of several cues on one frame the one with the least ``rank`` is meant; a kind without one is
    never proposed to land on. ``beat``: it counts time.
    """

    name: str
    rank: int | None = None
    beat: bool = False


CUE_KINDS: dict[CueKind, Kind] = {
    "hand": Kind("manual", rank=6),
    "drop": Kind("drop", rank=0),
    "roll": Kind("roll"),
    "downbeat": Kind("downbeat", rank=1, beat=True),
    "beat": Kind("beat", rank=4, beat=True),
    "kick": Kind("kick", rank=2),
    "snare": Kind("snare", rank=3),
    "hat": Kind("hat"),
    "bass": Kind("bass", rank=5),
    "note": Kind("note"),
}
BEATS = frozenset(kind for kind, each in CUE_KINDS.items() if each.beat)


def rank(kind: CueKind) -> int:
    """Where a kind stands among those that are meant when several are on one frame, the first 0."""
    found = CUE_KINDS[kind].rank
    return len(CUE_KINDS) if found is None else found


LANDED_ON = tuple(sorted((kind for kind, each in CUE_KINDS.items() if each.rank is not None), key=rank))
"""Kinds that are proposed, the one that is meant first."""
