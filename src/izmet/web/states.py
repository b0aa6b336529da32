"""An edit's state as the browser gets it: the document and all that follows from it."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from flask import current_app

from izmet.core.derived import Derived, cue_frames, derive
from izmet.core.edit import Edit
from izmet.core.retime.solve import Frames
from izmet.jobs.reading import TABLE
from izmet.media.frametable import FrameTable
from izmet.store.assets import Assets
from izmet.store.edits import Stored
from izmet.web.schemas import EditState


def assets() -> Assets:
    """The assets of the app that handles this request."""
    found: Assets = current_app.extensions["izmet.assets"]
    return found


def state_of(stored: Stored) -> EditState:
    """An edit's state."""
    return EditState(
        id=stored.id,
        revision=stored.revision,
        can_undo=stored.can_undo,
        can_redo=stored.can_redo,
        edit=stored.edit,
        derived=derived_of(stored.edit),
        cue_frames=cue_frames(stored.edit),
        missing=assets().missing(stored.edit),
    )


def derived_of(edit: Edit) -> Derived:
    """What follows from an edit, with the distinct pictures of the takes that have been read."""
    used = {clip.take for clip in edit.clips}
    looks = {}
    for take in edit.takes:
        if take.id in used and take.media.sha256 is not None:
            path = assets().derived(take.media.sha256) / TABLE
            if path.exists():
                looks[take.id] = _looks(path)
    return derive(edit, looks)


@lru_cache(maxsize=64)
def _looks(path: Path) -> Frames:
    return FrameTable.load(path).looks
