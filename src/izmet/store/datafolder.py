"""Where everything lies: one folder, by default the user's own, ``IZMET_DATA`` to move it."""

from __future__ import annotations

import fcntl
import logging
import os
import shutil
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from izmet.core.document.refusal import Refusal

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class DataFolder:
    """The data folder's layout. Only names made here, never a client's, become paths."""

    root: Path

    @classmethod
    def default(cls) -> DataFolder:
        """The folder that ``IZMET_DATA`` names, or the platform's own."""
        return cls(Path(os.environ.get("IZMET_DATA") or platformdirs.user_data_dir("izmet")).resolve())

    def prepare(self) -> DataFolder:
        """Create what is missing; nobody else on this machine may look into it.

        Raises:
            Refusal: a folder cannot be made, or a file stands where one should be.
        """
        for folder in (
            self.root, self.assets, self.derived, self.incoming, self.exports, self.parts, self.backups,
        ):  # fmt: skip
            try:
                folder.mkdir(parents=True, exist_ok=True)
                folder.chmod(0o700)
            except OSError as error:
                raise Refusal(
                    "no-folder",
                    f"This folder cannot be used ({error.strerror}).",
                    str(folder),
                    "Move what stands in its place, or set IZMET_DATA to another folder.",
                ) from None
        return self

    @contextmanager
    def held(self) -> Iterator[Callable[[str], None]]:
        """Inside, no other server works on this folder; the function that is given notes our address.

        Raises:
            Refusal: another one does; it names its address.
        """
        with (self.root / "server.lock").open("a+") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                lock.seek(0)
                address = lock.read() or "an address not known yet"
                raise Refusal(
                    "folder-in-use",
                    f"Another Izmet works on this data folder, at {address}.",
                    str(self.root),
                    "Open that address, end that program, or set IZMET_DATA to another folder.",
                ) from None
            lock.truncate(0)

            def note(address: str) -> None:
                lock.truncate(0)
                lock.write(address)
                lock.flush()

            yield note

    def clear_interrupted(self) -> None:
        """Remove what a killed reading or export had begun. Call it before any of them can run."""
        for part in (
            *self.exports.glob("*.part"),
            *self.exports.glob(".parts-*"),
            *self.parts.glob(".part-*"),
            *self.backups.glob(".part-*"),
            *self.derived.glob("*/*/.part-*"),
        ):
            clear(part)

    @property
    def database(self) -> Path:
        return self.root / "izmet.db"

    @property
    def key(self) -> Path:
        return self.root / "session.key"

    @property
    def assets(self) -> Path:
        return self.root / "assets"

    @property
    def derived(self) -> Path:
        return self.root / "derived"

    @property
    def incoming(self) -> Path:
        return self.root / "incoming"

    @property
    def exports(self) -> Path:
        return self.root / "exports"

    @property
    def parts(self) -> Path:
        return self.root / "parts"

    @property
    def backups(self) -> Path:
        return self.root / "backups"


def clear(left: Path) -> None:
    """Remove what was left, file or folder. What cannot be removed stays, with a note, and hinders none."""
    try:
        if left.is_dir() and not left.is_symlink():
            shutil.rmtree(left)
        else:
            left.unlink(missing_ok=True)
    except OSError as error:
        log.warning("%s was left and cannot be removed: %s", left, error)


def let_go(files: Iterable[Path], budget: int) -> None:
    """Remove files, the least recently used first, until they fit into ``budget`` bytes.

    When a file was used is its time of modification. The one used last always stays.
    """
    kept = sorted((file.stat().st_mtime_ns, file.stat().st_size, file) for file in files if file.exists())
    left = budget - (kept.pop()[1] if kept else 0)
    for _, size, file in reversed(kept):
        left -= size
        if left < 0:
            file.unlink(missing_ok=True)
