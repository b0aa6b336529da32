"""What the parts of a document are made of: names, numbers within their limits, colours, courses."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from izmet.core.document.limits import LEAST_SPEED, LONGEST_EFFECT, LONGEST_ID, MOST_PINS, MOST_SPEED
from izmet.core.document.words import one_line

REACH_LIMITS = (0.05, 0.95)
"""How narrow and how wide the fast ends of a dip may be."""

Id = Annotated[str, Field(min_length=1, max_length=LONGEST_ID, pattern=r"^[a-z0-9-]+$")]
Identity = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
Share = Annotated[float, Field(ge=0, le=1)]
Reach = Annotated[float, Field(ge=REACH_LIMITS[0], le=REACH_LIMITS[1])]
Speed = Annotated[float, Field(ge=LEAST_SPEED, le=MOST_SPEED, description="1 is real time")]
Pace = Annotated[float, Field(ge=0, le=MOST_SPEED, description="1 is real time, 0 stands still")]
Side = Annotated[int, Field(ge=16, le=8192, multiple_of=2, description="pixels, even")]
Label = Annotated[str, Field(max_length=200), AfterValidator(one_line)]
Name = Annotated[str, Field(min_length=1, max_length=60), AfterValidator(one_line)]
Title = Annotated[str, Field(min_length=1, max_length=200), AfterValidator(one_line)]
Level = Annotated[float, Field(ge=0, le=4, description="1 is as recorded, 0 silent")]

Easing = Literal["straight", "soft", "sharp", "ease", "ease-in", "ease-out", "ease-in-out"]
EffectFrames = Annotated[int, Field(ge=0, le=LONGEST_EFFECT)]
Seed = Annotated[int, Field(ge=0, le=2**31 - 1)]
CueIds = Annotated[tuple[Id, ...], Field(max_length=MOST_PINS)]
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "color",
]  # fmt: skip
"""How a colour and what lies beneath it are seen as one, as in W3C Compositing and Blending Level 1."""
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Amount = Annotated[float, Field(gt=0, le=1)]


class Frozen(BaseModel):
    """Base of all parts: immutable, and a field that is not known is an error."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed, not validated. What follows from the old ones stays behind."""
        copy = super().model_copy(update=update, deep=deep)
        for name in copy.__dict__.keys() - type(self).model_fields.keys():
            del copy.__dict__[name]
        return copy


class Media(Frozen):
    """Where a file is: by content, by a path relative to the document, or both."""

    name: Label
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    path: str | None = None

    @model_validator(mode="after")
    def _findable(self) -> Self:
        if self.sha256 is None and self.path is None:
            raise ValueError("give the file's sha256 or its path")
        return self
