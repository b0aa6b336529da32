"""Spoils things by chance, the same way each time: bytes of files, values of JSON."""

from __future__ import annotations

import copy
import json
import random
from typing import Any

STRANGE: list[Any] = [
    None, True, -1, 0, 1, 2**31, 2**63, 10**30, -(10**30), 0.5, 1e308, -1e308, 1e-320, "", "0", "1/0", "nan",
    "x" * 5000, "\u0000", "\ud83d\ude80", "\u202e", "-1", "1e999", [], {}, [[]], {"": {}}, [None] * 50,
]  # fmt: skip


def spoilt_bytes(data: bytes, random: random.Random) -> bytes:
    """Some bytes turned, cut out, doubled, or the end missing."""
    out = bytearray(data)
    for _ in range(random.randint(1, 6)):
        if not out:
            break
        at = random.randrange(len(out))
        length = min(len(out) - at, random.choice([1, 1, 2, 4, 16, 200]))
        match random.randrange(5):
            case 0:
                out[at] = random.randrange(256)
            case 1:
                del out[at : at + length]
            case 2:
                out[at:at] = out[at : at + length]
            case 3:
                out[at : at + length] = random.randbytes(length)
            case _:
                del out[random.randrange(at, len(out)) :]
    return bytes(out)


def spoilt_json(value: Any, random: random.Random) -> Any:
    """A copy in which some values are strange, missing, doubled, or of another place."""
    out = copy.deepcopy(value)
    for _ in range(random.randint(1, 3)):
        places = list(_places(out))
        if not places:
            break
        holder, key = random.choice(places)
        match random.randrange(4):
            case 0:
                holder[key] = copy.deepcopy(random.choice(STRANGE))
            case 1 if isinstance(holder, dict):
                del holder[key]
            case 2 if isinstance(holder, list):
                holder.insert(key, copy.deepcopy(holder[key]))
            case 3:
                other, at = random.choice(places)
                holder[key] = json.loads(json.dumps(other[at]))
            case _:
                holder[key] = copy.deepcopy(random.choice(STRANGE))
    return out


def _places(value: Any) -> Any:
    """Every dict and list with each of its keys."""
    if isinstance(value, dict | list):
        for key in list(value) if isinstance(value, dict) else range(len(value)):
            yield value, key
            yield from _places(value[key])
