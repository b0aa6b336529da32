"""Which values of a span can be set, where are they drawn, and within which limits?

The same values are sliders in a panel and handles on the speed lane. What a shape
leaves to be solved is marked; setting it leaves another value to be solved instead.
Speeds are above 0 here whichever way the span runs.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from izmet.core.document.edit import (
    CHANGE_LIMITS,
    Brake,
    Build,
    Custom,
    Dip,
    Hold,
    Knot,
    Rewind,
    Shape,
    ShapeName,
    Steady,
    Swell,
    Turned,
)
from izmet.core.document.limits import MOST_FRAMES, MOST_SPEED
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import REACH_LIMITS
from izmet.core.retime.shapes import dip_speeds, knot_speeds, solve_turned, swell_speeds

LEAST_SET = 0.01
Third = Literal["start", "change", "end"]
THIRDS: tuple[Third, ...] = ("start", "change", "end")

SLOW, CHANGE_AT = 0.5, 0.6
"""A new build: its slow plateau against the mean, and where it changes. A new brake is its mirror."""
NEW_KNOTS = ((0.0, 1.0), (0.35, 0.6), (0.65, 0.6), (1.0, 1.0))
"""A new custom shape: places, and speeds against the mean."""


class Handle(BaseModel):
    """Where a value is drawn on the speed lane: a part of the span and a speed; it moves along one of them.

    ``per_part`` is how much the value changes per part of the span when it moves along it.
    """

    part: float
    speed: float
    along: Literal["part", "speed"]
    per_part: float = 1.0


class SpanValue(BaseModel):
    """A value of a span that can be set, between ``least`` and ``most``; a ``share`` of 1 is 100 %."""

    name: str
    label: str
    value: float
    least: float
    most: float
    solved: bool = False
    handle: Handle | None = None
    unit: Literal["share", "frames"] = "share"


def new_shape(name: ShapeName, mean: float, old: Shape | None = None) -> Shape:
    """A shape to start from on a span with this mean speed; it keeps what ``old`` says of itself."""
    said = {} if old is None else {"speed": old.speed, "frames": old.frames}
    match name:
        case "steady":
            return Steady(**said)
        case "dip":
            return Dip(**said)
        case "swell":
            return Swell(**said)
        case "rewind":
            return Rewind(**said)
        case "build":
            return Build(start=mean * SLOW, change=CHANGE_AT, **said)
        case "brake":
            return Brake(end=mean * SLOW, change=1 - CHANGE_AT, **said)
        case "hold":
            return Hold(frames=said.get("frames"))
    return Custom(knots=[Knot(at=at, speed=speed * mean) for at, speed in NEW_KNOTS], **said)


def span_values(shape: Shape, mean: float) -> list[SpanValue]:
    """All values of a shape on a span with this mean speed, and its length where it says it itself."""
    values = _of_shape(shape, mean)
    return values if shape.frames is None else [*values, _length(shape.frames, mean)]


def _of_shape(shape: Shape, mean: float) -> list[SpanValue]:
    match shape:
        case Dip():
            return _of_dip(shape, mean)
        case Swell() | Rewind():
            return [] if isinstance(shape, Rewind) and shape.mirror else _of_swell(shape, mean)
        case Build() | Brake():
            return _of_turned(shape, mean)
        case Custom():
            return _of_custom(shape, mean)
    return []


def with_value(shape: Shape, mean: float, name: str, value: float) -> Shape:
    """The shape with one value set.

    Raises:
        Refusal: the shape has no such value.
        ValidationError: it is out of the value's bounds.
    """
    if name not in {each.name for each in span_values(shape, mean)}:
        raise Refusal("bad-command", f"A {shape.shape} has no {name}.", remedy="Set a value that it has.")
    if name == "frames":
        return type(shape).model_validate({**dict(shape), "frames": nearest_frame(value)})
    if isinstance(shape, Custom):
        return _with_knot(shape, mean, name, value)
    changes: dict[str, float | None] = {name: value}
    if name == "slow":
        changes = {"strength": min(1.0, max(0.0, 1 - value / mean)) if mean else 0.0}
    elif isinstance(shape, Turned) and name in THIRDS:
        solved = dict(zip(("start", "end", "change"), solve_turned(shape, mean), strict=True))
        changes = {**solved, name: value, _left_open(shape, name): None}
    return type(shape).model_validate({**dict(shape), **changes})


def _value(name: str, label: str, value: float, least: float, most: float, **more: object) -> SpanValue:
    return SpanValue.model_construct(name=name, label=label, value=value, least=least, most=most, **more)  # type: ignore[arg-type]


def _length(frames: int, mean: float) -> SpanValue:
    at_end = Handle.model_construct(part=1.0, speed=mean, along="part", per_part=float(frames))
    return _value("frames", "Length", frames, 1, MOST_FRAMES, handle=at_end, unit="frames")


def _of_dip(dip: Dip, mean: float) -> list[SpanValue]:
    ends, middle = dip_speeds(dip, mean)
    at_middle = Handle.model_construct(part=0.5, speed=middle, along="speed", per_part=1.0)
    return [
        _value("strength", "Strength", dip.strength, 0, 1),
        _value("slow", "Middle speed", middle, 0, mean, handle=at_middle),
        _reach("Reach of the fast ends", dip.reach, (middle + ends) / 2),
        _softness(dip.softness),
    ]


def _of_swell(swell: Swell | Rewind, mean: float) -> list[SpanValue]:
    ends, middle = swell_speeds(swell, mean)
    at_end = Handle.model_construct(part=swell.reach / 4, speed=ends, along="speed", per_part=1.0)
    return [
        _value("strength", "Strength", swell.strength, 0, 1),
        _value("slow", "Speed of the ends", ends, 0, mean, handle=at_end),
        _reach("Reach of the slow ends", swell.reach, (middle + ends) / 2),
        _softness(swell.softness),
    ]


def _reach(label: str, value: float, speed: float) -> SpanValue:
    handle = Handle.model_construct(part=value / 2, speed=speed, along="part", per_part=2.0)
    return _value("reach", label, value, *REACH_LIMITS, handle=handle)


def _of_turned(shape: Turned, mean: float) -> list[SpanValue]:
    start, end, change = solve_turned(shape, mean)
    solved = next(name for name in THIRDS if getattr(shape, name) is None)
    limits = {name: _limits(shape, name, mean, start, end, change) for name in THIRDS}
    places = {
        "start": Handle.model_construct(part=change / 2, speed=start, along="speed", per_part=1.0),
        "change": Handle.model_construct(part=change, speed=(start * end) ** 0.5, along="part", per_part=1.0),
        "end": Handle.model_construct(part=(1 + change) / 2, speed=end, along="speed", per_part=1.0),
    }
    facts = {"start": ("Start speed", start), "change": ("Change after", change), "end": ("End speed", end)}
    values = []
    for name in THIRDS:
        (label, value), (least, most) = facts[name], limits[name]
        if name != solved:  # a document may say less than a hand can set
            least = min(least, value)
        values.append(_value(name, label, value, least, most, solved=name == solved, handle=places[name]))
    return [*values, _softness(shape.softness)]


def _of_custom(custom: Custom, mean: float) -> list[SpanValue]:
    speeds = knot_speeds(custom, mean)
    places = [0.0, *(knot.at for knot in custom.knots), 1.0]
    least = -MOST_SPEED if custom.turns else 0.0
    values = []
    for index, (knot, speed) in enumerate(zip(custom.knots, speeds, strict=True)):
        name, label = f"knot-{index}", f"Knot {index + 1}"
        at_knot = Handle.model_construct(part=knot.at, speed=speed, along="speed", per_part=1.0)
        values.append(
            _value(
                f"{name}-speed",
                f"{label}, speed",
                speed,
                least,
                MOST_SPEED,
                solved=not knot.locked,
                handle=at_knot,
            )
        )
        values.append(_value(f"{name}-at", f"{label}, place", knot.at, places[index], places[index + 2]))
    return values


def _with_knot(custom: Custom, mean: float, name: str, value: float) -> Custom:
    """A knot moved, or set to a speed and locked; the last free one gives way before all are locked."""
    number, what = name.removeprefix("knot-").split("-")
    index = int(number)
    knots = [
        knot.model_copy(update={"speed": speed})
        for knot, speed in zip(custom.knots, knot_speeds(custom, mean), strict=True)
    ]
    changes: dict[str, object] = {"at": value} if what == "at" else {"speed": value, "locked": True}
    knots[index] = knots[index].model_copy(update=changes)
    if what == "speed" and all(knot.locked for knot in knots):
        knots = [knot.model_copy(update={"locked": i == index}) for i, knot in enumerate(knots)]
    return Custom.model_validate({**dict(custom), "knots": knots})


def _softness(value: float) -> SpanValue:
    return _value("softness", "Softness", value, 0, 1)


def _left_open(shape: Turned, name: str) -> Third:
    """Which value is solved once ``name`` is set: the one that is now, else the fast or the slow speed."""
    solved = next(third for third in THIRDS if getattr(shape, third) is None)
    if solved != name:
        return solved
    fast, slow = ("end", "start") if isinstance(shape, Build) else ("start", "end")
    return slow if name == fast else fast  # type: ignore[return-value]


def _limits(
    shape: Turned, name: Third, mean: float, start: float, end: float, change: float
) -> tuple[float, float]:
    """Between which values ``name`` can be set, while another one is solved and the third one stays."""
    left = _left_open(shape, name)
    if isinstance(shape, Build):
        return _limits_of_build(name, left, mean, start, end, change)
    swap: dict[Third, Third] = {"start": "end", "end": "start", "change": "change"}
    least, most = _limits_of_build(swap[name], swap[left], mean, end, start, 1 - change)
    return (1 - most, 1 - least) if name == "change" else (least, most)


def _limits_of_build(
    name: Third, left: Third, mean: float, start: float, end: float, change: float
) -> tuple[float, float]:
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
