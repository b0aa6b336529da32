"""Does a curve that turns stay inside its take, and how much of the bend does?

Every other shape goes from pin to pin without a turn, and the pins lie in the take. Knots
below 0 lead back past a pin. Drawn towards the span's mean speed by one part, all knots keep
the mean, and the way out of the take shrinks with that part: so there is a most.
"""

from __future__ import annotations

from dataclasses import replace

from izmet.core.document.edit import Clip, Custom
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Place, Refusal
from izmet.core.retime.segment import Segment
from izmet.core.retime.shapes import knot_speeds

HALVINGS = 30


def check_inside(clip: Clip, index: int, segment: Segment, frames: int) -> None:
    """Refuse a span that leaves its take of so many frames; ``nearest`` is a knot's speed that does not.

    Raises:
        Refusal: it does; the knot it names is the one that goes farthest the other way.
    """
    shape = clip.spans[index]
    if not isinstance(shape, Custom) or not shape.turns:
        return
    farthest = _farthest(segment, frames)
    if farthest is None:
        return
    knot, speed = _nearest(shape, segment, frames, below=farthest < 0)
    raise Refusal(
        "curve-outside-take",
        f"The curve runs to source frame {farthest:.6g}, outside the take, "
        f"which has frames 0 to {frames - 1}.",
        where=Place.of(clip.id, span=index + 1),
        remedy=f"Knot {knot + 1} stays inside at {speed:.1%}, with the other knots eased as much.",
        nearest=speed,
    )


def drawn_in(shape: Custom, segment: Segment, frames: int) -> Custom:
    """The shape with its knots drawn towards the mean until it stays inside its take of so many frames."""
    part = _most(segment, frames)
    speeds = knot_speeds(shape, segment.mean)
    knots = [
        knot.model_copy(update={"speed": segment.mean + part * (speed - segment.mean)})
        for knot, speed in zip(shape.knots, speeds, strict=True)
    ]
    return shape.model_copy(update={"knots": tuple(knots)})


def _farthest(segment: Segment, frames: int) -> float | None:
    """The source position that lies farthest outside the take; None where none does."""
    source = segment.evaluate(segment.frames)[0]
    if not len(source):
        return None
    low, high = float(source.min()), float(source.max())
    if low >= -FRAME_TOLERANCE and high <= frames - 1 + FRAME_TOLERANCE:
        return None
    return low if -low > high - (frames - 1) else high


def _most(segment: Segment, frames: int) -> float:
    """How much of the bend stays inside, from 0 to 1."""
    works, fails = 0.0, 1.0
    profile, mean = segment.profile, segment.mean
    for _ in range(HALVINGS):
        part = (works + fails) / 2
        bent = replace(segment, profile=replace(profile, v=mean + part * (profile.v - mean)))
        works, fails = (part, fails) if _farthest(bent, frames) is None else (works, part)
    return works


def _nearest(shape: Custom, segment: Segment, frames: int, below: bool) -> tuple[int, float]:
    """The knot that leads out of the take, and its speed where it just does not."""
    knots = [knot.speed for knot in drawn_in(shape, segment, frames).knots]
    back = (segment.way > 0) == below
    knot = knots.index(min(knots) if back else max(knots))
    return knot, knots[knot]
