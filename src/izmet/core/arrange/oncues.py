"""Which cues of some kinds lie on a clip?"""

from __future__ import annotations

from collections.abc import Collection

from izmet.core.document.edit import AnyPass, Clip, Edit
from izmet.core.music.selection import cues_of
from izmet.core.retime.solve import solve


def cues_on(edit: Edit, clip: Clip, kinds: Collection[str]) -> tuple[str, ...]:
    """Their ids, in order of time, of those that land on a frame that the clip covers."""
    covered, cues = solve(edit, clip).covered, edit.song.cues if edit.song else ()
    return tuple(cue.id for cue in cues if cue.kind in kinds and edit.frame_of(cue.id) in covered)


def kinds_of(edit: Edit, each: AnyPass) -> list[str]:
    """The kinds of the cues that a pass works on, in order of their names."""
    return sorted({edit.cue(cue).kind for cue in cues_of(edit, each)})
