"""How a clip comes in over the one before it."""

from __future__ import annotations

from math import hypot, inf
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from izmet.core.document.framing import Part
from izmet.core.document.limits import LONGEST_EFFECT, MOST_CORNERS
from izmet.core.document.values import Easing, Frozen, Id, Share

LEAST_REACH = 0.005
"""How near the sides of a polygon may come to its point, in parts of the frame: it grows about that."""
Beside = Annotated[float, Field(ge=-1, le=1, description="parts of the frame")]


class Corner(Frozen):
    """A corner of a polygon beside its point."""

    x: Beside
    y: Beside


Corners = Annotated[tuple[Corner, ...], Field(max_length=MOST_CORNERS)]


class Reveal(Frozen):
    """The shape through which a clip is first seen; it grows about its point until it fills the frame.

    An ellipse or a box is so large as drawn, a polygon has its ``corners`` beside the point. It
    begins ``closed``, or as it is drawn, and grows along ``grow``. It may follow a ``track`` of the clip that
    goes; then its point is that of the track.
    """

    shape: Literal["ellipse", "box", "polygon"] = "ellipse"
    x: Share = 0.5
    y: Share = 0.5
    width: Part = 0.3
    height: Part = 0.4
    corners: Corners = ()
    closed: bool = True
    grow: Easing = "ease-in"
    track: Id | None = None

    @model_validator(mode="after")
    def _around_its_point(self) -> Self:
        if (self.shape == "polygon") != bool(self.corners):
            raise ValueError("a polygon has corners, and nothing else has")
        if self.corners and len(self.corners) < 3:
            raise ValueError("a polygon has three corners or more")
        if self.corners and (not _holds_point(self.corners) or _nearest(self.corners) < LEAST_REACH):
            raise ValueError("the point must lie inside the polygon, clear of its sides")
        return self


def _holds_point(corners: Corners) -> bool:
    """Whether (0, 0) lies inside, by the even-odd rule."""
    crossed = 0
    for one, other in zip(corners, (*corners[1:], corners[0]), strict=True):
        if (one.y > 0) != (other.y > 0):
            crossed += one.x - one.y * (other.x - one.x) / (other.y - one.y) > 0
    return crossed % 2 == 1


def _nearest(corners: Corners) -> float:
    """How near the sides come to (0, 0)."""
    found = inf
    for one, other in zip(corners, (*corners[1:], corners[0]), strict=True):
        across, down = other.x - one.x, other.y - one.y
        length = across**2 + down**2
        along = 0.0 if length == 0 else min(1.0, max(0.0, -(one.x * across + one.y * down) / length))
        found = min(found, hypot(one.x + along * across, one.y + along * down))
    return found


OverlapKind = Literal["dissolve", "wipe", "push", "iris", "zoom", "spin", "dip", "reveal"]
Way = Literal["left", "right", "up", "down"]


class Overlap(Frozen):
    """How a clip comes in over the one before it, for some output frames, half on each side of the cut.

    In a ``dissolve`` the one fades as the other comes; in a ``wipe`` an edge goes over the frame, and the
    clip that comes is behind it; in a ``push`` it pushes the other out; both go the ``way`` that is
    said. In an ``iris`` the clip that comes is seen through an ellipse that opens; in a ``zoom`` the one
    that goes grows as it fades; in a ``spin`` both make a quarter turn, clockwise where they go right or
    down. In a ``dip`` the picture goes to black before the cut, and comes back from there. In a ``reveal``
    it is seen through a shape that grows; that ends on the cut, and all of it lies before.
    """

    kind: OverlapKind = "dissolve"
    way: Way = "left"
    frames: Annotated[int, Field(ge=1, le=LONGEST_EFFECT)]
    reveal: Reveal = Reveal()
