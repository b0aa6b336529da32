"""Commands about notes."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, new_ids, with_
from izmet.core.document.edit import Edit
from izmet.core.document.limits import MOST_NOTES
from izmet.core.document.notes import Note, Remark
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Id


class AddNotes(EditCommand):
    """Put notes on the timeline; one that stands there already, word for word, is not put there twice."""

    do: Literal["add-notes"] = "add-notes"
    said: ClassVar[str] = "Add notes"
    notes: Annotated[tuple[Remark, ...], Field(min_length=1, max_length=MOST_NOTES)]

    def on(self, edit: Edit) -> Edit:
        known = {(note.time, note.text, note.by) for note in edit.notes}
        new = [each for each in self.notes if (each.time, each.text, each.by) not in known]
        ids = new_ids("note", edit.notes)
        added = [Note(id=next(ids), **dict(each)) for each in new]
        return with_(edit, notes=sorted([*edit.notes, *added], key=lambda note: note.time))


class RemoveNote(EditCommand):
    """Take a note away: it is done with."""

    do: Literal["remove-note"] = "remove-note"
    said: ClassVar[str] = "Remove a note"
    note: Id

    def on(self, edit: Edit) -> Edit:
        left = [note for note in edit.notes if note.id != self.note]
        if len(left) == len(edit.notes):
            raise Refusal("no-such-note", f"There is no note {self.note}.", self.note, "Reload the edit.")
        return with_(edit, notes=left)
