"""A take as an edit uses it, and what is known of its pictures."""

from __future__ import annotations

from pathlib import Path

from cachetools import LRUCache

from izmet.core.document.edit import Edit, Take
from izmet.core.document.values import Media
from izmet.core.following.montage import Drift
from izmet.core.memo import Memo
from izmet.core.shown.pictures import Counted, TakePictures
from izmet.material.files import MEASURES, TABLE, derived_of, media_of, ready_facts
from izmet.media.frametable import FrameTable
from izmet.media.looking import TakeMeasures
from izmet.store.assets import Assets
from izmet.store.models import Asset


def take_of(asset: Asset, id: str) -> Take:
    """The asset as a take of an edit. Raises Refusal while it is not ready."""
    facts = ready_facts(asset)
    told = {name: facts[name] for name in ("rate", "distinct", "frames", "width", "height")}
    return Take(id=id, media=media_of(asset), held=facts.get("held"), **told)


def table_of(assets: Assets, media: Media) -> FrameTable:
    """The frame table of a take that has been read."""
    return FrameTable.load(derived_of(assets, assets.get(media.sha256 or "", "take")) / TABLE)


def counted_of(assets: Assets, edit: Edit) -> Counted:
    """Per take id, its pictures, of the takes in use that have been read."""
    used = {clip.take for clip in edit.clips}
    found = ((take.id, _pictures(assets, take.media.sha256)) for take in edit.takes if take.id in used)
    return {id: pictures for id, pictures in found if pictures is not None}


def _pictures(assets: Assets, sha256: str | None) -> TakePictures | None:
    """A take's pictures; None until it has been read. A drag asks at every step."""
    if sha256 is None:
        return None
    name = assets.derived_name(sha256, "take")
    found = _PICTURES.get(name)
    if found is None and (path := Path(name) / TABLE).exists():
        found = _PICTURES[name] = FrameTable.load(path).pictures
    return found


_PICTURES: LRUCache[str, TakePictures] = LRUCache(1024)


def drifts_of(assets: Assets, edit: Edit) -> dict[str, Drift]:
    """How the content of each take moves, of those that have been looked at."""
    found = {}
    for take in edit.takes:
        if take.media.sha256 is not None:
            path = assets.derived(take.media.sha256, "take") / MEASURES
            if path.exists():
                found[take.id] = _DRIFTS.recall((), str(path), lambda path=path: _drift(path))  # type: ignore[misc]
    return found


def _drift(path: Path) -> Drift:
    found = TakeMeasures.load(path)
    return Drift(found.dx, found.dy, found.across, found.down)


_DRIFTS: Memo[Drift] = Memo(256)
