"""How much of a colour must lie over the picture so that even its darkest spot has a given light?

Light is CIE L* (CIE 015:2004): 116 f(Y) − 16, f the cube root with its straight foot. Y is the relative
luminance of the colour as the screen decodes it (IEC 61966-2-1, sRGB; its weights are those of ITU-R BT.709).
"""

from __future__ import annotations

from functools import cache

import numpy as np

from izmet.core.retime.profile import Floats

WEIGHTS = np.array([0.2126, 0.7152, 0.0722])
FOOT, SLOPE = (6 / 29) ** 3, (29 / 3) ** 3
PARTS = np.linspace(0, 1, 4097)


def channels_of(colour: str) -> Floats:
    """Red, green and blue of a colour in hexadecimal, 0 to 1."""
    return np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)]) / 255


def luminance(coded: Floats) -> Floats:
    """Relative luminance of colours as they are coded, 0 to 1; shape (..., 3) in, (...) out."""
    linear = np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4)
    found: Floats = linear @ WEIGHTS
    return found


def differences(colour: str) -> Floats:
    """What a colour in hexadecimal has of blue and of red, each −0.5 to 0.5: ITU-R BT.709."""
    red, _, blue = channels = channels_of(colour)
    luma = float(channels @ WEIGHTS)
    return np.array([(blue - luma) / (2 - 2 * WEIGHTS[2]), (red - luma) / (2 - 2 * WEIGHTS[0])])


def chroma(colour: str) -> float:
    """How far a colour in hexadecimal is from grey: the length of its differences."""
    return float(np.hypot(*differences(colour)))


def lightness(y: Floats) -> Floats:
    """CIE L* of relative luminance, 0 to 100."""
    return np.where(y <= FOOT, SLOPE * y, 116 * np.cbrt(y) - 16)


@cache
def part_for(colour: str, light: float) -> float:
    """The part of a colour over black that has this L*; 1 where all of it has less."""
    return float(np.interp(light, lightness(luminance(PARTS[:, None] * channels_of(colour))), PARTS))
