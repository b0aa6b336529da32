"""A song as an edit uses it, and what was heard in it."""

from __future__ import annotations

from izmet.core.document.edit import Song
from izmet.material.files import ANALYSIS, derived_of, media_of, ready_facts
from izmet.sound.cues import Found
from izmet.store.assets import Assets
from izmet.store.models import Asset


def song_of(assets: Assets, asset: Asset) -> Song:
    """The asset as an edit's song, with the cues found in it. Raises Refusal while it is not ready."""
    facts, found = ready_facts(asset), analysis_of(assets, asset)
    return Song(
        media=media_of(asset),
        duration=facts["duration"],
        sample_rate=facts["sample_rate"],
        meter=found.beats[0].meter if found.beats else 4,
        cues=found.cues,
        sections=found.sections,
    )


def analysis_of(assets: Assets, asset: Asset) -> Found:
    """What the automatic pass found in a song. Raises Refusal while it is not ready."""
    ready_facts(asset)
    return Found.model_validate_json((derived_of(assets, asset) / ANALYSIS).read_text())
