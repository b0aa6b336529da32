"""Notes that people make on an edit while they watch it."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from izmet.core.document.limits import LONGEST_NOTE, MOST_SECONDS
from izmet.core.document.values import Frozen, Id
from izmet.core.document.words import one_line

NoteText = Annotated[str, Field(min_length=1, max_length=LONGEST_NOTE), AfterValidator(one_line)]
Writer = Annotated[str, Field(max_length=60), AfterValidator(one_line)]
NoteTime = Annotated[float, Field(ge=-MOST_SECONDS, le=MOST_SECONDS, description="seconds of the edit")]


class Remark(Frozen):
    """What somebody has to say at an instant."""

    time: NoteTime
    text: NoteText
    by: Writer = ""


class Note(Remark):
    """A note on the timeline."""

    id: Id
