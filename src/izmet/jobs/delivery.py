"""In which form does an edit go out: its format, how good, how loud, of which size and rate?"""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.arrange.inview import kept_in_view
from izmet.core.commands import Configure, apply
from izmet.core.document.edit import Edit
from izmet.core.document.rates import Rate
from izmet.core.document.values import Side
from izmet.media.formats import FORMATS, FormatName, Quality
from izmet.media.stills import FASTEST, LARGEST_LOOP


class Delivery(BaseModel):
    """What is asked of an export; what is not said is as the edit has it."""

    model_config = ConfigDict(frozen=True)

    format: FormatName
    quality: Quality = "good"
    loudness: Annotated[float, Field(ge=-40, le=-5)] | None = Field(None, description="LUFS; null as mixed")
    width: Side | None = None
    height: Side | None = None
    rate: Rate | None = None
    chapters: bool = Field(False, description="by the sections and drops of the music")

    def said(self, edit: Edit) -> str:
        """In which form an edit in it went out, in words."""
        chosen = FORMATS[self.format]
        quality = f", {self.quality} quality" if chosen.qualities else ""
        size = f", {edit.width}×{edit.height}" if chosen.pictures else ""
        return f"{chosen.name}{quality}{size}"

    def of(self, edit: Edit) -> Edit:
        """The edit in the form that is asked: in another shape, what its ties are about stays in view."""
        said: dict[str, Any] = {"width": self.width, "height": self.height, "rate": self.rate}
        if FORMATS[self.format].loops:
            said = loop_of(edit) | {name: value for name, value in said.items() if value is not None}
        changes = {name: value for name, value in said.items() if value not in (None, getattr(edit, name))}
        if not changes:
            return edit
        changed = apply(edit, Configure.model_validate(changes))
        sides = (changed.width * edit.height, changed.height * edit.width)
        return changed if sides[0] == sides[1] else kept_in_view(changed)


def loop_of(edit: Edit) -> dict[str, int | Fraction]:
    """The size and the rate of a loop where nothing else is said: small, and of every so many-th frame."""
    by = min(1.0, LARGEST_LOOP / max(edit.width, edit.height))
    width, height = (max(16, 2 * round(by * side / 2)) for side in (edit.width, edit.height))
    return {"width": width, "height": height, "rate": edit.rate / math.ceil(edit.rate / FASTEST)}
