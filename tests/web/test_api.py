"""The HTTP interface: what is kept, what is refused, and that nothing is ever lost or half done."""

import hashlib
import json
import threading
import time

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.document.upgrade import VERSION
from izmet.jobs import exporting, reading
from izmet.jobs import work as working
from izmet.jobs.work import Worker
from izmet.store import edits, jobrows
from izmet.store.database import MIGRATIONS, open_database
from izmet.store.models import Job, database
from tests.desk import derived_with
from tests.media.files import read_numbers, write_clicks, write_numbered


def test_a_file_is_kept_once_and_read_into_all_that_is_drawn_of_it(desk, tmp_path):
    take = write_numbered(tmp_path / "take.mp4", 60)
    first = desk.upload(take, "take")
    assert first["state"] == "reading"
    assert first["sha256"] == hashlib.sha256(take.read_bytes()).hexdigest()
    desk.work()
    again = desk.upload(take, "take")
    assert again["state"] == "ready"
    assert len(desk.get("/assets")["assets"]) == 1
    assert again["facts"]["frames"] == 60

    base = f"/api/assets/{first['sha256']}"
    index = np.frombuffer(desk.client.get(f"{base}/index").data, "<u4").reshape(-1, 2)
    assert len(index) == 60
    begin, end = index[41]
    part = desk.client.get(f"{base}/pack", headers={"Range": f"bytes={begin}-{end - 1}"})
    assert part.status_code == 206
    assert part.data[:2] == b"\xff\xd8"
    assert part.data[-2:] == b"\xff\xd9"
    # What was fetched of a pack stays right, however long ago, until packs are made differently.
    tag, wanted = part.headers["ETag"], {"Range": f"bytes=0-{begin - 1}"}
    assert desk.client.get(f"{base}/pack", headers={**wanted, "If-Range": tag}).status_code == 206
    assert desk.client.get(f"{base}/pack", headers={"If-None-Match": tag}).status_code == 304
    assert desk.client.get(f"{base}/pack", headers={**wanted, "If-Range": '"v0"'}).status_code == 200
    assert desk.client.get(f"{base}/measures", headers={"If-None-Match": tag}).status_code == 304
    assert desk.client.get(f"{base}/frames/41").data == part.data
    assert desk.client.get(f"{base}/frames/60").status_code == 404


def test_a_song_comes_with_its_cues_and_the_samples_that_are_played(desk, laid, tmp_path):
    song = laid["edit"]["song"]
    assert song["duration"] == 4
    found = {round(cue["time"], 3) for cue in song["cues"] if cue["made"] == "auto"}
    assert sorted(found) == pytest.approx([0.5, 1.5], abs=0.0015)
    played = desk.client.get(f"/api/assets/{song['media']['sha256']}/song.flac")
    assert played.data[:4] == b"fLaC"


def test_every_write_names_its_base_and_a_stale_one_loses_nothing(desk, laid):
    moved = desk.run(laid, do="configure", title="Heat one")
    stale = desk.post(
        f"/edits/{laid['id']}/commands",
        {"base": laid["revision"], "command": {"do": "configure", "title": "Heat two"}},
        409,
    )
    assert stale["code"] == "stale-revision"
    assert stale["current"]["revision"] == moved["revision"]
    assert stale["current"]["edit"]["title"] == "Heat one"
    assert desk.get(f"/edits/{laid['id']}")["edit"]["title"] == "Heat one"


