"""Where does an edit flash so often that it may harm?

WCAG 2.2, success criterion 2.3.1 and its general flash threshold: more than three flashes within any one
second, a flash being a pair of opposing changes of relative luminance by a tenth or more where the darker
is below 0.80, over a quarter of the screen. While an edit is made accents, and dips to black, are looked
at, which light all of it: over a black picture and over a grey one. What footage, cuts and shapes do besides
is told of the pictures of a finished file.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Edit
from izmet.core.retime.profile import Floats
from izmet.core.shown.framemap import FrameMap, Layer, Look
from izmet.core.shown.light import channels_of, luminance

GREATEST_FLASHES = 3
LEAST_CHANGE, LIGHT = 0.1, 0.8
LEAST_AREA = 0.25
PICTURES = (0.0, 0.5)
"""The pictures under the accents, as they are coded: black and grey."""


class Flashing(NamedTuple):
    """A stretch of output frames, ``last`` included, with more flashes a second than may be."""

    first: int
    last: int


def flashing(edit: Edit, shown: FrameMap) -> list[Flashing]:
    """All stretches of an edit that flash too often, in order."""
    lit: list[Layer | Look] = [each for each in shown.layers if each.is_opaque]
    lit += [look for look in shown.looks if look.kind in ("flash", "dim")]
    found: set[int] = set()
    for frames in _stretches(lit, round(edit.rate)):
        for picture in PICTURES:
            found |= _too_often(luminance(_seen(shown, frames, picture)), frames.start, float(edit.rate))
    return _runs(sorted(found), round(edit.rate))


def flashing_in(light: Floats, first: int, rate: float) -> list[Flashing]:
    """All stretches of some pictures that flash too often, in order.

    Args:
        light: relative luminance of the cells of each picture, all of one size, shape (count, cells).
        first: the output frame of the first picture.
    """
    cells = Counter(
        n for cell in light.T for run in _harm(cell, first, rate) for n in range(run.first, run.last + 1)
    )
    least = LEAST_AREA * light.shape[1]
    return _runs(sorted(n for n, count in cells.items() if count >= least), round(rate))


def _harm(light: Floats, first: int, rate: float) -> list[Flashing]:
    return _runs(sorted(_too_often(light, first, rate)), round(rate))


def _stretches(lit: Sequence[Layer | Look], second: int) -> list[range]:
    """The output frames on which accents light the frame, with what lies within a second as one."""
    found: list[range] = []
    for run in sorted(lit, key=lambda each: each.first):
        frames = range(run.first - 1, run.first + len(run) + 1)
        if found and frames.start <= found[-1].stop + second:
            found[-1] = range(found[-1].start, max(found[-1].stop, frames.stop))
        else:
            found.append(frames)
    return found


def _seen(shown: FrameMap, frames: range, picture: float) -> Floats:
    """The colour that a plain picture has on each of some frames, shape (frames, 3)."""
    seen = np.full((len(frames), 3), picture)
    for layer in shown.layers:
        if layer.is_opaque and layer.meets(frames):
            over = layer.between(frames)
            here, part = over.within(frames), over.opacity[:, None]
            seen[here] += part * (channels_of(layer.colour) - seen[here])
    for look in shown.looks:
        if look.kind in ("flash", "dim") and look.meets(frames):
            done = look.between(frames)
            here = done.within(frames)
            if look.kind == "dim":
                seen[here] *= 1 - done.values["by"][:, None]
            else:
                seen[here] += done.values["light"][:, None] * (channels_of(look.colour) - seen[here])
    return seen


def _too_often(light: Floats, first: int, rate: float) -> set[int]:
    """The frames at which the last change of too many within a second ends."""
    turns = _changes(light.tolist())
    most = 2 * GREATEST_FLASHES
    late = zip(turns, turns[most:], strict=False)
    return {first + n for begin, end in late if end - begin < rate for n in (begin, end)}


def _changes(light: Sequence[float]) -> list[int]:
    """The frames at which a change of luminance is large enough, each against the way of the last."""
    found: list[int] = []
    extreme, way = light[0], 0
    for n, now in enumerate(light):
        if (now - extreme) * way > 0:
            extreme = now
            if found:
                found[-1] = n
        elif abs(now - extreme) >= LEAST_CHANGE and min(now, extreme) < LIGHT:
            way = 1 if now > extreme else -1
            extreme = now
            found.append(n)
    return found


def _runs(frames: Sequence[int], second: int) -> list[Flashing]:
    found: list[Flashing] = []
    for n in frames:
        if found and n - found[-1].last <= second:
            found[-1] = Flashing(found[-1].first, n)
        else:
            found.append(Flashing(n, n))
    return found
