"""Where is the farm? As the command line says it, and child processes find it in their environment."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from izmet.core.document.refusal import Refusal

REDIS, MEDIA, KEY, CACHE = "IZMET_REDIS", "IZMET_MEDIA", "IZMET_KEY_FILE", "IZMET_CACHE"
LEAST_KEY = 32
"""Bytes of a key: as many as its hash has (RFC 2104, section 3)."""


@dataclass(frozen=True)
class Place:
    """The address of Redis, the shared store, and the file with the key that signs tasks.

    ``cache`` is where this machine keeps what it fetched: ``IZMET_CACHE``, else the platform's own place.
    """

    redis: str
    media: str
    key_file: Path
    cache: Path

    @classmethod
    def given(cls, environment: Mapping[str, str] = os.environ) -> Place | None:
        """Where the environment says; None where it says nothing of a Redis.

        Raises:
            Refusal: it says a part of it only.
        """
        said = {name: environment.get(name, "") for name in (REDIS, MEDIA, KEY)}
        if not said[REDIS]:
            return None
        lacking = [name for name, value in said.items() if not value]
        if lacking:
            raise Refusal(
                "farm-incomplete",
                "For several machines Izmet needs the address of Redis, the shared store, and a key.",
                ", ".join(lacking),
                "Give --redis, --media and --key, or set these.",
            )
        cache = environment.get(CACHE) or platformdirs.user_cache_dir("izmet")
        return cls(said[REDIS], said[MEDIA], Path(said[KEY]), Path(cache))

    def as_environment(self) -> dict[str, str]:
        """The same for a child process."""
        return {REDIS: self.redis, MEDIA: self.media, KEY: str(self.key_file), CACHE: str(self.cache)}

    def key(self) -> bytes:
        """The key that signs tasks. Raises Refusal where there is none, or a weak one."""
        try:
            found = self.key_file.read_bytes().strip()
        except OSError as error:
            found, why = b"", error.strerror or "it cannot be read"
        else:
            why = f"it holds {len(found)} bytes, and needs {LEAST_KEY}"
        if len(found) < LEAST_KEY:
            raise Refusal(
                "no-key",
                f"There is no key to sign tasks with ({why}).",
                str(self.key_file),
                "Make one for server and workers: openssl rand -hex 32 > FILE",
            )
        return found
