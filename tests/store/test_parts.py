"""What is kept grows with the change; what was kept by an older program is migrated without loss."""

import json
import sqlite3
import zlib
from fractions import Fraction
from pathlib import Path

import peewee
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Cue, Edit, Moment, Song, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.upgrade import VERSION
from izmet.core.document.values import Media
from izmet.store import edits
from izmet.store.database import FIRST_TABLES, MIGRATIONS, open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import Part, Revision, database
from izmet.store.parts import fold, pack, unfold

SAMPLE = Path(__file__).parent.parent / "core" / "documents" / "version-1.json"
MEDIA = Media(name="any", sha256="0" * 64)


@pytest.fixture
def folder(tmp_path):
    folder = DataFolder(tmp_path).prepare()
    open_database(folder)
    with database.connection_context():
        yield folder


def large_edit(cues: int = 3000, clips: int = 100) -> Edit:
    kinds = ("kick", "snare", "hat", "beat", "downbeat")
    marks = tuple(
        Cue(id=f"cue-{i}", time=0.0731 * i, kind=kinds[i % 5], strength=(i * 37 % 100) / 100, made="auto")
        for i in range(cues)
    )
    takes = tuple(
        Take(
            id=f"take-{i}", media=MEDIA, rate="60", frames=3000, distinct="60", width=1280, height=720,
            moments=(Moment(id="moment-1", frame=400, label=f"hit {i}"),),
        )
        for i in range(20)
    )  # fmt: skip
    laid = tuple(
        Clip(
            id=f"clip-{i}", take=f"take-{i % 20}", spans=(Steady(speed=1), Steady(speed=1)),
            pins=(
                Pin(id="pin-1", p=0),
                Pin(id="pin-2", cue=f"cue-{20 + i * 25}", moment="moment-1"),
                Pin(id="pin-3", p=900),
            ),
        )
        for i in range(clips)
    )  # fmt: skip
    song = Song(media=MEDIA, duration=0.0731 * cues + 1, sample_rate=44100, cues=marks)
    return Edit(title="large", rate="60", song=song, takes=takes, clips=laid)


def test_what_is_kept_grows_with_the_change_and_not_with_the_song(folder):
    """100 commands of 2,000 that may add 30 MB: at most 1.5 MB, in the database file itself."""
    stored = edits.create(large_edit())
    database.execute_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    before = folder.database.stat().st_size
    for step in range(100):
        command = [
            do.ChangeCue(cue=f"cue-{step * 29}", time=0.0731 * step * 29 + 0.01),
            do.AddCue(time=1.5 * step + 0.02),
            do.BeginShape(clip=f"clip-{step}", span=0, shape="dip"),
            do.AddMoment(take=f"take-{step % 20}", frame=500 + step),
        ][step % 4]
        stored = edits.run(stored.id, stored.revision, command)
    database.execute_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    assert folder.database.stat().st_size - before < 1.5e6
    for number in (1, 40, 101):
        again = unfold(bytes(Revision.get(Revision.number == number).content))
        assert again == edits.at_revision(stored.id, number)


def test_a_list_reads_columns_and_not_documents(folder, monkeypatch):
    for number in range(12):
        edits.create(Edit(title=f"edit {number}", rate=Fraction(30)))
    stored = edits.current(3)
    edits.run(3, stored.revision, do.Configure(title="renamed", rate="25"))
    monkeypatch.setattr(edits, "unfold", None)
    monkeypatch.setattr(edits, "_parsed", None)
    listed = edits.listing()
    assert [each.id for each in listed] == list(range(12, 0, -1))
    third = listed[9]
    assert (third.title, third.rate, third.clips, third.revision) == ("renamed", "25", 0, 2)
    monkeypatch.undo()
    edits.undo(3, 2)
    assert edits.listing()[9].title == "edit 2"


def test_a_run_that_two_revisions_share_is_kept_and_read_once(folder):
    edit = large_edit(300, 4)
    content = fold(edit)
    kept = Part.select().count()
    moved = do.apply(edit, do.ChangeCue(cue="cue-100", time=7.32))
    again = fold(moved)
    assert Part.select().count() == kept + 1
    one, other = unfold(content), unfold(again)
    assert one == edit
    assert other == moved
    same = sum(a is b for a, b in zip(one.song.cues, other.song.cues, strict=True))
    assert same > 200
    assert one.clips[0] is other.clips[0]


