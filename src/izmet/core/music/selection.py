"""Which cues does a selection mean?"""

from __future__ import annotations

from izmet.core.document.edit import Cue, CueSelection, Song


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
