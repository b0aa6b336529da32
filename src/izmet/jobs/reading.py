"""Reading a new file: what it is, and everything that is drawn or played of it.

Results are written to a folder beside the final one and moved there when whole.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.retime.floor import most_held
from izmet.jobs.kinds import Listen, Read, queue
from izmet.jobs.listening import first_cues, save
from izmet.material.files import INDEX, MEASURES, MOTION, PACK, PEAKS, PLAYED, POSTER, SOUND, TABLE
from izmet.material.songs import song_of
from izmet.material.takes import take_of
from izmet.media.faults import writing
from izmet.media.frametable import FrameTable
from izmet.media.looking import TakeMeasures
from izmet.media.pack import Looked, read_frame, write_pack
from izmet.media.probe import MediaFacts, picture_of, probe
from izmet.media.songfile import own_sound, read_song, write_flac
from izmet.sound.peaks import BASE, FACTOR, band_peaks
from izmet.store.assets import Assets, note
from izmet.store.models import Asset

Progress = Callable[[int, int], None]

POSTER_AT = 0.65
"""Where in a take its poster is, as a part of its frames: past what leads up to something."""
SONG_STEPS = 100


def read_asset(assets: Assets, asset: Asset, progress: Progress) -> None:
    """Read a file and keep what was found. Raises Refusal when it cannot be read."""
    whole = True
    if asset.kind == "take":
        facts = read_take(assets, asset, progress)
    else:
        facts, whole = read_song_file(assets, asset, progress)
    asset.facts, asset.state = facts, "ready"
    _check_usable(assets, asset)
    note(asset, state="ready", facts=facts, error=None)
    if not whole:
        # Only now: another worker may begin at once, and goes on from what was noted.
        queue(Listen(asset=asset.sha256, name=asset.name))


def _check_usable(assets: Assets, asset: Asset) -> None:
    """Refuse a file of which no edit could say what it is: as ready, it would spoil whatever takes it."""
    try:
        if asset.kind == "take":
            take_of(asset, "take")
        else:
            song_of(assets, asset)
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal(
            "out-of-bounds",
            f"No edit can hold its {'.'.join(map(str, first['loc']))}: {first['msg'].lower()}.",
            asset.name,
            "Cut it to the part you need, or convert it.",
        ) from None


def queue_reading(asset: Asset) -> None:
    """Have a file read in the background."""
    note(asset, state="reading", error=None)
    queue(Read(asset=asset.sha256, name=asset.name, media=asset.kind))


def queue_outdated(assets: Assets) -> None:
    """Have every file read again of which an older version derived something else, or noted no sense.

    And those that nobody is reading, for the work that was to do it was killed or cancelled.
    """
    for asset in assets.listing():
        whole = assets.is_derived(asset) and _makes_sense(assets, asset)
        if asset.state == "reading" or (asset.state == "ready" and not whole):
            queue_reading(asset)


def _makes_sense(assets: Assets, asset: Asset) -> bool:
    """Whether what was noted of a file is whole, so that an edit can use it."""
    try:
        _check_usable(assets, asset)
    except (Refusal, LookupError, OSError):
        return False
    return True


def read_take(assets: Assets, asset: Asset, progress: Progress) -> dict[str, Any]:
    """Probe a take, write its pack and its frame table. Returns its facts."""
    found = _probed(assets, asset)
    picture = picture_of(found, asset.name)
    size, expected = picture.size, picture.frames
    progress(0, expected or 0)
    with _fresh_folder(assets.derived(asset.sha256, asset.kind), asset.name) as folder:
        looked = write_pack(
            assets.path(asset.sha256),
            asset.name,
            size,
            folder / PACK,
            folder / INDEX,
            lambda done: progress(done, max(done, expected) if expected else 0),
        )
        table = looked.table
        check_kept(table, asset.name)
        table.save(folder / TABLE)
        (folder / MOTION).write_bytes(table.motion.tobytes())
        poster = read_frame(folder / PACK, folder / INDEX, int(POSTER_AT * len(table)))
        (folder / POSTER).write_bytes(poster or b"")
        own = None
        if found.sounds:
            own = own_sound(assets.path(asset.sha256), asset.name, int(table.stamps[0]), folder / SOUND)
        TakeMeasures.of(looked, size[0], own).save(folder / MEASURES)
    return {
        "rate": str(table.rate),
        "distinct": str(table.distinct),
        "held": most_held(table.distinct_of),
        "frames": len(table),
        "width": picture.width,
        "height": picture.height,
        "codec": picture.codec,
        "streams": _streams(found),
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


def read_song_file(assets: Assets, asset: Asset, progress: Progress) -> tuple[dict[str, Any], bool]:
    """Probe a song, write what is played and drawn of it, and find its first cues.

    Returns its facts, and whether all of it was heard.
    """
    progress(0, SONG_STEPS)
    facts = _probed(assets, asset)
    with (
        _fresh_folder(assets.derived(asset.sha256, asset.kind), asset.name) as folder,
        ThreadPoolExecutor(2) as beside,
    ):
        sound = read_song(assets.path(asset.sha256), asset.name, folder)
        progress(10, SONG_STEPS)
        peaks = beside.submit(band_peaks, sound)
        played = beside.submit(write_flac, folder / PLAYED, sound.rate, sound.channels, sound.blocks())
        found, whole = first_cues(sound, lambda part: progress(10 + round(85 * part), SONG_STEPS))
        save(folder, found)
        levels = peaks.result()
        (folder / PEAKS).write_bytes(b"".join(level.tobytes() for level in levels))
        played.result()
    told = {
        "duration": sound.duration,
        "sample_rate": sound.rate,
        "channels": facts.sounds[0].channels,
        "tempo": found.tempo,
        "peaks": {"base": BASE, "factor": FACTOR, "levels": [len(level) for level in levels]},
        "codec": facts.sounds[0].codec,
        "streams": _streams(facts),
        "notes": [],
    }
    return told, whole


def packs_budget() -> int:
    """What frame packs may fill on the disk, in bytes: ``IZMET_PACKS_MB``, 20,000 by default."""
    return int(os.environ.get("IZMET_PACKS_MB", "20000")) << 20


def _streams(found: MediaFacts) -> list[dict[str, Any]]:
    """The streams of a file, the picture first."""
    pictures = [found.video.model_dump() | {"kind": "picture"}] if found.video else []
    return pictures + [sound.model_dump() | {"kind": "sound"} for sound in found.sounds]


def _probed(assets: Assets, asset: Asset) -> MediaFacts:
    found = probe(assets.path(asset.sha256), asset.name)
    if asset.kind == "song" and not found.sounds:
        raise Refusal(
            "no-sound", "The file has no sound.", asset.name, "Choose a song: wav, flac, ogg, mp3 or m4a."
        )
    return found


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


@contextmanager
def _fresh_folder(final: Path, name: str) -> Iterator[Path]:
    """A new folder that takes the final place when all went well, and vanishes otherwise."""
    final.parent.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(dir=final.parent, prefix=".part-"))
    try:
        with writing(name):
            yield part
        shutil.rmtree(final, ignore_errors=True)
        part.replace(final)
    finally:
        shutil.rmtree(part, ignore_errors=True)
