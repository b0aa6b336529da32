"""Where must the next clip begin so that what moves goes on across the cut?

Compared are what is seen last before the cut and what would be seen first after it: the
way the content moves on the screen, how fast, and where in the picture that is which goes
its own way. Score of a beginning:

    cos(turn) − PACE · |log2(speed after ÷ speed before)| − PLACE · distance

with the distance in parts of the picture; where nothing moves before the cut only the
place counts, and how little moves after it. Weights are our own choice.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from pydantic import BaseModel

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.refusal import Place, Refusal
from izmet.core.following.montage import FLICKER, MOVES, Drift, Moving, moving
from izmet.core.retime.solve import Curve, solve
from izmet.core.shown.stack import frames_shown

PACE, PLACE = 0.4, 1.2
MOST_OCTAVES = 3.0
BEST = 4
APART_SECONDS = 0.4
"""Of the take, between two that are proposed."""
SLOWEST, FASTEST = 0.1, 8.0
"""Mean speeds up to the next tie that a new beginning may ask for."""


class Beginning(BaseModel):
    """A source frame from which the next clip would go on; ``degrees`` and ``pace`` where both sides move.

    ``pace`` is the speed on the screen after the cut ÷ before it, ``apart`` a distance in
    parts of the picture.
    """

    frame: int
    score: float
    degrees: float | None
    pace: float | None
    apart: float


def beginnings(edit: Edit, before: str, after: str, drifts: Mapping[str, Drift]) -> list[Beginning]:
    """The best beginnings of the clip after a cut, the best one first; at most BEST.

    Args:
        drifts: per take id, how its content moves.

    Raises:
        Refusal: the two do not meet, or one of their takes has not been looked at.
    """
    clip, shown = edit.clip(after), frames_shown(edit)
    curve = solve(edit, clip)
    index = curve.first - 1 - shown.first
    for _ in range(FLICKER):  # a blink of black belongs to the cut
        if 0 <= index < len(shown) and shown.request(index).clip is None:
            index -= 1
    if not 0 <= index < len(shown) or shown.request(index).clip != before:
        raise Refusal("no-cut", "These two clips do not meet.", Place.of(before, after), "Choose a cut.")
    asked = shown.request(index)
    out_drift, in_drift = (drifts.get(edit.clip(id).take) for id in (before, after))
    if out_drift is None or in_drift is None:
        raise Refusal(
            "not-looked-at",
            "One of the two takes has not been looked at yet.",
            remedy="Wait until both have been read.",
        )
    left, take = edit.clip(before), edit.take(clip.take)
    out = moving(out_drift, asked.picture, -asked.direction, asked.direction, edit.take(left.take))
    out = out.at_speed(abs(asked.speed) * _step(edit, left))
    way = -1 if clip.reversed else 1
    frames, speeds = _frames(edit, clip, curve, len(in_drift.dx))
    found = [
        _beginning(frame, out, moving(in_drift, frame, way, way, take).at_speed(speed))
        for frame, speed in zip(frames.tolist(), speeds * _step(edit, clip), strict=True)
    ]
    return _best(found, APART_SECONDS * float(take.rate))


def _step(edit: Edit, clip: Clip) -> float:
    """Source frames that pass per output frame at real time."""
    return float(edit.take(clip.take).rate / edit.rate)


def _frames(edit: Edit, clip: Clip, curve: Curve, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Source frames that the clip could begin with, and the speed at which it would run on from each."""
    frames, way = np.arange(count), -1 if clip.reversed else 1
    ahead = [
        fixed
        for fixed, pin in zip(curve.pins, clip.pins, strict=True)
        if pin.moment is not None and fixed.n > curve.first
    ]
    if not ahead:
        speeds = np.full(count, abs(float(curve.speed[0])) or 1.0)
        left = (count - frames if way > 0 else frames + 1) >= np.abs(curve.source[-1] - curve.source[0])
        return frames[left], speeds[left]
    tie = min(ahead)
    speeds = (tie.p - frames) * way / (_step(edit, clip) * (tie.n - curve.first))
    fits = (speeds >= SLOWEST) & (speeds <= FASTEST)
    return frames[fits], speeds[fits]


def _beginning(frame: int, out: Moving, into: Moving) -> Beginning:
    apart = float(np.hypot(into.across - out.across, into.down - out.down))
    fast, other = np.hypot(out.dx, out.dy), np.hypot(into.dx, into.dy)
    if fast < MOVES or other < MOVES:
        stands = fast < MOVES and other < MOVES
        score = (1.0 if stands else -0.5) - PLACE * apart
        return Beginning(frame=frame, score=score, degrees=None, pace=None, apart=apart)
    turn = float(np.arctan2(into.dy, into.dx) - np.arctan2(out.dy, out.dx))
    pace = float(other / fast)
    octaves = min(MOST_OCTAVES, abs(float(np.log2(pace))))
    score = float(np.cos(turn)) - PACE * octaves - PLACE * apart
    degrees = abs((np.degrees(turn) + 180) % 360 - 180)
    return Beginning(frame=frame, score=score, degrees=float(degrees), pace=pace, apart=apart)


def _best(found: list[Beginning], apart: float) -> list[Beginning]:
    kept: list[Beginning] = []
    for each in sorted(found, key=lambda each: -each.score):
        if all(abs(each.frame - other.frame) > apart for other in kept):
            kept.append(each)
        if len(kept) == BEST:
            break
    return kept
