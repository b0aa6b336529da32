"""What did a command do, in words, for the list of all that was done?"""

from __future__ import annotations

from izmet.core.commands import KINDS, Anyway, Batch, Command
from izmet.core.commands.common import pin_of
from izmet.core.commands.spans import SetValue
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Edit, moment_name
from izmet.core.document.refusal import Refusal
from izmet.core.retime.pins import pin_name

LONGEST = 120
SAID = {kind.model_fields["do"].default: kind.said for kind in KINDS}
"""What each command is called, by its name in a document's history."""


def in_words(edit: Edit, command: Command) -> str:
    """What a command does to an edit: the sort of step, and what it is about where that can be said."""
    if isinstance(command, Anyway):
        return in_words(edit, command.command)
    if isinstance(command, Batch):
        first, *more = command.commands
        return in_words(edit, first) + (f", and {len(more)} more" if more else "")
    about = _about(edit, command)
    return f"{command.said}{f': {about}' if about else ''}"[:LONGEST]


def _about(edit: Edit, command: Command) -> str:
    said = []
    try:
        clip, take = getattr(command, "clip", None), getattr(command, "take", None)
        take = edit.clip(clip).take if isinstance(clip, str) else take
        moment, cue = getattr(command, "moment", None), getattr(command, "cue", None)
        pin = getattr(command, "pin", None)
        if isinstance(take, str) and isinstance(moment, str):
            said.append(moment_name(edit.moment(take, moment)))
        elif isinstance(clip, str) and isinstance(pin, str):
            said.append(pin_name(edit, edit.clip(clip), pin_of(edit.clip(clip), pin)))
        elif isinstance(span := getattr(command, "span", None), int):
            said.append(f"span {span + 1}")
        if isinstance(cue, str):
            said.append(f"{CUE_KINDS[edit.cue(cue).kind].name} at {edit.instant(cue):.2f} s")
    except Refusal:
        return ""
    if not isinstance(command, SetValue):
        named = (getattr(command, name, None) for name in ("shape", "name", "title"))
        said += [value for value in named if isinstance(value, str)]
    return ", ".join(said)
