"""How does the speed move inside one span, and how far does that carry the picture?

A profile is a row of knots ``(u, v)``: ``u`` from 0 to 1 along the span, ``v`` a
signed speed relative to real time, below 0 where the picture runs backwards. Two
knots are joined by the smoothstep ``3x² − 2x³`` or by a straight line; both are symmetric
about their middle, so the area under a transition is the trapezoid's and the whole area
is linear in the knot speeds. Two knots at one ``u`` are a hard change. The area is the span's mean
speed; it may be 0, as when a span goes back and comes again, so nothing divides by it.

Source: the transition is the Bézier easing (1/3, 0, 2/3, 1) of CSS Easing Functions
Level 1, and the monotone cubic through plateau knots of Fritsch & Carlson (1980).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Profile:
    """Knots of one span: ``u`` of shape (k,) rising from 0 to 1, ``v`` of shape (k,).

    ``straight`` tells which pieces are lines, shape (k − 1,); None where none is.
    """

    u: Floats
    v: Floats
    straight: NDArray[np.bool_] | None = None

    @classmethod
    def of(cls, *knots: tuple[float, float], straight: NDArray[np.bool_] | None = None) -> Profile:
        """A profile from pairs (u, v)."""
        u, v = np.array(knots, dtype=np.float64).T
        return cls(u, v, straight if straight is not None and straight.any() else None)

    @property
    def mirrored(self) -> Profile:
        """The same speeds from its end to its start."""
        straight = None if self.straight is None else self.straight[::-1]
        return Profile(1 - self.u[::-1], self.v[::-1], straight)

    @cached_property
    def runs(self) -> Floats:
        """The speeds at both sides of each piece that has a length, in order: those that do run."""
        if len(self.v) == 2:
            return self.v
        lasting = np.diff(self.u) > 0
        return np.stack([self.v[:-1][lasting], self.v[1:][lasting]], axis=1).ravel()

    def between(self, begin: float, end: float) -> Profile:
        """The part of it from one ``u`` to another, from 0 to 1 again; its bends are cut, not kept."""
        inside = (self.u > begin) & (self.u < end)
        at = np.array([begin, np.nextafter(end, begin)])
        first, last = self.speed(at).tolist()
        u = np.concatenate([[begin], self.u[inside], [end]])
        return Profile((u - begin) / (end - begin), np.concatenate([[first], self.v[inside], [last]]))

    @property
    def slowest(self) -> float:
        """The lowest speed of its knots."""
        speeds: list[float] = self.v.tolist()  # quicker than numpy for so few
        return min(speeds)

    def speed(self, at: Floats) -> Floats:
        """Speed at each ``u``, shape as given. After a hard change, the new speed."""
        return self.speed_and_advance(at)[0]

    def advance(self, at: Floats) -> Floats:
        """The integral of ``speed`` from 0 to each ``u``; at 1 it is the mean speed."""
        return self.speed_and_advance(at)[1]

    def speed_and_advance(self, at: Floats) -> tuple[Floats, Floats]:
        """Both at once, each of the shape given: a drag asks for both at every step."""
        if len(self.v) == 2 and self.v[0] == self.v[1]:
            return np.full(at.shape, self.v[0]), self.v[0] * np.minimum(at, 1.0)
        widths, rises = np.diff(self.u), np.diff(self.v)
        whole = np.concatenate([[0.0], np.cumsum(widths * (self.v[:-1] + rises / 2))])
        piece = self.u[1:-1].searchsorted(at, side="right")
        low, rise, width = self.v[piece], rises[piece], widths[piece]
        x = np.divide(at - self.u[piece], width, out=np.ones_like(at), where=width > 0)
        x = np.minimum(x, 1.0)
        risen = rise * x * x
        speed, passed = low + risen * (3 - 2 * x), low + risen * (1 - x / 2)
        if self.straight is not None:
            line = self.straight[piece]
            speed, passed = np.where(line, low + rise * x, speed), np.where(line, low + rise * x / 2, passed)
        return speed, whole[piece] + width * x * passed
