"""Through which part of the frame is a clip seen while it is revealed?

A shape is drawn about a point and grows there, until all of the frame lies in it: by the least factor at
which each corner of the frame is inside. Of a polygon that is told on the rays from the point to these, and
to its own corners, between which its sides are straight.
"""

from __future__ import annotations

import numpy as np

from izmet.core.document.overlaps import Reveal
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.shown.framemap import Place, Placing

SLACK = 1e-9


def revealed(reveal: Reveal, first: int, far: Floats, point: Floats) -> Placing:
    """The part of the frame that is seen, on frames from ``first`` on.

    Args:
        far: how far it is on each frame, 0 to 1; shape (count,).
        point: where its point is, in parts of the frame; shape (2, count).
    """
    begin = 0.0 if reveal.closed else 1.0
    grown, _ = eased(reveal.grow, far)
    factor = begin + (np.maximum(covering(reveal, point), begin) - begin) * grown
    halves = np.array([1.0, 1.0] if reveal.corners else [reveal.width / 2, reveal.height / 2])
    reach = factor * halves[:, None]
    values = np.tile(np.array(Place()), (len(far), 1))
    for side, column in zip(
        ("left", "top", "right", "bottom"), (*(point - reach), *(point + reach)), strict=True
    ):
        values[:, Place._fields.index(side)] = column
    return Placing(first, values, reveal.shape, reveal.corners)


def covering(reveal: Reveal, point: Floats) -> Floats:
    """How many times as large as it is drawn the shape covers the frame, about each point; shape (count,)."""
    ways = np.array([[0, 1, 0, 1], [0, 0, 1, 1]])[:, :, None] - point[:, None]
    if reveal.corners:
        corners = np.array([(corner.x, corner.y) for corner in reveal.corners])
        needed = [_gauge(corners, way) for way in ways.swapaxes(0, 1)]
        needed += [_to_edge(point, corner) * _gauge(corners, corner[:, None]) for corner in corners]
        most: Floats = np.max(needed, axis=0)
        return most
    parts = np.abs(ways) / np.array([reveal.width / 2, reveal.height / 2])[:, None, None]
    found: Floats = (np.hypot(*parts) if reveal.shape == "ellipse" else parts.max(axis=0)).max(axis=0)
    return found


def _gauge(corners: Floats, way: Floats) -> Floats:
    """How many times as large a polygon about (0, 0) reaches places, shape (2, count), on rays that cross its
    sides once; where one crosses them more often, the nearest counts."""
    found = np.zeros(way.shape[1])
    for one, other in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        side = other - one
        across = way[0] * side[1] - way[1] * side[0]
        safe = np.where(np.abs(across) < SLACK, 1, across)
        along = (one[0] * way[1] - one[1] * way[0]) / safe
        beyond = one[0] * side[1] - one[1] * side[0]
        met = (np.abs(across) >= SLACK) & (along >= -SLACK) & (along <= 1 + SLACK)
        times = across / (beyond if abs(beyond) >= SLACK else SLACK)
        found = np.maximum(found, np.where(met, times, 0))
    return found


def _to_edge(point: Floats, way: Floats) -> Floats:
    """How many times a step can be made from each point before it leaves the frame, shape (count,)."""
    room = [
        np.where(step > 0, 1 - at, -at) / step if abs(step) > SLACK else np.full(len(at), np.inf)
        for at, step in zip(point, way, strict=True)
    ]
    times: Floats = np.maximum(np.minimum(*room), 0)
    return np.where(np.isfinite(times), times, 0)
