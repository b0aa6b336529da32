"""Long lists of a document, kept once by content.

A revision that differs from the one before in a single cue should not bring three
thousand others along. So the lists that grow with the work are cut into runs, and a
run is kept under the hash of its content. Where a run ends is told by the content
itself (a part whose id's checksum has its lowest bits clear), so that a cue set in
between changes its own run and moves no others.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable, Sequence
from hashlib import blake2b
from itertools import pairwise
from typing import Any

from pydantic import TypeAdapter

from izmet.core.document.edit import Clip, Cue, Edit, Take, parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.upgrade import VERSION
from izmet.core.memo import Memo
from izmet.store.models import Part

KEY_BYTES = 16
AT_ONCE = 400
"""Keys in one question to SQLite; old builds take 999 at most."""

Key = bytes
Path = tuple[str, ...]
LISTS: dict[Path, tuple[TypeAdapter[Any], int]] = {
    ("song", "cues"): (TypeAdapter(tuple[Cue, ...]), 0x3F),
    ("song", "struck"): (TypeAdapter(tuple[Cue, ...]), 0x3F),
    ("takes",): (TypeAdapter(tuple[Take, ...]), 0x03),
    ("clips",): (TypeAdapter(tuple[Clip, ...]), 0x07),
}
"""Where the lists are, how they are written, and the mask that ends a run: 64, 4 or 8 parts on average."""

_READ: Memo[tuple[Any, ...]] = Memo(8192)
"""Runs as they were read: revisions that share a run share its parts."""


def fold(edit: Edit) -> bytes:
    """Keep an edit's long lists, and tell the rest with their keys: the content of a revision."""
    rest = edit.model_dump(mode="json", exclude={"takes": True, "clips": True, "song": {"cues", "struck"}})
    texts: dict[Key, bytes] = {}
    for path, (adapter, mask) in LISTS.items():
        owner = edit.song if path[0] == "song" else edit
        if owner is None:
            continue
        runs = [adapter.dump_json(run) for run in _runs(getattr(owner, path[-1]), mask)]
        keys = [blake2b(text, digest_size=KEY_BYTES).digest() for text in runs]
        texts |= zip(keys, runs, strict=True)
        _holder(rest, path)[path[-1]] = b"".join(keys).hex()
    known = _contents(list(texts), "key").keys()
    rows = [(key, zlib.compress(text)) for key, text in texts.items() if key not in known]
    Part.insert_many(rows, fields=[Part.key, Part.content]).on_conflict_ignore().execute()
    return pack(rest)


def pack(document: dict[str, Any]) -> bytes:
    """A document as the content of a revision, its lists as they stand in it."""
    return zlib.compress(json.dumps(document, allow_nan=False).encode())


def unfold(content: bytes) -> Edit:
    """The edit that was folded; one of an older version is brought up to this one.

    Raises:
        Refusal: a document that was kept by an older program and cannot be read.
    """
    try:
        return _unfolded(content)
    except (zlib.error, ValueError, KeyError, TypeError):
        raise Refusal(
            "unreadable-revision",
            "What was kept of this edit cannot be read.",
            remedy="Open another edit, or bring the data folder back from a backup.",
        ) from None


def _unfolded(content: bytes) -> Edit:
    document = json.loads(zlib.decompress(content))
    read = _parsed_run if document["version"] == VERSION else _plain_run
    return parse_edit(_with_lists(document, read))


def whole(content: bytes) -> dict[str, Any]:
    """What was folded as plain JSON values, of whatever version it is."""
    return _with_lists(json.loads(zlib.decompress(content)), _plain_run)


def _with_lists(
    document: dict[str, Any], read: Callable[[Path, Key, bytes], Sequence[Any]]
) -> dict[str, Any]:
    folded = {path: keys for path in LISTS if isinstance(keys := _list_at(document, path), str)}
    split = {path: _split(bytes.fromhex(keys)) for path, keys in folded.items()}
    texts = _contents([key for keys in split.values() for key in keys], "content")
    for path, keys in split.items():
        runs = [read(path, key, texts[key]) for key in keys]
        _holder(document, path)[path[-1]] = [part for run in runs for part in run]
    return document


def _plain_run(path: Path, key: Key, content: bytes) -> Sequence[Any]:
    found: list[Any] = json.loads(zlib.decompress(content))
    return found


def _parsed_run(path: Path, key: Key, content: bytes) -> Sequence[Any]:
    return _READ.recall((), (path, key), lambda: LISTS[path][0].validate_json(zlib.decompress(content)))


def _runs(parts: tuple[Any, ...], mask: int) -> list[tuple[Any, ...]]:
    ends = [i + 1 for i, part in enumerate(parts) if not zlib.crc32(part.id.encode()) & mask]
    edges = [0, *ends, len(parts)]
    return [parts[begin:end] for begin, end in pairwise(edges) if begin < end]


def _split(keys: bytes) -> list[Key]:
    return [keys[at : at + KEY_BYTES] for at in range(0, len(keys), KEY_BYTES)]


def _contents(keys: list[Key], column: str) -> dict[Key, bytes]:
    """One column of the rows with these keys."""
    found: dict[Key, bytes] = {}
    for at in range(0, len(keys), AT_ONCE):
        asked = Part.key.in_(keys[at : at + AT_ONCE])
        rows: Any = Part.select(Part.key, getattr(Part, column)).where(asked).tuples()
        found |= {bytes(key): bytes(value) for key, value in rows}
    return found


def _holder(document: dict[str, Any], path: Path) -> dict[str, Any]:
    found: dict[str, Any] = document["song"] if path[0] == "song" else document
    return found


def _list_at(document: dict[str, Any], path: Path) -> Any:
    holder = document.get("song") if path[0] == "song" else document
    return holder and holder.get(path[-1])
