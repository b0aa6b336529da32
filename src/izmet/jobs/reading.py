"""Reading a new file: what it is, and everything that is drawn or played of it.

Results are written to a folder beside the final one and moved there when whole.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from izmet.core.document.refusal import Refusal
from izmet.jobs.kinds import Listen, Read, queue
from izmet.jobs.listening import first_cues, save
from izmet.material.files import PEAKS, PLAYED
from izmet.material.reading import Looker, Progress, look_through, streams
from izmet.material.songs import song_of
from izmet.material.takes import take_of
from izmet.media.faults import writing
from izmet.media.probe import MediaFacts, probe
from izmet.media.songfile import read_song, write_flac
from izmet.sound.peaks import BASE, FACTOR, band_peaks
from izmet.store.assets import Assets, note
from izmet.store.models import Asset

SONG_STEPS = 100


def read_asset(assets: Assets, asset: Asset, progress: Progress, looker: Looker = look_through) -> None:
    """Read a file and keep what was found. Raises Refusal when it cannot be read.

    Args:
        looker: looks a take through, here or elsewhere.
    """
    whole = True
    if asset.kind == "take":
        with _fresh_folder(assets.derived(asset.sha256, asset.kind), asset.name) as folder:
            facts = looker(assets.path(asset.sha256), asset.sha256, asset.name, folder, progress)
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
        "streams": streams(facts),
        "notes": [],
    }
    return told, whole


def packs_budget() -> int:
    """What frame packs may fill on the disk, in bytes: ``IZMET_PACKS_MB``, 20,000 by default."""
    return int(os.environ.get("IZMET_PACKS_MB", "20000")) << 20


def _probed(assets: Assets, asset: Asset) -> MediaFacts:
    found = probe(assets.path(asset.sha256), asset.name)
    if asset.kind == "song" and not found.sounds:
        raise Refusal(
            "no-sound", "The file has no sound.", asset.name, "Choose a song: wav, flac, ogg, mp3 or m4a."
        )
    return found


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
