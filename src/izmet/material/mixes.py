"""What an edit is heard from."""

from __future__ import annotations

from izmet.core.document.edit import Edit
from izmet.core.document.sounds import Recorded
from izmet.core.shown.mix import RING, SONG, voices
from izmet.core.shown.sounds import file_name, laid_sounds
from izmet.material.files import PLAYED, SOUND
from izmet.media.songfile import flac_source
from izmet.sound.made import sources_of as sources_of_made
from izmet.sound.mixer import Mixer
from izmet.sound.ringing import ring_of
from izmet.sound.source import Source
from izmet.store.assets import Assets


def sources_of(assets: Assets, edit: Edit) -> dict[str, Source]:
    """What the voices of an edit are played from; nothing for a file that has no sound or is not read yet."""
    paths = {take.id: assets.derived(take.media.sha256 or "", "take") / SOUND for take in edit.takes}
    if edit.song is not None:
        paths[SONG] = assets.derived(edit.song.media.sha256 or "", "song") / PLAYED
    for each in edit.sounds:
        if isinstance(each.what, Recorded):
            paths[file_name(each.what)] = assets.derived(each.what.media.sha256 or "", "song") / PLAYED
    found = sources_of_made(laid_sounds(edit))
    for id, path in paths.items():
        if path.exists():
            found[id] = flac_source(path)
    if edit.song is not None and SONG in found:
        found[RING] = ring_of(edit.song, found[SONG])
    return found


def mixer_of(assets: Assets, edit: Edit) -> Mixer:
    """The mix of an edit, from what is played of its files."""
    return Mixer.of(voices(edit), sources_of(assets, edit))
