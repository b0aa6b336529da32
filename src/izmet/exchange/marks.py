"""What all formats carry: an instant in seconds of the song, a kind, a strength."""

from __future__ import annotations

from typing import NamedTuple

from izmet.core.document.cuekinds import CUE_KINDS, CueKind
from izmet.core.document.refusal import Refusal


class Mark(NamedTuple):
    """A cue as a file holds it, and where in the file that is."""

    time: float
    kind: CueKind = "hand"
    strength: float = 1.0
    where: str = ""


def kind_of(word: str) -> CueKind:
    """The kind that a word names; a word that names none makes it a cue set by hand."""
    lowered = word.strip().lower()
    return next((kind for kind in CUE_KINDS if kind == lowered), "hand")


def as_text(data: bytes, name: str) -> str:
    """The text of a file. Raises Refusal when it is not UTF-8."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refusal(
            "not-text", "This is not a text file in UTF-8.", name, "Save it as UTF-8 text and try again."
        ) from None


def seconds(word: str, where: str) -> float:
    """A time in seconds from text. Raises Refusal when it is none."""
    try:
        time = float(word.strip())
    except ValueError:
        time = -1.0
    if not 0 <= time < 1e6:
        raise Refusal(
            "bad-time",
            f"{word.strip()[:40]!r} is not a time in seconds.",
            where,
            "Write seconds with a point, such as 12.345.",
        )
    return time


def unit(word: str, where: str) -> float:
    """A strength 0..1 from text. Raises Refusal when it is none."""
    try:
        strength = float(word.strip())
    except ValueError:
        strength = -1.0
    if not 0 <= strength <= 1:
        raise Refusal(
            "bad-strength", f"{word.strip()[:40]!r} is not a strength.", where, "Write a number from 0 to 1."
        )
    return strength
