"""How far may pulses move a clip before its take runs out, and at which cue would it?

What a pulse adds grows with its amounts, so the largest that fit are the least quotient of the room
there is and of what it adds, over all frames of the clip.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Place, Refusal
from izmet.core.retime.profile import Floats
from izmet.core.retime.pulses import Pulsed, Pulses

TINY = 1e-9
Flags = NDArray[np.bool_]
MOST_TIMES = 1000.0
OUTSIDE_TAKE, RUNS_BACK = "pulse-outside-take", "pulse-runs-back"


class PulseRoom(NamedTuple):
    """How many ``times`` as large the amounts of a pulse may be, the others as they are, and the cue at
    which it runs out then; None where it never does."""

    pulse: str
    times: float
    cue: str | None


class Room(NamedTuple):
    """The source frames that a clip with pulses leaves before and after, below 0 where it leads out."""

    before: float
    after: float
    pulses: tuple[PulseRoom, ...]


def room_of(pulses: Pulses, n: Floats) -> Room:
    """The room of a clip that is seen on these output frames, shape (count,)."""
    run, added = pulses.parted(n)
    p = run + added.sum(axis=0)
    each = (_most(pulses, part, n, p - own, own) for part, own in zip(pulses.parts, added, strict=True))
    return Room(float(p.min()), float(pulses.frames - 1 - p.max()), tuple(each))


def check_room(clip: Clip, pulses: Pulses, n: Floats, p: Floats) -> None:
    """Refuse pulses that lead out of the take, or that make a clip run back that is meant to move on.

    Args:
        p: where the clip stands on these output frames, both of shape (count,).

    Raises:
        Refusal: they do; ``nearest`` is the first amount that fits of the pulse that adds most there.
    """
    out = (p < -FRAME_TOLERANCE) | (p > pulses.frames - 1 + FRAME_TOLERANCE)
    back = np.zeros(len(p), bool)
    if all(part.goes_on for part in pulses.parts):
        back = np.diff(pulses.way * p, prepend=pulses.way * p[0]) < -FRAME_TOLERANCE
    if not (out | back).any():
        return
    at = int(np.argmax(out if out.any() else back))
    part = pulses.parts[int(np.argmax(np.abs(pulses.parted(n)[1][:, at])))]
    room = next(each for each in room_of(pulses, n).pulses if each.pulse == part.pulse.id)
    amount = part.pulse.amounts[0] * room.times
    said = (
        f"At frame {n[at]:.0f} the pulses run to source frame {p[at]:.0f}, outside the take, which has "
        f"frames 0 to {pulses.frames - 1}."
        if out.any()
        else f"The pulses add more than the clip covers between its ties: at frame {n[at]:.0f} it would run "
        "backwards."
    )
    raise Refusal(
        OUTSIDE_TAKE if out.any() else RUNS_BACK,
        said,
        where=Place.of(clip.id),
        remedy=f"An amount of {amount:.3g} fits. Or start earlier in the take, use fewer cues, or reverse at "
        "its ends.",
        nearest=amount,
    )


def _most(pulses: Pulses, part: Pulsed, n: Floats, others: Floats, own: Floats) -> PulseRoom:
    """How large the amounts of one pulse may be, given where the clip stands without it and what it adds."""
    low, high = -others, pulses.frames - 1 - others
    limits = np.full(len(n), MOST_TIMES)
    moves = np.abs(own) > TINY
    limits[moves] = np.where(own > 0, high, low)[moves] / own[moves]
    if all(each.goes_on for each in pulses.parts):
        forth, back = (pulses.way * np.diff(each, prepend=each[0]) for each in (others, own))
        falls = back < -TINY
        limits[falls] = np.minimum(limits[falls], forth[falls] / -back[falls])
    at = int(np.argmin(limits))
    if limits[at] >= MOST_TIMES:
        return PulseRoom(part.pulse.id, MOST_TIMES, None)
    begun = [tooth.cue for tooth in part.teeth if tooth.n <= n[at] and not tooth.silent]
    return PulseRoom(part.pulse.id, max(0.0, float(limits[at])), begun[-1] if begun else None)
