"""How does a recipe become a clip, and a clip a recipe?

A recipe counts from the moment outward, in frames, seconds or beats. Applied, each
stretch becomes a span that says its own speed and length, so that all of it follows the
one tie, wherever its cue moves. Where the take or the song has no room a stretch is
shortened, and what lies beyond it is left out.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, NamedTuple

from izmet.core.arrange.oncues import cues_on, kinds_of
from izmet.core.document.cuekinds import BEATS
from izmet.core.document.edit import (
    Brake,
    Build,
    Clip,
    Custom,
    Dip,
    Edit,
    Hold,
    Leg,
    Pulse,
    PulseValues,
    Recipe,
    RecipePulse,
    Rewind,
    Shape,
    Steady,
    Turned,
)
from izmet.core.document.limits import MOST_SPEED
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE, nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.retime.floor import smooth_floor
from izmet.core.retime.solve import solve

NEAR_BEATS = 8
"""Beats around the moment whose distances tell how long a beat is there."""
Unit = Literal["frames", "seconds", "beats"]


@dataclass(frozen=True)
class _Place:
    """Where a clip's tie stands, and what a recipe must know there."""

    n: int
    p: float
    step: float
    last: int
    floor: float
    way: int


def made(edit: Edit, clip: Clip, pin_id: str, recipe: Recipe) -> Clip:
    """The clip with the retiming of a recipe around one of its pins. Other pins give way.

    Raises:
        Refusal: a stretch is counted in beats and the song has none.
    """
    index = next((i for i, pin in enumerate(clip.pins) if pin.id == pin_id and pin.is_fixed), None)
    if index is None:
        raise Refusal(
            "no-such-pin",
            "A recipe is laid around a tie.",
            where=Place.of(clip.id),
            remedy="Tie a moment of the clip to a cue first.",
        )
    take, fixed = edit.take(clip.take), solve(edit, clip).pins[index]
    place = _Place(
        n=int(fixed.n),
        p=fixed.p,
        step=float(take.rate / edit.rate),
        last=take.frames - 1,
        floor=smooth_floor(edit, take),
        way=-1 if clip.reversed else 1,
    )
    before = _laid(edit, place, recipe.before, outward=-1)
    after = _laid(edit, place, recipe.after, outward=1, beside=before[0] if before else None)
    pins = [_pin(f"before-{i + 1}", each.edge, recipe.through) for i, each in enumerate(before)][::-1]
    anchor = clip.pins[index].model_copy(update={"through": recipe.through, "skip": 0})
    pins += [anchor, *(_pin(f"after-{i + 1}", each.edge, recipe.through) for i, each in enumerate(after))]
    spans = [each.shape for each in before][::-1] + [each.shape for each in after]
    if not spans:
        raise Refusal(
            "no-room", "The take has no room around this moment.", Place.of(clip.id), "Tie another moment."
        )
    fields = {name: getattr(clip, name) for name in Clip.model_fields}
    bare = [each for each in clip.passes if not (recipe.pulses and isinstance(each, Pulse))]
    changed = {"pins": pins, "spans": spans, "recipe": recipe.id, "passes": bare}
    laid = Clip.model_validate({**fields, **changed})
    return laid.model_copy(update={"passes": (*bare, *_pulses(edit, laid, recipe))})


def _pulses(edit: Edit, clip: Clip, recipe: Recipe) -> Iterator[Pulse]:
    """The pulses of a recipe on a clip that it made; none where it has no such cues."""
    for number, each in enumerate(recipe.pulses, start=1):
        if cues := cues_on(edit, clip, each.kinds):
            values = each.model_dump(exclude={"kinds"})
            yield Pulse.model_validate({**values, "id": f"pulse-{number}", "cues": cues})


def _recipe_pulses(edit: Edit, clip: Clip) -> Iterator[RecipePulse]:
    """The pulses of a clip that are on, as a recipe keeps them: by the kinds of their cues."""
    for each in clip.passes:
        if isinstance(each, Pulse) and each.on and (kinds := kinds_of(edit, each)):
            values = {name: getattr(each, name) for name in PulseValues.model_fields}
            yield RecipePulse.model_validate({**values, "silent": (), "own": (), "kinds": kinds})


