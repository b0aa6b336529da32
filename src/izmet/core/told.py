"""What did a change do to the rest of the edit, in words?

A cue, a moment or a rate moves, and all that hangs on it is solved again. What a person
did not touch with their own hand is told, so that nothing changes unseen.
"""

from __future__ import annotations

from izmet.core.derived import Derived, DerivedClip
from izmet.core.words import counted

UNDER = 1e-6


def told(before: Derived, after: Derived) -> list[str]:
    """What is different after a change: ties that land elsewhere, spans that stutter now, ties let loose."""
    if before is after:
        return []
    old, new = ({clip.id: clip for clip in derived.clips} for derived in (before, after))
    both = [(old[id], new[id]) for id in old.keys() & new.keys() if old[id] is not new[id]]
    moved = sum(_moved(one, other) for one, other in both)
    stutter = sum(_under(other) for _, other in both) - sum(_under(one) for one, _ in both)
    hidden = sum(_hidden(clip) for clip in after.clips) - sum(_hidden(clip) for clip in before.clips)
    loose = len(after.loose) - len(before.loose)
    said = []
    if moved:
        said.append(f"{counted(moved, 'tie')} moved")
    if stutter > 0:
        said.append(f"{counted(stutter, 'span')} now under the smooth floor")
    if stutter < 0:
        said.append(f"{counted(-stutter, 'span')} smooth again")
    if hidden > 0:
        said.append(f"{counted(hidden, 'tie')} now hidden")
    if loose > 0:
        said.append(f"{counted(loose, 'tie')} now loose")
    return said


def _moved(one: DerivedClip, other: DerivedClip) -> int:
    places = {landing.pin: landing.wanted_frame for landing in one.landings}
    return sum(
        1
        for landing in other.landings
        if places.get(landing.pin, landing.wanted_frame) != landing.wanted_frame
    )


def _under(clip: DerivedClip) -> int:
    return sum(1 for span in clip.spans if span.way and span.lowest < clip.floor - UNDER)


def _hidden(clip: DerivedClip) -> int:
    return sum(1 for landing in clip.landings if landing.hidden_by is not None)
