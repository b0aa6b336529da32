"""What of an edit did a command change, and do two changes meet?

An answer to a command should grow with the change, not with the edit: a song has
thousands of cues. Of a long list the stretch that differs is told (``Splice``), of the
other fields those that differ. Two changes to one edit that touch no part in common
(``touched``) can both stand, whichever came first.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Generic, NamedTuple, TypeVar

from pydantic import BaseModel

from izmet.core.document.edit import Clip, Cue, Edit, Song, Take
from izmet.core.document.values import Frozen

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


class Touched(NamedTuple):
    """A part of an edit: a field of it or of its song, or in a list one part by its id."""

    field: str
    id: str | None = None


def touched(before: Edit, after: Edit) -> frozenset[Touched]:
    """The parts that are not as they were. What is new is none: it is given another id where it meets one."""
    found = set(_touched(before, after, ""))
    if before.song is not None and after.song is not None and before.song.media == after.song.media:
        found.discard(Touched("song"))
        found |= set(_touched(before.song, after.song, "song."))
    return frozenset(found)


def _touched(before: Frozen, after: Frozen, where: str) -> Iterator[Touched]:
    for name in type(after).model_fields:
        one, other = getattr(before, name), getattr(after, name)
        if _alike(one, other):
            continue
        old, new = _by_id(one), _by_id(other)
        if old is None or new is None:
            yield Touched(where + name)
            continue
        yield from (Touched(where + name, id) for id, part in old.items() if not _alike(part, new.get(id)))
        if [id for id in old if id in new] != [id for id in new if id in old]:
            yield Touched(where + name)


def _by_id(parts: Any) -> dict[str, object] | None:
    """The parts of a list by their ids, None of what is no such list."""
    if not isinstance(parts, tuple) or not all(hasattr(part, "id") for part in parts):
        return None
    return {part.id: part for part in parts}


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
