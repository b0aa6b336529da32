"""Commands about accents: what is seen over the picture, bound to a cue or an output frame."""

from __future__ import annotations

from typing import ClassVar, Literal

from izmet.core.commands.common import EditCommand, Frame, new_id, placed, unclear, with_
from izmet.core.document.edit import (
    Accent,
    Amount,
    AnyAccent,
    BlendMode,
    Colour,
    Edit,
    EffectFrames,
    Flash,
    Id,
    Tint,
)
from izmet.core.document.refusal import Refusal


class AddAccent(EditCommand):
    """Base of those that add an accent on a cue, or on an output frame; what they do not say is as usual."""

    kind: ClassVar[type[Accent]]
    at: Frame | Id
    lead: EffectFrames | None = None
    tail: EffectFrames | None = None

    def on(self, edit: Edit) -> Edit:
        values = self.model_dump(exclude={"do", "at"}, exclude_none=True)
        accent = self.kind(id=new_id("accent", edit.accents), at=placed("at", self.at), **values)
        return with_(edit, accents=[*edit.accents, accent])


class AddFlash(AddAccent):
    """A flash on a cue, or on an output frame."""

    do: Literal["add-flash"] = "add-flash"
    said: ClassVar[str] = "Add a flash"
    kind: ClassVar[type[Accent]] = Flash
    light: Amount | None = None


class AddTint(AddAccent):
    """A colour over the picture, from a cue or an output frame on."""

    do: Literal["add-tint"] = "add-tint"
    said: ClassVar[str] = "Add a tint"
    kind: ClassVar[type[Accent]] = Tint
    colour: Colour | None = None
    blend: BlendMode | None = None
    amount: Amount | None = None
    hold: EffectFrames | None = None


class ChangeAccent(EditCommand):
    """Change some values of an accent, or where it stands."""

    do: Literal["change-accent"] = "change-accent"
    said: ClassVar[str] = "Change an accent"
    accent: Id
    at: Frame | Id | None = None
    light: Amount | None = None
    colour: Colour | None = None
    blend: BlendMode | None = None
    amount: Amount | None = None
    lead: EffectFrames | None = None
    hold: EffectFrames | None = None
    tail: EffectFrames | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(exclude={"do", "accent"}, exclude_none=True)
        if not changes:
            raise unclear("Say what to change in the accent.")
        if self.at is not None:
            changes["at"] = placed("at", self.at)
        kind = type(_found(edit, self.accent))
        if strange := changes.keys() - kind.model_fields.keys():
            raise unclear(f"A {kind.__name__.lower()} has no {', '.join(sorted(strange))}.")
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
        _found(edit, self.accent)
        return with_(edit, accents=[each for each in edit.accents if each.id != self.accent])


def _found(edit: Edit, id: str) -> AnyAccent:
    for each in edit.accents:
        if each.id == id:
            return each
    raise Refusal("no-such-accent", f"There is no accent {id}.", id, "Reload the edit.")
