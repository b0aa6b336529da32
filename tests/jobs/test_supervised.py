"""The worker process for real: killed in the middle of an export, nothing hangs and nothing is lost."""

import json
import os
import signal
import time
import urllib.request
from pathlib import Path

from tests.e2e.conftest import Server
from tests.media.files import read_numbers

ENOUGH_SECONDS = 60


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


def wait_for(condition, what: str) -> None:
    end = time.time() + ENOUGH_SECONDS
    while not condition():
        assert time.time() < end, what
        time.sleep(0.05)


def test_a_killed_worker_is_replaced_and_its_export_done_again(laid, tmp_path):
    data = tmp_path / "data"
    left = (
        data / "incoming" / "tmp1",
        data / "exports" / "9.mp4.part",
        data / "derived" / "v1" / ".part-x" / "pack",
    )
    for part in left:
        part.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(b"half")
    server = Server(data)
    try:
        job = call(server, "/edits/1/exports", {"revision": laid["revision"], "format": "webm"})
        path = f"/jobs/{job['id']}"
        wait_for(lambda: call(server, path)["state"] == "running", "the job never started")
        for worker in workers(server):
            os.kill(worker, signal.SIGKILL)
            wait_for(lambda pid=worker: not alive(pid), "the worker did not die")
        wait_for(lambda: call(server, path)["state"] in ("done", "failed"), "the job hangs")
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
    wait_for(lambda: not any(map(alive, last)), "a worker outlived its server")
