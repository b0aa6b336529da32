"""Where does each pin of a clip stand, once cues, moments and open ends are followed?

What a pin leaves open is an unknown; what a span says of itself is a linear equation
between the two pins beside it, with step ``ρ`` source frames per output frame at real time:

    its speed v      p1 − (p0 ± skip) = ±ρ·v·(n1 − n0), − where it runs backwards
    its length k     n1 − n0 = k
    a hold           p1 = p0 ± skip
    a mirrored one   n1 − n0 is the length of the span before it, and p1 that span's start ± its skip

There must be as many equations as unknowns; then all are solved at once, whatever their
order. A pin inside a clip may come out between two output frames. The clip's ends are
then drawn in to whole frames, along the speed beside them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit, Hold, Rewind, Shape, Take, moment_name
from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Place, Refusal

ROUNDING = 1e-9
"""What is nearer to 0 is taken for it."""


class Fixed(NamedTuple):
    """A pin with both its ends known: output frame and source frame."""

    n: float
    p: float


class Known(NamedTuple):
    """What a pin says itself, through its cue and its moment: None where it is open."""

    n: int | None
    p: float | None


class Equation(NamedTuple):
    """Factors of pins' output frames and source frames, by index, and what they add up to."""

    n: dict[int, float]
    p: dict[int, float]
    total: float


def known_pins(edit: Edit, clip: Clip) -> tuple[Known, ...]:
    """What all pins of a clip say themselves. Raises Refusal when a cue or a moment is not there."""
    take = edit.take(clip.take)
    return tuple(_known(edit, take, pin) for pin in clip.pins)


def sign_of(clip: Clip, span: int) -> int:
    """Which way the take is travelled in a span: that of the span, and of a hold that of its clip."""
    return clip.ways[span] or (-1 if clip.reversed else 1)


def fixed_pins(clip: Clip, known: tuple[Known, ...], per_frame: float, frames: int) -> tuple[Fixed, ...]:
    """All pins of a clip, resolved.

    Args:
        per_frame: source frames that pass per output frame at real time.
        frames: how many the take has.

    Raises:
        Refusal: pins that nothing settles or that two things settle, a pin outside its
            take, or pins out of order.
    """
    fixed = _solved(clip, known, per_frame)
    if known[0].n is None:
        fixed[0] = _begun(clip, fixed[0], fixed[1])
    if known[-1].n is None:
        fixed[-1] = _ended(clip, fixed[-2], fixed[-1])
    fixed = [_inside(each, frames) for each in fixed]
    _check(clip, frames, fixed)
    return tuple(fixed)


def pin_name(edit: Edit, clip: Clip, pin: Pin) -> str:
    """What to call a pin when speaking to a person: its moment's label, its frame, or its place."""
    if pin.moment is not None:
        return moment_name(edit.moment(clip.take, pin.moment))
    place = {clip.pins[0].id: "the clip's start", clip.pins[-1].id: "the clip's end"}
    shown = f"the pin at frame {pin.p:g}" if pin.p is not None else f"pin {clip.pins.index(pin) + 1}"
    return place.get(pin.id, shown)


def _known(edit: Edit, take: Take, pin: Pin) -> Known:
    n = pin.n if pin.cue is None else edit.frame_of(pin.cue)
    if pin.moment is None:
        return Known(n, pin.p)
    # A moment that is not there is refused by the edit, in its words.
    moment = take.by_id.get(pin.moment) or edit.moment(take.id, pin.moment)
    return Known(n, float(moment.frame))


def _equations(clip: Clip, index: int, shape: Shape, per_frame: float) -> Iterator[Equation]:
    left, right = index, index + 1
    skip = float(clip.pins[left].skip)
    if shape.frames is not None:
        yield Equation({right: 1, left: -1}, {}, shape.frames)
    if isinstance(shape, Hold):
        yield Equation({}, {right: 1, left: -1}, skip * sign_of(clip, index))
    elif isinstance(shape, Rewind) and shape.mirror:
        yield Equation({right: 1, left: -2, left - 1: 1}, {}, 0)
        yield Equation(
            {}, {right: 1, left - 1: -1}, float(clip.pins[left - 1].skip) * sign_of(clip, index - 1)
        )
    elif shape.speed is not None:
        way = clip.ways[index]
        step = per_frame * shape.speed * way
        yield Equation({right: -step, left: step}, {right: 1, left: -1}, skip * way)


