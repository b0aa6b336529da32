"""Making a slow copy of a song to listen to."""

from __future__ import annotations

from collections.abc import Callable

from izmet.core.document.refusal import Refusal
from izmet.material.files import SLOW
from izmet.media.faults import writing
from izmet.media.slow import slowed
from izmet.media.songfile import read_song, write_flac
from izmet.store.assets import Assets
from izmet.store.models import Asset


def slow_asset(assets: Assets, asset: Asset, factor: int, progress: Callable[[int, int], None]) -> None:
    """Write the slow copy of a song. It appears whole or not at all."""
    if factor not in SLOW:
        raise Refusal("bad-factor", f"A song is slowed {tuple(SLOW)} times, not {factor}.", asset.name)
    folder = assets.derived(asset.sha256, asset.kind)
    sound = read_song(assets.path(asset.sha256), asset.name, folder)
    part = folder / f".part-{SLOW[factor]}"
    try:
        with writing(asset.name):
            write_flac(part, sound.rate, sound.channels, slowed(sound, factor, progress))
        part.replace(folder / SLOW[factor])
    finally:
        part.unlink(missing_ok=True)
