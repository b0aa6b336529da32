"""Which profile does a shape have on a span whose mean speed is given?

Every shape has a closed form, because the area under a profile is linear in its
speeds. With mean speed μ, strength g and reach r:

    dip             middle m = μ(1 − g), ends b = μ(1 + g(1 − r)/r)
    swell, rewind   ends b = μ(1 − g), middle m = μ(1 + g·r/(1 − r))
    build, brake    plateaus s and f, the change centred at k: μ = s·k + f·(1 − k)
    custom          free knots scaled by λ = (μ − Σ locked) / Σ free, each Σ over weight · speed

A rewind's profile is the speed at which it goes back, above 0 like all others; which way
a span runs through its take is told by ``Clip.ways``.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from izmet.core.document.edit import (
    CHANGE_LIMITS,
    Brake,
    Build,
    Custom,
    Dip,
    Hold,
    Rewind,
    Shape,
    Steady,
    Swell,
    Turned,
)
from izmet.core.document.refusal import Place, Refusal
from izmet.core.retime.profile import Profile

ROUNDING = 1e-9
"""Lets a limit that was offered as the nearest value pass when it comes back."""


def profile_of(shape: Shape, mean: float, where: str | Place = "") -> Profile:
    """The profile of a shape whose area is ``mean`` (1 is real time).

    Raises:
        Refusal: values that cannot be met at this mean speed; it names the nearest
            value that works.
    """
    match shape:
        case Steady() | Hold():
            return Profile.of((0, mean), (1, mean))
        case Dip():
            return _bent(shape, *dip_speeds(shape, mean))
        case Swell() | Rewind():
            return _bent(shape, *swell_speeds(shape, mean))
        case Build() | Brake():
            return _turned(solve_turned(shape, mean, where), shape.softness)
        case Custom():
            return _custom(shape, knot_speeds(shape, mean, where))


def dip_speeds(dip: Dip, mean: float) -> tuple[float, float]:
    """Speeds of a dip's ends and of its middle."""
    return mean * (1 + dip.strength * (1 - dip.reach) / dip.reach), mean * (1 - dip.strength)


def swell_speeds(swell: Swell | Rewind, mean: float) -> tuple[float, float]:
    """Speeds of a swell's or a rewind's ends and of its middle."""
    return mean * (1 - swell.strength), mean * (1 + swell.strength * swell.reach / (1 - swell.reach))


def solve_turned(shape: Turned, mean: float, where: str | Place = "") -> tuple[float, float, float]:
    """Start speed, end speed and change of a build or a brake, the open one solved.

    Raises:
        Refusal: when the solved value is out of bounds, or a build would slow down, or
            a brake speed up.
    """
    if isinstance(shape, Build):
        return _solve_build(shape.start, shape.end, shape.change, mean, where, Build)
    # A brake is a build met from its end.
    change = None if shape.change is None else 1 - shape.change
    end, start, change = _solve_build(shape.end, shape.start, change, mean, where, Brake)
    return start, end, 1 - change


def knot_speeds(custom: Custom, mean: float, where: str | Place = "") -> list[float]:
    """The speeds of all knots, those that are free scaled until the area is ``mean``.

    Raises:
        Refusal: no scale does it; ``nearest`` is the mean speed that the locked knots allow.
    """
    weights = _weights([knot.at for knot in custom.knots], [knot.join for knot in custom.knots])
    parts = [(weight * knot.speed, knot.locked) for weight, knot in zip(weights, custom.knots, strict=True)]
    locked = sum(part for part, is_locked in parts if is_locked)
    free = sum(part for part, is_locked in parts if not is_locked)
    if abs(free) < ROUNDING:
        if abs(locked - mean) <= ROUNDING * max(1.0, abs(mean)):
            return [knot.speed for knot in custom.knots]
        raise _knots(where, f"All that counts is locked at a mean of {locked:.1%}", mean, locked)
    scale = (mean - locked) / free
    if scale < 0:
        raise _knots(where, f"The locked knots alone come to a mean of {locked:.1%}", mean, locked)
    return [knot.speed if knot.locked else knot.speed * scale for knot in custom.knots]


def strongest_smooth(shape: Shape, mean: float, floor: float) -> float | None:
    """The strength at which what is slow just stays on the smooth floor: g = 1 − floor/|μ|, at least 0.

    Of a build or a brake, the slow plateau's part below the mean; None where there is no strength.
    """
    if isinstance(shape, Steady | Hold | Custom):
        return None
    return 1.0 - floor / abs(mean) if abs(mean) > floor else 0.0


def with_strength(shape: Shape, mean: float, strength: float) -> Shape:
    """The shape with what is slow at ``1 − strength`` of the mean. A build or a brake keeps its change."""
    if isinstance(shape, Dip | Swell | Rewind):
        return shape.model_copy(update={"strength": strength})
    if isinstance(shape, Turned):
        _, _, change = solve_turned(shape, mean)
        slow = mean * (1 - strength)
        speeds = {"start": slow, "end": None} if isinstance(shape, Build) else {"start": None, "end": slow}
        return shape.model_copy(update={**speeds, "change": change})
    return shape


