"""Which profile does a shape have on a span whose mean speed is given?

Every shape has a closed form, because the area under a profile is linear in its
speeds. With mean speed μ, which is signed and may be 0:

    dip    middle m = μ(1 − g), ends b = μ(1 + g(1 − r)/r), strength g, reach r
    build  plateaus s and f, the change centred at k: μ = s·k + f·(1 − k)
"""

from __future__ import annotations

from izmet.core.edit import CHANGE_LIMITS, Build, Dip, Shape, Steady
from izmet.core.refusal import Refusal
from izmet.core.retime.profile import Profile

ROUNDING = 1e-9
"""Lets a limit that was offered as the nearest value pass when it comes back."""


def profile_of(shape: Shape, mean: float, where: str = "") -> Profile:
    """The profile of a shape whose area is ``mean`` (a signed speed, 1 is real time).

    Raises:
        Refusal: a build whose given values cannot be met at this mean speed; it
            names the nearest value that works.
    """
    match shape:
        case Steady():
            return Profile.of((0, mean), (1, mean))
        case Dip():
            return _dip(shape, mean)
        case Build():
            return _build(solve_build(shape, mean, where), shape.softness)


def strongest_smooth_dip(mean: float, floor: float) -> float:
    """The strength at which a dip's middle just stays on the smooth floor: g = 1 − floor/|μ|, at least 0."""
    return 1.0 - floor / abs(mean) if abs(mean) > floor else 0.0


def solve_build(build: Build, mean: float, where: str = "") -> tuple[float, float, float]:
    """A build's start speed, end speed and change, the open one solved.

    Raises:
        Refusal: when the solved value is out of bounds, or the build would slow down.
    """
    start, end, change = build.start, build.end, build.change
    if start is not None and start > mean * (1 + ROUNDING):
        raise _too(where, "start", start, "above", mean)
    if end is not None and end < mean * (1 - ROUNDING):
        raise _too(where, "end", end, "below", mean)
    if start is None:
        assert end is not None
        assert change is not None
        start = (mean - end * (1 - change)) / change
        if start < 0:
            raise _too(where, "end", end, "too fast for", mean, nearest=mean / (1 - change))
    elif end is None:
        assert change is not None
        end = (mean - start * change) / (1 - change)
    else:
        change = (end - mean) / (end - start) if end > start else 0.5
        least, most = CHANGE_LIMITS
        if change < least - ROUNDING:
            limit = mean + (mean - start) * least / (1 - least)
            raise _too(where, "end", end, "too close to", mean, nearest=limit)
        if change > most + ROUNDING:
            limit = mean + (mean - start) * most / (1 - most)
            raise _too(where, "end", end, "too fast for", mean, nearest=limit)
    return start, end, change


def _too(where: str, name: str, value: float, how: str, mean: float, nearest: float | None = None) -> Refusal:
    nearest = mean if nearest is None else nearest
    return Refusal(
        "shape-impossible",
        f"A build whose {name} speed is {value:.0%} is {how} the span's mean of {mean:.0%}.",
        where=where,
        remedy=f"The nearest {name} speed that works is {nearest:.1%}.",
        nearest=nearest,
    )


def _dip(dip: Dip, mean: float) -> Profile:
    middle = mean * (1 - dip.strength)
    ends = mean * (1 + dip.strength * (1 - dip.reach) / dip.reach)
    edge = dip.reach / 2
    half = dip.softness * min(dip.reach, 1 - dip.reach) / 2
    return Profile.of(
        (0, ends),
        (edge - half, ends),
        (edge + half, middle),
        (1 - edge - half, middle),
        (1 - edge + half, ends),
        (1, ends),
    )


def _build(solved: tuple[float, float, float], softness: float) -> Profile:
    start, end, change = solved
    half = softness * min(change, 1 - change)
    return Profile.of((0, start), (change - half, start), (change + half, end), (1, end))
