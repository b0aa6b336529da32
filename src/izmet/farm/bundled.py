"""What is kept of a take as one file, on its way from a worker: a zip of the files and the facts."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path
from typing import Any

from izmet.core.document.refusal import Refusal
from izmet.material.reading import KEPT

FACTS = "facts.json"


def name_of(key: str) -> str:
    """What such a file is called."""
    return f"{key}.zip"


def pack(folder: Path, facts: dict[str, Any], out: Path) -> None:
    """Write what was kept of a take, and its facts, into one file."""
    with zipfile.ZipFile(out, "w") as bundle:  # as they are: pictures do not get smaller
        bundle.writestr(FACTS, json.dumps(facts, allow_nan=False))
        for name in KEPT:
            if (folder / name).exists():
                bundle.write(folder / name, name)


def unpack(bundle: Path) -> dict[str, Any]:
    """Put what is in such a file beside it, in its place. Returns the facts.

    Raises:
        Refusal: it holds anything else, or is not whole.
    """
    wrong = Refusal("spoilt-file", "What a worker sent back is damaged.", remedy="Read the take again.")
    try:
        with zipfile.ZipFile(bundle) as held:
            names = held.namelist()
            if not {*KEPT, FACTS}.issuperset(names):
                raise wrong
            facts: dict[str, Any] = json.loads(held.read(FACTS))
            held.extractall(bundle.parent, [name for name in names if name != FACTS])
    except (zipfile.BadZipFile, OSError, KeyError, ValueError):
        raise wrong from None
    finally:
        bundle.unlink()
    return facts
