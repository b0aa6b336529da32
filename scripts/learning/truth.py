"""What is known of a song to learn from: the json beside its audio."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from izmet.sound import hits


def truth_of(path: Path) -> dict[str, Any]:
    """What is known of the song in an audio file."""
    known: dict[str, Any] = json.loads(path.with_suffix(".json").read_text())
    return known


def tells_kinds(path: Path) -> bool:
    """Whether it is known of which kinds each hit is; of a tracker module only beats are."""
    return truth_of(path).keys() >= set(hits.KINDS)
