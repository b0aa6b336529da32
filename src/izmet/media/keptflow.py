"""The motion between two pictures, kept on disk: looking for it takes longer than all else of a frame.

A kept motion is used as it is written, whoever found it; so it is the same picture that comes
out, kept or not. A folder that cannot be written to keeps nothing, and nothing fails.
"""

from __future__ import annotations

import os
import zipfile
from collections.abc import Callable
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from uuid import uuid4

import numpy as np

from izmet.picture.flow import VERSION, Flow

SUFFIX = ".flow"


def kept_flow(folder: Path | None, said: str, find: Callable[[], Flow]) -> Flow:
    """The motion that is kept under what is said of it, else the one that is found now.

    Args:
        said: all that it depends on: which pictures, how they lie, how finely it is looked for.
    """
    if folder is None:
        return find()
    file = folder / f"{sha256(f'{VERSION} {said}'.encode()).hexdigest()}{SUFFIX}"
    with suppress(OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
        found = _read(file)
        os.utime(file)  # It counts as used now, so that it is not thrown away soon.
        return found
    flow = find()
    with suppress(OSError):
        _write(file, flow)
    return flow


def _read(file: Path) -> Flow:
    with np.load(file) as held:
        by, is_fine, is_cut, astray = held["facts"].tolist()
        forth, back = (held[name].astype(np.float32) for name in ("forth", "back"))
        trust = held["trust"]
    return Flow(forth, back, trust, int(by), bool(is_fine), bool(is_cut), astray)


def _write(file: Path, flow: Flow) -> None:
    part = file.with_name(f".part-{uuid4().hex}")
    try:
        with part.open("wb") as begun:
            np.savez(
                begun,
                forth=flow.forth.astype(np.float16),
                back=flow.back.astype(np.float16),
                trust=flow.trust,
                facts=[flow.by, flow.is_fine, flow.is_cut, flow.astray],
            )
        part.replace(file)
    finally:
        part.unlink(missing_ok=True)