def test_many_writers_at_once_never_overwrite_each_other(desk, laid):
    def add(number: int) -> None:
        client = desk.app.test_client()
        while True:
            base = client.get(f"/api/edits/{laid['id']}").get_json()["revision"]
            command = {"do": "add-cue", "time": 2 + number / 100}
            body = {"base": base, "command": command}
            if client.post(f"/api/edits/{laid['id']}/commands", json=body).status_code == 200:
                return

    threads = [threading.Thread(target=add, args=(number,)) for number in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    times = {round(cue["time"], 2) for cue in desk.get(f"/edits/{laid['id']}")["edit"]["song"]["cues"]}
    assert {round(2 + number / 100, 2) for number in range(12)} <= times


def test_undo_and_redo_walk_the_history_and_a_new_branch_keeps_the_old(desk, laid):
    id, first = laid["id"], laid["revision"]
    desk.run(laid, do="configure", title="A")
    state = desk.post(f"/edits/{id}/undo", {"base": first + 1})
    assert (state["edit"]["title"], state["can_redo"]) == ("Untitled edit", True)
    state = desk.post(f"/edits/{id}/redo", {"base": state["revision"]})
    assert state["edit"]["title"] == "A"
    state = desk.post(f"/edits/{id}/undo", {"base": state["revision"]})
    state = desk.run(state, do="configure", title="B")
    assert not state["can_redo"]
    reopened = open_database(desk.folder)
    with reopened.connection_context():
        assert edits.at_revision(id, first + 1).title == "A"
        assert edits.current(id).edit.title == "B"
    assert [entry["reason"] for entry in desk.get(f"/edits/{id}/history")["revisions"]][:2] == [
        "Change the edit's settings: B",
        "Change the edit's settings: A",
    ]


def test_a_dry_run_tells_what_would_follow_and_keeps_nothing(desk, laid):
    cue = laid["derived"]["clips"][0]["landings"][0]["cue"]
    moved = {"do": "change-cue", "cue": cue, "time": 1.6}
    would = desk.dry_run(laid, **moved)
    assert would["clips"][0]["landings"][0]["landed_frame"] == 48
    cues = [each["id"] for each in laid["edit"]["song"]["cues"]]
    assert laid["cue_frames"][cues.index(cue)] == 45
    assert desk.get(f"/edits/{laid['id']}")["revision"] == laid["revision"]
    assert desk.run(laid, **moved)["derived"] == would
    laid = desk.post(f"/edits/{laid['id']}/undo", {"base": laid["revision"] + 1})
    build = {"shape": "build", "start": 9, "change": 0.5}
    command = {"do": "shape-span", "clip": "clip-1", "span": 0, "shape": build}
    granted, denied, unknown = desk.try_out(laid, moved, command, {"do": "remove-clip", "clip": "clip-9"})
    assert derived_with(laid["derived"], granted["change"]) == would
    assert denied["change"] is None
    assert denied["refused"]["nearest"] == pytest.approx(1)
    assert unknown["refused"]["code"] == "no-such-clip"
    body = {"base": laid["revision"] + 9, "commands": [moved]}
    assert desk.post(f"/edits/{laid['id']}/dry-run", body, 409)["code"] == "stale-revision"


def document(laid: dict) -> dict:
    return json.loads(json.dumps(laid["edit"]))


def outside(found: dict) -> None:
    found["clips"][0]["pins"][2]["p"] = 900.0
    found["clips"][0]["pins"][2]["n"] = 99
    found["clips"][0]["spans"][1]["speed"] = None


def unordered(found: dict) -> None:
    found["clips"][0]["pins"].insert(1, {"id": "x", "n": 90, "p": 100})
    found["clips"][0]["spans"].insert(1, {"shape": "steady"})


@pytest.mark.parametrize(
    ("spoil", "code"),
    [
        (lambda d: d.update(version=VERSION + 1), "unknown-version"),
        (outside, "pin-outside-take"),
        (unordered, "pins-out-of-order"),
        (lambda d: d["clips"][0].update(take="nobody"), "no-such-take"),
        (lambda d: d.update(rate="fast"), "bad-document"),
    ],
)
def test_bad_documents_are_refused_with_the_place(desk, laid, spoil, code):
    found = document(laid)
    spoil(found)
    answer = desk.client.post("/api/edits/import", json=found)
    assert answer.status_code in (404, 422)
    problem = answer.get_json()
    assert problem["code"] == code
    assert problem["where"]
    assert len(desk.get("/edits")["edits"]) == 1


def test_an_edit_whose_file_is_gone_opens_names_the_gap_and_is_linked_again(desk, laid, tmp_path):
    take = laid["edit"]["takes"][0]
    sha256 = take["media"]["sha256"]
    (desk.folder.assets / sha256[:2] / sha256).unlink()
    opened = desk.post("/edits/import", document(laid), 201)
    assert opened["missing"] == [take["id"]]
    assert opened["derived"]["clips"][0]["landings"][0]["exact"]
    other = desk.upload(write_numbered(tmp_path / "longer.mp4", 150), "take")
    desk.work()
    body = {"base": opened["revision"], "asset": other["sha256"], "take": take["id"]}
    linked = desk.post(f"/edits/{opened['id']}/relink", body)
    assert linked["missing"] == []
    assert linked["edit"]["takes"][0]["moments"] == take["moments"]
    short = desk.upload(write_numbered(tmp_path / "short.mp4", 20), "take")
    desk.work()
    body = {"base": linked["revision"], "asset": short["sha256"], "take": take["id"]}
    assert desk.post(f"/edits/{opened['id']}/relink", body, 422)["code"] == "does-not-fit"


def spoiled(kind, tmp_path):
    path = tmp_path / f"{kind}.bin"
    match kind:
        case "text":
            path.write_text("no film")
        case "truncated":
            path.write_bytes(write_numbered(tmp_path / "whole.mp4", 30).read_bytes()[:-700])
        case "silent":
            path = write_numbered(tmp_path / "silent.mp4", 10)
        case "blind":
            path = write_clicks(tmp_path / "blind.wav", [1], 2)
    return path


@pytest.mark.parametrize(
    ("kind", "as_", "code"),
    [("text", "take", "not-media"), ("truncated", "take", "not-media"), ("silent", "song", "no-sound"),
     ("blind", "take", "no-picture")],
)  # fmt: skip
def test_a_file_that_cannot_be_read_says_so_and_can_be_tried_again(desk, tmp_path, kind, as_, code):
    asset = desk.upload(spoiled(kind, tmp_path), as_)
    desk.work()
    failed = desk.asset(asset["sha256"])
    assert (failed["state"], failed["error"]["code"]) == ("failed", code)
    assert failed["error"]["remedy"]
    assert desk.get("/jobs")["jobs"][0]["state"] == "failed"
    assert desk.post(f"/assets/{asset['sha256']}/retry?kind={as_}", status=202)["state"] == "reading"


def test_empty_and_large_uploads_and_a_full_disk_keep_nothing(desk, tmp_path, monkeypatch):
    empty = tmp_path / "empty.mp4"
    empty.touch()
    assert desk.upload(empty, "take", 422)["code"] == "empty-file"
    monkeypatch.setenv("IZMET_MAX_UPLOAD_MB", "1")
    large = tmp_path / "large.mp4"
    large.write_bytes(bytes(2 << 20))
    assert desk.upload(large, "take", 413)["code"] == "too-large"

    def full(handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("izmet.store.assets.os.fsync", full)
    assert desk.upload(write_numbered(tmp_path / "a.mp4", 5), "take", 507)["code"] == "disk-full"
    assert desk.get("/assets")["assets"] == []
    assert list(desk.folder.incoming.iterdir()) == []


def test_an_export_is_measured_downloaded_and_shows_what_was_asked(desk, laid, tmp_path):
    job = desk.post(f"/edits/{laid['id']}/exports", {"revision": laid["revision"], "format": "mkv"}, 202)
    desk.work()
    done = desk.get(f"/jobs/{job['id']}")
    assert done["state"] == "done", done
    line = done["result"]["landings"][0]
    assert line["measured_frame"] == line["wanted_frame"] == 45
    assert abs(line["sound_offset_ms"]) < 0.03
    answer = desk.client.get(f"/api/jobs/{job['id']}/file")
    assert "Untitled edit.mkv" in answer.headers["Content-Disposition"]
    (tmp_path / "got.mkv").write_bytes(answer.data)
    assert read_numbers(tmp_path / "got.mkv") == laid["derived"]["map"]["source"]


def stop_midway(desk, monkeypatch, module, name: str) -> None:
    """Have the newest job run a slow ``module.name``, and cancel it while it does."""
    started = threading.Event()

    def slow(*args):
        progress = next(each for each in args if getattr(each, "__name__", "") == "progress")
        for step in range(1000):
            progress(step, 1000)
            started.set()
            time.sleep(0.01)

    monkeypatch.setattr(module, name, slow)
    worker = threading.Thread(target=desk.work)
    worker.start()
    assert started.wait(5)
    desk.post(f"/jobs/{desk.get('/jobs')['jobs'][0]['id']}/cancel")
    worker.join(5)
    monkeypatch.undo()


def test_a_cancelled_export_ends_soon_and_leaves_no_file(desk, laid, monkeypatch):
    job = desk.post(f"/edits/{laid['id']}/exports", {"revision": laid["revision"], "format": "mkv"}, 202)
    stop_midway(desk, monkeypatch, exporting, "render")
    assert desk.get(f"/jobs/{job['id']}")["state"] == "cancelled"
    assert list(desk.folder.exports.iterdir()) == []


def test_a_file_whose_reading_is_stopped_says_so_and_can_be_read_again(desk, tmp_path, monkeypatch):
    song = desk.upload(write_clicks(tmp_path / "waiting.wav", [0.5], 2), "song")["sha256"]
    (job,) = desk.get("/jobs")["jobs"]
    assert desk.post(f"/jobs/{job['id']}/cancel")["state"] == "cancelled"
    stopped = desk.asset(song)
    assert stopped["state"] == "failed"
    assert "stopped" in stopped["error"]["what"]
    assert stopped["error"]["remedy"]
    desk.post(f"/assets/{song}/retry?kind=song", status=202)
    stop_midway(desk, monkeypatch, reading, "read_song_file")
    assert desk.asset(song)["state"] == "failed"
    desk.post(f"/assets/{song}/retry?kind=song", status=202)
    desk.work()
    assert desk.asset(song)["state"] == "ready"


def test_work_left_by_a_dead_worker_is_done_again_then_failed_with_a_retry(desk, laid, monkeypatch):
    job = desk.post(f"/edits/{laid['id']}/exports", {"revision": laid["revision"], "format": "mkv"}, 202)
    for attempt in range(1, jobrows.MOST_ATTEMPTS + 1):
        with database.connection_context():
            assert jobrows.claim().attempts == attempt
            assert jobrows.claim() is None
            Job.update(heartbeat=time.monotonic() - 60).execute()
            jobrows.sweep()
    failed = desk.get(f"/jobs/{job['id']}")
    assert (failed["state"], failed["error"]["code"]) == ("failed", "worker-lost")
    desk.post(f"/jobs/{job['id']}/retry", status=202)
    desk.work()
    assert desk.get(f"/jobs/{job['id']}")["state"] == "done"


def test_a_file_whose_reading_keeps_dying_is_shown_as_failed(desk, tmp_path):
    asset = desk.upload(write_numbered(tmp_path / "take.mp4", 5), "take")
    for _ in range(jobrows.MOST_ATTEMPTS):
        with database.connection_context():
            jobrows.claim()
            Job.update(heartbeat=time.monotonic() - 60).execute()
            jobrows.sweep()
    assert desk.asset(asset["sha256"])["error"]["code"] == "worker-lost"
    desk.post(f"/assets/{asset['sha256']}/retry?kind=take", status=202)
    desk.work()
    assert desk.asset(asset["sha256"])["state"] == "ready"


def test_a_fault_inside_a_job_is_told_without_a_trace(desk, laid, monkeypatch):
    job = desk.post(f"/edits/{laid['id']}/exports", {"revision": laid["revision"], "format": "mkv"}, 202)
    monkeypatch.setattr(working, "export_stored", lambda *args: 1 / 0)
    Worker(desk.folder).run_waiting()
    failed = desk.get(f"/jobs/{job['id']}")
    assert failed["error"]["code"] == "internal"
    assert "ZeroDivision" not in json.dumps(failed)


def test_only_this_machines_own_pages_may_ask(desk):
    for headers in ({"Host": "evil.example"}, {"Origin": "http://evil.example"}):
        answer = desk.client.get("/api/edits", headers=headers)
        assert answer.status_code == 403
        assert answer.get_json()["what"]
    answer = desk.client.get(
        "/api/edits", headers={"Host": "localhost:8477", "Origin": "http://localhost:8477"}
    )
    assert answer.status_code == 200
    policy = answer.headers["Content-Security-Policy"]
    assert "script-src 'self';" in policy
    assert "unsafe" not in policy


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("get", "/api/edits/99", None, 404),
        ("get", "/api/edits/none", None, 404),
        ("get", "/api/assets/..%2f..%2fetc/pack", None, 404),
        ("get", f"/api/assets/{'0' * 64}/..", None, 422),
        ("get", f"/api/assets/{'0' * 64}/pack", None, 404),
        ("get", f"/api/assets/{'z' * 64}/pack", None, 422),
        ("post", "/api/edits", "{broken", 422),
        ("post", "/api/edits", '{"rate": 29.97}', 422),
        ("post", "/api/edits", '{"rate": "25", "width": 5}', 422),
        ("post", "/api/edits/import", "[1,", 422),
        ("post", "/api/edits/import", " " * (9 << 20), 413),
        ("get", "/api/jobs/9/file", None, 404),
        ("delete", "/api/edits", None, 405),
        ("get", "/nothing/here", None, 404),
    ],
)
def test_nonsense_gets_a_problem_and_never_a_trace(desk, method, path, body, status):
    answer = desk.client.open(path, method=method.upper(), data=body, content_type="application/json")
    assert answer.status_code == status, answer.text
    assert {"code", "what"} <= answer.get_json().keys()
    assert "Traceback" not in answer.text