def recipe_of(edit: Edit, clip: Clip, pin_id: str, id: str, name: str, unit: Unit) -> Recipe:
    """The recipe that makes a clip's retiming around one of its pins."""
    curve = solve(edit, clip)
    index = next((i for i, pin in enumerate(clip.pins) if pin.id == pin_id), 0)
    at = int(curve.pins[index].n)

    def leg(span: int, outer: Pin) -> Leg:
        shape, segment = clip.spans[span], curve.segments[span]
        bare = isinstance(shape, Hold) or (isinstance(shape, Rewind) and shape.mirror)
        told = shape.model_copy(update={"speed": None if bare else segment.mean, "frames": None})
        open_end = outer.open_n and shape.frames is None and span in (0, len(clip.spans) - 1)
        mirrored = isinstance(shape, Rewind) and shape.mirror
        length = None if open_end or mirrored else segment.length / _frames(edit, at, unit)
        return Leg(length=length, unit=unit, shape=told)

    before = [leg(i, clip.pins[i]) for i in range(index - 1, -1, -1)]
    after = [leg(i, clip.pins[i + 1]) for i in range(index, len(clip.spans))]
    through, pulses = any(pin.through for pin in clip.pins), tuple(_recipe_pulses(edit, clip))
    return Recipe(id=id, name=name, before=before, after=after, through=through, pulses=pulses)


def _frames(edit: Edit, n: int, unit: Unit) -> float:
    """Output frames in one of the unit, near an output frame."""
    if unit == "frames":
        return 1.0
    return float(edit.rate) * (1.0 if unit == "seconds" else _beat(edit, n / float(edit.rate)))