def strength_under(shape: Shape, mean: float, top: float) -> float:
    """The strength at which what is fast just reaches ``top``, at most 1."""
    over = max(0.0, top / abs(mean) - 1) if mean else 0.0
    match shape:
        case Dip():
            return min(1.0, over * shape.reach / (1 - shape.reach))
        case Swell() | Rewind():
            return min(1.0, over * (1 - shape.reach) / shape.reach)
        case Build() | Brake():
            _, _, change = solve_turned(shape, mean)
            slow = change if isinstance(shape, Build) else 1 - change
            return min(1.0, over * (1 - slow) / slow)
    return 1.0


class _TooFar(Exception):
    """A slow or a fast speed that cannot be, how it is related to the mean, and a nearer one."""

    def __init__(self, name: str, value: float, how: str, nearest: float):
        super().__init__(name)
        self.name, self.value, self.how, self.nearest = name, value, how, nearest


def _solve_build(
    start: float | None,
    end: float | None,
    change: float | None,
    mean: float,
    where: str | Place,
    kind: type[Build | Brake],
) -> tuple[float, float, float]:
    """Slow speed, fast speed and how much of the span is slow. A brake's are called by their other names."""
    try:
        return _build(start, end, change, mean)
    except _TooFar as found:
        limit = found
    name = "start" if (limit.name == "slow") == (kind is Build) else "end"
    remedy = f"The nearest {name} speed that works is {limit.nearest:.1%}."
    try:  # What is named is tried first.
        slow, fast = (limit.nearest, end) if limit.name == "slow" else (start, limit.nearest)
        _build(slow, fast, change, mean)
    except _TooFar:
        remedy = "Change the other speed first, or leave it open."
    raise Refusal(
        "shape-impossible",
        f"A {kind.__name__.lower()} whose {name} speed is {limit.value:.0%} is {limit.how} "
        f"the span's mean of {mean:.0%}.",
        where=where,
        remedy=remedy,
        nearest=limit.nearest if "nearest" in remedy else None,
    )


def _build(
    slow: float | None, fast: float | None, change: float | None, mean: float
) -> tuple[float, float, float]:
    """A build met: the one of the three that is open, solved. Raises _TooFar."""
    least, most = CHANGE_LIMITS
    if slow is not None and slow > mean * (1 + ROUNDING):
        raise _TooFar("slow", slow, "above", mean if fast is None else max(0, fast - (fast - mean) / most))
    if fast is not None and fast < mean * (1 - ROUNDING):
        raise _TooFar(
            "fast", fast, "below", mean if slow is None else mean + (mean - slow) * least / (1 - least)
        )
    if slow is None:
        assert fast is not None
        assert change is not None
        slow = (mean - fast * (1 - change)) / change
        if slow < -ROUNDING * mean:
            raise _TooFar("fast", fast, "too fast for", mean / (1 - change))
        return max(slow, 0.0), fast, change
    if fast is None:
        assert change is not None
        return slow, (mean - slow * change) / (1 - change), change
    change = (fast - mean) / (fast - slow) if fast > slow else 0.5
    if change < least - ROUNDING:
        raise _TooFar("fast", fast, "too close to", mean + (mean - slow) * least / (1 - least))
    if change > most + ROUNDING:
        raise _TooFar("fast", fast, "too fast for", mean + (mean - slow) * most / (1 - most))
    return slow, fast, change


def _knots(where: str | Place, what: str, mean: float, nearest: float) -> Refusal:
    return Refusal(
        "shape-impossible",
        f"{what}; the span needs {mean:.1%}.",
        where=where,
        remedy="Unlock a knot, or change a locked one.",
        nearest=nearest,
    )


def _weights(places: list[float], joins: list[str]) -> list[float]:
    """What each knot's speed counts in the area; they add up to 1. Before the first knot its speed holds."""
    weights = [0.0] * len(places)
    weights[0] += places[0]
    weights[-1] += 1 - places[-1]
    for index, (left, right) in enumerate(pairwise(places)):
        share = 1.0 if joins[index] == "hard" else 0.5
        weights[index] += (right - left) * share
        weights[index + 1] += (right - left) * (1 - share)
    return weights


def _bent(shape: Dip | Swell | Rewind, ends: float, middle: float) -> Profile:
    edge = shape.reach / 2
    half = shape.softness * min(shape.reach, 1 - shape.reach) / 2
    return Profile.of(
        (0, ends),
        (edge - half, ends),
        (edge + half, middle),
        (1 - edge - half, middle),
        (1 - edge + half, ends),
        (1, ends),
    )


def _turned(solved: tuple[float, float, float], softness: float) -> Profile:
    start, end, change = solved
    half = softness * min(change, 1 - change)
    return Profile.of((0, start), (change - half, start), (change + half, end), (1, end))


def _custom(custom: Custom, speeds: list[float]) -> Profile:
    knots = [(0.0, speeds[0])]
    straight = [False]
    for index, (knot, speed) in enumerate(zip(custom.knots, speeds, strict=True)):
        before = custom.knots[index - 1] if index else None
        if before is not None and before.join == "hard":
            knots.append((knot.at, speeds[index - 1]))
            straight.append(False)
        knots.append((knot.at, speed))
        straight.append(knot.join == "straight")
    knots.append((1.0, speeds[-1]))
    return Profile.of(*knots, straight=np.array(straight))
