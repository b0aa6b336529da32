"""CSV: a header, then a cue a row.

Source: RFC 4180. Columns ``time`` (seconds), ``kind``, ``strength``; only ``time`` is needed.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from izmet.core.document.edit import Cue, Song
from izmet.core.document.refusal import Refusal
from izmet.exchange.marks import Mark, as_text, kind_of, seconds, unit

COLUMNS = ("time", "kind", "strength", "made")


def write(song: Song, cues: Iterable[Cue]) -> bytes:
    """The cues as CSV."""
    out = io.StringIO(newline="")
    rows = csv.writer(out)
    rows.writerow(COLUMNS)
    rows.writerows((f"{cue.time:.6f}", cue.kind, f"{cue.strength:.3f}", cue.made) for cue in cues)
    return out.getvalue().encode()


def read(data: bytes, name: str) -> list[Mark]:
    """The marks of a CSV file. Raises Refusal naming the row that is wrong."""
    rows = csv.DictReader(io.StringIO(as_text(data, name)))
    header = [column.strip().lower() for column in rows.fieldnames or ()]
    if "time" not in header:
        raise Refusal(
            "no-time-column",
            "The first row must name a column “time”.",
            name,
            f"Begin with: {','.join(COLUMNS)}",
        )
    rows.fieldnames = header
    marks = []
    for number, row in enumerate(rows, start=2):
        where = f"{name}, row {number}"
        strength = row.get("strength") or "1"
        marks.append(
            Mark(
                seconds(row["time"] or "", where),
                kind_of(row.get("kind") or ""),
                unit(strength, where),
                where,
            )
        )
    return marks
