"""Which values of a span can be set, where are they drawn, and within which limits?

The same values are sliders in a panel and handles on the speed lane. What a shape
leaves to be solved is marked; setting it leaves another value to be solved instead.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from izmet.core.edit import CHANGE_LIMITS, REACH_LIMITS, Build, Dip, Shape, Steady
from izmet.core.retime.shapes import solve_build

LEAST_SET = 0.01
ValueName = Literal["strength", "middle", "reach", "softness", "start", "change", "end"]
Third = Literal["start", "change", "end"]
THIRDS: tuple[Third, ...] = ("start", "change", "end")

SLOW_START, CHANGE_AT = 0.5, 0.6
"""A new build: its start against the mean, and where it changes."""


class Handle(BaseModel):
    """Where a value is drawn on the speed lane: a part of the span and a speed; it moves along one of them.

    ``per_part`` is how much the value changes per part of the span when it moves along it.
    """

    part: float
    speed: float
    along: Literal["part", "speed"]
    per_part: float = 1.0


class SpanValue(BaseModel):
    """A value of a span that can be set, between ``least`` and ``most``; 1 is 100 %."""

    name: ValueName
    label: str
    value: float
    least: float
    most: float
    solved: bool = False
    handle: Handle | None = None


def new_shape(name: Literal["steady", "dip", "build"], mean: float) -> Shape:
    """A shape to start from on a span with this mean speed."""
    if name == "steady":
        return Steady()
    return Dip() if name == "dip" else Build(start=mean * SLOW_START, change=CHANGE_AT)


def span_values(shape: Shape, mean: float) -> list[SpanValue]:
    """All values of a shape on a span with this mean speed."""
    match shape:
        case Dip():
            return _of_dip(shape, mean)
        case Build():
            return _of_build(shape, mean)
    return []


def with_value(shape: Shape, mean: float, name: ValueName, value: float) -> Shape:
    """The shape with one value set.

    Raises:
        ValueError: the shape has no such value, or it is out of the value's bounds.
    """
    if name not in {each.name for each in span_values(shape, mean)}:
        raise ValueError(f"a {shape.shape} has no {name}")
    changes: dict[str, float | None] = {name: value}
    if isinstance(shape, Dip) and name == "middle":
        changes = {"strength": min(1.0, max(0.0, 1 - value / mean)) if mean else shape.strength}
    elif isinstance(shape, Build) and name in THIRDS:
        solved = dict(zip(("start", "end", "change"), solve_build(shape, mean), strict=True))
        changes = {**solved, name: value, _left_open(shape, name): None}
    return type(shape).model_validate({**dict(shape), **changes})


def _of_dip(dip: Dip, mean: float) -> list[SpanValue]:
    middle = mean * (1 - dip.strength)
    ends = mean * (1 + dip.strength * (1 - dip.reach) / dip.reach)
    least, most = REACH_LIMITS
    at_middle = Handle.model_construct(part=0.5, speed=middle, along="speed")
    at_reach = Handle.model_construct(part=dip.reach / 2, speed=(middle + ends) / 2, along="part", per_part=2)
    return [
        SpanValue.model_construct(name="strength", label="Strength", value=dip.strength, least=0, most=1),
        SpanValue.model_construct(
            name="middle", label="Middle speed", value=middle, least=0, most=mean, handle=at_middle
        ),
        SpanValue.model_construct(
            name="reach",
            label="Reach of the fast ends",
            value=dip.reach,
            least=least,
            most=most,
            handle=at_reach,
        ),
        _softness(dip.softness),
    ]


def _of_build(build: Build, mean: float) -> list[SpanValue]:
    start, end, change = solve_build(build, mean)
    solved = next(name for name in THIRDS if getattr(build, name) is None)
    limits = {name: _limits(name, _left_open(build, name), mean, start, end, change) for name in THIRDS}
    places = {
        "start": Handle.model_construct(part=change / 2, speed=start, along="speed"),
        "change": Handle.model_construct(part=change, speed=(start * end) ** 0.5, along="part"),
        "end": Handle.model_construct(part=(1 + change) / 2, speed=end, along="speed"),
    }
    facts = {"start": ("Start speed", start), "change": ("Change after", change), "end": ("End speed", end)}
    values = []
    for name in THIRDS:
        label, value = facts[name]
        least, most = limits[name]
        values.append(
            SpanValue.model_construct(
                name=name,
                label=label,
                value=value,
                least=least,
                most=most,
                solved=name == solved,
                handle=places[name],
            )
        )
    return [*values, _softness(build.softness)]


def _softness(value: float) -> SpanValue:
    return SpanValue.model_construct(name="softness", label="Softness", value=value, least=0, most=1)


def _left_open(build: Build, name: str) -> Third:
    """Which value is solved once ``name`` is set: the one that is now, or else the end, or the start."""
    solved = next(third for third in THIRDS if getattr(build, third) is None)
    if solved != name:
        return solved
    return "start" if name == "end" else "end"


def _limits(
    name: Third, left: Third, mean: float, start: float, end: float, change: float
) -> tuple[float, float]:
    """Between which values ``name`` can be set while ``left`` is solved and the third one stays."""
    early, late = CHANGE_LIMITS
    match name, left:
        case "start", "end":
            return min(LEAST_SET, mean), mean
        case "start", _:
            return max(LEAST_SET, end - (end - mean) / early), min(mean, end - (end - mean) / late)
        case "end", "start":
            return mean, mean / (1 - change)
        case "end", _:
            return mean + (mean - start) * early / (1 - early), mean + (mean - start) * late / (1 - late)
        case _, "start":
            return max(early, 1 - mean / end), late
    return CHANGE_LIMITS
