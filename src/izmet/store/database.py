"""The connection to SQLite, and the schema's migrations.

Write-ahead logging lets the web process read while a worker writes. Transactions
that write begin ``immediate``: a deferred one that reads first can fail to upgrade
its lock however long it waits. The schema's version is SQLite's ``user_version``.
"""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any
from uuid import uuid4

import peewee

from izmet.core.document.edit import parse_edit
from izmet.core.document.refusal import Refusal
from izmet.store.datafolder import DataFolder
from izmet.store.models import database
from izmet.store.parts import fold, pack, whole

PRAGMAS = {"foreign_keys": 1, "synchronous": "normal"}
BUSY_SECONDS = 5


class Written:
    """Tells at little cost whether anybody wrote to a database since it was asked last.

    SQLite's ``data_version`` changes with every commit of another connection. It is asked by
    the thread that made it.
    """

    def __init__(self, path: Path):
        self._path = path
        self._connection: sqlite3.Connection | None = None
        self._version = -1

    def since_last(self) -> bool:
        """Whether anybody did; also the first time, and when it cannot be told."""
        try:
            if self._connection is None:
                self._connection = sqlite3.connect(self._path, isolation_level=None)
            (version,) = self._connection.execute("PRAGMA data_version").fetchone()
        except sqlite3.Error:
            self._connection = None
            return True
        known, self._version = self._version, version
        return bool(version != known)


Migration = Callable[[peewee.SqliteDatabase], None]


def _run(db: peewee.SqliteDatabase, statement: str, values: Sequence[Any] = ()) -> Any:
    return db.execute_sql(statement, values)  # type: ignore[no-untyped-call]


def _first_tables(db: peewee.SqliteDatabase) -> None:
    for statement in FIRST_TABLES:
        _run(db, statement)


def _parts_and_columns(db: peewee.SqliteDatabase) -> None:
    """Long lists are kept once, the list of edits reads columns, and jobs have a priority."""
    for statement in PARTS_AND_COLUMNS:
        _run(db, statement)
    for id, number, text in _run(db, "SELECT id, number, document FROM revision").fetchall():
        document = json.loads(text)
        try:
            content = fold(parse_edit(document))
        except (Refusal, ValueError):
            content = zlib.compress(
                text.encode()
            )  # it could not be opened before either; nothing of it is lost
        _run(db, "UPDATE revision SET content = ? WHERE id = ?", (content, id))
        _run(
            db,
            "UPDATE edit SET title = ?, rate = ?, clips = ? WHERE current = ? AND id ="
            " (SELECT edit_id FROM revision WHERE id = ?)",
            (document.get("title", ""), document.get("rate", ""), len(document.get("clips", ())), number, id),
        )
    _run(db, 'ALTER TABLE "revision" DROP COLUMN "document"')


def _owners_and_bins(db: peewee.SqliteDatabase) -> None:
    """A running job belongs to one attempt; edits and files can be thrown away, with a way back."""
    for statement in OWNERS_AND_BINS:
        _run(db, statement)


def _song_and_take(db: peewee.SqliteDatabase) -> None:
    """One file may be a song and a take; the list of edits says how long each is, with a picture."""
    for statement in SONG_AND_TAKE:
        _run(db, statement)


def _names(db: peewee.SqliteDatabase) -> None:
    """A revision can be named, to be found again."""
    _run(db, 'ALTER TABLE "revision" ADD COLUMN "name" VARCHAR(255)')


def _doing(db: peewee.SqliteDatabase) -> None:
    """A job says which part of its work is under way."""
    _run(db, """ALTER TABLE "job" ADD COLUMN "doing" VARCHAR(255) NOT NULL DEFAULT ''""")


def _bundles(db: peewee.SqliteDatabase) -> None:
    """A file may be the picture of an edit."""
    _run(db, 'ALTER TABLE "asset" ADD COLUMN "bundle" INTEGER')