def _solved(clip: Clip, known: tuple[Known, ...], per_frame: float) -> list[Fixed]:
    unknown = [("n", i) for i, each in enumerate(known) if each.n is None]
    unknown += [("p", i) for i, each in enumerate(known) if each.p is None]
    equations = [
        each for index, shape in enumerate(clip.spans) for each in _equations(clip, index, shape, per_frame)
    ]
    found = _one_by_one(known, len(unknown), equations)
    if found is None:
        found = dict(zip(unknown, _unknowns(clip, known, unknown, equations), strict=True))
    return [
        Fixed(
            _whole(found[("n", i)]) if n is None else n,
            _whole(found[("p", i)]) if p is None else p,
        )
        for i, (n, p) in enumerate(known)
    ]


def _whole(place: float) -> float:
    """A place without what rounding took from a whole frame: a moment a hair late is seen a frame late."""
    nearest = float(round(place))
    return nearest if abs(place - nearest) < FRAME_TOLERANCE else place


def _one_by_one(
    known: tuple[Known, ...], unknown: int, equations: list[Equation]
) -> dict[tuple[str, int], float] | None:
    """What is left open, where each equation in turn settles one thing, as it does in most clips.

    None where they have to be solved together, or do not fit together.
    """
    if len(equations) != unknown:
        return None
    found: dict[tuple[str, int], float] = {}
    left = equations
    while left:
        after = [each for each in left if not _settles(each, known, found)]
        if len(after) == len(left):
            return None
        left = after
    within = all(abs(place) <= 100.0 * MOST_FRAMES for place in found.values())
    return found if within and len(found) == unknown else None


def _settles(equation: Equation, known: tuple[Known, ...], found: dict[tuple[str, int], float]) -> bool:
    """Whether an equation has one unknown left; it is found then."""
    total, sought, by = equation.total, None, 0.0
    for name, factors in (("n", equation.n), ("p", equation.p)):
        for pin, factor in factors.items():
            value = getattr(known[pin], name)
            value = found.get((name, pin)) if value is None else value
            if value is not None:
                total -= factor * value
            elif sought is not None:
                return False
            else:
                sought, by = (name, pin), factor
    if sought is None or not by:
        return False
    found[sought] = total / by
    return True


def _unknowns(
    clip: Clip, known: tuple[Known, ...], unknown: list[tuple[str, int]], equations: list[Equation]
) -> list[float]:
    column = {each: index for index, each in enumerate(unknown)}
    matrix = np.zeros((len(equations), len(unknown)))
    totals = np.zeros(len(equations))
    for row, (n, p, total) in enumerate(equations):
        totals[row] = total
        for name, factors in (("n", n), ("p", p)):
            for pin, factor in factors.items():
                value = getattr(known[pin], name)
                if value is None:
                    matrix[row, column[(name, pin)]] += factor
                else:
                    totals[row] -= factor * value
    told = matrix.any(axis=1)
    wrong = np.flatnonzero(~told & (np.abs(totals) > FRAME_TOLERANCE))
    too_many = np.flatnonzero(told)[len(unknown) :]
    if len(wrong) or len(too_many):
        raise _settled_twice(clip, equations[[*wrong, *too_many][0]])
    try:
        if told.sum() < len(unknown):
            raise np.linalg.LinAlgError
        solved: list[float] = np.linalg.solve(matrix[told], totals[told]).tolist()
    except np.linalg.LinAlgError:
        raise _left_open(clip, unknown[_undetermined(matrix[told])]) from None
    if not np.isfinite(solved).all() or max(map(abs, solved), default=0) > 100.0 * MOST_FRAMES:
        raise _left_open(clip, unknown[int(np.argmax(np.abs(solved)))])
    return solved


def _settled_twice(clip: Clip, equation: Equation) -> Refusal:
    span = max([*equation.n, *equation.p]) - 1
    if isinstance(clip.spans[span], Hold) and equation.p:
        return Refusal(
            "hold-moves",
            "A hold shows one picture, and its pins show two.",
            where=Place.of(clip.id, span=span + 1),
            remedy="Leave the source frame of its second pin open, or give the span another shape.",
        )
    return Refusal(
        "settled-twice",
        "The pins beside this span say already how fast and how long it runs, and it says so itself too.",
        where=Place.of(clip.id, span=span + 1),
        remedy="Take away the span's speed or length, or open one of the pins.",
    )


def _undetermined(matrix: NDArray[np.float64]) -> int:
    """The first unknown of linear equations that may still be anything: where their null space is not 0."""
    _, sizes, ways = np.linalg.svd(matrix)
    rank = min(np.count_nonzero(sizes > ROUNDING), len(ways) - 1)
    return int(np.argmax(np.abs(ways[rank:]).max(axis=0) > ROUNDING))


def _left_open(clip: Clip, unknown: tuple[str, int]) -> Refusal:
    pin = clip.pins[unknown[1]]
    return Refusal(
        "left-open",
        "Nothing settles where this pin stands.",
        where=Place.of(clip.id, pin=pin.id),
        remedy="Give a span beside it a speed or a length, or tie the pin.",
    )


