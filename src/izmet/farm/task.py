"""What is a worker told of its work, and whom does it believe?

A task for a part says which document, which takes (by the hashes of their files and frame tables), how it is
coded, and the key of the part: the worker works the parts out by itself and finds the one with that key, or
refuses. So a task can ask for nothing but a part of a film, or a look through a take, and a worker of another
version makes nothing.

Messages are JSON, signed with a key that server and workers share (HMAC with SHA-256, RFC 2104, through
itsdangerous); no message can make a worker run anything but this program.
"""

from __future__ import annotations

import json
from hashlib import sha256
from importlib.metadata import version
from typing import Annotated, Any, Literal

from huey.registry import Message
from huey.serializer import Serializer
from itsdangerous import Signer
from pydantic import BaseModel, ConfigDict, Field

from izmet.core.document import upgrade
from izmet.media.formats import FormatName, Quality
from izmet.media.render import DRAWN
from izmet.store.assets import DERIVED_VERSION

VERSION = f"Izmet {version('izmet')}, documents {upgrade.VERSION}, kept {DERIVED_VERSION}, {DRAWN}"
"""What server and worker have to have in common."""
SALT = "izmet.farm"

Hash = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class TakeTold(BaseModel):
    """A take's file and its frame table, by the hashes of their content, and what a person calls it."""

    model_config = ConfigDict(frozen=True)

    file: Hash
    table: Hash
    name: Annotated[str, Field(max_length=400)]


class _Task(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    version: Annotated[str, Field(max_length=400)] = VERSION
    key: Hash
    """What is made is kept under it."""


class PartTask(_Task):
    """A part of a film that is to be made."""

    kind: Literal["part"] = "part"
    document: Hash
    takes: dict[Annotated[str, Field(max_length=200)], TakeTold]
    format: FormatName
    quality: Quality


class LookTask(_Task):
    """A take that is to be looked through; somebody waits to work with it, so it goes before parts."""

    kind: Literal["look"] = "look"
    file: Hash
    name: Annotated[str, Field(max_length=400)]


def look_key(file: str) -> str:
    """The key of what is kept of the take whose file has this hash."""
    return sha256(f"look {VERSION} {file}".encode()).hexdigest()


Task = Annotated[PartTask | LookTask, Field(discriminator="kind")]
PRIORITIES = {"part": 0, "look": 1}


class Signed(Serializer):  # type: ignore[misc]
    """Writes huey's messages as signed JSON, and reads none that this key has not signed."""

    def __init__(self, key: bytes):
        super().__init__()
        self._signer = Signer(key, salt=SALT, digest_method=sha256)

    def _serialize(self, data: Message) -> bytes:
        return self._signer.sign(json.dumps(data._asdict(), allow_nan=False).encode())

    def _deserialize(self, data: bytes) -> Message:
        """Raises itsdangerous.BadSignature."""
        found: dict[str, Any] = json.loads(self._signer.unsign(data))
        return Message(**found)