def _beat(edit: Edit, instant: float) -> float:
    """How long a beat is near an instant of the edit, in seconds."""
    song = edit.song
    times = [cue.time + song.start for cue in song.cues if cue.kind in BEATS] if song else []
    nearest = sorted(sorted(times, key=lambda time: abs(time - instant))[:NEAR_BEATS])
    gaps = sorted(right - left for left, right in pairwise(nearest))
    if not gaps:
        raise Refusal(
            "no-beats",
            "The recipe counts beats, and the song has none here.",
            remedy="Count the beats first, or use a recipe that counts seconds.",
        )
    return gaps[len(gaps) // 2]


class _Laid(NamedTuple):
    """A stretch laid out: its span, the source frame it reaches out to, and what it passes, outward."""

    shape: Shape
    edge: float | None
    frames: float
    moved: float


def _laid(
    edit: Edit, place: _Place, legs: Sequence[Leg], outward: int, beside: _Laid | None = None
) -> list[_Laid]:
    """Spans from the moment outward; ``beside`` is the one that a mirrored first one mirrors."""
    found: list[_Laid] = []
    p, n = place.p, float(place.n)
    for leg in legs:
        shape = _paced(leg, place.floor)
        if isinstance(shape, Rewind) and shape.mirror:
            if beside is None:
                break
            # What came before the moment was counted outward, so its way in is that way already.
            moved = -beside.moved if found else beside.moved
            laid = _Laid(shape, None, beside.frames, moved)
        else:
            fitted = _fitted(edit, place, leg, shape, outward, p, n)
            if fitted is None:
                break
            laid = fitted
        found.append(laid)
        p, n, beside = p + laid.moved, n + outward * laid.frames, laid
    return found


def _fitted(
    edit: Edit, place: _Place, leg: Leg, shape: Shape, outward: int, p: float, n: float
) -> _Laid | None:
    """A stretch as long as it asks for, or as there is room for; None where there is none."""
    way = 0 if isinstance(shape, Hold) else place.way * (-1 if isinstance(shape, Rewind) else 1)
    rate = place.step * (shape.speed or 0.0) * way * outward
    edge = place.last if rate > 0 else 0
    room = abs(edge - p) / abs(rate) if rate else math.inf
    if outward < 0:
        room = min(room, n)
    if leg.length is None:
        return _Laid(shape, float(edge), room, rate * room) if 1 <= room < math.inf else None
    wanted = max(1, nearest_frame(leg.length * _frames(edit, place.n, leg.unit)))
    frames = wanted if room == math.inf else min(wanted, math.floor(room + FRAME_TOLERANCE))
    if frames < 1:
        return None
    return _Laid(shape.model_copy(update={"frames": frames}), None, frames, rate * frames)


def _paced(leg: Leg, floor: float) -> Shape:
    """A stretch's shape with its speeds relative to real time."""
    shape = leg.shape
    if leg.of == "real-time":
        return shape
    fastest = max(_speeds(shape), default=0.0)
    if fastest * floor > MOST_SPEED:
        raise Refusal(
            "too-fast",
            f"At {fastest:.0%} of this take's smooth floor the recipe would run at {fastest * floor:.0%}.",
            remedy=f"The most is {MOST_SPEED:.0%}: change the recipe, or use another take.",
            nearest=MOST_SPEED / floor,
        )
    changes: dict[str, object] = {"speed": None if shape.speed is None else shape.speed * floor}
    if isinstance(shape, Turned):
        changes |= {name: getattr(shape, name) and getattr(shape, name) * floor for name in ("start", "end")}
    if isinstance(shape, Custom):
        changes["knots"] = tuple(
            knot.model_copy(update={"speed": knot.speed * floor}) for knot in shape.knots
        )
    return shape.model_copy(update=changes)


def _speeds(shape: Shape) -> list[float]:
    """All speeds that a shape says."""
    said = [shape.speed]
    if isinstance(shape, Turned):
        said += [shape.start, shape.end]
    if isinstance(shape, Custom):
        said += [abs(knot.speed) for knot in shape.knots]
    return [speed for speed in said if speed is not None]


def _pin(id: str, edge: float | None, through: bool) -> Pin:
    return Pin(id=id, p=edge, through=through and edge is None)


def _leg(length: float | None, shape: Shape, unit: Unit = "seconds", floor: bool = False) -> Leg:
    return Leg(length=length, unit=unit, of="floor" if floor else "real-time", shape=shape)


SHIPPED = (
    Recipe(
        id="creep-and-strike",
        name="Creep and strike",
        before=(
            _leg(0.3, Steady(speed=4)),
            _leg(1.5, Steady(speed=1), floor=True),
            _leg(None, Steady(speed=1)),
        ),
        after=(_leg(1.2, Steady(speed=1), floor=True), _leg(None, Steady(speed=1))),
    ),
    Recipe(
        id="hang-in-the-air",
        name="Hang in the air",
        before=(_leg(None, Steady(speed=1)),),
        after=(_leg(0.5, Hold()), _leg(None, Steady(speed=1))),
    ),
    Recipe(
        id="there-and-back",
        name="There and back",
        before=(_leg(1.0, Steady(speed=1)),),
        after=(_leg(None, Rewind(mirror=True)), _leg(None, Steady(speed=1))),
    ),
    Recipe(
        id="come-to-rest",
        name="Come to rest",
        before=(_leg(0.5, Steady(speed=2)), _leg(None, Steady(speed=1))),
        after=(
            _leg(2.0, Brake(speed=0.5, end=0, change=0.4, softness=1)),
            _leg(1.0, Hold()),
        ),
    ),
    Recipe(
        id="breathe-with-the-bar",
        name="Breathe with the bar",
        before=(
            _leg(2, Dip(speed=1.2, strength=0.5), "beats"),
            _leg(2, Dip(speed=1.2, strength=0.5), "beats"),
        ),
        after=(
            _leg(2, Dip(speed=1.2, strength=0.5), "beats"),
            _leg(2, Dip(speed=1.2, strength=0.5), "beats"),
        ),
        through=True,
    ),
    Recipe(
        id="burst-out",
        name="Burst out",
        before=(_leg(1.0, Steady(speed=1), floor=True), _leg(None, Steady(speed=1))),
        after=(
            _leg(1.0, Build(speed=2, start=1, change=0.4)),
            _leg(None, Steady(speed=4)),
        ),
    ),
)
"""Recipes that come with the app."""