@settings(max_examples=25, deadline=None)
@given(ids=st.lists(st.integers(0, 9999), unique=True, max_size=200), title=st.text(min_size=1, max_size=40))
def test_any_edit_comes_back_as_it_was(ids, title):
    with database.atomic():
        cues = tuple(Cue(id=f"c-{i}", time=i / 100) for i in sorted(ids))
        song = Song(media=MEDIA, duration=100, sample_rate=8000, cues=cues, struck=cues[:5])
        edit = Edit(title=title, rate="24000/1001", song=song)
        assert unfold(fold(edit)) == edit


@pytest.fixture(autouse=True, scope="module")
def any_store(tmp_path_factory):
    open_database(DataFolder(tmp_path_factory.mktemp("any")).prepare())


def old_folder(root: Path, documents: list[str]) -> DataFolder:
    """A data folder as the first release left it: whole documents in the rows of revisions."""
    folder = DataFolder(root).prepare()
    with sqlite3.connect(folder.database) as old:
        for statement in FIRST_TABLES:
            old.execute(statement)
        old.execute("PRAGMA user_version = 1")
        old.execute("INSERT INTO edit VALUES (1, ?, 1000.5)", (len(documents),))
        for number, text in enumerate(documents, start=1):
            old.execute(
                "INSERT INTO revision VALUES (NULL, 1, ?, ?, ?, 'configure', ?)",
                (number, number - 1 or None, text, 1000.5 + number),
            )
        old.execute(
            'INSERT INTO job VALUES (7, \'read\', \'{"asset": "a", "name": "b"}\','
            " 'queued', 0, 0, NULL, NULL, 0, 0, 0, 1, 1)"
        )
    return folder


def test_an_old_data_folder_is_migrated_without_loss(tmp_path):
    first = json.loads(SAMPLE.read_text())
    second = {**first, "title": "Heat four"}
    spoilt = json.dumps({**first, "rate": "nonsense"})
    folder = old_folder(tmp_path, [json.dumps(first), spoilt, json.dumps(second)])
    open_database(folder)
    with database.connection_context():
        stored = edits.current(1)
        assert (stored.revision, stored.edit.title, stored.can_undo) == (3, "Heat four", True)
        assert stored.edit.version == VERSION
        assert stored.edit.song.cues[0].id == "drop"
        (listed,) = edits.listing()
        assert (listed.title, listed.rate, listed.clips, listed.changed) == ("Heat four", "60", 1, 1003.5)
        assert [past.number for past in edits.history(1)] == [3, 2, 1]
        assert edits.at_revision(1, 1).title == "Heat three"
        # What could not be opened before cannot now, but not a byte of it is lost.
        kept = bytes(Revision.get(Revision.number == 2).content)
        assert json.loads(zlib.decompress(kept)) == json.loads(spoilt)
        on = edits.run(1, 3, do.SetLevel(clip="clip-1", level=0.5))
        assert on.revision == 4
    open_database(folder)  # a second start finds nothing to migrate


def test_bundles_that_named_rows_name_the_same_edits_after_the_migration(tmp_path):
    folder = DataFolder(tmp_path).prepare()
    sample = json.loads((SAMPLE.parent / "version-6.json").read_text())
    take = {**sample["takes"][0], "id": "flyby", "moments": [{"id": "clip-1-pin-1", "frame": 3}]}
    outer = {**sample, "takes": [*sample["takes"], {**take, "bundle": {"edit": 1, "revision": 1}}]}
    lost = {**sample, "takes": [*sample["takes"], {**take, "bundle": {"edit": 9, "revision": 1}}]}
    database.initialize(peewee.SqliteDatabase(str(folder.database)))
    with database.connection_context():
        for migrate in MIGRATIONS[:7]:
            migrate(database.obj)
        database.obj.pragma("user_version", 7)
        for id, document in enumerate((sample, outer, lost), start=1):
            database.execute_sql("INSERT INTO edit (id, current, created) VALUES (?, 1, 1)", (id,))
            row = (id, pack(document))
            database.execute_sql(
                "INSERT INTO revision (edit_id, number, reason, created, content) VALUES (?, 1, '', 1, ?)",
                row,
            )
    open_database(folder)
    with database.connection_context():
        bundle = edits.current(2).edit.take("flyby").bundle
        assert (edits.known_as(bundle.edit), bundle.landings) == (1, ("clip-1-pin-1",))
        assert edits.current(3).edit.take("flyby").bundle is None
