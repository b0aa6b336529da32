"""Commands about accents: what is seen over the picture, bound to a cue or an output frame."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, Frame, new_id, placed, unclear, with_
from izmet.core.document.edit import Edit, Flash, Id
from izmet.core.document.limits import LONGEST_EFFECT
from izmet.core.document.refusal import Refusal

Frames = Annotated[int, Field(ge=0, le=LONGEST_EFFECT)]
Light = Annotated[float, Field(gt=0, le=1)]


class AddFlash(EditCommand):
    """A flash on a cue, or on an output frame."""

    do: Literal["add-flash"] = "add-flash"
    said: ClassVar[str] = "Add a flash"
    at: Frame | Id
    light: Light = 0.8
    lead: Frames = 0
    tail: Frames = 8

    def on(self, edit: Edit) -> Edit:
        values = self.model_dump(exclude={"do", "at"})
        flash = Flash(id=new_id("accent", edit.accents), at=placed("at", self.at), **values)
        return with_(edit, accents=[*edit.accents, flash])


class ChangeAccent(EditCommand):
    """Change some values of an accent, or where it stands."""

    do: Literal["change-accent"] = "change-accent"
    said: ClassVar[str] = "Change an accent"
    accent: Id
    at: Frame | Id | None = None
    light: Light | None = None
    lead: Frames | None = None
    tail: Frames | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(exclude={"do", "accent"}, exclude_none=True)
        if not changes:
            raise unclear("Say what of the accent changes.")
        if self.at is not None:
            changes["at"] = placed("at", self.at)
        _find(edit, self.accent)
        return with_(
            edit,
            accents=[with_(each, **changes) if each.id == self.accent else each for each in edit.accents],
        )


class RemoveAccent(EditCommand):
    """Take an accent away."""

    do: Literal["remove-accent"] = "remove-accent"
    said: ClassVar[str] = "Remove an accent"
    accent: Id

    def on(self, edit: Edit) -> Edit:
        _find(edit, self.accent)
        return with_(edit, accents=[each for each in edit.accents if each.id != self.accent])


def _find(edit: Edit, id: str) -> None:
    if all(each.id != id for each in edit.accents):
        raise Refusal("no-such-accent", f"There is no accent {id}.", id, "Reload the edit.")
