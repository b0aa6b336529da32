"""Into which chapters does the music divide an edit?

One begins with each of its sections and with each drop, and what comes before the first is one too.
"""

from __future__ import annotations

from typing import NamedTuple

from izmet.core.document.edit import Edit
from izmet.core.document.rates import frame_at

NAMES = {"build": "Build", "break": "Break", "roll": "Roll"}
FIRST, DROP = "Start", "Drop"


class Chapter(NamedTuple):
    """A stretch of output frames, and what it is called."""

    frames: range
    name: str


def chapters_of(edit: Edit, frames: range) -> list[Chapter]:
    """The chapters of some output frames; none where the music has neither sections nor drops there."""
    song = edit.song
    if song is None:
        return []
    starts = [(section.start, NAMES[section.kind]) for section in song.sections]
    starts += [(cue.time, DROP) for cue in song.cues if cue.kind == "drop"]
    named = {frame_at(time + song.start, edit.rate, edit.landing): name for time, name in sorted(starts)}
    inside = {n: name for n, name in named.items() if n in frames}
    if not inside:
        return []
    first = next((name for n, name in reversed(named.items()) if n <= frames.start), FIRST)
    inside = {frames.start: first} | inside
    ends = [*list(inside)[1:], frames.stop]
    return [Chapter(range(n, end), name) for (n, name), end in zip(inside.items(), ends, strict=True)]
