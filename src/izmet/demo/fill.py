"""Puts the demo's files into a data folder, reads them, and leaves two edits to open."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from pathlib import Path

from izmet.core.commands import apply
from izmet.core.commands.clips import LayTake
from izmet.core.commands.pins import AddTie
from izmet.core.commands.spans import ShapeSpan
from izmet.core.commands.takes import AddMoment, UseTake
from izmet.core.document.edit import Build, Cue, Dip, Edit
from izmet.demo.library import Progress
from izmet.demo.montage import bundle_some, race
from izmet.demo.songs import SONGS
from izmet.demo.takes import TAKES
from izmet.jobs.reading import read_asset
from izmet.material.songs import song_of
from izmet.material.takes import take_of
from izmet.store import edits
from izmet.store.assets import AssetKind, Assets
from izmet.store.datafolder import DataFolder
from izmet.store.models import Asset, EditRow, database

TITLE = "Skerry Run, heat three"


def fill(folder: DataFolder, progress: Progress) -> None:
    """Bring the library's files in, and make the demo's edits if there is none yet."""
    assets, library = Assets(folder), library_of(folder)
    with database.connection_context():
        songs = [_bring_in(assets, library / song.file_name, song.name, "song", progress) for song in SONGS]
        takes = [_bring_in(assets, library / take.file_name, take.name, "take", progress) for take in TAKES]
        if EditRow.select().exists():
            return
        first, second = (_with_material(assets, song, takes) for song in songs[:2])
        edits.create(landed(first, _drop(library, 0)), reason="the demo")
        whole = edits.create(race(second, _drop(library, 1)), reason="the demo")
        bundle_some(assets, folder.parts, whole, progress)


def library_of(folder: DataFolder) -> Path:
    """Where a data folder has the demo's files."""
    return folder.root / "library"


def _drop(library: Path, song: int) -> float:
    """When a song drops, in seconds, as it was made."""
    truth = json.loads((library / SONGS[song].file_name).with_suffix(".truth.json").read_text())
    return float(truth["drops"][0])


def _with_material(assets: Assets, song: Asset, takes: list[Asset]) -> Edit:
    """An edit with a song and all takes, marked as a person would have marked them."""
    edit = Edit(title=TITLE, rate="60", song=song_of(assets, song))
    for asset, take in zip(takes, TAKES, strict=True):
        id = f"take-{asset.sha256[:8]}"
        edit = apply(edit, UseTake(take=take_of(asset, id)))
        for moment in take.truth()["moments"]:
            edit = apply(edit, AddMoment(take=id, **moment))
    return edit


def landed(edit: Edit, drop: float) -> Edit:
    """A boat lands on the drop: four ties, and the speeds between them."""
    gannet = edit.takes[0]
    moments = {moment.label: moment.id for moment in gannet.moments}
    beat = 60 / SONGS[0].tempo
    at = {label: _cue_near(edit, drop + beats * beat, label) for label, beats in TIES.items()}
    edit = apply(edit, LayTake(take=gannet.id, moment=moments["splash-down"], cue=at["splash-down"].id))
    clip = edit.clips[0].id
    for label in ("lift-off", "run-up", "away"):
        edit = apply(edit, AddTie(clip=clip, moment=moments[label], cue=at[label].id))
    edit = apply(edit, ShapeSpan(clip=clip, span=0, shape=Dip(strength=0.5, reach=0.4)))
    edit = apply(edit, ShapeSpan(clip=clip, span=1, shape=Build(start=0.55, change=0.62)))
    return apply(edit, ShapeSpan(clip=clip, span=2, shape=Dip(strength=0.12, reach=0.3)))


TIES = {"run-up": -8, "lift-off": -4, "splash-down": 0, "away": 8}
"""Beats from the drop on which each moment of the demo lands."""


def _cue_near(edit: Edit, time: float, label: str) -> Cue:
    """The drop for the splash-down, else the nearest beat."""
    assert edit.song is not None
    kinds = ("drop",) if label == "splash-down" else ("beat", "downbeat")
    return min((cue for cue in edit.song.cues if cue.kind in kinds), key=lambda cue: abs(cue.time - time))


def _bring_in(assets: Assets, path: Path, name: str, kind: AssetKind, progress: Progress) -> Asset:
    copy = assets.incoming / f"{path.name}.copy"
    shutil.copyfile(path, copy)
    asset = assets.adopt(copy, name, kind)
    if asset.state != "ready" or not assets.is_derived(asset):
        read_asset(assets, asset, _saying(progress, f"reading {name}"))
    return assets.get(asset.sha256, kind)


def _saying(progress: Progress, what: str) -> Callable[[int, int], None]:
    return lambda done, total: progress(what, done, total)
