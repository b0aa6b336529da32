"""A file as a sound that is laid on cues."""

from __future__ import annotations

from izmet.core.document.sounds import Recorded
from izmet.material.files import PLAYED, derived_of, media_of, ready_facts
from izmet.media.songfile import flac_source
from izmet.sound.attack import felt
from izmet.sound.mono import mixed_down
from izmet.store.assets import Assets
from izmet.store.models import Asset

LISTENED_SECONDS = 60.0
"""How far into a file its attack is looked for."""


def recorded_of(assets: Assets, asset: Asset) -> Recorded:
    """The asset as a sound, with its attack as it was found. Raises Refusal while it is not ready."""
    duration = ready_facts(asset)["duration"]
    source = flac_source(derived_of(assets, asset) / PLAYED)
    heard = source.stretch(0, min(source.count, round(LISTENED_SECONDS * source.rate)))
    return Recorded(media=media_of(asset), duration=duration, attack=felt(mixed_down(heard), source.rate))
