"""Edits and their revisions.

Every write names the revision that it was based on. Each revision and the move of
the pointer to it are one transaction, so a crash leaves the edit at the one state or
the other. Undo and redo only move the pointer: redo goes to the newest child.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from uuid import uuid4

import peewee

from izmet.core.commands import Command, apply, check
from izmet.core.commands.words import SAID, in_words
from izmet.core.document.changes import Touched, touched
from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.memo import Memo
from izmet.core.shown.stack import frames_shown
from izmet.store.models import EditRow, Revision, database
from izmet.store.parts import fold, unfold

LONGEST_TITLE = 200

AT_BASE = """
    SELECT revision.content FROM revision JOIN edit ON edit.id = revision.edit_id
    WHERE edit.id = ? AND edit.current = ? AND revision.number = edit.current
"""

IS_CURRENT = Revision.number == EditRow.current


@dataclass(frozen=True)
class Stored:
    """An edit at its current revision."""

    id: int
    revision: int
    edit: Edit
    can_undo: bool
    can_redo: bool


@dataclass(frozen=True)
class Pictured:
    """The frame of a take, by its content hash, that stands for an edit."""

    sha256: str
    frame: int


@dataclass(frozen=True)
class Listed:
    """What a list says of an edit."""

    id: int
    revision: int
    title: str
    rate: str
    clips: int
    changed: float
    seconds: float
    picture: Pictured | None


@dataclass(frozen=True)
class Past:
    """One entry of an edit's history."""

    number: int
    parent: int | None
    reason: str
    name: str | None
    created: float
    is_current: bool


class Stale(Exception):
    """A write was based on a revision that is no longer the current one; ``both`` is what both touch."""

    def __init__(self, current: Stored, base: int, both: frozenset[Touched] = frozenset()):
        super().__init__(f"revision {base} is not the current one ({current.revision})")
        self.current = current
        self.base = base
        self.both = both


def create(edit: Edit, reason: str = "new edit") -> Stored:
    """Keep a new edit, under its own identity unless that is taken here.

    Raises:
        Refusal: its parts do not fit together.
    """
    check(edit)
    with database.atomic("IMMEDIATE"):
        is_new = edit.identity is not None and known_as(edit.identity) is None
        row = EditRow.create(current=1, identity=edit.identity if is_new else uuid4().hex)
        edit = edit.model_copy(update={"identity": None})
        Revision.create(edit=row, number=1, parent=None, content=_content(edit), reason=reason)
        _point(row.id, 1, _facts(edit))
    return current(row.id)


def current(id: int) -> Stored:
    """An edit at its current revision. Raises Refusal when there is none."""
    return _stored(_current(id))


def known_as(identity: str) -> int | None:
    """The edit with this identity, thrown away or not."""
    row = EditRow.get_or_none(EditRow.identity == identity)
    return None if row is None else int(row.id)


def identity_of(id: int) -> str:
    """What tells an edit from all others, here and elsewhere. Raises Refusal when there is none."""
    return str(_current(id).edit.identity)


def document(id: int) -> Edit:
    """An edit as it is handed out, with its identity."""
    revision = _current(id)
    return _document(revision).model_copy(update={"identity": revision.edit.identity})


def media_in_use() -> set[str]:
    """The hashes of all files that edits use as they are now, thrown away or not."""
    now = [_document(row) for row in Revision.select().join(EditRow).where(IS_CURRENT)]
    return {media.sha256 for edit in now for media in edit.media if media.sha256 is not None}


def at_base(id: int, base: int) -> Edit:
    """The current document, for a dry run. Raises Stale when ``base`` is not its revision."""
    # A drag asks for this at every step, and building the query costs more than running it.
    found = database.execute_sql(AT_BASE, (id, base)).fetchall()
    if not found:
        _check_base(_current(id), base)
    return _parsed(found[0][0])


def listing(binned: bool = False) -> list[Listed]:
    """All edits that are not in the bin, or those that are, the newest first."""
    rows = EditRow.select().where(EditRow.binned.is_null(not binned)).order_by(EditRow.id.desc())
    return [
        Listed(
            row.id, row.current, row.title, row.rate, row.clips, row.changed, row.seconds,
            Pictured(row.picture, row.picture_frame) if row.picture else None,
        )
        for row in rows
    ]  # fmt: skip


