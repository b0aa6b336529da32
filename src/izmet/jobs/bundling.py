"""Making bundles: an edit's picture, kept as a take of another edit.

The picture is rendered without loss, with the clips' own sound and without the song. What
a bundle holds is made first, where it has changed. A state of an edit is rendered once,
whoever looks at it and however often; its file is known by the state that it shows.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import NamedTuple

from izmet.core.commands.bundles import (
    UseBundle,
    bundle_of,
    bundle_state,
    bundled,
    landing_moments,
    own_voices,
)
from izmet.core.document.edit import Clip, Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.following.consequences import Consequence, consequences
from izmet.core.following.workings import derive
from izmet.core.shown.stack import frames_shown
from izmet.jobs.changing import change
from izmet.jobs.exporting import takes_of
from izmet.jobs.kinds import MakeBundle, has_failed, queue
from izmet.jobs.reading import read_asset
from izmet.material.mixes import sources_of
from izmet.material.reading import Progress
from izmet.material.takes import take_of
from izmet.media.render import Maker, make_parts, render
from izmet.sound.mixer import Mixer
from izmet.store import edits
from izmet.store.assets import Assets, note
from izmet.store.models import Asset, database


class Outdated(NamedTuple):
    """A bundle whose edit has changed: its take, the edit, and what that shows now."""

    take: str
    edit: int
    shows: str


def check_no_circle(of: int, into: int) -> None:
    """Refuse a bundle that would hold the edit it is brought into."""
    if into in (of, *_held(of)):
        raise Refusal(
            "holds-itself",
            "This edit would be a part of itself.",
            where=edits.current(of).edit.title,
            remedy="Bring in an edit that does not show this one, or a copy of it.",
        )


def unknown(edit: Edit) -> list[str]:
    """The takes that are bundles of edits that are not here: they stay as they are."""
    return [take.id for take in edit.takes if take.bundle and edits.known_as(take.bundle.edit) is None]


def outdated(id: int, edit: Edit) -> list[Outdated]:
    """The bundles of an edit that show what their edits were, or hold such bundles themselves."""
    return list(_outdated(id, edit))


def _outdated(id: int, edit: Edit) -> Iterator[Outdated]:
    for take in edit.takes:
        of = edits.known_as(take.bundle.edit) if take.bundle else None
        # Documents from elsewhere may hold one another: such a picture stays as it is.
        if take.bundle is None or of is None or id in (of, *_held(of)):
            continue
        inner = edits.current(of).edit
        shows = bundle_state(inner)
        if shows != take.bundle.shows or outdated(of, inner):
            yield Outdated(take.id, of, shows)


def renew_bundles(id: int) -> None:
    """Queue what makes an edit's bundles show what their edits are now; what failed is not tried again."""
    edit = edits.current(id).edit
    for _take, of, shows in outdated(id, edit):
        name = edits.current(of).edit.title
        work = MakeBundle(of=edits.identity_of(of), into=id, shows=shows, name=name)
        if not has_failed(work):
            queue(work)


def make_bundle(
    assets: Assets, kept: Path, work: MakeBundle, progress: Progress, maker: Maker = make_parts
) -> list[Consequence]:
    """Render an edit and bring it into another one as a take. Returns what that did to the rest, in words.

    Args:
        kept: the folder of rendered parts.
        maker: sees to it that parts are made.

    Raises:
        Refusal: the edit would hold itself, shows nothing, or cannot be rendered.
    """
    of = edits.known_as(work.of)
    if of is None:
        return _first(assets, kept, work, progress, maker)
    check_no_circle(of, work.into)
    for each in outdated(of, edits.current(of).edit):
        inner = edits.current(each.edit).edit.title
        deeper = MakeBundle(of=edits.identity_of(each.edit), into=of, shows=each.shows, name=inner)
        make_bundle(assets, kept, deeper, progress, maker)
    edit = edits.current(of).edit
    asset = _picture(assets, kept, edit, progress, maker)
    note(asset, bundle=of, binned=None)
    command = _using(asset, edit, work)
    both = change(work.into, command, amend=work.shows is not None)
    _discard_superseded(assets, of, command)
    return _said(*both)


