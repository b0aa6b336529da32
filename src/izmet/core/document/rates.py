"""Time: which output frame does an instant fall on, and how is it written?

Conventions
    A rate is a ``fractions.Fraction`` of frames a second, never a float.
    Frame ``n`` is on screen during ``[n/R, (n+1)/R)``.
    Instants are seconds as float64.

Source for timecode: SMPTE ST 12-1 (drop-frame counting drops the first two
numbers of every minute except each tenth, four at twice the rate).
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

STANDARD_RATES = tuple(
    Fraction(text)
    for text in ("24000/1001", "24", "25", "30000/1001", "30", "48", "50", "60000/1001", "60", "120")
)

WRITTEN = re.compile(r"[0-9]{1,9}(/[0-9]{1,9})?")
PARTS = 10**6
FRAME_TOLERANCE = 1 / PARTS
"""Part of a frame within which an instant counts as lying on the frame's edge."""

LandingRule = Literal["nearest", "before", "after"]


def parse_rate(value: Any) -> Fraction:
    """A rate from ``"30000/1001"``, ``"60"``, an int or a Fraction.

    Raises:
        ValueError: not a rate between 1 and 1000 frames a second. Floats are
            refused: 29.97 is not a rate.
    """
    if isinstance(value, float):
        raise ValueError("write a rate as a fraction, such as 30000/1001")
    try:
        # A few characters such as 1e8000000 would keep a processor busy for minutes.
        if isinstance(value, str) and not WRITTEN.fullmatch(value):
            raise ValueError
        rate = Fraction(value)
    except (TypeError, ValueError, ZeroDivisionError):
        raise ValueError(f"{str(value)[:40]!r} is not a frame rate such as 60 or 30000/1001") from None
    if not 1 <= rate <= 1000:
        raise ValueError(f"a frame rate lies between 1 and 1000, not {rate}")
    return rate


Rate = Annotated[
    Fraction,
    BeforeValidator(parse_rate),
    PlainSerializer(str, return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^\d+(/\d+)?$", "description": "frames a second, exact"}),
]


def nearest_standard(rate: Fraction, tolerance: float = 0.0008) -> Fraction:
    """The standard rate within a relative tolerance of a measured one, else the measured one.

    24 and 24000/1001 lie 0.001 apart, so the tolerance is below half of that.
    """
    best = min(STANDARD_RATES, key=lambda known: abs(known - rate))
    return best if abs(best - rate) <= tolerance * best / 2 else rate.limit_denominator(1001)


def frame_at(seconds: float, rate: Fraction, rule: LandingRule = "nearest") -> int:
    """The output frame on which an instant lands.

    ``nearest`` is ``floor(t·R + 1/2)`` in exact arithmetic, so the residual is
    never more than half a frame. ``before`` and ``after`` forgive FRAME_TOLERANCE.
    """
    # Whole numbers throughout: as exact as fractions, and a song has thousands of cues.
    top, bottom = seconds.as_integer_ratio()
    top, bottom = top * rate.numerator, bottom * rate.denominator
    if rule == "before":
        return (top * PARTS + bottom) // (bottom * PARTS)
    if rule == "after":
        return -((bottom - top * PARTS) // (bottom * PARTS))
    return (2 * top + bottom) // (2 * bottom)


def nearest_frame(frames: Fraction | float) -> int:
    """The whole frame nearest to a place or a length in frames; halves go up, as on landing."""
    return math.floor(frames + (Fraction(1, 2) if isinstance(frames, Fraction) else 0.5))


def first_frame_from(frames: Fraction | float) -> int:
    """The first whole frame that is not before a place: what begins there is not seen earlier."""
    return math.ceil(frames - (0 if isinstance(frames, Fraction) else FRAME_TOLERANCE))


def seconds_at(frame: int, rate: Fraction) -> float:
    """The instant, in seconds, at which a frame appears."""
    return float(frame / rate)


def residual_ms(frame: int, seconds: float, rate: Fraction) -> float:
    """How long after the instant the frame appears, in ms (negative: before)."""
    return float(frame / rate - Fraction(seconds)) * 1000


def timecode(frame: int, rate: Fraction) -> str:
    """A frame number as SMPTE ST 12-1 timecode, drop-frame for the 1001 rates of 30 and 60.

    Raises:
        ValueError: a negative frame.
    """
    if frame < 0:
        raise ValueError("timecode starts at frame 0")
    nominal = math.ceil(rate)
    drops = rate.denominator == 1001 and nominal % 30 == 0
    if drops:
        dropped = nominal // 15
        per_minute = nominal * 60 - dropped
        per_ten = per_minute * 10 + dropped
        tens, rest = divmod(frame, per_ten)
        frame += dropped * 9 * tens
        if rest >= nominal * 60:
            frame += dropped * ((rest - nominal * 60) // per_minute + 1)
    seconds, frames = divmod(frame, nominal)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02}:{minutes:02}:{seconds:02}{';' if drops else ':'}{frames:02}"
