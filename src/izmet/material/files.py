"""What is kept of a file that has been read, and where."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Media
from izmet.store.assets import AssetKind, Assets
from izmet.store.models import Asset

FetchedFile = Literal["pack", "index", "motion", "poster", "song.flac", "slow-2.flac", "slow-4.flac", "peaks"]


@dataclass(frozen=True)
class Derived:
    """Of which kind of file something is made, and as what it is sent."""

    kind: AssetKind
    mimetype: str = "application/octet-stream"


PACK, INDEX, TABLE, MOTION = "pack", "index", "table.npz", "motion"
MEASURES = "looks.npz"
"""Called so in every data folder there is."""
POSTER, SOUND = "poster", "sound.flac"
PLAYED, PEAKS, ANALYSIS = "song.flac", "peaks", "analysis.json"
SLOW = {factor: f"slow-{factor}.flac" for factor in (2, 4)}
"""A song's copies, so many times as long."""
FETCHED: dict[FetchedFile, Derived] = {
    "pack": Derived("take"),
    "index": Derived("take"),
    "motion": Derived("take"),
    "poster": Derived("take", "image/jpeg"),
    "song.flac": Derived("song", "audio/flac"),
    "slow-2.flac": Derived("song", "audio/flac"),
    "slow-4.flac": Derived("song", "audio/flac"),
    "peaks": Derived("song"),
}
"""What a browser fetches of a file as it is; the rest is read here."""


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
