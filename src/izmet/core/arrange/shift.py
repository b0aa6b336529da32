"""By how little must the song move so that the landings fall closest to their cues?

Frames lie on a grid, cues do not: each landing is off by up to half a frame. Moving the
song by less than half a frame moves all cues together; the shift is the one at which the
weighted mean of squared residuals is least. Between the places where a cue changes its
frame the sum is a parabola, so its least value lies at the weighted mean residual or at
the piece's edge, and all pieces are tried.
"""

from __future__ import annotations

import math
from itertools import pairwise

from pydantic import BaseModel

from izmet.core.document.edit import Edit
from izmet.core.document.rates import FRAME_TOLERANCE, frame_at


class SongShift(BaseModel):
    """A shift in seconds, the song's start after it, and weighted RMS residuals in ms before and after."""

    by: float
    start: float
    before_ms: float
    after_ms: float


def least_shift(edit: Edit) -> SongShift | None:
    """The best shift of the song by less than half a frame; None without ties."""
    if edit.song is None:
        return None
    ties = [
        (edit.instant(pin.cue), edit.cue(pin.cue).strength * edit.moment(clip.take, pin.moment).weight)
        for clip in edit.clips
        for pin in clip.pins
        if pin.cue is not None and pin.moment is not None
    ]
    ties = [(instant, weight) for instant, weight in ties if weight > 0]
    if not ties:
        return None
    half = 0.5 / float(edit.rate)
    edges = sorted({-half, half, *(edge for instant, _ in ties for edge in _edges(edit, instant, half))})
    tries = [0.0]
    for left, right in pairwise(edges):
        middle = (left + right) / 2
        frames = [frame_at(instant + middle, edit.rate, edit.landing) for instant, _ in ties]
        total = sum(weight for _, weight in ties)
        best = sum(
            weight * (frame / float(edit.rate) - instant)
            for frame, (instant, weight) in zip(frames, ties, strict=True)
        )
        inside = min((right - left) * 1e-3, 2 * FRAME_TOLERANCE / float(edit.rate))
        tries.append(min(max(best / total, left + inside), right - inside))
    by = min(tries, key=lambda shift: (_rms(edit, ties, shift), abs(shift)))
    return SongShift(
        by=by,
        start=edit.song.start + by,
        before_ms=_rms(edit, ties, 0.0),
        after_ms=_rms(edit, ties, by),
    )


def _edges(edit: Edit, instant: float, half: float) -> list[float]:
    """Shifts within half a frame at which an instant changes its frame."""
    offset = 0.5 if edit.landing == "nearest" else 0.0
    place = instant * float(edit.rate) - offset
    found = [(whole - place) / float(edit.rate) for whole in (math.floor(place), math.floor(place) + 1)]
    return [shift for shift in found if -half < shift < half]


def _rms(edit: Edit, ties: list[tuple[float, float]], shift: float) -> float:
    total = sum(weight for _, weight in ties)
    squares = sum(
        weight * (frame_at(at + shift, edit.rate, edit.landing) / float(edit.rate) - at - shift) ** 2
        for at, weight in ties
    )
    return 1000 * math.sqrt(squares / total)
