"""What is heard when?

The mix of an edit is a list of voices: the song, and the own sound of each clip that is
not mute. All instants are seconds of the edit. A clip's sound runs at its natural speed
for as long as the clip is seen; it is laid so that the sound of the moment of its first
tie is heard with that moment (of a clip without ties, that of its first picture).
"""

from __future__ import annotations

from pydantic import BaseModel

from izmet.core.edit import Edit, Song
from izmet.core.rates import seconds_at
from izmet.core.retime.solve import solve

SONG = "song"


class Voice(BaseModel):
    """One sound: ``source`` is a take's id, or ``song``.

    Its own instant 0 lies at ``origin``; it is heard from ``begin`` to ``end``.
    """

    source: str
    origin: float
    begin: float
    end: float
    level: float


def heard(song: Song) -> tuple[float, float]:
    """From when to when a song is heard."""
    end = song.duration if song.heard_to is None else min(song.heard_to, song.duration)
    return song.start + song.heard_from, song.start + end


def voices(edit: Edit) -> list[Voice]:
    """All voices of an edit. Raises Refusal when a clip that is not mute cannot be solved."""
    found = []
    if edit.song is not None:
        begin, end = heard(edit.song)
        level = edit.song.level
        found.append(Voice(source=SONG, origin=edit.song.start, begin=begin, end=end, level=level))
    for clip in edit.clips:
        if clip.level == 0:
            continue
        curve, take = solve(edit, clip), edit.take(clip.take)
        tie = next((index for index, pin in enumerate(clip.pins) if pin.is_tie), 0)
        n, p = curve.pins[tie]
        found.append(
            Voice(
                source=clip.take,
                origin=seconds_at(int(n), edit.rate) - float(p / take.rate),
                begin=seconds_at(curve.first, edit.rate),
                end=seconds_at(curve.last + 1, edit.rate),
                level=clip.level,
            )
        )
    return found
