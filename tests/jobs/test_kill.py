"""Killed without warning, again and again: nothing is lost of what was acknowledged.

Three kinds of work are acknowledged: a command, a file put in, an export begun. A server
is killed (signal 9) at a random moment while all three go on, and started again.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import threading
import time
import urllib.parse
import urllib.request
from pathlib import Path

from tests.e2e.conftest import Server
from tests.media.files import read_numbers, write_numbered
from tests.waiting import until

ROUNDS = int(os.environ.get("IZMET_KILLS", "3"))
SECONDS = (0.3, 1.5)


class Person:
    """Works on and notes what was acknowledged, until nobody answers any more."""

    def __init__(self, address: str, folder: Path):
        self.address = address
        self._folder = folder
        self.cues: set[float] = set()
        self.files: dict[str, bytes] = {}
        self.exports: list[int] = []
        self.count = 0

    def ask(self, method: str, path: str, body: object = None, raw: bytes | None = None) -> dict:
        data = raw if raw is not None else json.dumps(body).encode() if body is not None else None
        kind = "application/octet-stream" if raw is not None else "application/json"
        request = urllib.request.Request(
            f"{self.address}/api{path}", data, {"Content-Type": kind}, method=method
        )
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.load(answer)

    def work(self, edit: int) -> None:
        try:
            while True:
                self._command(edit)
                if self.count % 6 == 0:
                    self._put_in()
                if self.count % 10 == 0:
                    revision = self.ask("GET", f"/edits/{edit}")["revision"]
                    body = {"revision": revision, "format": "mkv"}
                    self.exports.append(self.ask("POST", f"/edits/{edit}/exports", body)["id"])
        except (OSError, http.client.HTTPException, ValueError):
            return  # the server is gone

    def _command(self, edit: int) -> None:
        self.count += 1
        at = round(self.count * 0.0007 + 0.1, 6)
        base = self.ask("GET", f"/edits/{edit}")["revision"]
        command = {"do": "add-cue", "time": at, "kind": "hand"}
        self.ask("POST", f"/edits/{edit}/commands", {"base": base, "command": command})
        self.cues.add(at)

    def _put_in(self) -> None:
        path = write_numbered(self._folder / f"{self.count}.mp4", 8, numbers=[self.count % 250] * 8)
        content = path.read_bytes()
        upload = {"kind": "take", "name": path.name, "size": len(content), "changed": self.count}
        self.ask("POST", "/assets/uploads", upload)
        query = urllib.parse.urlencode(upload | {"at": 0})
        self.ask("PUT", f"/assets/uploads?{query}", raw=content)
        self.files[self.ask("POST", "/assets/uploads/finish", upload)["sha256"]] = content


def busy(person: Person) -> bool:
    """Whether any work waits or runs."""
    return any(job["state"] in ("queued", "running") for job in person.ask("GET", "/jobs")["jobs"])


def test_nothing_that_was_acknowledged_is_lost(laid: dict, tmp_path: Path):
    rng = random.Random(1)
    data = tmp_path / "data"
    server = Server(data)
    person = Person(server.address, tmp_path)
    try:
        for _ in range(ROUNDS):
            at_work = threading.Thread(target=person.work, args=(1,))
            at_work.start()
            time.sleep(rng.uniform(*SECONDS))
            server.kill_and_restart()
            at_work.join()
        until(lambda: not busy(person), "all work is done")
        state = person.ask("GET", "/edits/1")
        assets = {one["sha256"]: one for one in person.ask("GET", "/assets")["assets"]}
        exports = [person.ask("GET", f"/jobs/{id}") for id in person.exports]
    finally:
        server.stop()
    assert len(person.cues) > ROUNDS
    assert person.cues <= {cue["time"] for cue in state["edit"]["song"]["cues"]}
    for sha256, content in person.files.items():
        assert (data / "assets" / sha256[:2] / sha256).read_bytes() == content
        assert assets[sha256]["state"] == "ready", assets[sha256]
    for job in exports:
        assert job["state"] == "done", job
        assert len(read_numbers(data / "exports" / f"{job['id']}.mkv")) == job["result"]["frames"]
