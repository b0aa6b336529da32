"""Commands about stretches of the edit: its range, and where it is black."""

from __future__ import annotations

from typing import ClassVar, Literal

from izmet.core.commands.common import EditCommand, Frame, new_id, placed, with_
from izmet.core.document.edit import Black, Edit
from izmet.core.document.places import Stretch
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Id


class Between(EditCommand):
    """Base of commands that name a stretch: each end is an output frame, or a cue that it follows."""

    since: Frame | Id
    until: Frame | Id

    def stretch(self, edit: Edit) -> Stretch:
        """The stretch. Raises Refusal when it holds no frame."""
        found = Stretch(since=placed("since", self.since), until=placed("until", self.until))
        if not edit.frames_in(found):
            raise Refusal(
                "empty-stretch",
                "It would end where it begins, or before.",
                remedy="Choose a later end, or an earlier beginning.",
            )
        return found


class SetRange(Between):
    """Work on a stretch of the edit alone: it is what is played, exported, filled, cleaned up."""

    do: Literal["set-range"] = "set-range"
    said: ClassVar[str] = "Work on a stretch alone"

    def on(self, edit: Edit) -> Edit:
        return with_(edit, range=self.stretch(edit))


class ClearRange(EditCommand):
    """Work on the whole edit again."""

    do: Literal["clear-range"] = "clear-range"
    said: ClassVar[str] = "Work on the whole edit"

    def on(self, edit: Edit) -> Edit:
        return with_(edit, range=None)


class AddBlack(Between):
    """Show nothing in a stretch. What is laid there stays, and is seen again when the black goes."""

    do: Literal["add-black"] = "add-black"
    said: ClassVar[str] = "Black"

    def on(self, edit: Edit) -> Edit:
        black = Black(id=new_id("black", edit.blacks), **dict(self.stretch(edit)))
        return with_(edit, blacks=[*edit.blacks, black])


class ChangeBlack(Between):
    """Move the ends of a black stretch."""

    do: Literal["change-black"] = "change-black"
    said: ClassVar[str] = "Move a black stretch"
    black: Id

    def on(self, edit: Edit) -> Edit:
        _find(edit, self.black)
        changed = Black(id=self.black, **dict(self.stretch(edit)))
        return with_(edit, blacks=[changed if each.id == self.black else each for each in edit.blacks])


class RemoveBlack(EditCommand):
    """Show again what is laid in a black stretch."""

    do: Literal["remove-black"] = "remove-black"
    said: ClassVar[str] = "No black"
    black: Id

    def on(self, edit: Edit) -> Edit:
        _find(edit, self.black)
        return with_(edit, blacks=[each for each in edit.blacks if each.id != self.black])


def _find(edit: Edit, id: str) -> None:
    if all(each.id != id for each in edit.blacks):
        raise Refusal("no-such-black", f"There is no black stretch {id}.", id, "Reload the edit.")