def _identities(db: peewee.SqliteDatabase) -> None:
    """Edits are known by an identity of their own; a revision can hand on its place in the history."""
    for statement in IDENTITIES:
        _run(db, statement)
    known = {id: uuid4().hex for (id,) in _run(db, "SELECT id FROM edit").fetchall()}
    for id, identity in known.items():
        _run(db, "UPDATE edit SET identity = ? WHERE id = ?", (identity, id))
    _run(db, 'CREATE UNIQUE INDEX "edit_identity" ON "edit" ("identity")')
    for id, content in _run(db, "SELECT id, content FROM revision").fetchall():
        try:
            document = whole(bytes(content))
            bundles = [take for take in document.get("takes") or () if take.get("bundle")]
        except (zlib.error, ValueError, LookupError, TypeError, AttributeError):
            continue  # it could not be opened before either
        for take in bundles:
            landings = [each["id"] for each in take["moments"] if not each["id"].startswith("moment-")]
            edit = known.get(take["bundle"]["edit"])
            take["bundle"] = edit and {"edit": edit, "landings": landings}
        if bundles:
            _run(db, "UPDATE revision SET content = ? WHERE id = ?", (pack(document), id))


FIRST_TABLES = (
    """CREATE TABLE "asset" ("sha256" VARCHAR(64) NOT NULL PRIMARY KEY, "kind" VARCHAR(255) NOT NULL,
    "name" VARCHAR(255) NOT NULL, "size" BIGINT NOT NULL, "state" VARCHAR(255) NOT NULL, "facts" TEXT,
    "error" TEXT, "created" REAL NOT NULL)""",
    """CREATE TABLE "edit" ("id" INTEGER NOT NULL PRIMARY KEY, "current" INTEGER NOT NULL,
    "created" REAL NOT NULL)""",
    """CREATE TABLE "revision" ("id" INTEGER NOT NULL PRIMARY KEY, "edit_id" INTEGER NOT NULL,
    "number" INTEGER NOT NULL, "parent" INTEGER, "document" TEXT NOT NULL, "reason" VARCHAR(255) NOT NULL,
    "created" REAL NOT NULL, FOREIGN KEY ("edit_id") REFERENCES "edit" ("id") ON DELETE CASCADE)""",
    'CREATE INDEX "revision_edit_id" ON "revision" ("edit_id")',
    'CREATE UNIQUE INDEX "revision_edit_id_number" ON "revision" ("edit_id", "number")',
    """CREATE TABLE "job" ("id" INTEGER NOT NULL PRIMARY KEY, "kind" VARCHAR(255) NOT NULL,
    "args" TEXT NOT NULL, "state" VARCHAR(255) NOT NULL, "done" INTEGER NOT NULL, "total" INTEGER NOT NULL,
    "result" TEXT, "error" TEXT, "attempts" INTEGER NOT NULL, "cancel" INTEGER NOT NULL,
    "heartbeat" REAL NOT NULL, "created" REAL NOT NULL, "changed" REAL NOT NULL)""",
    'CREATE INDEX "job_state" ON "job" ("state")',
    'CREATE INDEX "job_changed" ON "job" ("changed")',
)

PARTS_AND_COLUMNS = (
    'CREATE TABLE "part" ("key" BLOB NOT NULL PRIMARY KEY, "content" BLOB NOT NULL) WITHOUT ROWID',
    """ALTER TABLE "revision" ADD COLUMN "content" BLOB NOT NULL DEFAULT x''""",
    """ALTER TABLE "edit" ADD COLUMN "title" VARCHAR(255) NOT NULL DEFAULT ''""",
    """ALTER TABLE "edit" ADD COLUMN "rate" VARCHAR(255) NOT NULL DEFAULT ''""",
    'ALTER TABLE "edit" ADD COLUMN "clips" INTEGER NOT NULL DEFAULT 0',
    'ALTER TABLE "edit" ADD COLUMN "changed" REAL NOT NULL DEFAULT 0',
    """UPDATE "edit" SET "changed" = (SELECT MAX("created") FROM "revision" WHERE "edit_id" = "edit"."id")""",
    'ALTER TABLE "job" ADD COLUMN "priority" INTEGER NOT NULL DEFAULT 0',
)

OWNERS_AND_BINS = (
    """ALTER TABLE "job" ADD COLUMN "owner" VARCHAR(255) NOT NULL DEFAULT ''""",
    'ALTER TABLE "edit" ADD COLUMN "binned" REAL',
    'ALTER TABLE "asset" ADD COLUMN "binned" REAL',
)

