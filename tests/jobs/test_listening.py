"""A long song is read, then listened to as a whole, by two workers that may be at it at once."""

import threading
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest

from izmet.core.document.refusal import Refusal
from izmet.jobs import reading, work
from izmet.jobs.listening import listen_to_all
from izmet.jobs.work import Worker
from izmet.store import edits, jobrows
from izmet.store.assets import Assets, note
from izmet.store.models import Asset, Job, database
from tests.desk import Desk
from tests.media.files import write_clicks
from tests.waiting import until

LONG = 64


@pytest.fixture(scope="module")
def song(tmp_path_factory) -> Path:
    path = tmp_path_factory.mktemp("song") / "Bell Harbour.wav"
    return write_clicks(path, [0.5 + 0.5 * beat for beat in range(2 * LONG - 2)], LONG)


def test_what_was_noted_meanwhile_stays(desk: Desk, song: Path):
    """The worker that listens may have looked at the song before the one that reads had noted anything."""
    sha256 = desk.upload(song, "song")["sha256"]
    assets = Assets(desk.folder)
    with database.connection_context():
        early = assets.get(sha256, "song")
    desk.work_once()
    known = desk.asset(sha256)["facts"]
    with database.connection_context():
        listen_to_all(assets, early, lambda done, total: None)
    heard = desk.asset(sha256)
    assert heard["state"] == "ready"
    assert heard["facts"] | {"tempo": 0} == known | {"tempo": 0}
    assert heard["facts"]["tempo"] == pytest.approx(120, abs=1)


def test_nobody_is_asked_to_listen_before_it_is_known_what_was_read(desk: Desk, song: Path, monkeypatch):
    seen = []

    def watched(asset: Asset, **facts: object) -> None:
        seen.append((facts.get("state"), Job.select().where(Job.kind == "listen").count()))
        note(asset, **facts)

    desk.upload(song, "song")
    monkeypatch.setattr(reading, "note", watched)
    desk.work_once()
    assert seen == [("ready", 0)]
    with database.connection_context():
        assert Job.select().where(Job.kind == "listen").count() == 1


def test_a_song_of_which_no_sense_was_noted_is_read_again_at_the_next_start(desk: Desk, tmp_path: Path):
    sha256 = desk.upload(write_clicks(tmp_path / "short.wav", [0.5, 1.0], 2), "song")["sha256"]
    desk.work()
    with database.connection_context():
        Asset.update(facts={"tempo": 120}).execute()
    assert desk.asset(sha256)["error"]["code"] == "unreadable"
    with database.connection_context():
        reading.queue_outdated(Assets(desk.folder))
    desk.work()
    assert desk.asset(sha256)["state"] == "ready"


def test_a_worker_that_is_asked_to_end_lets_go_and_leaves_nothing_half_done(
    desk: Desk, song: Path, monkeypatch
):
    """Its work is found without a heartbeat, and done by the next one."""
    sha256 = desk.upload(song, "song")["sha256"]
    worker = Worker(desk.folder)

    def ended_meanwhile(assets, asset, progress, looker):
        with TemporaryDirectory(dir=desk.folder.incoming):
            worker.end()
            progress(1, 2)
        raise AssertionError("it went on")

    monkeypatch.setattr(work, "read_asset", ended_meanwhile)
    at_work = threading.Thread(target=worker.run_forever, daemon=True)
    at_work.start()
    until(lambda: not at_work.is_alive(), "it lets go")
    assert not [left for left in desk.folder.incoming.iterdir() if left.is_dir()]
    with database.connection_context():
        assert Job.select().order_by(Job.id.desc()).get().state == "running"
        Job.update(heartbeat=0).execute()
        jobrows.sweep()
    monkeypatch.undo()
    desk.work()
    assert desk.asset(sha256)["state"] == "ready"


def test_a_file_that_nobody_is_reading_is_found_at_the_next_start(desk: Desk, song: Path):
    """Its work was cancelled, or killed between keeping the file and queuing."""
    sha256 = desk.upload(song, "song")["sha256"]
    with database.connection_context():
        Job.delete().execute()
    assert desk.asset(sha256)["state"] == "reading"
    for _ in range(2):  # a second look queues it no second time
        with database.connection_context():
            reading.queue_outdated(Assets(desk.folder))
            assert Job.select().where(Job.state == "queued").count() == 1
    desk.work()
    assert desk.asset(sha256)["state"] == "ready"


def test_what_is_heard_anew_comes_into_every_edit_that_can_take_it(desk: Desk, song: Path, monkeypatch):
    """Also into one in the bin, one that a person is at work on, and those after one that refuses."""
    sha256 = desk.upload(song, "song")["sha256"]
    desk.work_once()
    titles = ("plain", "at work", "binned", "refusing")
    ids = [desk.post("/edits", {"rate": "30", "title": title}, 201)["id"] for title in titles]
    _, at_work_on, binned, refusing = ids
    for id in ids:
        desk.post(f"/edits/{id}/use", {"base": 1, "asset": sha256, "kind": "song"})
    desk.client.delete(f"/api/edits/{binned}")
    first = {id: len(edits_cues(id)) for id in ids}
    run, busy = edits.run, 8

    def at_work(id: int, base: int, command) -> edits.Stored:
        nonlocal busy
        if id == refusing:
            raise Refusal("too-many-cues", "Its cues are too many.")
        if id == at_work_on and busy:
            busy -= 1
            raise edits.Stale(edits.current(id), base)
        return run(id, base, command)

    monkeypatch.setattr(edits, "run", at_work)
    desk.work_once()
    assert busy == 0
    assert [len(edits_cues(id)) > 2 * first[id] for id in ids] == [True, True, True, False]
    (job,) = [job for job in desk.get("/jobs")["jobs"] if job["kind"] == "listen"]
    assert (job["state"], job["error"]["where"]) == ("failed", "refusing")


def edits_cues(id: int) -> tuple:
    with database.connection_context():
        song = edits.current(id).edit.song
    assert song is not None
    return song.cues
