"""The store that a server and its workers share: a folder, or anything that fsspec reaches, such as S3.

Files of people, frame tables and documents lie under the hashes of their content, which are checked when they
are fetched; what is made under its key. A name is never of half a file.
"""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Callable, Collection
from contextlib import suppress
from datetime import datetime
from hashlib import file_digest, sha256
from pathlib import Path, PurePosixPath
from typing import Any, TypeVar
from uuid import uuid4

import fsspec
from fsspec.core import split_protocol

from izmet.core.document.refusal import Refusal
from izmet.media.writer import name_whole
from izmet.store.datafolder import let_go

CONTENT, MADE = "content", "made"
CACHE_BYTES = 64 << 30
"""What a machine keeps of a store that is elsewhere."""
OPTIONS: dict[str | None, dict[str, Any]] = {
    "s3": {
        "config_kwargs": {"connect_timeout": 5, "retries": {"total_max_attempts": 1}},
        "use_listings_cache": False,
    }
}
"""Says within seconds that it is away, for whoever waits asks again; keeps no lists, as others write too."""
FULL = (errno.ENOSPC, errno.EDQUOT)
T = TypeVar("T")


class StoreAway(Refusal):
    """The shared store cannot be used just now; it may be back soon."""

    def __init__(self, store: str, error: Exception):
        why = str(error).rstrip(".") or type(error).__name__
        super().__init__(
            "store-away",
            f"The shared store cannot be used: {why}.",
            store,
            "Check that it can be reached, then try again.",
        )


class Shared:
    """A shared store. All of it may raise ``StoreAway``.

    Args:
        url: a folder, or an address as fsspec knows them: ``s3://bucket/izmet``.
        cache: a folder of this machine's own, for what is fetched from elsewhere.
    """

    def __init__(self, url: str, cache: Path):
        self._fs, root = fsspec.core.url_to_fs(url, **OPTIONS.get(split_protocol(url)[0], {}))
        self._root = PurePosixPath(root)
        self._here = Path(root) if "file" in self._fs.protocol else None
        self._cache = cache
        self._checked: dict[str, tuple[int, int]] = {}

    def keep(self, file: Path) -> str:
        """Keep a file under the hash of its content, and tell that."""
        with file.open("rb") as content:
            name = file_digest(content, "sha256").hexdigest()
        return self.keep_known(file, name)

    def keep_known(self, file: Path, name: str) -> str:
        """The same for a file whose hash is known."""
        if not self._does(self._fs.exists, self._at(CONTENT, name)):
            self._put(file, self._at(CONTENT, name))
        return name

    def keep_bytes(self, content: bytes) -> str:
        """Keep some bytes under their hash, and tell that."""
        name = sha256(content).hexdigest()
        part = self._own()
        part.write_bytes(content)
        try:
            return self.keep_known(part, name)
        finally:
            part.unlink()

    def fetch(self, name: str) -> Path:
        """A file of this machine with the content of this hash.

        Raises:
            Refusal: it is not there, or what is there is something else.
        """
        path = self._fetched(self._at(CONTENT, name), name)
        facts = path.stat()
        if self._checked.get(name) != (facts.st_mtime_ns, facts.st_size):
            with path.open("rb") as content:
                found = file_digest(content, "sha256").hexdigest()
            if found != name:
                if self._here is None:
                    path.unlink()  # it is fetched again, when the store has the right one
                raise Refusal(
                    "spoilt-file",
                    "A file in the shared store is damaged.",
                    name,
                    "Delete it there; the server copies it again.",
                )
            self._checked[name] = (facts.st_mtime_ns, facts.st_size)
        return path

    def has_made(self, name: str) -> bool:
        """Whether something made is there."""
        return bool(self._does(self._fs.exists, self._at(MADE, name)))

    def keep_made(self, file: Path) -> None:
        """Keep something made under the name that its file has, which begins with its key."""
        self._put(file, self._at(MADE, file.name))

    def fetch_made(self, name: str, folder: Path) -> None:
        """Put a copy of something made into a folder. Raises FileNotFoundError."""
        path = self._at(MADE, name)
        if self._here is not None:
            self._does(_into, Path(path), folder / name)
            return
        part = self._own()
        try:
            self._does(self._fs.get_file, path, str(part))
            _into(part, folder / name)
        finally:
            part.unlink(missing_ok=True)

    def discard(self, name: str) -> None:
        """Throw something made away that is not whole."""
        with suppress(FileNotFoundError):
            self._does(self._fs.rm_file, self._at(MADE, name))

    def trim(self, budget: int, in_use: Collection[str]) -> None:
        """Remove what was made, the oldest first, until it fits into ``budget`` bytes; no key in use."""
        with suppress(FileNotFoundError):
            found = self._does(self._made)
            left = sum(size for _, size, _ in found) - budget
            for _, size, path in sorted(found):
                if left > 0 and PurePosixPath(path).stem not in in_use:
                    self._does(self._fs.rm_file, path)
                    left -= size

    def _made(self) -> list[tuple[datetime, int, str]]:
        """What was made: when, how many bytes, and where."""
        self._fs.invalidate_cache()
        found = self._fs.ls(self._at(MADE), detail=True)
        return [(self._fs.modified(each["name"]), each["size"], each["name"]) for each in found]

    def _at(self, *names: str) -> str:
        """The path of names that were made by a program of ours; none leads out of the root."""
        if any(not name or name != Path(name).name or name.startswith(".") for name in names):
            raise ValueError(names)
        return str(self._root.joinpath(*names))

    def _fetched(self, path: str, name: str) -> Path:
        if self._here is not None:
            return self._there(Path(path))
        kept = self._cache / name
        if not kept.exists():
            part = self._own()
            try:
                self._does(self._fs.get_file, path, str(part))
                part.replace(kept)
            except FileNotFoundError:
                self._there(kept)
            finally:
                part.unlink(missing_ok=True)
        os.utime(kept)
        let_go((file for file in self._cache.iterdir() if file.is_file()), CACHE_BYTES)
        return kept

    @staticmethod
    def _there(path: Path) -> Path:
        if not path.exists():
            raise Refusal(
                "media-missing",
                "A file is not in the shared store.",
                path.name,
                "Check that every machine uses the same store, then export again.",
            )
        return path

    def _put(self, file: Path, path: str) -> None:
        """Write a file so that its name is there when it is whole."""
        if self._here is None:
            try:
                self._does(self._fs.put_file, str(file), path)
            except FileNotFoundError as error:  # no file of ours is missing: there is no such bucket
                raise StoreAway(str(self._root), error) from error
            return
        target = Path(path)
        self._does(target.parent.mkdir, parents=True, exist_ok=True)
        self._does(_into, file, target)

    def _does(self, do: Callable[..., T], *args: Any, **options: Any) -> T:
        """Do something with the store. Raises StoreAway; what is not there, or too full, is told as it is."""
        try:
            return do(*args, **options)
        except Exception as error:  # stores share no class of what can go wrong
            if isinstance(error, FileNotFoundError | MemoryError) or getattr(error, "errno", None) in FULL:
                raise
            raise StoreAway(str(self._root), error) from error

    def _own(self) -> Path:
        self._cache.mkdir(parents=True, exist_ok=True)
        return self._cache / f".part-{uuid4().hex}"


def _into(file: Path, target: Path) -> None:
    """Copy a file to a place that may lie on another disk; it appears there whole or not at all."""
    part = target.with_name(f".part-{uuid4().hex}")
    try:
        shutil.copyfile(file, part)
        name_whole(part, target)
    finally:
        part.unlink(missing_ok=True)