def duplicate(id: int) -> Stored:
    """A new edit like one that is there, at its current revision."""
    edit = current(id).edit
    return create(edit.model_copy(update={"title": f"{edit.title}, copy"[:LONGEST_TITLE]}), "a copy")


def put_in_bin(id: int) -> None:
    """Throw an edit away, with a way back. Raises Refusal when there is none."""
    _current(id)
    EditRow.update(binned=time.time()).where(EditRow.id == id).execute()


def take_from_bin(id: int) -> None:
    """Bring an edit back. Raises Refusal when there is none."""
    _current(id)
    EditRow.update(binned=None).where(EditRow.id == id).execute()


def moved_since(moment: float) -> list[tuple[int, int]]:
    """Edits whose current revision changed after an instant (seconds since the epoch), and that revision."""
    rows = EditRow.select(EditRow.id, EditRow.current).where(EditRow.changed > moment)
    return [(row.id, row.current) for row in rows]


def at_revision(id: int, number: int) -> Edit:
    """An edit as it was at a revision. Raises Refusal when there is none."""
    return _document(_revision(id, number))


def run(id: int, base: int, command: Command) -> Stored:
    """Apply a command to an edit and keep the result as a new revision.

    What was changed since ``base`` stays, where the command touches none of it.

    Raises:
        Stale: the command touches what was changed since. Nothing is changed.
        Refusal: the command cannot be granted. Nothing is changed.
    """
    while True:
        now = current(id)
        if now.revision != base:
            _check_apart(now, base, command)
        before = now.edit
        # Worked out before the database is held: others write meanwhile, and the edit is looked at again.
        after = apply(before, command)
        if after == before:
            return now
        content, facts, reason = _content(after), _facts(after), in_words(before, command)
        with database.atomic("IMMEDIATE"):
            if _current(id).number != now.revision:
                continue
            number = _newest(id) + 1
            Revision.create(edit=id, number=number, parent=now.revision, content=content, reason=reason)
            _point(id, number, facts)
        return current(id)


def _check_apart(now: Stored, base: int, command: Command) -> None:
    """Raise Stale where a command on an older revision touches what was changed since."""
    before = at_revision(now.id, base)
    both = touched(before, apply(before, command)) & touched(before, now.edit)
    if both:
        raise Stale(now, base, both)


def amend(id: int, base: int, command: Command) -> Stored:
    """Apply a command to an edit, without a step of history: the result takes the place of the revision.

    Raises:
        Stale, Refusal: as ``run`` does. Nothing is changed.
    """
    after = apply(at_base(id, base), command)
    content, facts = _content(after), _facts(after)
    with database.atomic("IMMEDIATE"):
        old = _current(id)
        _check_base(old, base)
        number = _newest(id) + 1
        Revision.update(parent=number).where((Revision.edit == id) & (Revision.parent == base)).execute()
        Revision.create(
            edit=id, number=number, parent=old.parent, content=content,
            reason=old.reason, name=old.name, created=old.created,
        )  # fmt: skip
        Revision.update(replaced=True, name=None).where(Revision.id == old.id).execute()
        _point(id, number, facts)
    return current(id)


def undo(id: int, base: int) -> Stored:
    """Go back to the revision before. Raises Stale, or Refusal at the first one."""
    with database.atomic("IMMEDIATE"):
        revision = _current(id)
        _check_base(revision, base)
        if revision.parent is None:
            raise Refusal("nothing-to-undo", "There is nothing to undo.")
        _point(id, revision.parent, _facts(at_revision(id, revision.parent)))
    return current(id)


def redo(id: int, base: int) -> Stored:
    """Go forward to the newest revision made from this one. Raises Stale, or Refusal at the last one."""
    with database.atomic("IMMEDIATE"):
        revision = _current(id)
        _check_base(revision, base)
        child = _newest_child(revision)
        if child is None:
            raise Refusal("nothing-to-redo", "There is nothing to redo.")
        _point(id, child, _facts(at_revision(id, child)))
    return current(id)


