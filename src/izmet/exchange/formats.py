"""The formats in which cues come and go, by file ending."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from izmet.core.commands.common import after_end
from izmet.core.document.edit import Cue, Song
from izmet.core.document.refusal import Refusal
from izmet.exchange import chapters, labels, midi, table
from izmet.exchange.marks import Mark

Ending = Literal["csv", "txt", "vtt", "mid"]


@dataclass(frozen=True)
class CueFormat:
    """How to write and to read one format."""

    mimetype: str
    write: Callable[[Song, Iterable[Cue]], bytes]
    read: Callable[[bytes, str], list[Mark]]


FORMATS: dict[str, CueFormat] = {
    "csv": CueFormat("text/csv", table.write, table.read),
    "txt": CueFormat("text/tab-separated-values", labels.write, labels.read),
    "vtt": CueFormat("text/vtt", chapters.write, chapters.read),
    "mid": CueFormat("audio/midi", midi.write, midi.read),
}
SAME = {"tsv": "txt", "midi": "mid"}


def read_cues(data: bytes, name: str, duration: float) -> list[Mark]:
    """The marks of a file in order of time, its format told by its name.

    Args:
        duration: of the song, in seconds.

    Raises:
        Refusal: an ending that is not known, content that is not of the format, or a
            cue after the song's end, named by its place in the file.
    """
    ending = name.rpartition(".")[2].lower()
    format = FORMATS.get(SAME.get(ending, ending))
    if format is None:
        raise Refusal(
            "unknown-format",
            f"Cues are not read from .{ending[:10]} files.",
            name,
            "Choose a .csv, .txt (labels), .vtt or .mid file.",
        )
    try:
        marks = format.read(data, name)
    except (csv.Error, OverflowError) as error:
        raise Refusal(
            "bad-cues",
            f"The file cannot be read as cues ({error}).",
            name,
            "Write it again and try once more.",
        ) from None
    if not marks:
        raise Refusal("no-cues", "The file holds no cues.", name)
    for mark in marks:
        if mark.time > duration:
            raise after_end(mark.time, duration, mark.where or name)
    return sorted(marks, key=lambda mark: mark.time)
