"""What is written over the picture, how it comes and goes; and where the edit ends."""

from __future__ import annotations

from functools import cached_property
from hashlib import sha256
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from izmet.core.document.framing import Across, Scale, Turn
from izmet.core.document.limits import LONGEST_TITLE, MOST_LINES
from izmet.core.document.places import Pin, Stretch
from izmet.core.document.sounds import Seconds
from izmet.core.document.values import Colour, Easing, EffectFrames, Frozen, Id, Share
from izmet.core.document.words import one_line


def _lines(text: str) -> str:
    """Text of a few lines, none of them with control characters. Raises ValueError when nothing is left."""
    lines = [one_line(line).rstrip() for line in text.splitlines()]
    if not any(line.strip() for line in lines):
        raise ValueError("a title has a letter at least")
    if len(lines) > MOST_LINES:
        raise ValueError(f"a title has at most {MOST_LINES} lines")
    return "\n".join(lines)


Text = Annotated[str, Field(min_length=1, max_length=LONGEST_TITLE), AfterValidator(_lines)]
Font = Literal["sans", "serif"]
Behind = Literal["nothing", "shadow", "plate"]
LetterSize = Annotated[float, Field(ge=0.02, le=0.5, description="part of the frame's height")]


class Entrance(Frozen):
    """How a title comes, or, the other way round, how it goes.

    Over so many output frames it moves along ``ease`` from where it lies beside its place, in parts of the
    frame, so large and turned by so many degrees; with ``fade`` it is seen little by little.
    """

    frames: EffectFrames = 8
    x: Across = 0.0
    y: Across = 0.0
    scale: Scale = 1.0
    turn: Turn = 0.0
    fade: bool = True
    ease: Easing = "soft"


class Written(Frozen):
    """Some lines, and all that decides how their letters look.

    They are of ``size`` from line to line. What lies ``behind`` keeps them readable.
    """

    text: Text
    font: Font = "sans"
    bold: bool = True
    size: LetterSize = 0.12
    colour: Colour = "#ffffff"
    align: Literal["left", "middle", "right"] = "middle"
    behind: Behind = "shadow"

    @cached_property
    def drawn(self) -> str:
        """All that it is, as a short hash: two that are drawn alike have the same."""
        said = self.model_dump_json(include=set(Written.model_fields))
        return sha256(said.encode()).hexdigest()[:16]


class Lettering(Written, Stretch):
    """A title over all that is seen, from an output frame or a cue on, and before another one.

    ``across`` is where its lines begin, end, or have their middle, as they are aligned, ``down`` the middle
    of all. On a ``card`` of one colour nothing else is seen. One that stays ``to_end`` does so where the edit
    has an ending.
    """

    id: Id
    on: bool = True
    across: Share = 0.5
    down: Share = 0.5
    card: Colour | None = None
    comes: Entrance = Entrance()
    goes: Entrance = Entrance()
    to_end: bool = False


class Ending(Frozen):
    """Where the picture ends: on an output frame or a cue, or where a ``sound`` ends that is laid.

    From there on it is black, but for titles, for a ``tail`` over which all that is heard fades out.
    """

    at: Pin
    sound: Id | None = None
    tail: Seconds = 1.0

    @model_validator(mode="after")
    def _placed(self) -> Self:
        if self.at.open_n or not self.at.open_p:
            raise ValueError("an edit ends on an output frame or on a cue")
        return self
