"""What is kept of a take, made of its file: small pictures, frame table, own sound, what was measured.

It needs the file alone, so it can be made on any machine.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.retime.floor import most_held
from izmet.material.files import INDEX, MEASURES, MOTION, PACK, POSTER, SOUND, TABLE
from izmet.media.frametable import FrameTable
from izmet.media.looking import TakeMeasures
from izmet.media.pack import Looked, read_frame, write_pack
from izmet.media.probe import MediaFacts, picture_of, probe
from izmet.media.songfile import own_sound

Progress = Callable[[int, int], None]
Looker = Callable[[Path, str, str, Path, Progress], dict[str, Any]]
"""Looks a take through, as ``look_through`` does."""

POSTER_AT = 0.65
"""Where in a take its poster is, as a part of its frames: past what leads up to something."""
KEPT = (PACK, INDEX, TABLE, MOTION, MEASURES, POSTER, SOUND)
"""All files that are kept of a take; the last where it has sound."""


def look_through(file: Path, sha256: str, name: str, folder: Path, progress: Progress) -> dict[str, Any]:
    """Write what is kept of a take into a folder. Returns its facts.

    Args:
        sha256: of the file, by which whoever hands this out names it.
        name: what a person calls it.

    Raises:
        Refusal: the file cannot be used as a take.
    """
    found = probe(file, name)
    picture = picture_of(found, name)
    expected = picture.frames
    progress(0, expected or 0)
    looked = write_pack(
        file,
        name,
        picture.size,
        folder / PACK,
        folder / INDEX,
        lambda done: progress(done, max(done, expected) if expected else 0),
    )
    table = looked.table
    check_kept(table, name)
    table.save(folder / TABLE)
    (folder / MOTION).write_bytes(table.motion.tobytes())
    poster = read_frame(folder / PACK, folder / INDEX, int(POSTER_AT * len(table)))
    (folder / POSTER).write_bytes(poster or b"")
    own = own_sound(file, name, int(table.stamps[0]), folder / SOUND) if found.sounds else None
    TakeMeasures.of(looked, picture.size[0], own).save(folder / MEASURES)
    return {
        "rate": str(table.rate),
        "distinct": str(table.distinct),
        "held": most_held(table.distinct_of),
        "frames": len(table),
        "width": picture.width,
        "height": picture.height,
        "codec": picture.codec,
        "streams": streams(found),
        "notes": _notes(looked, found, own.count / own.rate if own else 0),
    }


def check_kept(table: FrameTable, name: str) -> None:
    """Refuse a take that would lose most of its frames: its times make no sense."""
    if table.left_out > len(table.stamps) / 2:
        raise Refusal(
            "times-make-no-sense",
            f"{table.left_out} of its {len(table.stamps)} frames come faster than "
            f"{float(table.rate):g} a second, the most Izmet reads.",
            name,
            "Convert it to a constant frame rate.",
        )


def streams(found: MediaFacts) -> list[dict[str, Any]]:
    """The streams of a file, the picture first."""
    pictures = [found.video.model_dump() | {"kind": "picture"}] if found.video else []
    return pictures + [sound.model_dump() | {"kind": "sound"} for sound in found.sounds]


def _notes(looked: Looked, facts: MediaFacts, heard: float) -> list[str]:
    """What a person should know about a take, though it works; it is ``heard`` for so many seconds."""
    table, notes = looked.table, []
    if not table.steady:
        extra = len(table) - (len(table.stamps) - table.left_out)
        notes.append(
            f"Its rate varies: read on a steady grid of {float(table.rate):g} fps; "
            f"{extra} of {len(table)} frames hold the picture before."
        )
    if table.left_out:
        notes.append(f"{counted(table.left_out, 'frame')} dropped: faster than {float(table.rate):g} fps.")
    if looked.doubled:
        notes.append(f"{counted(looked.doubled, 'frame')} dropped: at the time of the frame before.")
    if len(table.stretches) > 1:
        rates = sorted({float(rate) for _, rate in table.stretches})
        notes.append(f"Between {rates[0]:.3g} and {rates[-1]:.3g} distinct pictures a second.")
    elif table.distinct < table.rate:
        notes.append(f"Only {float(table.distinct):.3g} distinct pictures a second.")
    if facts.video is not None and facts.video.interlaced:
        notes.append("Its pictures are interlaced: both fields are shown at once, so what moves has combs.")
    if facts.video is not None and facts.video.hdr:
        notes.append("It is HDR; its light is mapped for ordinary screens.")
    if table.restarts:
        notes.append(
            "Its clock starts again in the middle, as where recordings were joined; the time goes on."
        )
    held = len(table) / float(table.rate)
    if facts.duration > held * 1.1 + 0.5:
        if heard > facts.duration * 0.9:
            notes.append(f"Its pictures end after {held:.1f} s; its sound goes on to {heard:.1f} s.")
        else:
            notes.append(f"It seems cut off: it says {facts.duration:.1f} s and holds {held:.1f} s.")
    return notes
