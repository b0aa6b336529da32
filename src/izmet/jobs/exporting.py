"""Exporting an edit: the file, and a report of where everything landed in it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from izmet.core.derived import derive
from izmet.core.edit import Edit
from izmet.core.framemap import frame_map
from izmet.core.landing import Landing
from izmet.core.refusal import Refusal
from izmet.core.retime.solve import solve
from izmet.jobs.reading import Progress, table_of
from izmet.media.readback import Measured, measure
from izmet.media.render import TakeFile, render
from izmet.media.songfile import as_heard, read_song
from izmet.media.writer import FormatName
from izmet.store.assets import Assets


def export_stored(
    assets: Assets, edit: Edit, out: Path, format: FormatName, progress: Progress
) -> dict[str, Any]:
    """Export an edit whose media are assets. Returns the report as JSON values.

    Raises:
        Refusal: media that is missing, or anything that ``render`` refuses.
    """
    gone = assets.missing(edit)
    if gone:
        raise Refusal(
            "media-missing",
            f"Files are missing: {', '.join(gone)}.",
            edit.title,
            "Link each of them again, then export.",
        )
    takes = {
        take.id: TakeFile(assets.path(take.media.sha256 or ""), table_of(assets, take.media))
        for take in edit.takes
        if any(clip.take == take.id for clip in edit.clips)
    }
    song_path = assets.path(edit.song.media.sha256 or "") if edit.song is not None else None
    return export(edit, takes, song_path, out, format, progress)


def export(
    edit: Edit,
    takes: dict[str, TakeFile],
    song_path: Path | None,
    out: Path,
    format: FormatName,
    progress: Progress,
) -> dict[str, Any]:
    """Render an edit to ``out``, read the file back, and report every landing, planned and measured."""
    song = (
        as_heard(edit.song, read_song(song_path, edit.song.media.name))
        if song_path is not None and edit.song is not None
        else None
    )
    render(edit, takes, song, out, format, progress)
    looks = {id: file.table.looks for id, file in takes.items()}
    landings = derive(edit, looks).landings
    shown = frame_map([solve(edit, clip) for clip in edit.clips])
    measured = measure(edit, shown, landings, takes, song, out)
    return {
        "first_frame": shown.first,
        "frames": len(shown),
        "rate": str(edit.rate),
        "landings": [_line(*pair) for pair in zip(landings, measured, strict=True)],
        "all_exact": all(
            m.measured_frame == line.wanted_frame for line, m in zip(landings, measured, strict=True)
        ),
    }


def _line(landing: Landing, measured: Measured) -> dict[str, Any]:
    return landing.model_dump() | {
        "measured_frame": measured.measured_frame,
        "measured_residual_ms": measured.residual_ms,
        "sound_offset_ms": measured.sound_offset_ms,
    }
