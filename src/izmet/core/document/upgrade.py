"""How is a document of an older version read?

One pure function for each step from a version to the next, on plain JSON values, each
written once and never changed after. A file that is opened and a revision that was
stored go through the same chain, before anything is validated. The tests keep a sample
document of every version.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from izmet.core.document.refusal import Refusal

Document = dict[str, Any]


def _levels(document: Document) -> Document:
    """1 → 2: the song and each clip's own sound have a level; clips were mute."""
    song = document.get("song")
    clips = [{**clip, "level": 0.0} for clip in document.get("clips", [])]
    return {**document, "song": song and {**song, "level": 1.0}, "clips": clips}


def _selects(document: Document) -> Document:
    """2 → 3: takes have selects, and frames at which nothing is proposed any more."""
    takes = [{**take, "selects": [], "dismissed": []} for take in document.get("takes", [])]
    return {**document, "takes": takes}


def _span_speeds(document: Document) -> Document:
    """3 → 4: the speed beside an open end is told by the span; pictures were fitted into black."""

    def clip(old: Document) -> Document:
        pins, spans = [dict(pin) for pin in old["pins"]], [dict(span) for span in old["spans"]]
        for pin, span in ((pins[0], spans[0]), (pins[-1], spans[-1])):
            if pin.get("speed") is not None:
                span["speed"] = pin["speed"]
        for pin in pins:
            pin.pop("speed", None)
        return {**old, "pins": pins, "spans": spans, "fit": "fit"}

    return {**document, "clips": [clip(old) for old in document.get("clips", [])]}


def _stretches(document: Document) -> Document:
    """4 → 5: an edit has a range and black stretches, a take may be the picture of another edit."""
    return {**document, "blacks": [], "range": None}


def _counted(document: Document) -> Document:
    """5 → 6: a take may say for how long it holds a picture, a clip how its recipe made it."""
    return document


def _identities(document: Document) -> Document:
    """6 → 7: a bundle names its edit by identity; a number meant something in one data folder alone."""

    def take(old: Document) -> Document:
        linked = isinstance(old.get("bundle"), dict) and isinstance(old["bundle"].get("edit"), str)
        return old if linked else {**old, "bundle": None}

    return {**document, "takes": [take(old) for old in document.get("takes", [])]}


def _accents(document: Document) -> Document:
    """7 → 8: clips may overlap the one before and have passes, and an edit has accents."""
    return {**document, "accents": []}


def _bends(document: Document) -> Document:
    """8 → 9: a clip's passes may bend it from cue to cue."""
    return document


def _motion(document: Document) -> Document:
    """9 → 10: clips and edits say what is seen between pictures, and how long the shutter is open."""
    return document


def _shapes(document: Document) -> Document:
    """10 → 11: pictures may flow, and a clip may come in through an iris, in a zoom or a spin."""
    return document


def _guards(document: Document) -> Document:
    """11 → 12: spans have a motion of their own, which may be automatic, and a tie need not be guarded."""
    return document


def _pulses(document: Document) -> Document:
    """12 → 13: a clip's passes may move its picture at each cue, on top of its run."""
    return document


def _felt(document: Document) -> Document:
    """13 → 14: accents stand on many things, and say in one way how they come and go."""

    def accent(old: Document) -> Document:
        place = old["at"]
        at = {"to": "cues", "cues": [place["cue"]]} if place.get("cue") else {"to": "frame", "n": place["n"]}
        timing: Document = {name: old[name] for name in ("lead", "hold", "tail") if name in old}
        what = {name: value for name, value in old.items() if name not in ("id", "at", *timing)}
        if what["kind"] == "flash":
            what["light"] = _lightness(what.get("light", 0.8))
        timing.setdefault("tail", 8)
        if what["kind"] == "tint":
            timing.setdefault("hold", 60)
        return {"id": old["id"], "at": at, "what": what, **timing}

    def clip(old: Document) -> Document:
        # For a while a pulse of version 13 without a last cue said null.
        passes = [
            {name: value for name, value in each.items() if name != "last" or value is not None}
            for each in old.get("passes", [])
        ]
        return {**old, "passes": passes}

    return {
        **document,
        "accents": [accent(old) for old in document.get("accents", [])],
        "clips": [clip(old) for old in document.get("clips", [])],
    }


def _framings(document: Document) -> Document:
    """14 → 15: a clip's picture may be framed along keys, kept at a tracked point, or lie in an inset; its
    sound is heard under other clips only where that is said."""
    clips = [{**clip, "under": clip.get("level", 0) > 0} for clip in document.get("clips", [])]
    return {**document, "clips": clips}


def _sounds(document: Document) -> Document:
    """15 → 16: sounds may be laid on cues, ties and cuts, the song's level may change, and a framing key may
    be come to as a span runs."""
    return document


def _titles(document: Document) -> Document:
    """16 → 17: titles may lie over the picture, an edit may end on a cue or a sound, and has notes."""
    return document


def _pitches(document: Document) -> Document:
    """17 → 18: a clip's own sound may keep its pitch, that of all clips may change its level, and the song
    may ring out."""
    return document


def _lightness(white: float) -> float:
    """CIE L* of a part of white over black."""
    linear = white / 12.92 if white <= 0.04045 else ((white + 0.055) / 1.055) ** 2.4
    return float(min(100.0, 116 * linear ** (1 / 3) - 16 if linear > 216 / 24389 else linear * 24389 / 27))


STEPS: tuple[Callable[[Document], Document], ...] = (
    _levels, _selects, _span_speeds, _stretches, _counted, _identities, _accents, _bends, _motion,
    _shapes, _guards, _pulses, _felt, _framings, _sounds, _titles, _pitches,
)  # fmt: skip
"""``STEPS[n - 1]`` leads from version n to n + 1."""

VERSION = 1 + len(STEPS)
"""Of the documents that this program writes."""


def upgraded(document: object) -> Document:
    """A decoded JSON document, at the current version.

    Raises:
        Refusal: not an object, or a version that this program does not know.
    """
    if not isinstance(document, dict):
        raise Refusal("not-an-edit", "This is not an edit document: a JSON object is expected.")
    version = document.get("version")
    if type(version) is not int or not 1 <= version <= VERSION:
        raise Refusal(
            "unknown-version",
            f"The document says version {version!r}; this program reads versions 1 to {VERSION}.",
            where="version",
            remedy="Open it with the program that wrote it, or update Izmet.",
        )
    try:
        for step in STEPS[version - 1 :]:
            document = step(document)
    except (AttributeError, TypeError, ValueError, LookupError):
        raise Refusal(
            "bad-document",
            f"This does not have the form of a document of version {version}.",
            remedy="Correct it; docs/edit-format.md describes the form.",
        ) from None
    return {**document, "version": VERSION}
