"""In which form does an edit go out: its format, how good, how loud, of which size and rate?"""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.arrange.inview import kept_in_view
from izmet.core.commands import Configure, apply
from izmet.core.document.edit import Edit
from izmet.core.document.rates import Rate
from izmet.core.document.values import Side
from izmet.media.formats import FORMATS, FormatName, Quality


class Delivery(BaseModel):
    """What is asked of an export; what is not said is as the edit has it."""

    model_config = ConfigDict(frozen=True)

    format: FormatName
    quality: Quality = "good"
    loudness: Annotated[float, Field(ge=-40, le=-5)] | None = Field(None, description="LUFS; null as mixed")
    width: Side | None = None
    height: Side | None = None
    rate: Rate | None = None

    def said(self, edit: Edit) -> str:
        """In which form an edit in it went out, in words."""
        quality = (
            f", {self.quality} quality" if (video := FORMATS[self.format].video) and video.qualities else ""
        )
        size = f", {edit.width}×{edit.height}" if video else ""
        return f"{FORMATS[self.format].name}{quality}{size}"

    def of(self, edit: Edit) -> Edit:
        """The edit in the form that is asked: in another shape, what its ties are about stays in view."""
        said = {"width": self.width, "height": self.height, "rate": self.rate}
        changes = {name: value for name, value in said.items() if value not in (None, getattr(edit, name))}
        if not changes:
            return edit
        changed = apply(edit, Configure.model_validate(changes))
        sides = (changed.width * edit.height, changed.height * edit.width)
        return changed if sides[0] == sides[1] else kept_in_view(changed)
