"""What an open edit costs while nobody does anything: the server, its workers, the asking for news."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

from bench.figures import told
from tests.browser import chromium_open
from tests.e2e.conftest import Server

SETTLE_SECONDS, WATCHED_SECONDS = 12, 20


def idle_figures() -> list[bool]:
    """Whether each bound is met."""
    with (
        tempfile.TemporaryDirectory() as name,
        Server(Path(name) / "izmet", "demo", "--no-token") as server,
        chromium_open() as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.address}/edits/1")
        time.sleep(SETTLE_SECONDS)
        before = _spent(server.pid)
        time.sleep(WATCHED_SECONDS)
        share = (_spent(server.pid) - before) / WATCHED_SECONDS
    return [told("idle: server and workers, part of a core", share, 0.01, at_least=False)]


def _spent(server: int) -> float:
    """Seconds of processor time of a process and its children so far."""
    children = Path(f"/proc/{server}/task").glob("*/children")
    pids = [server, *(int(pid) for file in children for pid in file.read_text().split())]
    rows = [Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split() for pid in pids]
    return sum(int(row[11]) + int(row[12]) for row in rows) / os.sysconf("SC_CLK_TCK")
