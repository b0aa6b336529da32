"""Listening to a song: at first to its beginning, so that something is there at once, then to all of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from izmet.core.commands.music import AnalyseAgain
from izmet.core.document.refusal import Refusal
from izmet.material.files import ANALYSIS
from izmet.media.faults import writing
from izmet.media.songfile import read_song
from izmet.sound.cues import Found, listen
from izmet.sound.source import Source
from izmet.store import edits
from izmet.store.assets import Assets, add_facts
from izmet.store.models import Asset

FIRST_SECONDS = 16.0
"""How much of a long song is heard before it is shown."""
SHORT_SECONDS = 62.0
STEPS = 100
WAIT_SECONDS, AGAIN_SECONDS = 60.0, 0.1
"""How long a person may be at work on an edit before its cues are left as they are, tried so often."""


def first_cues(sound: Source, progress: Callable[[float], None]) -> tuple[Found, bool]:
    """What is found in a song, or in the beginning of a long one; and whether that is all."""
    whole = sound.duration <= SHORT_SECONDS
    return listen(sound if whole else sound.first(FIRST_SECONDS), progress), whole


def listen_to_all(assets: Assets, asset: Asset, progress: Callable[[int, int], None]) -> None:
    """Hear a whole song, and bring what is found into the edits that use it. Cues made by hand stay.

    Raises:
        Refusal: an edit could not take them over; the others have.
    """
    sound = read_song(assets.path(asset.sha256), asset.name, assets.derived(asset.sha256, asset.kind))
    found = listen(sound, lambda part: progress(round(STEPS * part), STEPS))
    with writing(asset.name):
        save(assets.derived(asset.sha256, asset.kind), found)
    add_facts(asset, tempo=found.tempo)
    refused = None
    for listed in (*edits.listing(), *edits.listing(binned=True)):
        song = edits.current(listed.id).edit.song
        if song is not None and song.media.sha256 == asset.sha256:
            try:
                _take_over(listed.id, found)
            except Refusal as refusal:
                refused = Refusal(refusal.code, refusal.what, listed.title, refusal.remedy)
    if refused is not None:
        raise refused


def save(folder: Path, found: Found) -> None:
    """Keep what was found beside what else is derived from a song; it appears whole or not at all."""
    part = folder / f".{ANALYSIS}"
    part.write_text(found.model_dump_json())
    part.replace(folder / ANALYSIS)


def _take_over(edit: int, found: Found) -> None:
    meter = found.beats[0].meter if found.beats else None
    command = AnalyseAgain(cues=found.cues, sections=found.sections, meter=meter)
    begun = time.monotonic()
    while time.monotonic() < begun + WAIT_SECONDS:  # a person may be at work on it at this very moment
        try:
            edits.run(edit, edits.current(edit).revision, command)
            return
        except edits.Stale:
            time.sleep(AGAIN_SECONDS)
    raise Refusal(
        "busy", "The edit kept changing.", remedy="Choose Compare with a new analysis on its Music desk."
    )
