"""Commands about accents: what is laid over the picture at cues, ties, cuts, in spans and stretches."""

from __future__ import annotations

from collections.abc import Container
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from izmet.core.arrange.accents import SETS, laid_on
from izmet.core.commands.common import EditCommand, new_id, new_ids, pin_of, unclear, with_
from izmet.core.document.accents import (
    Accent,
    AccentLength,
    AccentUnit,
    Anchor,
    AnyLook,
    Dim,
    Fade,
    Flash,
    Phase,
    Runs,
    Strobe,
    TieOf,
    Tint,
)
from izmet.core.document.edit import Edit
from izmet.core.document.limits import MOST_PINS
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Easing, Id, Share
from izmet.core.retime.solve import curves_of
from izmet.core.shown.courses import courses_of
from izmet.core.shown.flashing import flashing
from izmet.core.shown.stack import frames_shown

USUAL: dict[str, dict[str, Any]] = {
    "flash": {"tail": 6},
    "fade": {"lead": 30, "tail": 0, "phase": "before"},
    "tint": {"hold": 60, "tail": 8},
    "dim": {"unit": "beats", "lead": 4, "tail": 0, "phase": "before", "rise": "ease-in"},
    "drain": {"unit": "beats", "lead": 4, "tail": 0, "phase": "before", "rise": "ease-in"},
    "shake": {"unit": "beats", "tail": 1, "fall": "sharp"},
    "punch": {"tail": 12, "fall": "sharp"},
    "trail": {"lead": 4, "hold": 8, "tail": 8},
    "zoom-blur": {"lead": 3, "tail": 9, "fall": "sharp"},
    "letterbox": {"lead": 12, "hold": 120, "tail": 12, "rise": "soft", "fall": "soft"},
    "strobe": {"hold": 23, "tail": 0},
}
"""How each kind comes and goes at a place where nothing else is said. Common practice, no source."""
USUAL_IN_STRETCH: dict[str, dict[str, Any]] = {
    "dim": {"lead": 1, "rise": "ease-in"},
    "drain": {"lead": 1, "rise": "ease-in"},
    "fade": {"lead": 1},
    "trail": {"lead": 0.1, "tail": 0.1},
    "zoom-blur": {"lead": 0.3, "tail": 0.3},
    "letterbox": {"lead": 0.1, "tail": 0.1, "rise": "soft", "fall": "soft"},
}
"""The same in a stretch, in shares of it."""
LIGHTING = (Flash, Fade, Strobe, Dim, Tint)
SOFTENING_STEPS, LEAST_AMOUNT = 7, 0.01


class AccentTiming(EditCommand):
    """Base of those that say how an accent comes and goes; what is not said stays, or is as usual."""

    phase: Phase | None = None
    lead: AccentLength | None = None
    hold: AccentLength | None = None
    tail: AccentLength | None = None
    unit: AccentUnit | None = None
    rise: Easing | None = None
    fall: Easing | None = None
    by_strength: Share | None = None
    by_speed: Share | None = None
    runs: Runs | None = None

    def timing(self) -> dict[str, Any]:
        """What it says of that."""
        return self.model_dump(include=set(AccentTiming.model_fields), exclude_none=True)


class AddAccent(AccentTiming):
    """Lay an accent over the picture, at one place or at many."""

    do: Literal["add-accent"] = "add-accent"
    said: ClassVar[str] = "Add an accent"
    at: Anchor
    what: AnyLook

    def on(self, edit: Edit) -> Edit:
        kind = self.what.kind
        bare = Accent(id=new_id("accent", edit.accents), at=self.at, what=self.what)
        usual = USUAL[kind]
        if bare.is_stretch:
            usual = {"unit": "share", "lead": 0, "tail": 0} | USUAL_IN_STRETCH.get(kind, {})
        return with_(edit, accents=[*edit.accents, with_(bare, **usual | self.timing())])


