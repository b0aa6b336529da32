"""A finished file for somebody who has nothing installed: a page by itself, with a small copy in it.

The page steps through it frame by frame, shows its cues and landings, and takes notes, which come back as a
file: ``read_notes`` reads it.
"""

from __future__ import annotations

import base64
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any, Literal, cast

import av
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from izmet.core.commands.notes import AddNotes
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Edit
from izmet.core.document.limits import MOST_NOTES
from izmet.core.document.notes import Remark
from izmet.core.document.rates import seconds_at
from izmet.core.document.refusal import Refusal
from izmet.jobs.pages import PAGES
from izmet.media.writer import mark_colour, whole_file

SMALL = "small.mp4"
"""What the small copy of a file is called, after its own name."""
LONGEST = 600
"""Seconds of a film that a page holds: as much as can be sent about."""
LARGEST = 640
"""The longer side of the small copy, in pixels."""
CODED = {"crf": "27", "preset": "veryfast", "g": "12"}
"""Small, and quick to go to any of its frames."""


class NotesFile(BaseModel):
    """Notes as the page saves them, of the edit with that identity."""

    model_config = ConfigDict(extra="forbid")

    izmet_notes: Literal[1]
    edit: str | None
    notes: list[Remark] = Field(max_length=MOST_NOTES)


def review_page(report: Mapping[str, Any], small: Path, edit: Edit, title: str) -> str:
    """The page of a finished file.

    Args:
        report: as ``exporting.export`` gives it.
        small: a small copy of the file (``small_copy``).
        edit: what it shows, in the form in which it went out.
    """
    rate = Fraction(report["rate"])
    start = seconds_at(report["first_frame"], rate)
    length = seconds_at(report["frames"], rate)
    cues = [
        {"at": at, "kind": CUE_KINDS[cue.kind].name}
        for cue in (edit.song.cues if edit.song else ())
        if 0 <= (at := edit.instant(cue.id) - start) < length
    ]
    landings = [
        {
            "frame": line["wanted_frame"] - report["first_frame"],
            "said": f"{line['label']} on {CUE_KINDS[line['cue_kind']].name}",
            "lands": line["measured_frame"] == line["wanted_frame"],
        }
        for line in report["landings"]
    ]
    facts = {
        **{"edit": edit.identity, "start": start, "frames": report["frames"]},
        **{"rate": [rate.numerator, rate.denominator], "cues": cues, "landings": landings},
    }
    film = base64.b64encode(small.read_bytes()).decode()
    return PAGES.get_template("review.html").render(title=title, facts=facts, film=film)


def small_copy(exported: Path, copy: Path, seconds: float) -> Path:
    """A small copy of a finished file, with every frame of it, made where it is not there yet.

    Raises:
        Refusal: a file that lasts too long to be sent about in a page.
    """
    if seconds > LONGEST:
        raise Refusal(
            "too-long-to-review",
            f"A review page holds {LONGEST / 60:.0f} minutes at most; this film lasts {seconds / 60:.1f}.",
            exported.name,
            "Set a shorter range and export that.",
            LONGEST,
        )
    if not copy.exists():
        with whole_file(copy) as part:
            _copy(exported, part)
    return copy


def _copy(exported: Path, part: Path) -> None:
    with av.open(str(exported)) as source, av.open(str(part), "w", format="mp4") as target:
        film = source.streams.video[0]
        by = min(1.0, LARGEST / max(film.width, film.height))
        picture = target.add_stream("libx264", rate=film.average_rate, options=dict(CODED))
        picture.width, picture.height = (2 * round(by * side / 2) for side in (film.width, film.height))
        picture.pix_fmt = "yuv420p"
        mark_colour(picture.codec_context)
        heard = source.streams.audio[0] if source.streams.audio else None
        sound = None
        if heard is not None:
            sound = target.add_stream("aac", rate=48_000, layout="stereo")
            sound.bit_rate = 128_000
        even = av.AudioResampler(format="fltp", layout="stereo", rate=48_000)
        count = 0
        for frame in source.decode(*(stream for stream in (film, heard) if stream is not None)):
            if isinstance(frame, av.VideoFrame):
                small = frame.reformat(picture.width, picture.height, "yuv420p")
                small.pts, small.time_base = count, 1 / Fraction(film.average_rate or 1)
                count += 1
                target.mux(picture.encode(small))
            elif sound is not None:
                for each in even.resample(cast(av.AudioFrame, frame)):
                    target.mux(sound.encode(each))
        target.mux(picture.encode(None))
        if sound is not None:
            target.mux(sound.encode(None))


def read_notes(data: bytes, name: str, edit: Edit) -> AddNotes:
    """The notes of a file, for the edit that they were made on.

    Raises:
        Refusal: a file that is none of ours, or of another edit.
    """
    try:
        file = NotesFile.model_validate_json(data)
    except ValidationError:
        raise Refusal(
            "not-notes", "This is not a file of notes.", name, "Choose the file that the review page saved."
        ) from None
    if file.edit != edit.identity:
        raise Refusal("other-edit", "These notes were made on another edit.", name, "Open that one first.")
    if not file.notes:
        raise Refusal(
            "no-notes", "There are no notes in this file.", name, "Write one on the review page first."
        )
    return AddNotes(notes=tuple(file.notes))
