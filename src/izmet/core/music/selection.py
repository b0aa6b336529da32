"""Which cues does a selection mean?"""

from __future__ import annotations

from typing import Protocol

from izmet.core.document.edit import Cue, CueSelection, Edit, Song
from izmet.core.document.refusal import Refusal


class Choice(Protocol):
    """What works on cues: those that it names, or those of a kept selection."""

    @property
    def cues(self) -> tuple[str, ...]: ...
    @property
    def selection(self) -> str | None: ...


def cues_of(edit: Edit, choice: Choice) -> tuple[str, ...]:
    """The cues that something works on. Raises Refusal when their selection is gone."""
    if choice.selection is None:
        return choice.cues
    selections = edit.song.selections if edit.song else ()
    found = next((selection for selection in selections if selection.id == choice.selection), None)
    if edit.song is None or found is None:
        raise Refusal(
            "no-such-selection",
            "The selection of cues that this works on is gone.",
            remedy="Choose other cues, or remove it.",
        )
    return tuple(cue.id for cue in chosen(edit.song, found))


def chosen(song: Song, selection: CueSelection) -> list[Cue]:
    """The cues of a song that a selection takes, in order of time."""
    begin = selection.begin or 0.0
    end = song.duration if selection.end is None else selection.end
    kinds, extra, without = set(selection.kinds), set(selection.extra), set(selection.without)
    ruled = [
        cue
        for cue in song.cues
        if cue.kind in kinds and cue.strength >= selection.least and begin <= cue.time <= end
    ]
    taken = {cue.id for cue in ruled[selection.phase % selection.every :: selection.every]}
    return [cue for cue in song.cues if (cue.id in taken or cue.id in extra) and cue.id not in without]
