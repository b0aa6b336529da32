"""What is kept of a file that has been read, and where."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from izmet.core.document.edit import Media
from izmet.core.document.refusal import Refusal
from izmet.store.assets import Assets
from izmet.store.models import Asset

PACK, INDEX, TABLE, MOTION, LOOKS = "pack", "index", "table.npz", "motion", "looks.npz"
POSTER = "poster"
PLAYED, PEAKS, ANALYSIS = "song.flac", "peaks", "analysis.json"
SOUND = "sound.flac"
"""A take's own sound."""
TAKE_PARTS = {PACK, INDEX, MOTION, POSTER}
"""What is fetched of a take, all else being of a song."""


class Gone(Refusal):
    """What was made of a file is not there any more: it has to be read again."""

    def __init__(self, asset: Asset, what: str, remedy: str):
        super().__init__("not-ready", what, asset.name, remedy)
        self.asset = asset


def media_of(asset: Asset) -> Media:
    """How an edit names a file."""
    return Media(name=asset.name, sha256=asset.sha256)


def ready_facts(asset: Asset) -> dict[str, Any]:
    """What reading told of a file. Raises Refusal when it is not ready."""
    if asset.state != "ready" or asset.facts is None:
        raise Refusal("not-ready", "This file has not been read yet.", asset.name, "Wait until it is ready.")
    facts: dict[str, Any] = asset.facts
    return facts


def derived_of(assets: Assets, asset: Asset) -> Path:
    """The folder of what is derived from a file.

    Raises:
        Gone: it is not there any more.
    """
    folder = assets.derived(asset.sha256, asset.kind)
    if asset.state == "ready" and not folder.is_dir():
        raise Gone(
            asset,
            "What was made of this file is gone; it is being read again.",
            "Try again when it has been read.",
        )
    return folder


def pack_of(assets: Assets, asset: Asset) -> Path:
    """The folder of a take with its frame pack in it, noted as used now.

    Raises:
        Gone: the pack has been let go, for want of room, or is not there yet.
    """
    folder = derived_of(assets, asset)
    try:
        os.utime(folder / PACK)
    except FileNotFoundError:
        raise Gone(
            asset,
            "The small pictures of this take had been let go; they are being made again.",
            "Wait until it has been read.",
        ) from None
    return folder
