"""The media files that an edit document names: what ``izmet render`` and its like read and write.

Paths in a document are relative to it.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import get_args

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Recorded
from izmet.core.document.values import Media
from izmet.core.shown.mix import SONG, laid_sounds
from izmet.core.shown.sounds import file_name
from izmet.media.formats import FormatName
from izmet.media.frametable import FrameTable
from izmet.media.pack import Looked, look_at
from izmet.media.probe import VideoFacts, picture_of, probe
from izmet.media.sampling import TakeFile
from izmet.media.songfile import own_sound, read_song
from izmet.sound.made import sources_of as sources_of_made
from izmet.sound.source import Source

Say = Callable[[str, int, int], None]
"""Told what is done, how much of it, and of how much."""


def format_of(out: Path) -> FormatName:
    suffix = out.suffix.lower().removeprefix(".")
    for name in get_args(FormatName):
        if suffix == name:
            found: FormatName = name
            return found
    raise Refusal(
        "unknown-format", f"No format is called {out.suffix!r}.", str(out), "Use .mp4, .webm or .mkv."
    )


def _resolve(media: Media, folder: Path) -> Path:
    if media.path is None:
        raise Refusal(
            "media-missing", "The document gives no path.", media.name, "Add its path, relative to it."
        )
    return folder / media.path


def sources(document: Edit, folder: Path, takes: dict[str, TakeFile], scratch: Path) -> dict[str, Source]:
    """What is heard in an edit: its song, its sounds, and the own sound of takes whose clips are not mute."""
    found: dict[str, Source] = sources_of_made(laid_sounds(document))
    for sound in document.sounds:
        if isinstance(sound.what, Recorded):
            media = sound.what.media
            found[file_name(sound.what)] = read_song(_resolve(media, folder), media.name)
    for id in {clip.take for clip in document.clips if clip.level > 0}:
        own = own_sound_of(takes[id].path, takes[id].name, takes[id].table, scratch / f"{len(found)}.flac")
        if own is not None:
            found[id] = own
    if document.song is not None:
        song = document.song.media
        found[SONG] = read_song(_resolve(song, folder), song.name)
    return found


def own_sound_of(take: Path, name: str, table: FrameTable, kept: Path) -> Source | None:
    """The sound of a take, which is written to a file; None where it has none."""
    return own_sound(take, name, int(table.stamps[0]), kept) if probe(take, name).sounds else None


def take_file(media: Media, folder: Path, say: Say) -> TakeFile:
    path = _resolve(media, folder)
    looked = look(path, media.name, picture_of(probe(path, media.name), media.name), say)
    return TakeFile(path, media.name, looked.table)


def look(path: Path, name: str, picture: VideoFacts, say: Say) -> Looked:
    return look_at(path, name, picture.size, lambda done: say(name, done, picture.frames))
