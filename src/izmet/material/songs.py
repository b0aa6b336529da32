"""A song as an edit uses it, and what was heard in it."""

from __future__ import annotations

from collections.abc import Sequence

from izmet.core.document.edit import Song
from izmet.core.document.refusal import Refusal
from izmet.core.music.joining import FoundJoin, best_joins
from izmet.material.files import ANALYSIS, PLAYED, derived_of, media_of, ready_facts
from izmet.media.songfile import flac_source
from izmet.sound.cues import Found
from izmet.sound.likeness import Heard, aligned
from izmet.sound.source import Source
from izmet.store.assets import Assets
from izmet.store.models import Asset

LEAST_BARS = 4


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


def played(assets: Assets, asset: Asset) -> Source:
    """A song as it is played. Raises Refusal while it is not ready."""
    ready_facts(asset)
    return flac_source(derived_of(assets, asset) / PLAYED)


def joins_of(assets: Assets, song: Song, longer: float, tied: Sequence[float]) -> list[FoundJoin]:
    """Where a song could be made longer by some seconds, below 0 shorter, without being heard.

    Args:
        tied: instants of the song on which something is tied, rising.

    Raises:
        Refusal: its file is not there, or too few bars are marked.
    """
    begin, end = song.heard_from, song.duration if song.heard_to is None else song.heard_to
    bars = [cue.time for cue in song.cues if cue.kind == "downbeat" and begin < cue.time < end]
    if len(bars) < LEAST_BARS:
        raise Refusal(
            "no-bars",
            "Too few bars are marked to find a join.",
            song.media.name,
            "Count its beats, or set downbeats by hand.",
        )
    sound = played(assets, assets.get(song.media.sha256 or "", "song"))
    found = best_joins(bars, longer, Heard(sound, bars).alike, tied)
    return [each._replace(join=aligned(sound, each.join)) for each in found]


def analysis_of(assets: Assets, asset: Asset) -> Found:
    """What the automatic pass found in a song. Raises Refusal while it is not ready."""
    ready_facts(asset)
    return Found.model_validate_json((derived_of(assets, asset) / ANALYSIS).read_text())
