"""The connection to SQLite, and the schema's migrations.

Write-ahead logging lets the web process read while a worker writes. Transactions
that write begin ``immediate``: a deferred one that reads first can fail to upgrade
its lock however long it waits. The schema's version is SQLite's ``user_version``.
"""

from __future__ import annotations

from collections.abc import Callable

import peewee

from izmet.core.refusal import Refusal
from izmet.store.datafolder import DataFolder
from izmet.store.models import Asset, EditRow, Job, Revision, database

PRAGMAS = {"foreign_keys": 1, "synchronous": "normal"}
BUSY_SECONDS = 5

Migration = Callable[[peewee.SqliteDatabase], None]


def _first_tables(db: peewee.SqliteDatabase) -> None:
    db.create_tables([Asset, EditRow, Revision, Job])


MIGRATIONS: tuple[Migration, ...] = (_first_tables,)
"""Applied in order, once each. Append; never change one that has been released."""


def open_database(folder: DataFolder) -> peewee.SqliteDatabase:
    """Bind the models to the folder's database and bring its schema up to date.

    Raises:
        Refusal: the database was written by a newer program.
    """
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
