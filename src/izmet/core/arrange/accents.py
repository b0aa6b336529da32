"""Which accents go together on a tie: sets that come along, and how sets and recipes are laid on ties.

An accent that is there already with the same values takes the tie in: what is on many ties is one accent.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from izmet.core.document.accents import (
    Accent,
    AccentValues,
    Dim,
    Drain,
    Flash,
    Letterbox,
    OnCues,
    OnTies,
    Punch,
    Shake,
    TieAccent,
    TieOf,
    Tint,
    Trail,
    ZoomBlur,
    staying,
)
from izmet.core.document.edit import Clip, Edit
from izmet.core.music.selection import cues_of


class AccentSet(NamedTuple):
    """Accents that belong together around a tie, and what they are for."""

    id: str
    name: str
    what: str
    accents: tuple[TieAccent, ...]


SETS = (
    AccentSet(
        "hit-hard",
        "Hit hard",
        "A white flash, a shake and a punch in on the hit",
        (
            TieAccent(what=Flash(light=85), tail=5, by_strength=0.5),
            TieAccent(what=Shake(amount=0.02, turn=1.2), unit="beats", tail=1, fall="sharp", by_strength=0.7),
            TieAccent(what=Punch(amount=0.1), tail=14, fall="sharp", by_strength=0.5),
        ),
    ),
    AccentSet(
        "calm-drop",
        "Calm drop",
        "Light and colour go down through the build, and are back at the hit",
        (
            TieAccent(what=Dim(amount=0.4), side="into", unit="share", lead=1, tail=0, rise="ease-in"),
            TieAccent(what=Drain(amount=0.67), side="into", unit="share", lead=1, tail=0, rise="ease-in"),
            TieAccent(what=Flash(light=45), tail=20, fall="soft", by_strength=0.5),
        ),
    ),
    AccentSet(
        "rush-in",
        "Rush in",
        "The fast part before the hit trails and blurs inward",
        (
            TieAccent(
                what=Trail(copies=5, decay=0.6), side="into", unit="share", lead=0.1, tail=0, runs="fast"
            ),
            TieAccent(
                what=ZoomBlur(amount=0.1), phase="before", lead=9, tail=0, rise="ease-in", by_strength=0.5
            ),
            TieAccent(what=Punch(amount=0.14), tail=10, fall="sharp", by_strength=0.5),
        ),
    ),
    AccentSet(
        "wide-and-warm",
        "Wide and warm",
        "Bars open at the hit, and a warm tint stays",
        (
            TieAccent(what=Letterbox(amount=0.24), side="into", unit="share", lead=0.15, tail=0, rise="soft"),
            TieAccent(what=Tint(amount=0.5), lead=0, hold=40, tail=30, fall="soft"),
        ),
    ),
    AccentSet(
        "quake",
        "Quake",
        "A long shake with a drained picture, as after a heavy blow",
        (
            TieAccent(
                what=Shake(amount=0.035, turn=2, rate=12), unit="beats", tail=2, fall="sharp", by_strength=0.7
            ),
            TieAccent(what=Drain(amount=0.8), lead=0, hold=6, tail=40, fall="soft"),
        ),
    ),
)


def laid_on(
    accents: Sequence[Accent], ties: Sequence[TieOf], more: Iterable[TieAccent], ids: Iterator[str]
) -> tuple[Accent, ...]:
    """Some accents with more of them on ties, these with new ids."""
    found = list(accents)
    for each in more:
        said = _values(each)
        place = next((i for i, old in enumerate(found) if _is_same(old, said, each.side)), None)
        if place is None:
            found.append(Accent(id=next(ids), at=OnTies(ties=tuple(ties), side=each.side), **said))
        else:
            old = found[place]
            assert isinstance(old.at, OnTies)
            both = tuple(dict.fromkeys((*old.at.ties, *ties)))
            found[place] = old.model_copy(update={"at": OnTies(ties=both, side=each.side)})
    return tuple(found)


def without_ties(accents: Iterable[Accent], ties: Iterable[TieOf]) -> list[Accent]:
    """Some accents, none of them on these ties any more."""
    gone = set(ties)
    both = (
        (accent, staying(accent.at, lambda tie: tie not in gone, lambda clip: True)) for accent in accents
    )
    return [accent.model_copy(update={"at": at}) for accent, at in both if at is not None]


def kept_of(edit: Edit, clip: Clip, pin: str) -> Iterator[TieAccent]:
    """The accents on a tie, or on its cue by name or in a kept selection, as a recipe keeps them."""
    tie = TieOf(clip=clip.id, pin=pin)
    cue = next(each.cue for each in clip.pins if each.id == pin)
    for accent in edit.accents:
        if not accent.on:
            continue
        if isinstance(accent.at, OnTies) and tie in accent.at.ties:
            yield TieAccent(side=accent.at.side, **_values(accent))
        elif isinstance(accent.at, OnCues) and cue in cues_of(edit, accent.at):
            yield TieAccent(**_values(accent))


def _values(accent: AccentValues) -> dict[str, object]:
    return {name: getattr(accent, name) for name in AccentValues.model_fields}


def _is_same(accent: Accent, said: dict[str, object], side: str) -> bool:
    at = accent.at
    return isinstance(at, OnTies) and at.side == side and accent.on and _values(accent) == said