class ChangeAccent(AccentTiming):
    """Change some values of an accent, what it is, or where it stands; ``works`` turns it off and on."""

    do: Literal["change-accent"] = "change-accent"
    said: ClassVar[str] = "Change an accent"
    accent: Id
    at: Anchor | None = None
    what: AnyLook | None = None
    works: bool | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.timing()
        for name, value in (("at", self.at), ("what", self.what), ("on", self.works)):
            if value is not None:
                changes[name] = value
        if not changes:
            raise unclear("Say what to change in the accent.")
        _found(edit, self.accent)
        return with_(
            edit,
            accents=[with_(each, **changes) if each.id == self.accent else each for each in edit.accents],
        )


class CopyAccent(EditCommand):
    """The same accent at another place."""

    do: Literal["copy-accent"] = "copy-accent"
    said: ClassVar[str] = "Copy an accent"
    accent: Id
    at: Anchor

    def on(self, edit: Edit) -> Edit:
        copied = with_(_found(edit, self.accent), id=new_id("accent", edit.accents), at=self.at)
        return with_(edit, accents=[*edit.accents, copied])


class RemoveAccent(EditCommand):
    """Take an accent away."""

    do: Literal["remove-accent"] = "remove-accent"
    said: ClassVar[str] = "Remove an accent"
    accent: Id

    def on(self, edit: Edit) -> Edit:
        _found(edit, self.accent)
        return with_(edit, accents=[each for each in edit.accents if each.id != self.accent])


class AddAccentSet(EditCommand):
    """Lay a set of accents that comes along on ties."""

    do: Literal["add-accent-set"] = "add-accent-set"
    said: ClassVar[str] = "Add a set of accents"
    set: Id
    ties: Annotated[tuple[TieOf, ...], Field(min_length=1, max_length=MOST_PINS)]

    def on(self, edit: Edit) -> Edit:
        chosen = next((each for each in SETS if each.id == self.set), None)
        if chosen is None:
            raise Refusal(
                "no-such-set", f"There is no set of accents {self.set}.", self.set, "Reload the edit."
            )
        for tie in self.ties:
            pin_of(edit.clip(tie.clip), tie.pin)
        ids = new_ids("accent", edit.accents)
        return edit.model_copy(update={"accents": laid_on(edit.accents, self.ties, chosen.accents, ids)})


class SoftenFlashes(EditCommand):
    """Make accents that flash too often weaker, all by the same part, just so far that they may be shown."""

    do: Literal["soften-flashes"] = "soften-flashes"
    said: ClassVar[str] = "Soften the flashes"

    def on(self, edit: Edit) -> Edit:
        shown, curves = frames_shown(edit), curves_of(edit)
        bad = [range(each.first, each.last + 1) for each in flashing(edit, shown)]
        if not bad:
            raise Refusal("nothing-flashes", "Nothing flashes more than three times a second.")
        ids = {
            accent.id
            for accent in edit.accents
            if isinstance(accent.what, LIGHTING)
            for course in courses_of(edit, curves, shown, accent)
            if any(course.meets(frames) for frames in bad)
        }
        softest = _softened(edit, ids, 0)
        if flashing(softest, frames_shown(softest)):
            raise Refusal(
                "still-flashes",
                "Dips to black at the cuts flash too often by themselves.",
                remedy="Choose another overlap for some of these cuts.",
            )
        least, most = 0.0, 1.0
        for _ in range(SOFTENING_STEPS):
            part = (least + most) / 2
            softer = _softened(edit, ids, part)
            least, most = (least, part) if flashing(softer, frames_shown(softer)) else (part, most)
        return _softened(edit, ids, least)


def _softened(edit: Edit, ids: Container[str], part: float) -> Edit:
    """The edit with this part of the light or the amount of some accents."""
    accents = []
    for accent in edit.accents:
        if accent.id in ids:
            name = "light" if isinstance(accent.what, Flash) else "amount"
            value = max(LEAST_AMOUNT, getattr(accent.what, name) * part)
            accent = with_(accent, what=with_(accent.what, **{name: value}))
        accents.append(accent)
    return edit.model_copy(update={"accents": tuple(accents)})


def _found(edit: Edit, id: str) -> Accent:
    for each in edit.accents:
        if each.id == id:
            return each
    raise Refusal("no-such-accent", f"There is no accent {id}.", id, "Reload the edit.")
