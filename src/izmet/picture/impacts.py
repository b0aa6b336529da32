"""Where does something strike?

Three signs, each against what was usual just before: the picture holds what its
movement does not explain (something new lies over it, spray bursts out of it); the
movement itself changes at once (the camera shakes, what moved is stopped); the take's
own sound begins anew within two pictures. The first two can propose, the third adds.

Source: own; thresholds as in ``flashes``.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from izmet.picture import local
from izmet.picture.proposal import Proposal
from izmet.picture.watching import Floats, Seen

PAST_SECONDS = 0.6
NEW_TIMES, NEW_LEAST = 3.0, 6.0
"""How many spreads, and how many levels, a block's unexplained change is above the usual."""
JOLT_TIMES, JOLT_LEAST = 7.0, 0.004
"""How many spreads, and which part of the picture's width, a movement is off the usual."""
APART_SECONDS = 0.25
RISE_PART, LONGEST_RISE = 0.55, 3
SURE = 1.5
"""What is so strong is a strike of its own, whatever comes soon after it."""
HEARD_FRAMES = 2
CUT_FRAMES = 2
FULL = 20.0
"""Strength, in bars of the above, that has the full weight."""


def impacts(
    seen: Seen, rate: float, cuts: Collection[int], flashes: Collection[int], heard: Sequence[int]
) -> list[Proposal]:
    """The impacts of a take, by their first picture.

    Args:
        cuts, flashes, heard: pictures at which a scene, a flash, a sound begins.
    """
    if len(seen) < 4:
        return []
    past = max(4, round(PAST_SECONDS * rate))
    new = _above(seen.surprise, past, NEW_TIMES, NEW_LEAST)
    jolt = np.hypot(*(_off(way, past) for way in (seen.dx, seen.dy)))
    bar = JOLT_TIMES * np.hypot(*(local.before(way, past)[1] for way in (seen.dx, seen.dy))) + JOLT_LEAST
    shaken = (jolt / bar).astype(np.float32)
    strength = np.maximum(new, shaken)
    for cut in cuts:
        strength[max(0, cut - 1) : cut + CUT_FRAMES + 1] = 0
    strength[:2] = 0
    found = []
    for peak in _peaks(strength, max(2, round(APART_SECONDS * rate))):
        first = local.first_of_rise(strength, peak, RISE_PART, LONGEST_RISE)
        sounds = any(abs(at - first) <= HEARD_FRAMES for at in heard)
        flashed = any(abs(at - first) <= HEARD_FRAMES for at in flashes)
        reasons = [
            *(["something new in the picture"] if new[peak] > 1 else []),
            *(["the movement changes at once"] if shaken[peak] > 1 else []),
            *(["light rises"] if flashed else []),
            *(["a sound begins"] if sounds else []),
        ]
        weight = float(strength[peak]) / FULL + 0.2 * sounds + 0.2 * flashed + 0.2
        found.append(Proposal(first, "impact", round(min(1.0, weight), 3), ", ".join(reasons)))
    return found


def _peaks(strength: Floats, apart: int) -> list[int]:
    """The strikes: what shakes on after one is part of it, what trembles before a stronger one is none."""
    peaks: list[int] = []
    for group in local.groups(np.flatnonzero(strength > 1), LONGEST_RISE):
        rise = group[: 2 * LONGEST_RISE]
        peak = int(rise[np.argmax(strength[rise])])
        if not peaks or peak - peaks[-1] > apart:
            peaks.append(peak)
        elif strength[peak] * RISE_PART > strength[peaks[-1]]:
            if strength[peaks[-1]] < SURE:
                peaks.pop()
            peaks.append(peak)
    return peaks


def _above(values: Floats, past: int, times: float, least: float) -> Floats:
    """How far values are above what was usual before, 1 at the bar."""
    usual, spread = local.before(values, past)
    above: Floats = (values - usual) / (times * spread + least)
    return above


def _off(values: Floats, past: int) -> Floats:
    return values - local.before(values, past)[0]
