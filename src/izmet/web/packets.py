"""Models with long columns of numbers as a compact binary body.

A packet is a JSON header and the columns behind it. It begins with the header's length
in bytes (uint32, little-endian); the header is padded with spaces so that what follows
is aligned to 8 bytes. In the header a column is written ``{"column": [type, offset,
count]}``: type is ``f4``, ``i2`` or ``i4``, offset counts from the end of the header.
Columns are little-endian and padded to 8 bytes each. ``lib/packet.ts`` reads it.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from flask import Response
from pydantic import BaseModel

MIMETYPE = "application/x-izmet-packet"
ALIGNED = 8


def packed(model: BaseModel) -> bytes:
    """A model as a packet."""
    columns: list[bytes] = []
    length = 0

    def plain(value: Any) -> Any:
        nonlocal length
        if isinstance(value, np.ndarray):
            place = [value.dtype.str[1:], length, len(value)]
            body = _padded(np.ascontiguousarray(value).tobytes(), b"\0")
            columns.append(body)
            length += len(body)
            return {"column": place}
        if isinstance(value, BaseModel):
            # What has no columns inside is written by pydantic, which is quicker.
            if not _holds_columns(type(value)):
                return value.model_dump(mode="json")
            return {name: plain(getattr(value, name)) for name in type(value).model_fields}
        if isinstance(value, dict):
            return {name: plain(each) for name, each in value.items()}
        holds = isinstance(value, list | tuple) and value and not isinstance(value[0], str)
        return [plain(each) for each in value] if holds else value

    header = json.dumps(plain(model), separators=(",", ":")).encode()
    header += b" " * (-(len(header) + 4) % ALIGNED)
    return struct.pack("<I", len(header)) + header + b"".join(columns)


def packet(model: BaseModel) -> Response:
    """A model as a packet's answer."""
    return Response(packed(model), mimetype=MIMETYPE)


def _holds_columns(model: type[BaseModel]) -> bool:
    return bool(model.model_config.get("arbitrary_types_allowed"))


def _padded(body: bytes, with_: bytes) -> bytes:
    return body + with_ * (-len(body) % ALIGNED)
