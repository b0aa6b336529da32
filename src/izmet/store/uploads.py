"""Files on their way in: begun, continued piece by piece, and kept as assets when they are whole.

What a file is called, how long it is and when it was last changed tells which upload it
is. So an upload that broke off goes on where it was, from any tab, and after the server
was started again. Nothing is asked of the disk before it is known that the file fits.
"""

from __future__ import annotations

import hashlib
import shutil
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from izmet.core.document.refusal import Refusal
from izmet.media.faults import writing
from izmet.store.assets import AssetKind, Assets, too_large
from izmet.store.datafolder import DataFolder, clear
from izmet.store.models import Asset

SPARE_BYTES = 256 << 20
"""What an upload leaves free on the disk, for all that is derived from it."""
KEPT_SECONDS = 24 * 3600.0
"""How long an upload that broke off is kept."""
SUFFIX, RECEIPT = ".upload", ".kept"
BLOCK = 1 << 20


@dataclass(frozen=True)
class Upload:
    """A file as its person has it: ``changed`` is when it was last changed, in ms since the epoch."""

    kind: AssetKind
    name: str
    size: int
    changed: int

    @property
    def id(self) -> str:
        """Which upload it is."""
        facts = f"{self.kind}\n{self.size}\n{self.changed}\n{self.name}"
        return hashlib.sha256(facts.encode("utf-8", "surrogatepass")).hexdigest()[:32]


class Uploads:
    """The uploads of a data folder."""

    def __init__(self, folder: DataFolder, assets: Assets):
        self._incoming = folder.incoming
        self._assets = assets
        self._lock = threading.Lock()

    def begin(self, upload: Upload, limit: int) -> int:
        """Begin an upload, or take one up again. Returns how many bytes are there.

        Raises:
            Refusal: the file is empty, over ``limit``, or does not fit on the disk.
        """
        if upload.size == 0:
            raise Refusal(
                "empty-file", "The file is empty (0 bytes).", upload.name, "Copy or export it again."
            )
        if upload.size > limit:
            raise too_large(upload.name, limit)
        received = self.received(upload)
        free = shutil.disk_usage(self._incoming).free
        if upload.size - received > free - SPARE_BYTES:
            raise Refusal(
                "disk-full",
                f"The file has {upload.size / 2**20:,.0f} MiB; the disk has room for"
                f" {max(0, free - SPARE_BYTES) / 2**20:,.0f}.",
                upload.name,
                "Free some space and try again.",
            )
        with writing(upload.name):
            self._path(upload).touch()
        return received

    def received(self, upload: Upload) -> int:
        """How many bytes of it are there."""
        path = self._path(upload)
        return path.stat().st_size if path.exists() else 0

    def add(self, upload: Upload, at: int, blocks: Iterator[bytes]) -> int:
        """Put a piece in its place. Returns how many bytes are there now.

        A piece that does not begin where the file ends is left alone: the answer tells
        where to go on. One that breaks off is kept as far as it came.

        Raises:
            Refusal: a full disk, or more than the file was to have.
        """
        with self._lock, self._all_or_nothing(upload), self._path(upload).open("ab") as file:
            if at != file.tell():
                return file.tell()
            for block in blocks:
                if file.tell() + len(block) > upload.size:
                    raise Refusal(
                        "too-much",
                        f"More than the {upload.size} bytes came that were announced.",
                        upload.name,
                        "Put the file in again; something changed it on the way.",
                    )
                file.write(block)
            return file.tell()

    def finish(self, upload: Upload) -> Asset:
        """Keep a file that is whole; asked again, for the answer got lost, it is the same asset.

        Raises:
            Refusal: bytes are missing.
        """
        path = self._path(upload)
        with self._lock, self._all_or_nothing(upload):
            kept = self._kept(upload)
            if kept is not None and not path.exists():
                return kept
            received = self.received(upload)
            if received != upload.size:
                raise Refusal(
                    "not-whole",
                    f"{received} of {upload.size} bytes are there.",
                    upload.name,
                    "Send the rest.",
                )
            asset = self._assets.adopt(path, upload.name, upload.kind)
            self._receipt(upload).write_text(asset.sha256)
            return asset

    def _kept(self, upload: Upload) -> Asset | None:
        """The asset that an upload became."""
        receipt = self._receipt(upload)
        if not receipt.exists():
            return None
        asset: Asset | None = Asset.get_or_none(sha256=receipt.read_text(), kind=upload.kind)
        return asset

    def give_up(self, upload: Upload) -> None:
        """Throw away what came of an upload."""
        with self._lock:
            self._path(upload).unlink(missing_ok=True)

    @contextmanager
    def _all_or_nothing(self, upload: Upload) -> Iterator[None]:
        """Inside, a full disk is told, and what came of the upload does not fill it any longer."""
        try:
            with writing(upload.name):
                yield
        except Refusal as refusal:
            if refusal.code == "disk-full":
                self._path(upload).unlink(missing_ok=True)
            raise

    def _path(self, upload: Upload) -> Path:
        return self._incoming / f"{upload.id}{SUFFIX}"

    def _receipt(self, upload: Upload) -> Path:
        return self._incoming / f"{upload.id}{RECEIPT}"


def clear_old(incoming: Path) -> None:
    """Remove uploads that nobody took up again, and whatever else was left here."""
    for part in incoming.iterdir():
        if part.suffix not in (SUFFIX, RECEIPT) or part.stat().st_mtime < time.time() - KEPT_SECONDS:
            clear(part)
