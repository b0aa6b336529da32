"""The worker process for real: killed in the middle of an export, nothing hangs and nothing is lost."""

import json
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from izmet.jobs.work import Worker
from tests.e2e.conftest import Server
from tests.media.files import read_numbers
from tests.waiting import until


def call(server: Server, path: str, body: dict | None = None) -> dict:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(
        f"{server.address}/api{path}", data, {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(request, timeout=20) as answer:
        return json.load(answer)


def workers(server: Server) -> list[int]:
    """Process ids of the server's own children; others on this machine are none of our business."""
    children = Path(f"/proc/{server.pid}/task").glob("*/children")
    return [int(pid) for file in children for pid in file.read_text().split()]


def alive(pid: int) -> bool:
    """Whether a process runs; one that only waits to be reaped does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_a_killed_worker_is_replaced_and_its_export_done_again(laid, tmp_path):
    data = tmp_path / "data"
    left = (
        data / "incoming" / "tmp1",
        data / "exports" / "9.mp4.part",
        data / "derived" / "v9" / "take" / ".part-x" / "pack",
    )
    for part in left:
        part.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(b"half")
    server = Server(data)
    try:
        job = call(server, "/edits/1/exports", {"revision": laid["revision"], "format": "webm"})
        path = f"/jobs/{job['id']}"
        until(lambda: call(server, path)["state"] == "running", "the job starts")
        for worker in workers(server):
            os.kill(worker, signal.SIGKILL)
            until(lambda pid=worker: not alive(pid), "the worker dies")
        until(lambda: call(server, path)["state"] in ("done", "failed"), "the job ends")
        done = call(server, path)
        assert done["state"] == "done", done
        assert done["result"]["all_exact"]
        exports = list((data / "exports").iterdir())
        assert not any(part.exists() for part in left)
        assert [file.name for file in exports] == [f"{job['id']}.webm"]
        assert read_numbers(exports[0]) == laid["derived"]["map"]["source"]
        last = workers(server)
        assert last
    finally:
        server.stop()
    until(lambda: not any(map(alive, last)), "the workers end with their server")


def test_a_worker_that_slept_ends_nothing_that_is_not_its_own(laid, tmp_path):
    """Stopped for longer than a heartbeat may take, then continued: one whole file, and no failed export."""
    data = tmp_path / "data"
    server = Server(data)
    try:
        jobs = [
            call(server, "/edits/1/exports", {"revision": laid["revision"], "format": format})
            for format in ("webm", "mp4", "mkv")
        ]
        until(lambda: call(server, f"/jobs/{jobs[0]['id']}")["state"] != "queued", "it starts")
        for worker in workers(server):
            os.kill(worker, signal.SIGSTOP)
        time.sleep(7.5)
        for worker in workers(server):
            os.kill(worker, signal.SIGCONT)
        for job in jobs:
            path = f"/jobs/{job['id']}"
            until(lambda path=path: call(server, path)["state"] in ("done", "failed"), "it ends")
            assert call(server, path)["state"] == "done", call(server, path)
        exports = sorted(file.name for file in (data / "exports").iterdir())
        assert exports == sorted(
            f"{job['id']}.{f}" for job, f in zip(jobs, ("webm", "mp4", "mkv"), strict=True)
        )
        for name in exports:
            assert read_numbers(data / "exports" / name) == laid["derived"]["map"]["source"]
    finally:
        server.stop()


def test_a_second_server_is_told_where_the_first_one_is(tmp_path):
    data = tmp_path / "data"
    server = Server(data)
    try:
        run = subprocess.run(
            [sys.executable, "-m", "izmet.cli", "serve", "--port", "0"],
            env={**os.environ, "IZMET_DATA": str(data)},
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
        assert run.returncode == 3
        assert server.address in run.stderr
        server.kill_and_restart()  # a lock that a killed server left behind is none
        assert call(server, "/edits")["edits"] == []
    finally:
        server.stop()


def test_work_goes_on_when_another_program_let_go_of_the_database(laid, tmp_path):
    """Somebody holds the write lock for longer than anybody waits; then everything is as before."""
    data = tmp_path / "data"
    server = Server(data)
    try:
        with sqlite3.connect(data / "izmet.db", isolation_level=None) as other:
            other.execute("BEGIN IMMEDIATE")
            began = time.monotonic()
            with pytest.raises(urllib.error.HTTPError) as refused:
                call(server, "/edits/1/exports", {"revision": laid["revision"], "format": "mkv"})
            assert refused.value.code == 503
            assert json.load(refused.value)["code"] == "busy"
            time.sleep(max(0.0, 8 - (time.monotonic() - began)))
            other.execute("ROLLBACK")
        job = call(server, "/edits/1/exports", {"revision": laid["revision"], "format": "mkv"})
        until(lambda: call(server, f"/jobs/{job['id']}")["state"] == "done", "work goes on")
    finally:
        server.stop()


def test_hundreds_of_idle_connections_leave_the_server_usable(tmp_path):
    server = Server(tmp_path / "data")
    port = int(server.address.rpartition(":")[2])
    idle = []
    try:
        idle = [socket.create_connection(("127.0.0.1", port)) for _ in range(250)]
        began = time.monotonic()
        assert call(server, "/edits")["edits"] == []
        assert time.monotonic() - began < 10
    finally:
        for each in idle:
            each.close()
        server.stop()


def test_a_server_whose_data_folder_has_gone_says_so_and_ends_with_its_workers(tmp_path, capfd):
    data = tmp_path / "data"
    server = Server(data)
    until(lambda: len(workers(server)) == 2, "its workers start")
    hands = workers(server)
    shutil.rmtree(data)
    until(lambda: server._process.poll() is not None, "it ends")
    until(lambda: not any(map(alive, hands)), "its workers end")
    assert "the data folder has gone" in capfd.readouterr().err


def test_workers_have_a_limit_of_memory_and_work_over_it_is_told(desk, laid, monkeypatch):
    said = subprocess.run(
        [sys.executable, "-c", "from izmet.processes import limit_memory; limit_memory(); bytes(1 << 42)"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert said.stderr.strip().endswith("MemoryError")

    def hungry(*args: object, **more: object) -> None:
        raise MemoryError

    job = desk.post("/edits/1/exports", {"revision": laid["revision"], "format": "mp4"}, 202)
    monkeypatch.setattr("izmet.jobs.work.export_stored", hungry)
    desk.work()
    ended = desk.get(f"/jobs/{job['id']}")
    assert (ended["state"], ended["error"]["code"]) == ("failed", "out-of-memory")


def test_a_worker_that_sleeps_is_woken_by_the_bell(desk, laid, monkeypatch):
    monkeypatch.setattr("izmet.jobs.work.LOOK_SECONDS", 3600)
    worker = Worker(desk.folder)
    at_work = threading.Thread(target=worker.run_forever)
    at_work.start()
    try:
        job = desk.post("/edits/1/exports", {"revision": laid["revision"], "format": "mp4"}, 202)
        worker.wake()
        until(lambda: desk.get(f"/jobs/{job['id']}")["state"] == "done", "it wakes and does it")
    finally:
        worker.end()
        at_work.join()
