"""Which kinds of background work are there, what do they need to know, and what goes first?

A kind is a model of its arguments. Smaller priorities go first: what a person waits for
before what can wait, so a song before takes, and reading before exporting.
"""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import BaseModel, ConfigDict, model_validator

from izmet.core.document.refusal import Refusal
from izmet.jobs.delivery import Delivery
from izmet.store import jobrows
from izmet.store.assets import AssetKind
from izmet.store.models import Job


class Work(BaseModel):
    """Base of all kinds. ``long`` work never takes the last free hand."""

    model_config = ConfigDict(frozen=True)
    kind: ClassVar[str]
    long: ClassVar[bool] = False

    @property
    def priority(self) -> int:
        raise NotImplementedError


class Read(Work):
    """Read a new file."""

    kind = "read"
    asset: str
    name: str
    media: AssetKind = "take"

    @property
    def priority(self) -> int:
        return 0 if self.media == "song" else 2


class Slow(Work):
    """Make a slow copy of a song, which somebody wants to hear now."""

    kind = "slow"
    asset: str
    name: str
    factor: int

    @property
    def priority(self) -> int:
        return 1


class Listen(Work):
    """Hear all of a song of which the beginning has been heard."""

    kind = "listen"
    asset: str
    name: str

    @property
    def priority(self) -> int:
        return 3


class Export(Work):
    """Export a revision of an edit."""

    kind = "export"
    long = True
    edit: int
    revision: int
    delivery: Delivery
    title: str

    @model_validator(mode="before")
    @classmethod
    def _early(cls, said: Any) -> Any:
        """Rows of early versions say the format and the loudness by themselves."""
        if isinstance(said, dict) and "format" in said:
            said = dict(said)
            asked = {name: said.pop(name) for name in ("format", "loudness") if name in said}
            said["delivery"] = asked
        return said

    @property
    def priority(self) -> int:
        return 4


class MakeBundle(Work):
    """Render an edit, by its identity, and bring it into another one, in place of some of its clips.

    With ``base`` the edit is yet to be: of those clips, as they are at that revision. With
    ``shows`` the picture is there, and is made anew for that state of the edit.
    """

    kind = "bundle"
    long = True
    of: str
    into: int
    clips: tuple[str, ...] = ()
    base: int | None = None
    shows: str | None = None
    name: str

    @property
    def priority(self) -> int:
        return 3


class FollowPoint(Work):
    """Follow a tracked point of a take from one frame on, both ways, for an edit that waits for it."""

    kind = "follow"
    into: int
    take: str
    track: str
    frame: int
    begin: int
    end: int
    name: str

    @property
    def priority(self) -> int:
        return 1


class MakeJoinedSong(Work):
    """Make the song of an edit shorter or longer at a join, and have the edit use that."""

    kind = "join"
    into: int
    song: str
    leave: float
    enter: float
    times: int
    name: str

    @property
    def priority(self) -> int:
        return 1


ALL = (Read, Slow, Listen, Export, MakeBundle, FollowPoint, MakeJoinedSong)
KINDS: dict[str, type[Work]] = {each.kind: each for each in ALL}
LONG = tuple(name for name, kind in KINDS.items() if kind.long)


def queue(work: Work) -> Job:
    """Queue work, or find the same work that waits or runs already."""
    return jobrows.add_once(work.kind, work.model_dump(mode="json"), work.priority)


def has_failed(work: Work) -> bool:
    """Whether this very work has failed before, or was cancelled."""
    return jobrows.has_failed(work.kind, work.model_dump(mode="json"))


def work_of(job: Job) -> Work:
    """What a job is about. Raises Refusal for a kind that this program does not know."""
    kind = KINDS.get(job.kind)
    if kind is None:
        raise Refusal("unknown-job", f"No work is called {job.kind}.")
    return kind.model_validate(job.args)
