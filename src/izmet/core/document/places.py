"""Where something stands: on an output frame or a cue, and what of a take is seen there."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.values import Frozen, Id


class Pin(Frozen):
    """At output frame ``n`` show source frame ``p``.

    A tie's ``n`` follows a cue and its ``p`` a moment. What a pin leaves open follows from
    the spans beside it. With ``through``, the speed into the pin is the speed out of it.
    ``skip`` source frames after the pin's own are left out; below 0 so many are shown again.
    While a tie is ``guarded``, nothing of its moment is mixed into another frame.
    """

    id: Id
    n: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] | None = None
    p: Annotated[float, Field(ge=0, le=MOST_FRAMES)] | None = None
    cue: Id | None = None
    moment: Id | None = None
    through: bool = False
    guarded: bool = True
    skip: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] = 0
    loose: Annotated[float, Field(allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _one_source_each(self) -> Pin:
        if self.n is not None and self.cue is not None:
            raise ValueError("a pin takes its output frame from n or from a cue, not from both")
        if self.p is not None and self.moment is not None:
            raise ValueError("a pin takes its source frame from p or from a moment, not from both")
        if self.loose is not None and (self.n is None or self.moment is None):
            raise ValueError("a loose tie has a moment and an output frame")
        return self

    @property
    def open_n(self) -> bool:
        return self.n is None and self.cue is None

    @property
    def open_p(self) -> bool:
        return self.p is None and self.moment is None

    @property
    def is_fixed(self) -> bool:
        """Whether it says both itself."""
        return not (self.open_n or self.open_p)

    @property
    def is_tie(self) -> bool:
        return self.cue is not None and self.moment is not None


class Stretch(Frozen):
    """A stretch of the edit: from an output frame or a cue on, and before another one."""

    since: Pin
    until: Pin

    @model_validator(mode="after")
    def _placed(self) -> Stretch:
        if any(edge.open_n or not edge.open_p for edge in (self.since, self.until)):
            raise ValueError("a stretch begins and ends on an output frame or a cue")
        return self
