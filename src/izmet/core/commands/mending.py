"""What of a montage needs a look, cause by cause, and what mends each cause at once?

What has one cause and one cure stands in one group: all clips of 25 pictures a second in an
edit of 60, whatever their takes. The worst come first, and last what the eye hardly
minds: pictures that are held evenly. A cure acts on all of its group.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction

from pydantic import BaseModel

from izmet.core.commands import Command, Configure
from izmet.core.commands.accents import SoftenFlashes
from izmet.core.commands.clips import RemoveClip
from izmet.core.commands.motions import SetMotion
from izmet.core.commands.pins import ChangeEdge, ChangeTie, TieLoose
from izmet.core.commands.repairs import Repair
from izmet.core.commands.slots import CloseGaps
from izmet.core.commands.spans import Strengthen, bent_spans
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Between, Clip, Edit, Take
from izmet.core.document.words import counted
from izmet.core.following.derived import Derived
from izmet.core.following.montage import Trouble, TroubleKind
from izmet.core.retime.floor import held_frames

WORST_FIRST: tuple[TroubleKind, ...] = (
    "hidden tie", "loose", "flashing", "gap", "hidden", "overlap", "stutter", "turn", "even cadence"
)  # fmt: skip
CAUSES: dict[TroubleKind, str] = {
    "hidden tie": "a later clip or black lies over the hit",
    "loose": "the cue is gone",
    "gap": "nothing fills the frame",
    "hidden": "hidden by later clips",
    "overlap": "partly under later clips",
    "turn": "the movement turns at the cut",
    "flashing": "more than three flashes a second may harm",
}
SLOWEST_EDIT, FASTEST_EDIT = 20, 120
"""Rates that an edit is seen at, in frames a second: common practice, no source."""
EXACT = (1, 1001)
"""Denominators of rates that edits have: ITU-T H.273 and SMPTE ST 12-1 know no others."""


class Group(BaseModel):
    """What needs a look for one cause, the first of it first, and what mends all of it."""

    kind: TroubleKind
    cause: str
    troubles: list[Trouble]
    mends: list[Repair]


def grouped(edit: Edit, derived: Derived, troubles: Iterable[Trouble]) -> list[Group]:
    """What needs a look, by cause: the worst first, and of one kind those of which there is most."""
    causes: dict[tuple[TroubleKind, str], list[Trouble]] = {}
    for each in troubles:
        causes.setdefault((each.kind, _cause(edit, each)), []).append(each)
    groups = [
        Group(kind=kind, cause=cause, troubles=found, mends=list(_mends(edit, derived, kind, found)))
        for (kind, cause), found in causes.items()
    ]
    return sorted(groups, key=lambda each: (WORST_FIRST.index(each.kind), -len(each.troubles)))


def _cause(edit: Edit, trouble: Trouble) -> str:
    if trouble.kind not in ("stutter", "even cadence") or trouble.clip is None:
        return CAUSES[trouble.kind]
    take = edit.take(edit.clip(trouble.clip).take)
    of, into = _fps(take.distinct), f"{float(edit.rate):.4g}"
    if (held := held_frames(take)) > math.ceil(take.rate / take.distinct):
        return f"{of}, some frames held for {held}"
    if take.distinct >= edit.rate:
        return f"{of} slowed below the edit's {into}"
    return f"{of} in an edit of {into}"


def _mends(edit: Edit, derived: Derived, kind: TroubleKind, troubles: list[Trouble]) -> Iterator[Repair]:
    clips = [edit.clip(id) for id in dict.fromkeys(each.clip for each in troubles) if id is not None]
    if kind == "gap":
        yield Repair(label="Close gaps", commands=[CloseGaps()])
    elif kind == "hidden":
        label = f"Remove {_them(clips)}"
        yield Repair(label=label, commands=[RemoveClip(clip=clip.id) for clip in clips])
    elif kind == "flashing":
        yield Repair(label="Soften the flashes", commands=[SoftenFlashes()])
    elif kind == "loose":
        yield from _tied(edit, derived)
    elif kind in ("stutter", "even cadence"):
        yield from _smoothed(edit, clips)


def _tied(edit: Edit, derived: Derived) -> Iterator[Repair]:
    proposed = [tie for tie in derived.loose if tie.proposed]
    if len(proposed) > 1:
        yield Repair(label=f"Tie all {len(proposed)} to the cues nearby", commands=[TieLoose()])
    elif proposed:
        (tie,) = proposed
        cue = edit.cue(str(tie.proposed))
        label = f"Tie to the {CUE_KINDS[cue.kind].name} at {edit.instant(cue.id):.2f} s"
        yield Repair(label=label, commands=[ChangeTie(clip=tie.clip, pin=tie.pin, cue=cue.id)])


def _smoothed(edit: Edit, clips: list[Clip]) -> Iterator[Repair]:
    held = tuple(
        clip.id
        for clip in clips
        if edit.motion_of(clip).between == "held" and any(span.motion is None for span in clip.spans)
    )
    if held:
        ways: list[tuple[str, Between]] = [("Smooth", "automatic"), ("Blend", "blended")]
        for label, between in ways:
            yield Repair(label=f"{label} {_them(held)}", commands=[SetMotion(clips=held, between=between)])
    bent = [clip for clip in clips if bent_spans(clip)]
    if bent:
        commands: list[Command] = [Strengthen(clip=clip.id, repeats=0) for clip in bent]
        yield Repair(label=f"Bend {_them(bent)} less", commands=commands)
    earlier = [command for clip in clips if (command := _earlier(edit, clip)) is not None]
    if earlier:
        label = f"Earlier in-{'points' if len(earlier) > 1 else 'point'} for {_them(earlier)}"
        yield Repair(label=label, commands=earlier)
    rate = edit.take(clips[0].take).distinct  # All of one cause have the same.
    if SLOWEST_EDIT <= rate <= FASTEST_EDIT and rate < edit.rate and rate.denominator in EXACT:
        yield Repair(label=f"Set the edit to {_fps(rate)}", commands=[Configure(rate=rate)])


def _fps(rate: Fraction) -> str:
    return f"{float(rate):.4g} fps"


def _them(some: Sequence[object]) -> str:
    return "it" if len(some) == 1 else counted(len(some), "clip")


def _earlier(edit: Edit, clip: Clip) -> ChangeEdge | None:
    """The clip's beginning so much earlier in its take that no picture repeats up to its next pin."""
    take, (begin, end) = edit.take(clip.take), clip.pins[:2]
    if begin.is_tie or begin.p is None or begin.n is None or clip.since is not None:
        return None
    if take.distinct < edit.rate or end.moment is None or end.cue is None:
        return None
    frames = (edit.frame_of(end.cue) - begin.n) * float(take.rate / take.distinct)
    hit = edit.moment(clip.take, end.moment).frame
    p = hit + frames if clip.reversed else hit - frames
    if not _within(take, p) or abs(hit - begin.p) >= frames:
        return None
    return ChangeEdge(clip=clip.id, pin=begin.id, n=begin.n, p=p)


def _within(take: Take, p: float) -> bool:
    return 0 <= p <= take.frames - 1