def go_to(id: int, base: int, number: int) -> Stored:
    """Go to any revision; nothing is lost, what was made after it is still in the history. Raises Stale."""
    with database.atomic("IMMEDIATE"):
        _check_base(_current(id), base)
        _point(id, number, _facts(at_revision(id, number)))
    return current(id)


def name_revision(id: int, number: int, name: str | None) -> None:
    """Name a revision, or take its name away. Raises Refusal when there is none."""
    revision = _revision(id, number)
    Revision.update(name=name or None).where(Revision.id == revision.id).execute()


def history(id: int) -> list[Past]:
    """All revisions of an edit, the newest first."""
    now = _current(id).number
    is_past = (Revision.edit == id) & ~Revision.replaced
    rows = Revision.select().where(is_past).order_by(Revision.number.desc())
    return [
        Past(r.number, r.parent, SAID.get(r.reason, r.reason), r.name, r.created, r.number == now)
        for r in rows
    ]


def _current(id: int) -> Revision:
    """The current revision of an edit, with its edit's row."""
    revision: Revision | None = (
        Revision.select(Revision, EditRow).join(EditRow).where((EditRow.id == id) & IS_CURRENT).first()
    )
    if revision is None:
        raise Refusal("no-such-edit", f"There is no edit {id}.", remedy="Choose one from the list.")
    return revision


def _revision(id: int, number: int) -> Revision:
    revision = Revision.get_or_none((Revision.edit == id) & (Revision.number == number))
    if revision is None:
        raise Refusal("no-such-revision", f"Edit {id} has no revision {number}.", remedy="Reload the edit.")
    return revision


def _document(revision: Revision) -> Edit:
    return _parsed(bytes(revision.content))


_PARSED: Memo[Edit] = Memo(64)
"""Revisions never change, and a drag asks for the same one again and again."""


def _parsed(content: bytes) -> Edit:
    return _PARSED.recall((), content, lambda: unfold(content))


def _content(edit: Edit) -> bytes:
    """The edit, kept: what to write into its revision."""
    content = fold(edit)
    unfold(content)  # nothing is kept that could not be read again
    _PARSED.recall((), content, lambda: edit)
    return content


def _stored(revision: Revision) -> Stored:
    return Stored(
        id=revision.edit.id,
        revision=revision.number,
        edit=_document(revision),
        can_undo=revision.parent is not None,
        can_redo=_newest_child(revision) is not None,
    )


def _newest(id: int) -> int:
    newest: int = Revision.select(peewee.fn.MAX(Revision.number)).where(Revision.edit == id).scalar()
    return newest


def _newest_child(revision: Revision) -> int | None:
    children = Revision.select(peewee.fn.MAX(Revision.number)).where(
        (Revision.edit == revision.edit) & (Revision.parent == revision.number)
    )
    newest: int | None = children.scalar()
    return newest


def _check_base(revision: Revision, base: int) -> None:
    if base != revision.number:
        raise Stale(_stored(revision), base)


def _point(id: int, number: int, facts: dict[str, object]) -> None:
    EditRow.update(current=number, changed=time.time(), **facts).where(EditRow.id == id).execute()


def _facts(edit: Edit) -> dict[str, object]:
    """What a list says of an edit; the picture that stands for it is its last tie's, or its first take's."""
    shown = frames_shown(edit)
    ties = [(clip, pin) for clip in edit.clips for pin in clip.pins if pin.moment is not None]
    take, frame = None, 0
    if ties:
        clip, pin = ties[-1]
        take, frame = edit.take(clip.take), edit.moment(clip.take, pin.moment or "").frame
    elif edit.takes:
        take = edit.takes[0]
        frame = take.frames // 2
    picture = take.media.sha256 if take else None
    return {
        "title": edit.title,
        "rate": str(edit.rate),
        "clips": len(edit.clips),
        "seconds": len(shown) / float(edit.rate),
        "picture": picture,
        "picture_frame": frame,
    }
