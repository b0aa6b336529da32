"""Tab-separated label tracks: start, end and label on each line, in seconds.

A cue is a label without length; a section (build, break, roll) is one with length.
Source: the plain-text label form that several audio editors share; common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterable

from izmet.core.document.edit import Cue, Song
from izmet.core.document.refusal import Refusal
from izmet.exchange.marks import Mark, as_text, kind_of, seconds


def write(song: Song, cues: Iterable[Cue]) -> bytes:
    """The cues and the song's sections as a label track, in order of time."""
    rows: list[tuple[float, float, str]] = [(cue.time, cue.time, cue.kind) for cue in cues]
    rows += [(section.start, section.end, section.kind) for section in song.sections]
    return "".join(f"{start:.6f}\t{end:.6f}\t{label}\n" for start, end, label in sorted(rows)).encode()


def read(data: bytes, name: str) -> list[Mark]:
    """The marks of a label track: the start of each label. Raises Refusal naming the line that is wrong."""
    marks = []
    for number, line in enumerate(as_text(data, name).splitlines(), start=1):
        if not line.strip() or line.startswith("\\"):  # a line of frequencies belongs to the label before
            continue
        fields = line.split("\t")
        where = f"{name}, line {number}"
        if len(fields) < 2:
            raise Refusal("bad-label", "A label needs a start, an end and a text between tabs.", where)
        label = fields[2] if len(fields) > 2 else ""
        if seconds(fields[1], where) > seconds(fields[0], where) and label.strip().lower() in (
            "build",
            "break",
        ):
            continue  # a stretch, not an instant
        marks.append(Mark(seconds(fields[0], where), kind_of(label), where=where))
    return marks
