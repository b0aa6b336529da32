"""Making bundles: an edit's picture, kept as a take of another edit.

The picture is rendered without loss, with the clips' own sound and without the song. What
a bundle holds is made first, where it has changed; no bundle holds itself, so that ends.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from izmet.core.commands.bundles import UseBundle, bundled, landing_moments
from izmet.core.edit import Edit
from izmet.core.following import frames_shown
from izmet.core.mix import SONG, voices
from izmet.core.refusal import Refusal
from izmet.jobs.exporting import takes_of
from izmet.jobs.reading import Progress, read_asset, sources_of, take_of
from izmet.media.render import render
from izmet.sound.mixer import Mixer
from izmet.store import edits
from izmet.store.assets import Assets, note

TRIES = 20
"""How often the edit may have moved on while its bundle was brought in."""


def check_no_circle(of: int, into: int) -> None:
    """Refuse a bundle that would hold the edit it is brought into."""
    if into in (of, *_held(of)):
        raise Refusal(
            "holds-itself",
            "This edit would be a part of itself.",
            where=edits.current(of).edit.title,
            remedy="Bring in an edit that does not show this one, or a copy of it.",
        )


def outdated(edit: Edit) -> list[tuple[str, int]]:
    """The bundles of an edit that have changed since they were rendered: take ids, and their edits' ids."""
    bundles = [
        (take.id, take.bundle) for take in edit.takes if take.bundle and edits.exists(take.bundle.edit)
    ]
    return [
        (id, bundle.edit) for id, bundle in bundles if edits.current(bundle.edit).revision != bundle.revision
    ]


def make_bundle(
    assets: Assets, kept: Path, of: int, into: int, clips: tuple[str, ...], progress: Progress
) -> None:
    """Render an edit and bring it into another one as a take, in place of some clips.

    Args:
        kept: the folder of rendered parts.

    Raises:
        Refusal: the edit would hold itself, shows nothing, or cannot be rendered.
    """
    check_no_circle(of, into)
    for _, inner in outdated(edits.current(of).edit):
        make_bundle(assets, kept, inner, of, (), progress)
    stored = edits.current(of)
    edit = stored.edit.model_copy(update={"range": None})
    with TemporaryDirectory(dir=assets.incoming) as folder:
        out = Path(folder) / "bundle.mkv"
        own = [voice for voice in voices(edit) if voice.source != SONG]
        mix = Mixer.of(own, sources_of(assets, edit)) if own else None
        render(edit, takes_of(assets, edit), mix, out, "mkv", progress, kept)
        asset = assets.adopt(out, f"{edit.title}.mkv", "take")
    if asset.state != "ready" or not assets.is_derived(asset):
        read_asset(assets, asset, progress)
    _keep_newest(assets, asset.sha256, of)
    moments = landing_moments(edit, frames_shown(edit).first)
    take = take_of(assets.get(asset.sha256, "take"), f"bundle-{of}")
    named = take.model_copy(update={"media": take.media.model_copy(update={"name": edit.title})})
    _bring(into, lambda: UseBundle(take=bundled(of, stored.revision, named, moments), clips=clips))


def _keep_newest(assets: Assets, sha256: str, of: int) -> None:
    """Note of which edit a file is the picture, and take what it was before off the shelf."""
    note(assets.get(sha256, "take"), bundle=of)
    for other in assets.listing():
        if other.sha256 != sha256 and other.bundle == of:
            assets.put_in_bin(other.sha256, "take")


def _bring(into: int, command: Callable[[], UseBundle]) -> None:
    """Run a command on an edit that somebody may be working on."""
    for _ in range(TRIES):
        try:
            edits.run(into, edits.current(into).revision, command())
            return
        except edits.Stale:
            continue
    raise Refusal("busy", "The edit kept changing.", remedy="Try again in a moment.")


def _held(id: int, seen: frozenset[int] = frozenset()) -> set[int]:
    """The edits that an edit shows, also through others."""
    if id in seen or not edits.exists(id):
        return set()
    inner = {take.bundle.edit for take in edits.current(id).edit.takes if take.bundle is not None}
    return inner.union(*(_held(each, seen | {id}) for each in inner))