SONG_AND_TAKE = (
    'ALTER TABLE "edit" ADD COLUMN "seconds" REAL NOT NULL DEFAULT 0',
    'ALTER TABLE "edit" ADD COLUMN "picture" VARCHAR(255)',
    'ALTER TABLE "edit" ADD COLUMN "picture_frame" INTEGER NOT NULL DEFAULT 0',
    'ALTER TABLE "asset" RENAME TO "asset_before"',
    """CREATE TABLE "asset" ("sha256" VARCHAR(64) NOT NULL, "kind" VARCHAR(255) NOT NULL,
    "name" VARCHAR(255) NOT NULL, "size" BIGINT NOT NULL, "state" VARCHAR(255) NOT NULL, "facts" TEXT,
    "error" TEXT, "created" REAL NOT NULL, "binned" REAL, PRIMARY KEY ("sha256", "kind"))""",
    """INSERT INTO "asset" SELECT "sha256", "kind", "name", "size", "state", "facts", "error", "created",
    "binned" FROM "asset_before\"""",
    'DROP TABLE "asset_before"',
)

IDENTITIES = (
    """ALTER TABLE "edit" ADD COLUMN "identity" VARCHAR(255) NOT NULL DEFAULT ''""",
    'ALTER TABLE "revision" ADD COLUMN "replaced" INTEGER NOT NULL DEFAULT 0',
    'ALTER TABLE "asset" ADD COLUMN "shows" VARCHAR(255)',
    # They named their edit by row, and are asked for again when somebody looks.
    """DELETE FROM "job" WHERE "kind" = 'bundle'""",
)

MIGRATIONS: tuple[Migration, ...] = (
    _first_tables,
    _parts_and_columns,
    _owners_and_bins,
    _song_and_take,
    _names,
    _doing,
    _bundles,
    _identities,
)
"""Applied in order, once each. Append; never change one that has been released."""


def database_refusal(error: peewee.OperationalError) -> Refusal:
    """What to say when the database cannot be written: the cause, and what to do."""
    said = " ".join(_causes(error)).lower()
    if "full" in said:
        return Refusal(
            "disk-full",
            "The disk is full; nothing was changed.",
            remedy="Free some space and try again.",
        )
    if "locked" in said or "busy" in said:
        return Refusal(
            "busy",
            "Another program holds the data folder's database.",
            remedy="Try again in a moment; end the other program if it stays so.",
        )
    return Refusal(
        "database", f"The database cannot be used ({error}).", remedy="Check that the disk can be written."
    )


def _causes(error: BaseException) -> Iterator[str]:
    """What went wrong, and what had gone wrong before: a roll-back that fails says nothing of the reason."""
    met: BaseException | None = error
    while met is not None:
        yield str(met)
        met = met.__cause__ or met.__context__


def open_database(folder: DataFolder) -> peewee.SqliteDatabase:
    """Bind the models to the folder's database and bring its schema up to date.

    Raises:
        Refusal: the database was written by a newer program, or is damaged.
    """
    try:
        return _opened(folder)
    except peewee.OperationalError as error:
        raise database_refusal(error) from None
    except peewee.DatabaseError as error:
        raise Refusal(
            "damaged-database",
            f"The database is damaged ({error}).",
            str(folder.database),
            "`izmet restore` sets it aside and puts the newest good copy in its place.",
        ) from None


def _opened(folder: DataFolder) -> peewee.SqliteDatabase:
    db = peewee.SqliteDatabase(str(folder.database), pragmas=PRAGMAS, timeout=BUSY_SECONDS)
    database.initialize(db)
    with db.connection_context():
        db.pragma("journal_mode", "wal")  # kept in the file; setting it on every connection would cost
    with db.connection_context(), db.atomic("IMMEDIATE"):
        version = db.pragma("user_version")
        if version > len(MIGRATIONS):
            raise Refusal(
                "newer-database",
                f"The data folder was written by a newer Izmet (schema {version}, not {len(MIGRATIONS)}).",
                str(folder.root),
                "Update Izmet, or set IZMET_DATA to another folder.",
            )
        for migrate in MIGRATIONS[version:]:
            migrate(db)
        db.pragma("user_version", len(MIGRATIONS))
    return db
