"""The tables."""

from __future__ import annotations

import json
import time
from typing import Any

import peewee

database = peewee.DatabaseProxy()


class JsonField(peewee.TextField):
    """A column that holds a JSON value."""

    def db_value(self, value: Any) -> str | None:
        return None if value is None else json.dumps(value)

    def python_value(self, value: str | None) -> Any:
        return None if value is None else json.loads(value)


class _Row(peewee.Model):
    class Meta:
        database = database


class Asset(_Row):
    """A media file as a song or as a take. ``facts`` is what reading it as that found.

    Its content is kept once under its hash: one file may be both. ``bundle`` is the edit whose picture it is,
    and ``shows`` says in which state.
    """

    sha256 = peewee.CharField(max_length=64)
    kind = peewee.CharField()
    name = peewee.CharField()
    size = peewee.BigIntegerField()
    state = peewee.CharField(default="reading")
    facts = JsonField(null=True)
    error = JsonField(null=True)
    created = peewee.FloatField(default=time.time)
    binned = peewee.FloatField(null=True)
    bundle = peewee.IntegerField(null=True)
    shows = peewee.CharField(null=True)

    class Meta:
        primary_key = peewee.CompositeKey("sha256", "kind")


class EditRow(_Row):
    """An edit: which of its revisions is the current one, and what a list says of it."""

    id = peewee.AutoField()
    identity = peewee.CharField(unique=True)
    current = peewee.IntegerField()
    created = peewee.FloatField(default=time.time)
    changed = peewee.FloatField(default=time.time)
    title = peewee.CharField(default="")
    rate = peewee.CharField(default="")
    clips = peewee.IntegerField(default=0)
    seconds = peewee.FloatField(default=0)
    picture = peewee.CharField(null=True)
    picture_frame = peewee.IntegerField(default=0)
    binned = peewee.FloatField(null=True)

    class Meta:
        table_name = "edit"


class Part(_Row):
    """A run of a document's long list, kept once under the hash of its content; see ``parts``."""

    key = peewee.BlobField(primary_key=True)
    content = peewee.BlobField()


class Revision(_Row):
    """One state of an edit. Undo goes to ``parent``; nothing is ever deleted.

    One that was ``replaced`` has handed its place in the history to another, and is no longer in it.
    """

    id = peewee.AutoField()
    edit = peewee.ForeignKeyField(EditRow, backref="revisions", on_delete="CASCADE")
    number = peewee.IntegerField()
    parent = peewee.IntegerField(null=True)
    content = peewee.BlobField()
    reason = peewee.CharField()
    name = peewee.CharField(null=True)
    replaced = peewee.BooleanField(default=False)
    created = peewee.FloatField(default=time.time)

    class Meta:
        indexes = ((("edit", "number"), True),)


class Job(_Row):
    """Background work. The row is the truth; the queue only rings the bell."""

    id = peewee.AutoField()
    kind = peewee.CharField()
    args = JsonField()
    priority = peewee.IntegerField(default=0)
    state = peewee.CharField(default="queued", index=True)
    done = peewee.IntegerField(default=0)
    total = peewee.IntegerField(default=0)
    doing = peewee.CharField(default="")
    result = JsonField(null=True)
    error = JsonField(null=True)
    attempts = peewee.IntegerField(default=0)
    cancel = peewee.BooleanField(default=False)
    heartbeat = peewee.FloatField(default=0)
    owner = peewee.CharField(default="")
    created = peewee.FloatField(default=time.time)
    changed = peewee.FloatField(default=time.time, index=True)