def _first(
    assets: Assets, kept: Path, work: MakeBundle, progress: Progress, maker: Maker
) -> list[Consequence]:
    """Make an edit of some clips, and its picture, when that is whole: an edit without one is never left."""
    if work.base is None:
        raise Refusal("no-such-edit", "The edit is not here any more.", work.name, "Choose another one.")
    edit = bundle_of(edits.at_revision(work.into, work.base), work.clips, work.name)
    asset = _picture(assets, kept, edit, progress, maker)
    with database.atomic("IMMEDIATE"):
        of = edits.create(edit.model_copy(update={"identity": work.of}), "a bundle").id
        note(asset, bundle=of, binned=None)
        both = change(work.into, _using(asset, edit, work))
    return _said(*both)


def _picture(assets: Assets, kept: Path, edit: Edit, progress: Progress, maker: Maker) -> Asset:
    """The file that shows an edit as it is, rendered when there is none yet."""
    shows = bundle_state(edit)
    found = assets.showing(shows)
    if found is not None:
        return found
    edit = edit.model_copy(update={"range": None})
    with TemporaryDirectory(dir=assets.incoming) as folder:
        out = Path(folder) / "bundle.mkv"
        own = own_voices(edit)
        mix = Mixer.of(own, sources_of(assets, edit)) if own else None
        render(edit, takes_of(assets, edit), mix, out, "mkv", progress, kept, maker=maker)
        asset = assets.adopt(out, f"{edit.title}.mkv", "take")
    note(asset, shows=shows)
    if asset.state != "ready" or not assets.is_derived(asset):
        try:
            read_asset(assets, asset, progress)
        except BaseException:
            assets.discard(asset)  # stopped, or ended: a picture that no edit holds is nothing to keep
            raise
    return assets.get(asset.sha256, "take")


def _using(asset: Asset, edit: Edit, work: MakeBundle) -> UseBundle:
    take = take_of(asset, f"bundle-{work.of[:8]}")
    named = take.model_copy(update={"media": take.media.model_copy(update={"name": edit.title})})
    moments = landing_moments(edit, frames_shown(edit).first)
    return UseBundle(take=bundled(work.of, bundle_state(edit), named, moments), clips=work.clips)


def _said(before: Edit, after: Edit) -> list[Consequence]:
    """What a bundle did to the rest of the edit, in words."""
    kept = {clip.id for clip in after.clips}
    lost = sum(_ties(clip) for clip in before.clips if clip.id in kept) - sum(map(_ties, after.clips))
    text = f"{counted(lost, 'tie')} lost {'its moment' if lost == 1 else 'their moments'}"
    gone = [Consequence(code="ties-lost", count=lost, text=text)] if lost > 0 else []
    return gone + consequences(derive(before), derive(after))


def _ties(clip: Clip) -> int:
    return sum(pin.is_tie for pin in clip.pins)


def _discard_superseded(assets: Assets, of: int, command: UseBundle) -> None:
    """Delete the pictures that an edit has no more, but for those that an edit still uses."""
    bundle = command.take.bundle
    assert bundle is not None
    used = edits.media_in_use()
    for asset in assets.superseded(of, bundle.shows):
        if asset.sha256 not in used:
            assets.discard(asset)


def _held(id: int, seen: frozenset[int] = frozenset()) -> set[int]:
    """The edits that an edit shows, also through others."""
    if id in seen:
        return set()
    bundles = (take.bundle for take in edits.current(id).edit.takes)
    known = (edits.known_as(bundle.edit) for bundle in bundles if bundle is not None)
    inner = {each for each in known if each is not None}
    return inner.union(*(_held(each, seen | {id}) for each in inner))
