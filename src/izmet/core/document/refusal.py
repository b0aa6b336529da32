"""What is said when a wish cannot be granted.

A refusal is never a stack trace and never a silent bend: it names what is wrong,
where, and what the person can do about it. Every layer above turns it into its
own form (JSON, a message beside the handle, a line on the terminal).
"""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict


class Place(BaseModel):
    """The parts of an edit that something is about, by their ids; spans count from 1."""

    model_config = ConfigDict(frozen=True)

    clips: tuple[str, ...] = ()
    take: str | None = None
    span: int | None = None
    pin: str | None = None
    moment: str | None = None
    select: str | None = None

    @classmethod
    def of(cls, *clips: str, span: int | None = None, pin: str | None = None) -> Place:
        """A place in one clip, or in two."""
        return cls(clips=clips, span=span, pin=pin)

    def __str__(self) -> str:
        clips = f"clip{'s' if self.clips[1:] else ''} {' and '.join(self.clips)}" if self.clips else None
        inner = (("take", self.take), ("span", self.span), ("pin", self.pin), ("moment", self.moment))
        named = [f"{what} {id}" for what, id in (*inner, ("select", self.select)) if id is not None]
        return ", ".join([*([clips] if clips else []), *named])


class Refusal(Exception):
    """A wish that cannot be granted.

    Args:
        code: stable word for programs, such as ``pin-outside-take``.
        what: one sentence that says what is impossible, and by how much.
        where: the file or field that it is about, in words, or the part of the edit.
        remedy: one sentence that says what to do.
        nearest: the nearest value that works, where there is one.
    """

    def __init__(
        self, code: str, what: str, where: str | Place = "", remedy: str = "", nearest: float | None = None
    ):
        super().__init__(what)
        self.code = code
        self.what = what
        self.where = str(where)
        self.about = where if isinstance(where, Place) else None
        self.remedy = remedy
        self.nearest = nearest

    def as_dict(self) -> dict[str, Any]:
        """The refusal as plain JSON values."""
        return {
            "code": self.code,
            "what": self.what,
            "where": self.where,
            "about": self.about and self.about.model_dump(),
            "remedy": self.remedy,
            "nearest": self.nearest,
        }

    @classmethod
    def of_dict(cls, found: dict[str, Any]) -> Refusal:
        """A refusal from what ``as_dict`` gave."""
        about = found["about"] and Place.model_validate(found["about"])
        return cls(found["code"], found["what"], about or found["where"], found["remedy"], found["nearest"])

    def __str__(self) -> str:
        place = f"{self.where}: " if self.where else ""
        remedy = f" {self.remedy}" if self.remedy else ""
        return f"{place}{self.what}{remedy}"
