"""What is kept of a take as one file, on its way from a worker: a tar of the files and the facts."""

from __future__ import annotations

import json
import tarfile
from pathlib import Path
from typing import Any

from izmet.core.document.refusal import Refusal
from izmet.material.reading import KEPT

FACTS = "facts.json"


def name_of(key: str) -> str:
    """What such a file is called."""
    return f"{key}.tar"


def pack(folder: Path, facts: dict[str, Any], out: Path) -> None:
    """Write what was kept of a take, and its facts, into one file."""
    (folder / FACTS).write_text(json.dumps(facts, allow_nan=False))
    with tarfile.open(out, "w") as bundle:
        for name in (*KEPT, FACTS):
            if (folder / name).exists():
                bundle.add(folder / name, name, recursive=False)


def unpack(bundle: Path) -> dict[str, Any]:
    """Put what is in such a file beside it, in its place. Returns the facts.

    Raises:
        Refusal: it holds anything else, or is not whole.
    """
    wrong = Refusal("spoilt-file", "What a worker sent back is damaged.", remedy="Read the take again.")
    try:
        with tarfile.open(bundle) as held:
            for member in held:
                if member.name not in (*KEPT, FACTS) or not member.isfile():
                    raise wrong
                held.extract(member, bundle.parent, filter="data")
        facts: dict[str, Any] = json.loads((bundle.parent / FACTS).read_text())
        (bundle.parent / FACTS).unlink()
    except (tarfile.TarError, OSError, ValueError):
        raise wrong from None
    finally:
        bundle.unlink()
    return facts
