"""Media files, each kept once under its content hash, and the folder of what is derived from it.

A file appears under its final name only when it is whole and its hash is known.
What is derived can be rebuilt, so it lies apart, by the version of the code that
made it.
"""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Recorded
from izmet.core.document.values import Media
from izmet.core.document.words import one_line
from izmet.media.faults import writing
from izmet.store.datafolder import DataFolder
from izmet.store.models import Asset, database

AssetKind = Literal["song", "take"]
DERIVED_VERSION = 22
"""Counts up when packs, tables, peaks or cues would come out differently."""
LONGEST_NAME = 200


class Assets:
    """The assets of a data folder."""

    def __init__(self, folder: DataFolder):
        self._folder = folder
        self._derived = str(folder.derived / f"v{DERIVED_VERSION}")

    @property
    def incoming(self) -> Path:
        """Where files lie that are not whole yet."""
        return self._folder.incoming

    def path(self, sha256: str) -> Path:
        """Where a file's content lies (whether or not it is there)."""
        return self._folder.assets / sha256[:2] / sha256

    def derived(self, sha256: str, kind: str) -> Path:
        """The folder of what is derived from a file as a song, or as a take."""
        return Path(self.derived_name(sha256, kind))

    def derived_name(self, sha256: str, kind: str) -> str:
        """The same as text: a drag asks for that of all takes at every step, and paths take their time."""
        return f"{self._derived}/{kind}/{sha256}"

    def all_derived(self, part: str) -> Iterator[Path]:
        """This part of what is derived, of every file that has it."""
        return self._folder.derived.glob(f"*/*/*/{part}")

    def is_present(self, media: Media) -> bool:
        """Whether the file that an edit refers to is in the folder."""
        return media.sha256 is not None and self.path(media.sha256).exists()

    def missing(self, edit: Edit) -> list[str]:
        """What of an edit's media is not there: take ids, ``song``, and the ids of sounds."""
        gone = [take.id for take in edit.takes if not self.is_present(take.media)]
        if edit.song is not None and not self.is_present(edit.song.media):
            gone.append("song")
        files = ((sound.id, sound.what) for sound in edit.sounds)
        gone += [id for id, what in files if isinstance(what, Recorded) and not self.is_present(what.media)]
        return gone

    def adopt(self, file: Path, name: str, kind: AssetKind) -> Asset:
        """Take a whole file in; it is moved to its place.

        Args:
            file: it is moved away.
            name: what the person calls it; shown, never used as a path.

        Returns:
            The asset; one that was there before keeps its state.
        """
        with writing(name):
            with file.open("r+b") as content:
                sha256 = hashlib.file_digest(content, "sha256").hexdigest()
                os.fsync(content.fileno())
            target, size = self.path(sha256), file.stat().st_size
            target.parent.mkdir(exist_ok=True)
            _move(file, target)
        known = Asset.get_or_none(sha256=sha256, kind=kind)
        if known is not None and known.binned is not None:
            self.take_from_bin(sha256, kind)
        return known or Asset.create(sha256=sha256, kind=kind, name=one_line(name)[:LONGEST_NAME], size=size)

    def showing(self, shows: str) -> Asset | None:
        """The file that is the picture of an edit in this state, if it has been read and is here."""
        found = Asset.select().where((Asset.shows == shows) & (Asset.state == "ready"))
        return next((asset for asset in found if self.path(asset.sha256).exists()), None)

    def superseded(self, of: int, shows: str) -> list[Asset]:
        """The files that were the picture of an edit before this state of it."""
        is_older = Asset.shows.is_null() | (Asset.shows != shows)
        return list(Asset.select().where((Asset.bundle == of) & is_older))

    def discard(self, asset: Asset) -> None:
        """Delete a file that can be made again, with all that is derived from it."""
        Asset.delete().where((Asset.sha256 == asset.sha256) & (Asset.kind == asset.kind)).execute()
        shutil.rmtree(self.derived(asset.sha256, asset.kind), ignore_errors=True)
        if not Asset.select().where(Asset.sha256 == asset.sha256).exists():
            self.path(asset.sha256).unlink(missing_ok=True)

    def listing(self, binned: bool = False) -> list[Asset]:
        """All assets that are not in the bin, or those that are, the newest first.

        Without pictures of edits that are yet to be: whoever makes them may have been killed.
        """
        is_kept = Asset.shows.is_null() | Asset.bundle.is_null(False)
        is_asked = is_kept & Asset.binned.is_null(not binned)
        return list(Asset.select().where(is_asked).order_by(Asset.created.desc()))

    def put_in_bin(self, sha256: str, kind: str) -> None:
        """Take an asset off the shelf; its file stays, and so does what uses it."""
        note(self.get(sha256, kind), binned=time.time())

    def take_from_bin(self, sha256: str, kind: str) -> None:
        """Put an asset back on the shelf."""
        note(self.get(sha256, kind), binned=None)

    def is_derived(self, asset: Asset) -> bool:
        """Whether what is derived from a file is there, made by this version of the code."""
        return self.derived(asset.sha256, asset.kind).is_dir()

    def get(self, sha256: str, kind: str) -> Asset:
        """The file with this hash as a song or as a take. Raises Refusal when there is none."""
        asset = Asset.get_or_none(sha256=sha256, kind=kind)
        if asset is None:
            raise Refusal("no-such-asset", "There is no such file here.", sha256, "Upload it again.")
        return asset


def _move(file: Path, target: Path) -> None:
    """Move a file to its place; when that is on another disk, it appears there whole or not at all."""
    try:
        file.replace(target)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        part = target.with_suffix(".part")
        shutil.copyfile(file, part)
        part.replace(target)
        file.unlink()


def note(asset: Asset, **facts: object) -> None:
    """Write something down about an asset."""
    is_it = (Asset.sha256 == asset.sha256) & (Asset.kind == asset.kind)
    Asset.update(**facts).where(is_it).execute()


def add_facts(asset: Asset, **facts: object) -> None:
    """Add to what is known of an asset, as it is noted by now; nothing while nothing is."""
    with database.atomic("IMMEDIATE"):
        known = Asset.get_or_none(sha256=asset.sha256, kind=asset.kind)
        if known is not None and known.facts is not None:
            note(known, facts={**known.facts, **facts})


def too_large(name: str, limit: int) -> Refusal:
    """The refusal of a file over the size limit."""
    return Refusal(
        "too-large",
        f"The file is larger than {limit / 2**20:,.0f} MiB, the most that is taken.",
        name,
        "Cut it to the part you need, or raise IZMET_MAX_UPLOAD_MB.",
    )