def _inside(pin: Fixed, frames: int) -> Fixed:
    """The pin, without what rounding carried out of the take."""
    nearest = min(max(pin.p, 0.0), frames - 1.0)
    return Fixed(pin.n, nearest) if abs(nearest - pin.p) < FRAME_TOLERANCE else pin


def _begun(clip: Clip, first: Fixed, second: Fixed) -> Fixed:
    """An open start on a whole output frame, drawn in along the speed after it."""
    n = max(0, math.ceil(first.n - FRAME_TOLERANCE))
    return _along(first, second, n, clip.pins[0].skip * sign_of(clip, 0))


def _ended(clip: Clip, before: Fixed, last: Fixed) -> Fixed:
    """An open end on a whole output frame, drawn in along the speed before it."""
    n = math.floor(last.n + FRAME_TOLERANCE)
    skip = clip.pins[-2].skip * sign_of(clip, len(clip.spans) - 1)
    return _along(last, Fixed(before.n, before.p + skip), n)


def _along(end: Fixed, beside: Fixed, n: int, skip: float = 0) -> Fixed:
    """The place at ``n`` on the straight way between two; at the second one it has no room left."""
    if abs(n - beside.n) < FRAME_TOLERANCE or end.n == beside.n:
        return Fixed(n, beside.p)
    slope = (beside.p - end.p - skip) / (beside.n - end.n)
    least, most = sorted((end.p, beside.p))
    return Fixed(n, min(max(end.p + slope * (n - end.n), least), most))


def _check(clip: Clip, frames: int, fixed: list[Fixed]) -> None:
    for pin, (n, p) in zip(clip.pins, fixed, strict=True):
        if n < 0:
            raise Refusal(
                "pin-before-start",
                f"This pin would lie {-n:.4g} frames before the start of the music.",
                where=Place.of(clip.id, pin=pin.id),
                remedy="Use a later cue, or a faster span before it.",
            )
        if n > MOST_FRAMES:
            raise Refusal(
                "edit-too-long",
                f"This pin would lie on output frame {n:,.0f}; an edit has at most {MOST_FRAMES:,}.",
                where=Place.of(clip.id, pin=pin.id),
                remedy="Use a faster span before it.",
                nearest=MOST_FRAMES,
            )
        if not 0 <= p <= frames - 1:
            over = -p if p < 0 else p - (frames - 1)
            raise Refusal(
                "pin-outside-take",
                f"This pin needs source frame {p:.6g}, {over:.4g} frames outside the take, "
                f"which has frames 0 to {frames - 1}.",
                where=Place.of(clip.id, pin=pin.id),
                remedy="Slow the span beside it, or use a frame inside the take.",
                nearest=min(max(p, 0.0), frames - 1.0),
            )
    for index in range(len(fixed) - 1):
        _check_span(clip, frames, index, fixed[index], fixed[index + 1])


def _check_span(clip: Clip, frames: int, index: int, left: Fixed, right: Fixed) -> None:
    before, pin = clip.pins[index], clip.pins[index + 1]
    is_edge = (index == 0 and before.open_n) or (index == len(clip.spans) - 1 and pin.open_n)
    if is_edge and left == right:
        return  # an open end without room: the clip begins or ends at the pin beside it
    if right.n <= left.n:
        raise _out_of_order(
            clip, pin, f"output frame {right.n:g} does not come after {left.n:g}", "forward in the music"
        )
    way, sign = clip.ways[index], sign_of(clip, index)
    if before.skip < 0 and not -1 <= left.p + before.skip * sign <= frames:
        raise Refusal(
            "pin-outside-take",
            f"From source frame {left.p:.6g} the take has no {-before.skip} frames to go back.",
            where=Place.of(clip.id, pin=before.id),
            remedy="Go back less.",
        )
    passed = right.p - left.p - before.skip * sign
    if way and passed * way <= 0:
        after = "after" if way > 0 else "before"
        skipped = f", {before.skip} frames skipped" if before.skip else ""
        raise _out_of_order(
            clip,
            pin,
            f"source frame {right.p:g} does not come {after} {left.p:g}{skipped}",
            "forward in the take" if way > 0 else "back in the take",
        )


def _out_of_order(clip: Clip, pin: Pin, how: str, where: str) -> Refusal:
    return Refusal(
        "pins-out-of-order",
        f"Pins must go {where}: {how}.",
        where=Place.of(clip.id, pin=pin.id),
        remedy="Choose a cue and a moment on the same side of the pins beside it, or remove one of them.",
    )
