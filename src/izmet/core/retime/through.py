"""How do neighbours share their speed at a pin, so that a bend passes through it?

At a pin that is passed through, the ends of both profiles take one speed: the mean of
what they were. Each span keeps its area, because what is not an end is scaled by
``λ = (μ − Σ ends) / Σ rest``. No end takes more than leaves the rest at or above the
floor; what is under it already is not slowed further. An end is the plateau at which a
profile begins or stops; of two plateaus with nothing else between them, the outer half of
each. Where the way turns or rests, the shared speed is 0, and the turn is soft.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from izmet.core.retime.profile import Profile

EDGE = 0.3
"""How much of a steady span passes over to another speed."""


@dataclass(frozen=True)
class Ends:
    """A profile cut into what each end holds and the rest, with the weights of its knots."""

    profile: Profile
    head: int
    tail: int

    @property
    def weights(self) -> np.ndarray:
        """What each knot's speed counts in the area, shape (k,)."""
        widths = np.diff(self.profile.u) / 2
        weights: np.ndarray = np.append(widths, 0) + np.insert(widths, 0, 0)
        return weights


def shared(
    profiles: Sequence[Profile], through: Sequence[bool], ways: Sequence[int], floor: float
) -> list[Profile]:
    """The profiles of a clip's spans, their ends joined at each inner pin that is passed through.

    Args:
        through: for each pin between two spans, one fewer than there are profiles.
        ways: which way each span runs, 0 at rest.
        floor: the speed below which pictures repeat.
    """
    if not any(through):
        return list(profiles)
    passes = [False, *through, False]
    cut = [
        _cut(profile, passes[i], passes[i + 1]) if ways[i] else Ends(profile, 0, 0)
        for i, profile in enumerate(profiles)
    ]
    speeds: list[float | None] = [None] * len(passes)
    for pin in range(1, len(profiles)):
        if not passes[pin]:
            continue
        if ways[pin - 1] != ways[pin]:
            speeds[pin] = 0.0
            continue
        left, right = cut[pin - 1], cut[pin]
        wanted = (float(left.profile.v[-1]) + float(right.profile.v[0])) / 2
        speeds[pin] = min(
            wanted, _most(left, at_head=False, floor=floor), _most(right, at_head=True, floor=floor)
        )
    return [_joined(each, speeds[i], speeds[i + 1]) for i, each in enumerate(cut)]


def _cut(profile: Profile, head: bool, tail: bool) -> Ends:
    """The profile with plateaus at the ends that are to take another speed."""
    v = profile.v
    if np.ptp(v) == 0:
        places = [0.0, *([EDGE] if head else []), *([1 - EDGE] if tail else []), 1.0]
        return Ends(Profile.of(*((u, float(v[0])) for u in places)), int(head), int(tail))
    first = int(np.flatnonzero(v != v[0])[0])
    last = int(np.flatnonzero(v != v[-1])[-1])
    if head and tail and last < first:
        return _two_plateaus(profile, first)
    return Ends(profile, first if head else 0, len(v) - 1 - last if tail else 0)


def _two_plateaus(profile: Profile, second: int) -> Ends:
    """Two plateaus and one change between them, with a rest: the inner half of each plateau.

    Where one has no length, the inner part of the change is the rest too: as the change is symmetric, so are
    the knots that are added to it, and the area stays.
    """
    u, v = profile.u, profile.v
    slow, fast = float(v[0]), float(v[-1])
    left, right = float(u[second - 1]), float(u[second])
    straight = profile.straight is not None and bool(profile.straight[second - 1])
    knots = [(0.0, slow), *([(left / 2, slow), (left, slow)] if left else [])]
    head = len(knots) - (1 if left else 0)
    if not left or right == 1:
        edges = np.array([left + EDGE * (right - left), right - EDGE * (right - left)])
        knots += zip(edges.tolist(), profile.speed(edges).tolist(), strict=True)
    change = len(knots)
    knots += [(right, fast), ((1 + right) / 2, fast), (1.0, fast)] if right < 1 else [(1.0, fast)]
    lines = np.array([straight and left <= a[0] and b[0] <= right for a, b in pairwise(knots)])
    tail = len(knots) - change - (1 if right < 1 else 0)
    return Ends(Profile.of(*knots, straight=lines), head, tail)


def _rest(ends: Ends) -> slice:
    return slice(ends.head, len(ends.profile.v) - ends.tail)


def _most(ends: Ends, at_head: bool, floor: float) -> float:
    """The highest speed an end can take; two ends that are passed through share what there is."""
    weights, v = ends.weights, ends.profile.v
    rest = float(weights[_rest(ends)] @ v[_rest(ends)])
    slowest = float(v[_rest(ends)].min())
    to_give = rest * (1 - min(1.0, floor / slowest)) if slowest > 0 else 0.0
    count = ends.head if at_head else ends.tail
    weight = float(weights[:count].sum() if at_head else weights[len(v) - count :].sum())
    both = 2 if ends.head and ends.tail else 1
    own = float(v[0] if at_head else v[-1])
    return own + to_give / both / weight if weight else own


def _joined(ends: Ends, head: float | None, tail: float | None) -> Profile:
    v, weights = ends.profile.v.copy(), ends.weights
    area = float(weights @ v)
    if head is not None and ends.head:
        v[: ends.head] = head
    if tail is not None and ends.tail:
        v[len(v) - ends.tail :] = tail
    rest = _rest(ends)
    held = float(weights @ v) - float(weights[rest] @ v[rest])
    now = float(weights[rest] @ v[rest])
    if now > 0:
        v[rest] *= (area - held) / now
    else:
        v[rest] += (area - held) / max(float(weights[rest].sum()), 1e-12)
    return Profile(ends.profile.u, v, ends.profile.straight)
