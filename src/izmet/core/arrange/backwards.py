"""Which moment before the hit should land on which cue before it?

Order is kept: of moments and cues, both going back from a tie that stands, some are
paired. The mean speed between two neighbours stays within limits. A pairing's score is

    Σ weight · strength − BEND · Σ log2(mean speed)²

so that what matters lands on what is heard, and little needs to be bent. Where cues are
chosen by hand none may be left empty. Found by dynamic programming over the pairs: the
best ways to go on from a pair do not depend on how it was reached.

Source: the recursion is that of sequence alignment (Needleman & Wunsch, 1970), with the
``BEST`` ways kept for each pair; weights and BEND are our own choice.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from pydantic import BaseModel

from izmet.core.document.cuekinds import CUE_KINDS, LANDED_ON
from izmet.core.document.edit import Cue, Edit, Moment, moment_name
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.words import counted

BEND = 0.25
BEST = 3
SLOWEST, FASTEST = 0.25, 4.0
"""Mean speeds between two ties, where none are asked for."""
MOST_MOMENTS, MOST_CUES = 30, 64
Way = tuple[float, tuple[tuple[int, int], ...]]


class ProposedTie(BaseModel):
    """A moment for a cue, and the mean speed from there to the next tie."""

    moment: str
    cue: str
    label: str
    speed: float


class Arrangement(BaseModel):
    """Ties that are proposed, in order of time, with what speaks for them."""

    ties: list[ProposedTie]
    score: float
    why: list[str]


def work_backwards(
    edit: Edit,
    clip_id: str,
    pin_id: str,
    cues: Sequence[str] = (),
    slowest: float = SLOWEST,
    fastest: float = FASTEST,
) -> list[Arrangement]:
    """The best ways to tie the moments before a tie, the best one first; at most BEST.

    Args:
        cues: ids of cues that must all be landed on; those after the tie are passed over.
            Without any, all that something usually lands on may be used.

    Raises:
        Refusal: the pin is no tie, or no way keeps within the limits.
    """
    clip = edit.clip(clip_id)
    pin = next((pin for pin in clip.pins if pin.id == pin_id and pin.is_tie), None)
    if pin is None or clip.reversed:
        raise Refusal("no-tie", "Work backwards from a tie of a clip that runs forward.", Place.of(clip_id))
    assert pin.cue is not None
    assert pin.moment is not None
    hit, last = edit.moment(clip.take, pin.moment), edit.cue(pin.cue)
    moments = [each for each in edit.take(clip.take).moments if each.frame < hit.frame][-MOST_MOMENTS:]
    open_ = [cue for cue in edit.song.cues if cue.kind in LANDED_ON] if edit.song else []
    wanted = [edit.cue(id) for id in cues]
    at_hit = edit.frame_of(last.id)
    found = [cue for cue in (wanted or open_) if edit.frame_of(cue.id) < at_hit]
    found = sorted(found, key=lambda cue: cue.time)[-MOST_CUES:]
    if not moments or not found:
        missing, remedy = (
            ("No moment is marked before the hit.", "Mark the earlier moments on the Takes desk.")
            if not moments
            else ("There is no cue before the hit.", "Set one, or choose an earlier cue.")
        )
        raise Refusal("nothing-before", missing, Place.of(clip_id), remedy)
    step = float(edit.take(clip.take).rate / edit.rate)
    ways = _ways(edit, [*moments, hit], [*found, last], step, (slowest, fastest), bool(wanted))
    if not ways:
        raise Refusal(
            "no-way",
            f"No order of the {counted(len(moments), 'moment')} before the hit keeps within "
            f"{slowest:.0%} and {fastest:.0%} on "
            + (f"all {len(found)} chosen cues." if wanted else "the cues before it."),
            where=Place.of(clip_id),
            remedy="Mark more moments, choose other cues, or allow slower and faster.",
        )
    return [_told(edit, [*moments, hit], [*found, last], way, step) for way in ways]


def _ways(
    edit: Edit,
    moments: list[Moment],
    cues: list[Cue],
    step: float,
    limits: tuple[float, float],
    all_cues: bool,
) -> list[Way]:
    """The best ways back from the last moment on the last cue: scores, and pairs of indices."""
    frames = [edit.frame_of(cue.id) for cue in cues]
    kept: dict[tuple[int, int], list[Way]] = {}
    for i in range(len(moments)):
        for j in range(len(cues)):
            here: list[Way] = []
            if not all_cues or j == 0:
                here.append((0.0, ()))
            earlier = range(max(0, j - 1), j) if all_cues else range(j)
            for back in earlier:
                length = frames[j] - frames[back]
                if length <= 0:
                    continue
                for k in range(i):
                    speed = (moments[i].frame - moments[k].frame) / (step * length)
                    if not limits[0] <= speed <= limits[1]:
                        continue
                    gain = moments[k].weight * cues[back].strength - BEND * math.log2(speed) ** 2
                    here += [(score + gain, (*pairs, (k, back))) for score, pairs in kept[(k, back)]]
            kept[(i, j)] = sorted(here, key=lambda way: -way[0])[: BEST + 1]
    ways = [way for way in kept[(len(moments) - 1, len(cues) - 1)] if way[1]]
    return ways[:BEST]


def _told(edit: Edit, moments: list[Moment], cues: list[Cue], way: Way, step: float) -> Arrangement:
    score, pairs = way
    chain = [*pairs, (len(moments) - 1, len(cues) - 1)]
    ties = []
    for (k, back), (i, j) in pairwise(chain):
        length = edit.frame_of(cues[j].id) - edit.frame_of(cues[back].id)
        speed = (moments[i].frame - moments[k].frame) / (step * length)
        label = moment_name(moments[k])
        ties.append(ProposedTie(moment=moments[k].id, cue=cues[back].id, label=label, speed=speed))
    speeds = [tie.speed for tie in ties]
    loud = [f"{moment_name(moments[k])} on the {CUE_KINDS[cues[back].kind].name}" for k, back in pairs]
    left = len(moments) - 1 - len(pairs)
    why = [
        ", ".join(loud),
        f"mean speeds {min(speeds):.0%} to {max(speeds):.0%}",
    ]
    if left:
        why.append(f"{left} {'moment is' if left == 1 else 'moments are'} left untied")
    return Arrangement(ties=ties, score=score, why=why)
