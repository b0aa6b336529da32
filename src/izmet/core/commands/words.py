"""What did a command do, in words, for the list of all that was done?"""

from __future__ import annotations

from izmet.core.commands import Anyway, Batch, Command
from izmet.core.commands.parts import pin_of
from izmet.core.commands.spans import SetValue
from izmet.core.document.edit import Edit, cue_name, moment_name
from izmet.core.document.refusal import Refusal
from izmet.core.retime.pins import pin_name

WORDS = {
    "configure": "Change the edit's settings",
    "use-song": "Choose the song",
    "reread": "Analyse the song again",
    "place-song": "Place the song",
    "add-cue": "Add a cue",
    "add-cues": "Add cues",
    "change-cue": "Change a cue",
    "change-cues": "Change cues",
    "remove-cues": "Delete cues",
    "merge-cues": "Merge cues",
    "set-downbeat": "Set the downbeat",
    "count-beats": "Count the beats otherwise",
    "use-beats": "Take another count of beats",
    "pin-beat": "Pin a beat",
    "set-tempo": "Set the tempo",
    "save-selection": "Keep a choice of cues",
    "remove-selection": "Delete a choice of cues",
    "use-take": "Bring in a take",
    "change-take": "Name, tag or note a take",
    "remove-take": "Take a take out of the edit",
    "lay-select": "Lay a select on the music",
    "relink-song": "Link the song's file",
    "relink-take": "Link a take's file",
    "add-moment": "Mark a moment",
    "change-moment": "Change a moment",
    "remove-moment": "Delete a moment",
    "add-select": "Keep a select",
    "change-select": "Change a select",
    "remove-select": "Delete a select",
    "dismiss-proposal": "Drop a proposal",
    "lay-take": "Lay a take on the music",
    "remove-clip": "Remove a clip",
    "change-pass": "Change what is repeated at cues",
    "remove-pass": "Take away what is repeated at cues",
    "fix-passes": "Make pins of what is repeated at cues",
    "overlap-clips": "Overlap two clips",
    "add-flash": "Add a flash",
    "change-accent": "Change an accent",
    "remove-accent": "Remove an accent",
    "set-level": "Set a clip's own sound",
    "frame-clip": "Frame a clip's picture",
    "reverse-clip": "Reverse a clip",
    "end-clip": "End a clip on a cue",
    "conform-clip": "Show each source frame once",
    "borrow": "Borrow frames from the take",
    "add-tie": "Tie a moment",
    "change-tie": "Move a tie",
    "tie-loose": "Tie what was loose",
    "tie-moments": "Tie moments, worked backwards",
    "change-edge": "Move a clip's end",
    "remove-pin": "Remove a pin",
    "hold-picture": "Freeze a picture",
    "turn-back": "Reverse from a hit",
    "set-pin": "Set a pin",
    "fill-cues": "Fill cues with pins",
    "shape-span": "Shape a span",
    "begin-shape": "Shape a span",
    "set-value": "Bend a span",
    "set-span": "Set a span's speed",
    "strengthen": "Bend as far as it stays smooth",
    "nudge": "More or less ramp",
    "split-clip": "Split a clip",
    "join-clips": "Join what was split",
    "move-cut": "Move a cut",
    "slip-clip": "Slip a clip's pictures",
    "slide-clip": "Slide a clip",
    "continue-cut": "Match a cut",
    "run-through": "Run through cuts",
    "jump-cuts": "Jump cuts on a roll",
    "alternate": "Alternate slow and fast",
    "alternate-moments": "Alternate slow and fast",
    "fill-slots": "Fill slots",
    "swap-clips": "Swap two clips",
    "close-gaps": "Close gaps",
    "reverse-order": "Reverse the order",
    "repeat-section": "Repeat a section",
    "set-range": "Work on a stretch alone",
    "clear-range": "Work on the whole edit",
    "add-black": "Black",
    "change-black": "Move a black stretch",
    "remove-black": "No black",
    "use-bundle": "Bring in a bundle",
    "recap": "Recap a take",
    "change-song": "Change the song",
    "keep-recipe": "Keep a recipe",
    "make-recipe": "Make a recipe",
    "remove-recipe": "Delete a recipe",
    "apply-recipe": "Retime by a recipe",
}
LONGEST = 120


def in_words(edit: Edit, command: Command) -> str:
    """What a command does to an edit: the sort of step, and what it is about where that can be said."""
    if isinstance(command, Anyway):
        return in_words(edit, command.command)
    if isinstance(command, Batch):
        first, *more = command.commands
        return in_words(edit, first) + (f", and {len(more)} more" if more else "")
    about = _about(edit, command)
    return f"{WORDS[command.do]}{f': {about}' if about else ''}"[:LONGEST]


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
            said.append(f"{cue_name(edit.cue(cue).kind)} at {edit.instant(cue):.2f} s")
    except Refusal:
        return ""
    if not isinstance(command, SetValue):
        named = (getattr(command, name, None) for name in ("shape", "name", "title"))
        said += [value for value in named if isinstance(value, str)]
    return ", ".join(said)
