"""What do the accents of an edit lay over the picture, and what do they do to it?

Colours and earlier pictures are layers, in the order of the accents; what is done to the whole picture are
looks, in the order of ``LookKind``. All movements of a frame are one look, so that it is drawn once; it grows
just so far that no edge of the picture is seen, or mirrors its edges where it is meant to shrink.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from typing import get_args

import numpy as np

from izmet.core.document.accents import (
    Accent,
    Dim,
    Drain,
    Fade,
    Flash,
    Letterbox,
    Punch,
    Shake,
    Strobe,
    Tint,
    Trail,
    ZoomBlur,
)
from izmet.core.document.edit import Edit
from izmet.core.document.values import BlendMode
from izmet.core.memo import Memo
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve
from izmet.core.shown.courses import Course, courses_of, joined
from izmet.core.shown.framemap import BLACK, REMEMBERED_BYTES, Framed, FrameMap, Layer, Look, LookKind
from izmet.core.shown.light import part_for
from izmet.core.shown.movement import Move, moved_by, shaken, stepped


def accented(edit: Edit, curves: Sequence[Curve], ground: FrameMap) -> tuple[list[Layer], list[Look]]:
    """The layers and the looks of all accents; the same objects where nothing changed."""
    layers: list[Layer] = []
    looks: list[Look] = []
    moves: list[Move] = []
    for accent in edit.accents:
        found = courses_of(edit, curves, ground, accent)
        what = accent.what
        match what:
            case Shake():
                sides = (edit.width, edit.height, float(edit.rate))
                for nth, course in enumerate(found):
                    make = partial(shaken, edit, what, course, nth)
                    moves.append(_MOVES.recall((what, course), (*sides, nth), make))
            case Punch(steps=True):
                moves += stepped(what.amount, found)
            case Punch():
                moves += [
                    _MOVES.recall((what, course), None, partial(_punched, what, course))
                    for course in joined(found)
                ]
            case Trail():
                layers += [layer for course in joined(found) for layer in _echoes(what, course, ground)]
            case Fade() | Tint() | Strobe():
                layers += [
                    _LAYERS.recall((accent, course), None, partial(_layer, accent, course))
                    for course in joined(found)
                ]
            case _:
                looks += [
                    _LOOKS.recall((accent, course), None, partial(_look, accent, course))
                    for course in joined(found)
                ]
    order: tuple[LookKind, ...] = get_args(LookKind)
    looks += moved_by(moves, edit.width / edit.height)
    return layers, sorted(looks, key=lambda look: order.index(look.kind))


_MOVES: Memo[Move] = Memo(REMEMBERED_BYTES, lambda move: move.nbytes)
_LAYERS: Memo[Layer] = Memo(REMEMBERED_BYTES, lambda layer: layer.nbytes)
_LOOKS: Memo[Look] = Memo(REMEMBERED_BYTES, lambda look: look.nbytes)


def _punched(punch: Punch, course: Course) -> Move:
    return Move.of(course.first, punch=punch.amount * course.part)


def _layer(accent: Accent, course: Course) -> Layer:
    part = course.part
    match accent.what:
        case Fade() as fade:
            return _colour(course.first, fade.colour, fade.amount * part)
        case Tint() as tint:
            return _colour(course.first, tint.colour, tint.amount * part, tint.blend)
        case Strobe() as strobe:
            turns = np.arange(len(part)) // strobe.frames
            return _colour(course.first, strobe.colour, strobe.amount * part * (turns % 2 == 1))
        case other:
            raise TypeError(f"a {other.kind} is no colour")


def _colour(first: int, colour: str, opacity: Floats, blend: BlendMode = "normal") -> Layer:
    none = np.zeros(len(opacity), np.int64)
    return Layer(first, BLACK, none, opacity, blend=blend, colour=colour, accent=True)


def _echoes(trail: Trail, course: Course, ground: FrameMap) -> list[Layer]:
    """The earlier pictures of each clip that fills the frame in a course, the oldest of them lowest."""
    reach = trail.copies * trail.spacing
    around = slice(max(0, course.first - ground.first - reach), course.first - ground.first + len(course))
    seen = (ground.clip[around].tobytes(), ground.picture[around].tobytes(), around.start + ground.first)
    framings = tuple(ground.framings.values())
    return _ECHOES.recall((trail, course, *framings), seen, lambda: list(_echoed(trail, course, ground)))


_ECHOES: Memo[list[Layer]] = Memo(REMEMBERED_BYTES, lambda found: sum(each.nbytes for each in found))


def _echoed(trail: Trail, course: Course, ground: FrameMap) -> Iterator[Layer]:
    """Mixed evenly, each has the share of its weight, the picture itself that of 1."""
    for clip, run in ground.between(course.frames).runs():
        if clip == BLACK:
            continue
        frames = range(course.first + run.start, course.first + run.stop)
        since = _begin_of(ground, frames.start, clip)
        n = np.arange(frames.start, frames.stop)
        here = course.part[run.start : run.stop]
        beneath = np.ones(len(n))
        for copy in range(trail.copies, 0, -1):
            then = n - copy * trail.spacing
            weight = np.where(then >= since, trail.decay**copy, 0.0)
            beneath = beneath + weight
            opacity = here * (weight / beneath if trail.blend == "normal" else weight)
            if opacity.any():
                then = np.maximum(then, since)
                picture, framing = ground.picture[then - ground.first], ground.framings.get(clip)
                framed = framing and Framed(frames.start, framing.on(then))
                yield Layer(
                    frames.start,
                    clip,
                    picture,
                    opacity,
                    blend=trail.blend,
                    echo=True,
                    accent=True,
                    framed=framed,
                )


def _begin_of(ground: FrameMap, n: int, clip: int) -> int:
    """The output frame since which a clip fills the frame without a break, at frame ``n``."""
    others = np.flatnonzero(ground.clip[: n - ground.first] != clip)
    return ground.first + (int(others[-1]) + 1 if len(others) else 0)


def _look(accent: Accent, course: Course) -> Look:
    part = course.part
    match accent.what:
        case Flash() as flash:
            light = part_for(flash.colour, flash.light)
            return Look(course.first, "flash", {"light": light * part}, flash.colour)
        case Dim(amount=amount) | Drain(amount=amount) | Letterbox(amount=amount):
            kind: LookKind = accent.what.kind
            return Look(course.first, kind, {"by": amount * part})
        case ZoomBlur() as blur:
            same = np.ones(len(part))
            values = {"by": blur.amount * part, "x": blur.x * same, "y": blur.y * same}
            return Look(course.first, "zoom-blur", values)
        case other:
            raise TypeError(f"a {other.kind} is no look")
