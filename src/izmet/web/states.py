"""An edit's state as the browser gets it: the document and all that follows, or what of it changed."""

from __future__ import annotations

from hashlib import sha256

from flask import current_app

from izmet.core.document.changes import edit_change, splice
from izmet.core.document.edit import Edit
from izmet.core.following.consequences import consequences
from izmet.core.following.derived import Derived, DerivedChange, changes
from izmet.core.following.workings import Workings, cue_frames, workings_of
from izmet.core.memo import Memo
from izmet.core.music.facts import music_facts
from izmet.core.retime.floor import smooth_floor
from izmet.jobs.bundling import outdated, unknown
from izmet.material.mixes import mixer_of
from izmet.material.takes import counted_of
from izmet.store.assets import Assets
from izmet.store.edits import Stored
from izmet.store.uploads import Uploads
from izmet.web.schemas import BundleState, EditChanged, EditState, MixFacts


def assets() -> Assets:
    """The assets of the app that handles this request."""
    found: Assets = current_app.extensions["izmet.assets"]
    return found


def uploads() -> Uploads:
    """The uploads of the app that handles this request."""
    found: Uploads = current_app.extensions["izmet.uploads"]
    return found


def state_of(stored: Stored) -> EditState:
    """An edit's state."""
    edit = stored.edit
    return EditState.model_construct(
        id=stored.id,
        revision=stored.revision,
        can_undo=stored.can_undo,
        can_redo=stored.can_redo,
        edit=edit,
        derived=derived_of(edit),
        cue_frames=cue_frames(edit),
        music=music_facts(edit),
        mix=_mix_facts(edit),
        missing=assets().missing(edit),
        floors={take.id: smooth_floor(edit, take) for take in edit.takes},
        bundles=_bundle_states(stored),
    )


def changed_since(base: int, before: Edit, stored: Stored) -> EditChanged:
    """What is different in an edit's state from what it was at a revision before."""
    edit = stored.edit
    return EditChanged.model_construct(
        id=stored.id,
        base=base,
        revision=stored.revision,
        can_undo=stored.can_undo,
        can_redo=stored.can_redo,
        edit=edit_change(before, edit),
        derived=derived_change(before, edit),
        cue_frames=splice(cue_frames(before), cue_frames(edit)),
        music=music_facts(edit),
        mix=_mix_facts(edit),
        missing=assets().missing(edit),
        floors={take.id: smooth_floor(edit, take) for take in edit.takes},
        bundles=_bundle_states(stored),
        consequences=consequences(derived_of(before), derived_of(edit)),
    )


def _bundle_states(stored: Stored) -> dict[str, BundleState]:
    """How each bundle of an edit stands to the edit that it shows."""
    states: dict[str, BundleState] = {take.id: "current" for take in stored.edit.takes if take.bundle}
    if not states:
        return states
    states |= {each.take: "behind" for each in outdated(stored.id, stored.edit)}
    return states | dict.fromkeys(unknown(stored.edit), "unknown")


def derived_change(before: Edit, after: Edit) -> DerivedChange:
    """What follows differently from an edit that was made out of another."""
    near = _workings(before)
    return changes(near.derived, _workings(after, near).derived)


def derived_of(edit: Edit) -> Derived:
    """What follows from an edit, with the pictures of the takes that have been read."""
    return _workings(edit).derived


def _workings(edit: Edit, near: Workings | None = None) -> Workings:
    counted = counted_of(assets(), edit)
    return _WORKINGS.recall(
        (edit, *counted.values()), tuple(counted), lambda: workings_of(edit, counted, near)
    )


_WORKINGS: Memo[Workings] = Memo(8)


def _mix_facts(edit: Edit) -> MixFacts:
    mixer = mixer_of(assets(), edit)
    said = " ".join(voice.told for voice in mixer.voices)
    files = [media.sha256 or "" for media in edit.media]
    key = sha256(f"{mixer.rate} {said} {files}".encode()).hexdigest()[:16]
    ends = [voice.end for voice in mixer.voices]
    return MixFacts(
        key=key, rate=mixer.rate, channels=mixer.channels, end=max(ends, default=0.0), silent=not ends
    )
