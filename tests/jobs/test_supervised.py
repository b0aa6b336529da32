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


def workers() -> list[int]:
    """Process ids of workers on this machine that are children of ours."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            command = (folder / "cmdline").read_bytes()
        except OSError:
            continue
        if b"izmet.jobs.worker" in command:
            found.append(int(folder.name))
    return found


def wait_for(condition, what: str) -> None:
    end = time.time() + ENOUGH_SECONDS
    while not condition():
        assert time.time() < end, what
        time.sleep(0.05)


def test_a_killed_worker_is_replaced_and_its_export_done_again(laid, tmp_path):
    others = set(workers())
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
        for worker in set(workers()) - others:
            os.kill(worker, signal.SIGKILL)
        wait_for(lambda: call(server, path)["state"] in ("done", "failed"), "the job hangs")
        done = call(server, path)
        assert done["state"] == "done", done
        assert done["result"]["all_exact"]
        exports = list((data / "exports").iterdir())
        assert not any(part.exists() for part in left)
        assert [file.name for file in exports] == [f"{job['id']}.webm"]
        assert read_numbers(exports[0]) == laid["derived"]["map"]["source"]
    finally:
        server.stop()
    wait_for(lambda: not set(workers()) - others, "a worker outlived its server")
