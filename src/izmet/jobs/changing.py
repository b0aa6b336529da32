"""Changing an edit from the background, while somebody may be working on it."""

from __future__ import annotations

from izmet.core.commands import Command
from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.store import edits

TRIES = 20
"""How often the edit may have moved on meanwhile."""


def change(id: int, command: Command, amend: bool = False) -> tuple[Edit, Edit]:
    """Run a command on an edit as it is by then. The edit before it, and after.

    Args:
        amend: not as a step of its own that can be undone.

    Raises:
        Refusal: the command cannot be granted, or the edit never comes to rest.
    """
    for _ in range(TRIES):
        before = edits.current(id)
        try:
            after = (edits.amend if amend else edits.run)(id, before.revision, command)
        except edits.Stale:
            continue
        return before.edit, after.edit
    raise Refusal("busy", "The edit kept changing.", remedy="Try again in a moment.")
