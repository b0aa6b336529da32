"""Where does each pin of a clip stand, once cues, moments and open edges are followed?"""

from __future__ import annotations

import math
from typing import NamedTuple

from izmet.core.edit import Clip, Edit, Pin, Take, moment_name
from izmet.core.limits import MOST_FRAMES
from izmet.core.refusal import Refusal

FRAME_SLACK = 1e-9
"""Keeps an open edge that fits exactly from losing its last frame to rounding."""


class Fixed(NamedTuple):
    """A pin with both its ends known: output frame and source frame."""

    n: int
    p: float


class Known(NamedTuple):
    """What a pin says itself, through its cue and its moment: None where it is open."""

    n: int | None
    p: float | None


def known_pins(edit: Edit, clip: Clip) -> tuple[Known, ...]:
    """What all pins of a clip say themselves. Raises Refusal when a cue or a moment is not there."""
    take = edit.take(clip.take)
    return tuple(_known(edit, take, pin) for pin in clip.pins)


def fixed_pins(clip: Clip, known: tuple[Known, ...], per_frame: float, frames: int) -> tuple[Fixed, ...]:
    """All pins of a clip, resolved: from what is fixed to the right, then to the left.

    Args:
        per_frame: source frames that pass per output frame at real time.
        frames: how many the take has.

    Raises:
        Refusal: a pin outside its take, or pins out of order.
    """
    fixed: list[Fixed] = [Fixed(n, p) for n, p in known if n is not None and p is not None]
    if clip.pins[-1].speed is not None:
        fixed.append(_open_end(known[-1], fixed[-1], per_frame * clip.pins[-1].speed))
    if clip.pins[0].speed is not None:
        fixed.insert(0, _open_start(known[0], fixed[0], per_frame * clip.pins[0].speed))
    _check(clip, frames, fixed)
    return tuple(fixed)


def pin_name(edit: Edit, clip: Clip, pin: Pin) -> str:
    """What to call a pin when speaking to a person: the moment's label, or its place in the clip."""
    if pin.moment is not None:
        return moment_name(edit.moment(clip.take, pin.moment))
    place = {clip.pins[0].id: "the clip's start", clip.pins[-1].id: "the clip's end"}
    return place.get(pin.id, f"pin {pin.id}")


def _known(edit: Edit, take: Take, pin: Pin) -> Known:
    n = pin.n if pin.cue is None else edit.frame_of(pin.cue)
    if pin.moment is None:
        return Known(n, pin.p)
    # A moment that is not there is refused by the edit, in its words.
    moment = take.by_id.get(pin.moment) or edit.moment(take.id, pin.moment)
    return Known(n, float(moment.frame))


def _open_end(known: Known, before: Fixed, step: float) -> Fixed:
    n, p = known
    if n is None:
        assert p is not None
        n = before.n + math.floor((p - before.p) / step + FRAME_SLACK)
        return Fixed(n, min(p, before.p + step * (n - before.n)))
    return Fixed(n, before.p + step * (n - before.n))


def _open_start(known: Known, after: Fixed, step: float) -> Fixed:
    n, p = known
    if n is None:
        assert p is not None
        n = max(0, after.n - math.floor((after.p - p) / step + FRAME_SLACK))
        return Fixed(n, max(p, after.p - step * (after.n - n)))
    return Fixed(n, after.p - step * (after.n - n))


def _check(clip: Clip, frames: int, fixed: list[Fixed]) -> None:
    for pin, (n, p) in zip(clip.pins, fixed, strict=True):
        if n < 0:
            raise Refusal(
                "pin-before-start",
                f"This pin would lie {-n} frames before the start of the music.",
                where=f"clip {clip.id}, pin {pin.id}",
                remedy="Use a later cue, or a faster span before it.",
            )
        if n > MOST_FRAMES:
            raise Refusal(
                "edit-too-long",
                f"This pin would lie on output frame {n:,}; an edit has at most {MOST_FRAMES:,}.",
                where=f"clip {clip.id}, pin {pin.id}",
                remedy="Use a faster span before it.",
                nearest=MOST_FRAMES,
            )
        if not 0 <= p <= frames - 1:
            over = -p if p < 0 else p - (frames - 1)
            raise Refusal(
                "pin-outside-take",
                f"This pin needs source frame {p:g}, {over:.4g} frames outside the take, "
                f"which has frames 0 to {frames - 1}.",
                where=f"clip {clip.id}, pin {pin.id}",
                remedy="Slow the span beside it, or use a frame inside the take.",
                nearest=min(max(p, 0.0), frames - 1.0),
            )
    for index in range(1, len(fixed)):
        left, right, pin = fixed[index - 1], fixed[index], clip.pins[index]
        is_open = pin.speed is not None or clip.pins[index - 1].speed is not None
        if is_open and left == right:
            continue  # an open edge without room: the clip begins or ends at the pin beside it
        if right.n <= left.n:
            raise _out_of_order(clip, pin, f"output frame {right.n} does not come after {left.n}")
        if right.p <= left.p:
            raise _out_of_order(clip, pin, f"source frame {right.p:g} does not come after {left.p:g}")


def _out_of_order(clip: Clip, pin: Pin, how: str) -> Refusal:
    return Refusal(
        "pins-out-of-order",
        f"Pins must go forward in the music and in the take: {how}.",
        where=f"clip {clip.id}, pin {pin.id}",
        remedy="Choose a cue and a moment on the same side of the pins beside it, or remove one of them.",
    )
