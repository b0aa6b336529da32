"""An hour of edits, plays and exports on one server: does what it needs of memory stay flat?

``python scripts/soak.py [MINUTES]`` prints the memory of the server and its workers every
minute. It fails when the last figure is over a tenth more than that after ten minutes
(after a sixth of the time, when it is shorter).
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from tests.e2e.conftest import Server

FLAT = 1.1
BLOCK = 1 << 16


def main() -> int:
    """Run, print and judge."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    with tempfile.TemporaryDirectory() as name:
        server = Server(Path(name) / "izmet", "demo", "--no-token")
        try:
            figures = _soak(server, minutes * 60)
        finally:
            server.stop()
    settled = figures[min(len(figures) - 1, max(1, len(figures) // 6))]
    flat = figures[-1] <= settled * FLAT
    print(f"{settled:.0f} MB once settled, {figures[-1]:.0f} MB at the end: {'flat' if flat else 'NOT FLAT'}")
    return 0 if flat else 1


def _soak(server: Server, seconds: float) -> list[float]:
    figures: list[float] = []
    begun = time.monotonic()
    step = 0
    while (now := time.monotonic() - begun) < seconds:
        _work(server.address, step)
        step += 1
        if now >= len(figures) * seconds / 60:
            figures.append(_memory(server.pid))
            print(f"{now / 60:6.1f} min  {step:6} rounds  {figures[-1]:7.1f} MB", flush=True)
    return [*figures, _memory(server.pid)]


def _work(address: str, step: int) -> None:
    """A command, its undoing, a dry run, some seconds played, and now and then an export."""
    state = _ask(address, "/edits/1")
    clip, base = state["edit"]["clips"][0], state["revision"]
    command = {"do": "set-value", "clip": clip["id"], "span": 0, "name": "strength", "value": step % 40 / 100}
    _raw(address, "/edits/1/dry-run", {"base": base, "commands": [command]})
    changed = _ask(address, "/edits/1/commands", {"base": base, "command": command})
    if step % 2:
        _ask(address, "/edits/1/undo", {"base": changed["revision"]})
    take = state["edit"]["takes"][0]["media"]["sha256"]
    for frame in range(step % 50, step % 50 + 20):
        _raw(address, f"/assets/{take}/frames/{frame}")
    for block in range(8):
        at = (step * 8 + block) * BLOCK % (30 * 44100)
        _raw(address, f"/edits/1/mix?revision={base}&begin={at}&count={BLOCK}")
    if step % 100 == 0:
        body = {"revision": base, "format": ("mp4", "webm", "mkv")[step // 100 % 3]}
        _ask(address, "/edits/1/exports", body)
    time.sleep(0.05)


def _ask(address: str, path: str, body: object = None) -> dict:
    found: dict = json.loads(_raw(address, path, body))
    return found


def _raw(address: str, path: str, body: object = None) -> bytes:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{address}/api{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        found: bytes = answer.read()
        return found


def _memory(pid: int) -> float:
    """Resident memory of a process and its children, in MB."""
    children = [
        int(child)
        for file in Path(f"/proc/{pid}/task").glob("*/children")
        for child in file.read_text().split()
    ]
    pages = sum(int(Path(f"/proc/{each}/statm").read_text().split()[1]) for each in (pid, *children))
    return pages * 4096 / 2**20


if __name__ == "__main__":
    sys.exit(main())
