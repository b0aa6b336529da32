"""Which frames of a take are worth looking at, and why?

Nothing here marks anything: a proposal is for a person to accept, to refine or to
dismiss. Frames are source frames; a proposal stands on the *first* frame of what it
tells, as a moment does.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from izmet.picture.cadence import LONGEST_PERIOD
from izmet.picture.courses import courses
from izmet.picture.cuts import cuts
from izmet.picture.flashes import flashes
from izmet.picture.impacts import impacts
from izmet.picture.local import Flags
from izmet.picture.proposal import KINDS, Proposal
from izmet.picture.watching import Seen

Ints = NDArray[np.int64]


def propose(seen: Seen, is_new: Flags, rate: float, attacks: Sequence[float] = ()) -> list[Proposal]:
    """All proposals for a take, in order; of those on one frame the one of the plainest kind.

    Args:
        seen: the measures of its frames.
        is_new: which of them hold a new picture.
        rate: frames a second.
        attacks: instants at which its own sound begins anew, in seconds from its first frame.
    """
    new, told, per_second = _judged(seen, is_new, rate)
    found_flashes, found_cuts = _breaks(told, per_second)
    edges = [each.frame for each in found_cuts]
    heard = [int(np.searchsorted(new, round(at * rate))) for at in attacks]
    found = [
        *found_flashes,
        *found_cuts,
        *impacts(told, per_second, edges, [each.frame for each in found_flashes], heard),
        *courses(told, per_second, edges),
    ]
    best: dict[int, Proposal] = {}
    for each in sorted(found, key=lambda each: KINDS.index(each.kind)):
        frame = int(new[each.frame])
        best.setdefault(frame, each._replace(frame=frame))
    return [best[frame] for frame in sorted(best)]


def breaks(seen: Seen, is_new: Flags, rate: float) -> Ints:
    """The frames on which another scene begins, or light comes at once, rising; arguments as ``propose``."""
    new, told, per_second = _judged(seen, is_new, rate)
    found = {each.frame for kind in _breaks(told, per_second) for each in kind}
    return new[sorted(found)]


def _judged(seen: Seen, is_new: Flags, rate: float) -> tuple[Ints, Seen, float]:
    """The frames that are judged, one after the other, what was seen in them, and how many a second they are.

    What repeats a picture says nothing.
    """
    new = np.flatnonzero(is_new | _rests(is_new))
    return new, seen.at(new), rate * len(new) / max(1, len(seen))


def _breaks(told: Seen, per_second: float) -> tuple[list[Proposal], list[Proposal]]:
    """The flashes and the cuts."""
    lit = flashes(told, per_second)
    return lit, cuts(told, per_second, [each.frame for each in lit])


def _rests(is_new: Flags) -> Flags:
    """Which frames are of a picture that is shown for longer than any capture repeats one: it is at rest."""
    begins = np.flatnonzero(is_new)
    lasts = np.diff(begins, append=len(is_new))
    rests: Flags = np.repeat(lasts > LONGEST_PERIOD, lasts)
    return rests
