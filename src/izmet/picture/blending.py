"""Two pictures seen as one: the blend modes of W3C Compositing and Blending Level 1.

Conventions
    Colours are red, green and blue as they are coded, 0 to 1, shape (..., 3): B(cb, cs) of the
    backdrop and of the source over it, each channel by itself but for ``color``.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Colours = NDArray[np.float32]
LUM = np.array([0.3, 0.59, 0.11], np.float32)
"""Of red, green and blue, as that specification has it for blending."""


def _hard_light(b: Colours, s: Colours) -> Colours:
    return np.where(s <= 0.5, 2 * b * s, b + (2 * s - 1) - b * (2 * s - 1))


def _soft_light(b: Colours, s: Colours) -> Colours:
    d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))


def _dodge(b: Colours, s: Colours) -> Colours:
    full = np.minimum(1, b / np.maximum(1 - s, 1e-6))
    return np.where(b <= 0, 0, np.where(s >= 1, 1, full))


def _burn(b: Colours, s: Colours) -> Colours:
    full = 1 - np.minimum(1, (1 - b) / np.maximum(s, 1e-6))
    return np.where(b >= 1, 1, np.where(s <= 0, 0, full))


def _color(b: Colours, s: Colours) -> Colours:
    """The hue and saturation of the source with the light of the backdrop: SetLum and ClipColor."""
    moved = s + (b @ LUM - s @ LUM)[..., None]
    light = (moved @ LUM)[..., None]
    low, high = moved.min(axis=-1, keepdims=True), moved.max(axis=-1, keepdims=True)
    moved = np.where(low < 0, light + (moved - light) * light / np.maximum(light - low, 1e-6), moved)
    return np.where(high > 1, light + (moved - light) * (1 - light) / np.maximum(high - light, 1e-6), moved)


BLENDS: dict[str, Callable[[Colours, Colours], Colours]] = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: _hard_light(s, b),
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": _dodge,
    "color-burn": _burn,
    "hard-light": _hard_light,
    "soft-light": _soft_light,
    "difference": lambda b, s: np.abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "color": _color,
}
"""By name, B(cb, cs)."""
