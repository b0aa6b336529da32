"""A song made shorter or longer, as a file of its own, for an edit."""

from __future__ import annotations

import re
from pathlib import Path
from tempfile import TemporaryDirectory

from izmet.core.arrange.songs import places_left
from izmet.core.commands.music import JoinSong
from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.music.joining import Join
from izmet.jobs.changing import change
from izmet.jobs.kinds import MakeJoinedSong
from izmet.jobs.reading import read_asset
from izmet.material.files import media_of, ready_facts
from izmet.material.reading import Progress
from izmet.material.songs import played
from izmet.media.songfile import write_flac
from izmet.sound.joins import joined_source
from izmet.store import edits
from izmet.store.assets import Assets

LENGTH = r", [\d.]+ s$"
"""What a song that was joined before says at the end of its name."""


def join_song(assets: Assets, work: MakeJoinedSong, progress: Progress) -> None:
    """Write the song of an edit as it is heard with a join, and have the edit use that.

    Raises:
        Refusal: the edit has another song by now, or its file is not there.
    """
    join = Join(work.leave, work.enter, work.times)
    _check_song(edits.current(work.into).edit, work)
    heard = joined_source(played(assets, assets.get(work.song, "song")), join)
    with TemporaryDirectory(dir=assets.incoming) as folder:
        out = Path(folder) / "joined.flac"
        write_flac(out, heard.rate, heard.channels, heard.blocks())
        name = re.sub(LENGTH, "", Path(work.name).stem)
        asset = assets.adopt(out, f"{name}, {heard.duration:.1f} s.flac", "song")
    if asset.state != "ready" or not assets.is_derived(asset):
        read_asset(assets, asset, progress)
    asset = assets.get(asset.sha256, "song")
    edit = edits.current(work.into).edit
    _check_song(edit, work)
    command = JoinSong(
        of=work.song,
        media=media_of(asset),
        duration=ready_facts(asset)["duration"],
        **join._asdict(),
        places=places_left(edit, join),
    )
    change(work.into, command)


def _check_song(edit: Edit, work: MakeJoinedSong) -> None:
    if edit.song is None or edit.song.media.sha256 != work.song:
        raise Refusal("another-song", "The edit has another song by now.", work.name, "Choose anew.")
