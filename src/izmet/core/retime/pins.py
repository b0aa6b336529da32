"""Where does each pin of a clip stand, once cues, moments and open edges are followed?"""

from __future__ import annotations

import math
from typing import NamedTuple

from izmet.core.edit import Clip, Edit, Pin, Take
from izmet.core.refusal import Refusal

FRAME_SLACK = 1e-9
"""Keeps an open edge that fits exactly from losing its last frame to rounding."""


class Fixed(NamedTuple):
    """A pin with both its ends known: output frame and source frame."""

    n: int
    p: float


def fix_pins(edit: Edit, clip: Clip) -> tuple[Fixed, ...]:
    """All pins of a clip, resolved: from what is fixed to the right, then to the left.

    Raises:
        Refusal: a pin outside its take, or pins out of order.
    """
    take = edit.take(clip.take)
    known = [_known(edit, clip, pin) for pin in clip.pins]
    fixed: list[Fixed] = [Fixed(n, p) for n, p in known if n is not None and p is not None]
    per_frame = float(take.rate / edit.rate)
    if clip.pins[-1].speed is not None:
        fixed.append(_open_end(known[-1], fixed[-1], per_frame * clip.pins[-1].speed))
    if clip.pins[0].speed is not None:
        fixed.insert(0, _open_start(known[0], fixed[0], per_frame * clip.pins[0].speed))
    _check(clip, take, fixed)
    return tuple(fixed)


def pin_name(edit: Edit, clip: Clip, pin: Pin) -> str:
    """What to call a pin when speaking to a person: the moment's label, or its place in the clip."""
    if pin.moment is not None:
        moment = edit.moment(clip.take, pin.moment)
        return moment.label or f"{moment.kind} at frame {moment.frame}"
    place = {clip.pins[0].id: "the clip's start", clip.pins[-1].id: "the clip's end"}
    return place.get(pin.id, f"pin {pin.id}")


def _known(edit: Edit, clip: Clip, pin: Pin) -> tuple[int | None, float | None]:
    n = pin.n if pin.cue is None else edit.frame_of(pin.cue)
    p = pin.p if pin.moment is None else float(edit.moment(clip.take, pin.moment).frame)
    return n, p


def _open_end(known: tuple[int | None, float | None], before: Fixed, step: float) -> Fixed:
    n, p = known
    if n is None:
        assert p is not None
        n = before.n + math.floor((p - before.p) / step + FRAME_SLACK)
        return Fixed(n, min(p, before.p + step * (n - before.n)))
    return Fixed(n, before.p + step * (n - before.n))


def _open_start(known: tuple[int | None, float | None], after: Fixed, step: float) -> Fixed:
    n, p = known
    if n is None:
        assert p is not None
        n = max(0, after.n - math.floor((after.p - p) / step + FRAME_SLACK))
        return Fixed(n, max(p, after.p - step * (after.n - n)))
    return Fixed(n, after.p - step * (after.n - n))


def _check(clip: Clip, take: Take, fixed: list[Fixed]) -> None:
    for pin, (n, p) in zip(clip.pins, fixed, strict=True):
        if n < 0:
            raise Refusal(
                "pin-before-start",
                f"This pin would lie {-n} frames before the start of the music.",
                where=f"clip {clip.id}, pin {pin.id}",
                remedy="Use a later cue, or a faster span before it.",
            )
        if not 0 <= p <= take.frames - 1:
            over = -p if p < 0 else p - (take.frames - 1)
            raise Refusal(
                "pin-outside-take",
                f"This pin needs source frame {p:g}, {over:.4g} frames outside the take, "
                f"which has frames 0 to {take.frames - 1}.",
                where=f"clip {clip.id}, pin {pin.id}",
                remedy="Slow the span beside it, or use a frame inside the take.",
                nearest=min(max(p, 0.0), take.frames - 1.0),
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
