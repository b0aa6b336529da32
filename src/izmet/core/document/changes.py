"""What of an edit did a command change?

An answer to a command should grow with the change, not with the edit: a song has
thousands of cues. Of a long list the stretch that differs is told (``Splice``), of the
other fields those that differ.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Generic, TypeVar

from pydantic import BaseModel

from izmet.core.document.edit import Clip, Cue, Edit, Frozen, Song, Take

T = TypeVar("T")


class Splice(BaseModel, Generic[T]):
    """A list changed: from index ``at`` on, ``drop`` parts give way to those in ``put``."""

    at: int
    drop: int
    put: list[T]


class SongChange(BaseModel):
    """The same song with other values: fields that changed, and the stretch of its cues."""

    fields: dict[str, Any]
    cues: Splice[Cue] | None


class EditChange(BaseModel):
    """An edit changed. ``fields`` holds plain settings, and the whole song when it is another one."""

    fields: dict[str, Any]
    song: SongChange | None
    takes: Splice[Take] | None
    clips: Splice[Clip] | None


def edit_change(before: Edit, after: Edit) -> EditChange:
    """What is different in ``after``."""
    song = None
    spliced = {"takes", "clips"}
    if before.song is not None and after.song is not None and before.song.media == after.song.media:
        spliced |= {"song"}
        song = _song_change(before.song, after.song)
    return EditChange(
        fields=_fields(before, after, spliced),
        song=song,
        takes=splice(before.takes, after.takes),
        clips=splice(before.clips, after.clips),
    )


def splice(before: Sequence[T], after: Sequence[T]) -> Splice[T] | None:
    """The one stretch in which two lists differ, None when they do not."""
    shorter = min(len(before), len(after))
    start = 0
    while start < shorter and _alike(before[start], after[start]):
        start += 1
    end = 0
    while end < shorter - start and _alike(before[-1 - end], after[-1 - end]):
        end += 1
    if start == len(before) == len(after):
        return None
    return Splice(at=start, drop=len(before) - end - start, put=list(after[start : len(after) - end]))


def _alike(one: object, other: object) -> bool:
    return one is other or one == other


def _song_change(before: Song, after: Song) -> SongChange | None:
    fields, cues = _fields(before, after, {"cues"}), splice(before.cues, after.cues)
    return SongChange(fields=fields, cues=cues) if fields or cues else None


def _fields(before: Frozen, after: Frozen, without: set[str]) -> dict[str, Any]:
    names = type(after).model_fields.keys() - without
    changed = {name for name in names if getattr(before, name) != getattr(after, name)}
    return after.model_dump(mode="json", include=changed)
