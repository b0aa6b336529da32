"""WebVTT chapters: each cue begins a chapter that lasts until the next.

Source: W3C, WebVTT: The Web Video Text Tracks Format (chapter cues; times are
``hh:mm:ss.ttt``, so instants are kept to the millisecond).
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from itertools import pairwise

from izmet.core.document.edit import Cue, Song
from izmet.core.document.refusal import Refusal
from izmet.exchange.marks import Mark, as_text, kind_of

TIMES = re.compile(r"^(?:(\d+):)?(\d\d):(\d\d)\.(\d{3})\s+-->\s+")


def write(song: Song, cues: Iterable[Cue]) -> bytes:
    """The cues as chapters; cues of the same millisecond share one."""
    titles: dict[int, list[str]] = {}
    for cue in cues:
        titles.setdefault(round(cue.time * 1000), []).append(cue.kind)
    starts = sorted(titles)
    ends = [*(following for _, following in pairwise(starts)), max(round(song.duration * 1000), *starts, 0)]
    blocks = [
        f"{number}\n{_stamp(start)} --> {_stamp(max(end, start + 1))}\n{', '.join(titles[start])}\n"
        for number, (start, end) in enumerate(zip(starts, ends, strict=True), start=1)
    ]
    return ("WEBVTT\n\n" + "\n".join(blocks)).encode()


def read(data: bytes, name: str) -> list[Mark]:
    """The marks of a chapter track: one for each kind that a chapter's title names."""
    lines = as_text(data, name).splitlines()
    if not lines or not lines[0].startswith("WEBVTT"):
        raise Refusal("not-webvtt", "The first line must be WEBVTT.", f"{name}, line 1")
    marks = []
    for number, line in enumerate(lines, start=1):
        if "-->" not in line:
            continue
        found = TIMES.match(line.strip())
        if not found:
            raise Refusal(
                "bad-time",
                f"{line.strip()[:60]!r} is not a pair of times.",
                f"{name}, line {number}",
                "Write 00:00:12.345 --> 00:00:14.000.",
            )
        hours, minutes, whole, thousandths = (int(part or 0) for part in found.groups())
        time = hours * 3600 + minutes * 60 + whole + thousandths / 1000
        title = lines[number] if number < len(lines) else ""
        kinds = dict.fromkeys(kind_of(word) for word in title.split(","))
        marks += [Mark(time, kind, where=f"{name}, line {number}") for kind in kinds]
    return marks


def _stamp(milliseconds: int) -> str:
    seconds, thousandths = divmod(milliseconds, 1000)
    return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}.{thousandths:03}"
