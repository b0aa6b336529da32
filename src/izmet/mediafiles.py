"""The media files that an edit document names: what ``izmet render`` and its like read and write.

Paths in a document are relative to it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from pydantic import ValidationError

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Recorded
from izmet.core.document.values import Media
from izmet.core.shown.mix import RING, SONG
from izmet.core.shown.sounds import file_name, laid_sounds
from izmet.jobs.delivery import Delivery
from izmet.media.formats import FORMATS, FormatName
from izmet.media.frametable import FrameTable
from izmet.media.pack import Looked, look_at
from izmet.media.probe import VideoFacts, picture_of, probe
from izmet.media.sampling import TakeFile
from izmet.media.songfile import own_sound, read_song
from izmet.sound.made import sources_of as sources_of_made
from izmet.sound.ringing import ring_of
from izmet.sound.source import Source

Say = Callable[[str, int, int], None]
"""Told what is done, how much of it, and of how much."""


def delivery_for(
    out: Path, format: str | None, size: str | None, said: Mapping[str, str | float | bool | None]
) -> Delivery:
    """What is asked of a file, its format by its ending where it is not said.

    Args:
        size: width and height, with an x between.
        said: the other values of a ``Delivery``.

    Raises:
        Refusal: for what is not known.
    """
    width, _, height = (size or "").lower().partition("x")
    sides = {"width": width or None, "height": height or None}
    try:
        return Delivery.model_validate({"format": _format_of(out, format), **said, **sides})
    except ValidationError as error:
        first = error.errors()[0]
        where = str(first["loc"][0])
        raise Refusal(
            "unknown-wish", f"{first['msg']}.", where, "`izmet render --help` says what can be asked."
        ) from None


def _format_of(out: Path, format: str | None) -> FormatName:
    ending = out.suffix.lower().removeprefix(".")
    fitting = [name for name, each in FORMATS.items() if each.ending == ending]
    if format is None and fitting:
        return fitting[0]
    for name in fitting:
        if name == format:
            return name
    endings = ", ".join(dict.fromkeys(f".{each.ending}" for each in FORMATS.values()))
    what = (
        f"No format is called {out.suffix!r}." if not fitting else f"A file {out.suffix} is never {format!r}."
    )
    raise Refusal("unknown-format", what, str(out), f"Use one of {endings}; {', '.join(FORMATS)}.")


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
        found[RING] = ring_of(document.song, found[SONG])
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
