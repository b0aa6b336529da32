"""The formats in which cues come and go, by file ending."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from izmet.core.edit import Cue, Song
from izmet.core.refusal import Refusal
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


def read_cues(data: bytes, name: str) -> list[Mark]:
    """The marks of a file, its format told by its name.

    Raises:
        Refusal: an ending that is not known, or content that is not of the format.
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
    marks = format.read(data, name)
    if not marks:
        raise Refusal("no-cues", "The file holds no cues.", name)
    return marks
