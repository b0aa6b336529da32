"""What is there to know of an edit's music at a glance?"""

from __future__ import annotations

from itertools import pairwise
from statistics import median

from pydantic import BaseModel

from izmet.core.document.edit import Edit, Song
from izmet.core.music.counting import beats_of

MINUTE = 60


class MusicFacts(BaseModel):
    """The music of an edit, instants in its seconds. ``tempo`` in beats a minute, 0 without a beat."""

    tempo: float
    heard_from: float
    heard_to: float
    end: float


def music_facts(edit: Edit) -> MusicFacts | None:
    """The facts of an edit's song, None without one. The tempo is that of the middle one of all beats."""
    song = edit.song
    if song is None:
        return None
    gaps = [after.time - before.time for before, after in pairwise(beats_of(song.cues))]
    middle = median(gaps) if gaps else 0
    begin, end = heard(song)
    return MusicFacts(
        tempo=MINUTE / middle if middle else 0,
        heard_from=begin,
        heard_to=end,
        end=song.start + song.duration,
    )


def heard(song: Song) -> tuple[float, float]:
    """From when to when a song is heard."""
    end = song.duration if song.heard_to is None else min(song.heard_to, song.duration)
    return song.start + song.heard_from, song.start + end
