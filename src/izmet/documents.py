"""An edit document as it lies on disk. What it names is not looked at here: that is ``mediafiles``."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from izmet.core.commands import check
from izmet.core.document.edit import Edit, parse_edit
from izmet.core.document.refusal import Refusal


def check_outputs(document: Edit, edit: Path, outputs: list[Path], force: bool) -> None:
    """Refuse to write where something would be lost, or where nothing can be written."""
    media = [each.path for each in document.media if each.path]
    sources = {path.resolve() for path in (edit, *(edit.parent / name for name in media))}
    for out in outputs:
        if out.resolve() in sources:
            raise Refusal(
                "would-overwrite", "This is a file that the edit is made from.", str(out), "Name another."
            )
        if out.is_dir():
            raise Refusal("is-folder", "This is a folder.", str(out), "Name a file in it.")
        if not out.parent.is_dir():
            raise Refusal("no-folder", "Its folder is not there.", str(out), "Create the folder first.")
        if out.exists() and not force:
            raise Refusal("exists", "There is a file already.", str(out), "Name another, or use --force.")


def load(path: Path) -> Edit:
    found = read_document(path)
    check(found)
    return found


def read_document(path: Path) -> Edit:
    try:
        document: Any = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        raise Refusal("not-an-edit", f"The edit cannot be read: {error}.", str(path)) from None
    return parse_edit(document)