COMMANDS = (
    {"do": "add-cue", "time": 1.5, "kind": "drop", "strength": 0.5},
    {"do": "add-cues", "cues": [[1.0, "kick", 1.0]], "replace": [0.5, 2.0]},
    {"do": "change-cues", "cues": ["cue-1"], "by": 0.1, "kind": "snare"},
    {"do": "count-beats", "how": "double"},
    {"do": "use-beats", "times": [1.0, 2.0], "meter": 4, "downbeat": 0},
    {"do": "place-song", "start": 0.5, "heard_from": 1.0, "heard_to": 3.0},
    {"do": "change-tie", "clip": "clip-1", "pin": "pin-2", "cue": "cue-1"},
    {"do": "shape-span", "clip": "clip-1", "span": 0, "shape": {"shape": "dip", "strength": 0.5}},
    {"do": "change-edge", "clip": "clip-1", "pin": "pin-1", "n": 0, "p": 0, "speed": 1.0},
    {"do": "configure", "rate": "24", "width": 64, "height": 36},
)
JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**70), 2**70),
    st.floats(),
    st.text(max_size=8),
    st.lists(st.integers(), max_size=3),
    st.dictionaries(st.text(max_size=3), st.integers(), max_size=2),
)


def test_a_spoiled_command_is_refused_in_words_and_changes_nothing(desk, laid):
    @settings(max_examples=150)
    @given(st.sampled_from(COMMANDS), st.data())
    def spoil(command, data):
        spoiled = command | {data.draw(st.sampled_from(sorted(command))): data.draw(JUNK)}
        body = json.dumps({"base": laid["revision"], "commands": [spoiled]})
        answer = desk.client.post(
            f"/api/edits/{laid['id']}/dry-run", data=body, content_type="application/json"
        )
        assert answer.status_code in (200, 404, 422), answer.text
        if answer.status_code != 200:
            assert answer.get_json()["what"]
            assert "Traceback" not in answer.text

    spoil()
    assert desk.get(f"/edits/{laid['id']}")["revision"] == laid["revision"]


def test_the_schema_is_migrated_once_and_a_newer_one_is_left_alone(desk):
    db = open_database(desk.folder)
    with db.connection_context():
        assert db.pragma("user_version") == len(MIGRATIONS)
        assert db.pragma("journal_mode") == "wal"
        assert db.pragma("foreign_keys") == 1
        db.pragma("user_version", 99)
    with pytest.raises(Exception, match="newer"):
        open_database(desk.folder)
