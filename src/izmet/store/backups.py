"""A copy of the database a day, and the way back to it.

Copies are made with SQLite's online backup, so they are whole whatever is written
meanwhile. A damaged database is set aside, never deleted.
"""

from __future__ import annotations

import sqlite3
import time
from contextlib import closing
from pathlib import Path
from uuid import uuid4

from izmet.core.document.refusal import Refusal
from izmet.store.datafolder import DataFolder, clear

KEPT = 7
DAY_SECONDS = 24 * 3600
PATTERN = "izmet-*.db"


def back_up(folder: DataFolder) -> Path | None:
    """Copy the database unless that was done within a day. The copy's path, None when there was no need."""
    copies = all_copies(folder)
    if not folder.database.exists() or (copies and time.time() - copies[0].stat().st_mtime < DAY_SECONDS):
        return None
    target = folder.backups / time.strftime("izmet-%Y-%m-%d-%H%M%S.db")
    # Each worker makes one when it is due: two may begin in the same second.
    part = folder.backups / f".part-{uuid4().hex}"
    with closing(sqlite3.connect(folder.database)) as source, closing(sqlite3.connect(part)) as copy:
        source.backup(copy)
    good = is_good(part)
    for log in _logs(part):
        clear(log)
    if not good:
        clear(part)
        raise sqlite3.DatabaseError("the database is damaged; older copies are kept")
    part.replace(target)
    for old in all_copies(folder)[KEPT:]:
        for each in (old, *_logs(old)):
            clear(each)
    return target


def _logs(database: Path) -> tuple[Path, Path]:
    """What SQLite writes beside a database."""
    return (database.with_name(f"{database.name}-wal"), database.with_name(f"{database.name}-shm"))


def all_copies(folder: DataFolder) -> list[Path]:
    """The copies that are there, the newest first."""
    return sorted(folder.backups.glob(PATTERN), reverse=True)


def restore(folder: DataFolder) -> tuple[Path, Path | None]:
    """Put the newest good copy in the database's place.

    Returns:
        The copy, and where the database that stood there lies now.

    Raises:
        Refusal: there is no good copy.
    """
    good = next((copy for copy in all_copies(folder) if is_good(copy)), None)
    if good is None:
        raise Refusal(
            "no-backup",
            "There is no good copy of the database.",
            str(folder.backups),
            "Set IZMET_DATA to another folder to begin anew; your files are in assets/.",
        )
    aside = None
    stamp = time.strftime("%Y-%m-%d-%H%M%S")
    for there in (folder.database, *_logs(folder.database)):
        if there.exists():
            moved = there.with_name(f"{there.name}.damaged-{stamp}")
            there.rename(moved)
            aside = aside or moved
    with closing(sqlite3.connect(good)) as source, closing(sqlite3.connect(folder.database)) as target:
        source.backup(target)
    return good, aside


def is_good(database: Path) -> bool:
    """Whether SQLite finds a database whole."""
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as opened:
            return bool(opened.execute("PRAGMA quick_check").fetchone() == ("ok",))
    except sqlite3.DatabaseError:
        return False
