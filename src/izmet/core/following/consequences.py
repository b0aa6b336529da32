"""What did a change do to the rest of the edit, in words?

A cue, a moment or a rate moves, and all that hangs on it is solved again. What a person
did not touch with their own hand is told, so that nothing changes unseen.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from izmet.core.document.words import counted
from izmet.core.following.derived import Derived, DerivedClip
from izmet.core.shown.repeats import HIDDEN


class Consequence(BaseModel):
    """One thing that a change did besides: what it is, for programs, how many, and in words."""

    code: Literal["ties-moved", "repeats", "clips-hidden", "ties-hidden", "ties-loose", "ties-lost"]
    count: int
    text: str


def consequences(before: Derived, after: Derived) -> list[Consequence]:
    """What is different after a change: ties that moved or were let loose, repeats, what is hidden."""
    if before is after:
        return []
    old, new = ({clip.id: clip for clip in derived.clips} for derived in (before, after))
    both = [(old[id], new[id]) for id in old.keys() & new.keys() if old[id] is not new[id]]
    moved = sum(_moved(one, other) for one, other in both)
    repeats = sum(_repeats(other) for _, other in both) - sum(_repeats(one) for one, _ in both)
    hidden = sum(_hidden(clip) for clip in after.clips) - sum(_hidden(clip) for clip in before.clips)
    loose = len(after.loose) - len(before.loose)
    buried = _wholly_hidden(after) - _wholly_hidden(before)
    changed = counted(abs(repeats), "more repeat" if repeats > 0 else "fewer repeat")
    said = (
        Consequence(code="ties-moved", count=moved, text=f"{counted(moved, 'tie')} moved"),
        Consequence(code="repeats", count=repeats, text=changed),
        Consequence(code="clips-hidden", count=buried, text=f"{counted(buried, 'clip')} now hidden"),
        Consequence(code="ties-hidden", count=hidden, text=f"{counted(hidden, 'tie')} now hidden"),
        Consequence(code="ties-loose", count=loose, text=f"{counted(loose, 'tie')} now loose"),
    )
    return [news for news in said if news.count > 0 or (news.code == "repeats" and news.count)]


def _moved(one: DerivedClip, other: DerivedClip) -> int:
    places = {landing.pin: landing.wanted_frame for landing in one.landings}
    return sum(
        1
        for landing in other.landings
        if places.get(landing.pin, landing.wanted_frame) != landing.wanted_frame
    )


def _repeats(clip: DerivedClip) -> int:
    return clip.smoothness.repeats


def _wholly_hidden(derived: Derived) -> int:
    return sum(1 for clip in derived.clips if len(clip.steps) and (clip.steps == HIDDEN).all())


def _hidden(clip: DerivedClip) -> int:
    return sum(1 for landing in clip.landings if landing.hidden_by is not None)
