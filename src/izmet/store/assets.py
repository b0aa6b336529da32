"""Media files, each kept once under its content hash, and the folder of what is derived from it.

A file appears under its final name only when it is whole and its hash is known.
What is derived can be rebuilt, so it lies apart, by the version of the code that
made it.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Literal

from izmet.core.edit import Edit, Media
from izmet.core.refusal import Refusal
from izmet.media.faults import writing
from izmet.store.datafolder import DataFolder
from izmet.store.models import Asset

AssetKind = Literal["song", "take"]
DERIVED_VERSION = 8
"""Counts up when packs, tables, peaks or cues would come out differently."""
LONGEST_NAME = 200


class Assets:
    """The assets of a data folder."""

    def __init__(self, folder: DataFolder):
        self._folder = folder

    def path(self, sha256: str) -> Path:
        """Where a file's content lies (whether or not it is there)."""
        return self._folder.assets / sha256[:2] / sha256

    def derived(self, sha256: str) -> Path:
        """The folder of what is derived from a file."""
        return self._folder.derived / f"v{DERIVED_VERSION}" / sha256

    def is_present(self, media: Media) -> bool:
        """Whether the file that an edit refers to is in the folder."""
        return media.sha256 is not None and self.path(media.sha256).exists()

    def missing(self, edit: Edit) -> list[str]:
        """What of an edit's media is not there: take ids, and ``song``."""
        gone = [take.id for take in edit.takes if not self.is_present(take.media)]
        if edit.song is not None and not self.is_present(edit.song.media):
            gone.append("song")
        return gone

    def keep(self, blocks: Iterable[bytes], name: str, kind: AssetKind, limit: int) -> Asset:
        """Take a file in, block by block.

        Args:
            name: what the person calls it; shown, never used as a path.
            limit: the most bytes that are taken.

        Returns:
            The asset; one that was there before keeps its state.

        Raises:
            Refusal: an empty file, one over the limit, a full disk.
        """
        handle, part_name = tempfile.mkstemp(dir=self._folder.incoming)
        part = Path(part_name)
        try:
            with writing(name), os.fdopen(handle, "wb") as file:
                sha256, size = _copy(blocks, file, name, limit)
                file.flush()
                os.fsync(file.fileno())
            target = self.path(sha256)
            target.parent.mkdir(exist_ok=True)
            part.replace(target)
        finally:
            part.unlink(missing_ok=True)
        known = Asset.get_or_none(Asset.sha256 == sha256)
        if known is not None and known.binned is not None:
            self.take_from_bin(sha256)
        return known or Asset.create(sha256=sha256, kind=kind, name=name[:LONGEST_NAME], size=size)

    def listing(self, binned: bool = False) -> list[Asset]:
        """All assets that are not in the bin, or those that are, the newest first."""
        return list(Asset.select().where(Asset.binned.is_null(not binned)).order_by(Asset.created.desc()))

    def put_in_bin(self, sha256: str) -> None:
        """Take an asset off the shelf; its file stays, and so does what uses it."""
        Asset.update(binned=time.time()).where(Asset.sha256 == self.get(sha256).sha256).execute()

    def take_from_bin(self, sha256: str) -> None:
        """Put an asset back on the shelf."""
        Asset.update(binned=None).where(Asset.sha256 == self.get(sha256).sha256).execute()

    def is_derived(self, asset: Asset) -> bool:
        """Whether what is derived from a file is there, made by this version of the code."""
        return self.derived(asset.sha256).is_dir()

    def get(self, sha256: str) -> Asset:
        """The asset with this hash. Raises Refusal when there is none."""
        asset = Asset.get_or_none(Asset.sha256 == sha256)
        if asset is None:
            raise Refusal("no-such-asset", "There is no such file here.", sha256, "Upload it again.")
        return asset


def _copy(blocks: Iterable[bytes], file: object, name: str, limit: int) -> tuple[str, int]:
    digest, size = hashlib.sha256(), 0
    for block in blocks:
        size += len(block)
        if size > limit:
            raise too_large(name, limit)
        digest.update(block)
        file.write(block)  # type: ignore[attr-defined]
    if size == 0:
        raise Refusal("empty-file", "The file is empty (0 bytes).", name, "Copy or export it again.")
    return digest.hexdigest(), size


def too_large(name: str, limit: int) -> Refusal:
    """The refusal of a file over the size limit."""
    return Refusal(
        "too-large",
        f"The file is larger than {limit / 2**20:,.0f} MiB, the most that is taken.",
        name,
        "Cut it to the part you need, or raise IZMET_MAX_UPLOAD_MB.",
    )
