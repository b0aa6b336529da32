"""The daily copy of the database, the way back to it, and a folder that cannot be used."""

import os
import sqlite3
import stat
import time
from contextlib import closing
from pathlib import Path

import pytest

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.store import backups, edits
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import database
from izmet.store.uploads import clear_old


@pytest.fixture
def folder(tmp_path):
    folder = DataFolder(tmp_path / "data").prepare()
    open_database(folder)
    with database.connection_context():
        edits.create(Edit(rate="60", title="kept"))
    return folder


def titles(folder):
    open_database(folder)
    with database.connection_context():
        return [each.title for each in edits.listing()]


def test_a_copy_a_day_is_made_and_seven_are_kept(folder):
    first = backups.back_up(folder)
    assert backups.is_good(first)
    assert backups.back_up(folder) is None
    for day in range(1, 10):
        for copy in backups.all_copies(folder):
            os.utime(copy, (time.time() - 2 * 86400,) * 2)
        made = backups.back_up(folder)
        made.rename(made.with_name(f"izmet-2026-01-0{day}-000000.db"))
    assert len(backups.all_copies(folder)) == backups.KEPT
    assert list(folder.backups.glob(".part*")) == []


def test_two_workers_that_begin_at_once_do_not_spoil_each_others_copy(folder, monkeypatch):
    judge = backups.is_good

    def meanwhile(part: Path) -> bool:
        monkeypatch.setattr(backups, "is_good", judge)
        assert backups.is_good(backups.back_up(folder))
        return judge(part)

    monkeypatch.setattr(backups, "is_good", meanwhile)
    monkeypatch.setattr(backups.time, "strftime", lambda form: "izmet-2026-01-01-000000.db")
    made = backups.back_up(folder)
    assert backups.is_good(made)
    assert backups.all_copies(folder) == [made]
    assert list(folder.backups.glob(".part*")) == []


@pytest.mark.parametrize("spoil", [b"garbage" * 4000, b"", b"SQLite format 3\x00" + bytes(5000)])
def test_a_damaged_database_is_set_aside_and_the_last_good_copy_put_back(folder, spoil):
    backups.back_up(folder)
    folder.database.write_bytes(spoil)
    for other in folder.root.glob("izmet.db-*"):
        other.unlink()
    if spoil:
        with pytest.raises(Refusal, match="damaged") as refused:
            open_database(folder)
        assert "izmet restore" in refused.value.remedy
    _, aside = backups.restore(folder)
    assert aside.read_bytes() == spoil
    assert titles(folder) == ["kept"]


def test_without_a_good_copy_nothing_is_touched(folder):
    copy = backups.back_up(folder)
    copy.write_bytes(b"garbage")
    before = folder.database.read_bytes()
    with pytest.raises(Refusal, match="no good copy"):
        backups.restore(folder)
    assert folder.database.read_bytes() == before


def test_a_file_where_a_folder_should_be_is_named(tmp_path):
    (tmp_path / "data").mkdir()
    (tmp_path / "data" / "assets").write_text("a file")
    with pytest.raises(Refusal, match="cannot be used") as refused:
        DataFolder(tmp_path / "data").prepare()
    assert refused.value.where.endswith("assets")


def test_the_folder_is_its_owners_alone(folder):
    for each in (folder.root, folder.assets, folder.exports, folder.backups):
        assert stat.S_IMODE(each.stat().st_mode) == 0o700


def test_a_damaged_database_pushes_out_no_good_copy(folder):
    """Pages that SQLite copies without a look at them."""
    good = backups.back_up(folder)
    with closing(sqlite3.connect(folder.database)) as opened:
        opened.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    pages = bytearray(folder.database.read_bytes())
    pages[2 * 4096 :] = b"\xff" * (len(pages) - 2 * 4096)
    folder.database.write_bytes(pages)
    for _ in range(backups.KEPT + 2):
        os.utime(good, (time.time() - 2 * 86400,) * 2)
        with pytest.raises(sqlite3.DatabaseError):
            backups.back_up(folder)
    assert backups.all_copies(folder) == [good]
    assert backups.is_good(good)
    assert list(folder.backups.glob(".part*")) == []


@pytest.mark.parametrize("as_folder", [False, True])
@pytest.mark.parametrize(
    "left",
    [
        "exports/7.part",
        "exports/.parts-7",
        "parts/.part-7",
        "backups/.part-7",
        "derived/ab/take/.part-7",
        "incoming/tmp7",
    ],
)
def test_whatever_was_left_by_a_kill_a_start_clears_it(folder, left, as_folder):
    """Files and folders alike, and one that cannot be removed hinders nobody."""
    path = folder.root / left
    path.mkdir(parents=True) if as_folder else path.parent.mkdir(parents=True, exist_ok=True)
    (path / "bundle.mkv" if as_folder else path).write_bytes(b"half")
    folder.clear_interrupted()
    clear_old(folder.incoming)
    assert not path.exists()


def test_what_cannot_be_removed_stays_with_a_note(folder, monkeypatch, caplog):
    (folder.incoming / "held").write_bytes(b"half")
    monkeypatch.setattr(Path, "unlink", lambda *_, **__: (_ for _ in ()).throw(PermissionError("held")))
    clear_old(folder.incoming)
    assert "held was left" in caplog.text
