"""A real server in its own process, and Debian's chromium to drive it."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

PATIENCE_MS = 120_000
"""A machine may be busy with other work; how long something takes is measured elsewhere."""
expect.set_options(timeout=PATIENCE_MS)
CUE = re.compile(r"^Cue .* at \d")
"""A cue on the music rail, by its name."""


class Server:
    """``izmet`` in a process of its own, over a data folder."""

    def __init__(self, data: Path, *command: str):
        self._data = data
        self._command = command or ("serve", "--no-token")
        self.address = self.start("0")

    def start(self, port: str) -> str:
        """Start it and wait until it says where it is."""
        self._process = subprocess.Popen(
            [sys.executable, "-m", "izmet.cli", *self._command, "--port", port],
            env={**os.environ, "IZMET_DATA": str(self._data)},
            stdout=subprocess.PIPE,
            text=True,
        )
        assert self._process.stdout is not None
        for line in self._process.stdout:
            if found := re.search(r"http://[^/\s]+", line):
                return found.group()
        raise AssertionError("the server did not start")

    @property
    def pid(self) -> int:
        """The server's process id."""
        return self._process.pid

    def kill_and_restart(self) -> None:
        """Kill it in the middle of whatever it does, and start it at the same address."""
        self._process.kill()
        self._process.wait()
        self.start(self.address.rpartition(":")[2])

    def stop(self) -> None:
        self._process.send_signal(signal.SIGTERM)
        self._process.wait(15)

    def __enter__(self) -> Server:
        return self

    def __exit__(self, *error: object) -> None:
        self.stop()


def pulse_on_beats(page: Page, setting: str) -> None:
    """Put a pulse on every beat of the clip at hand."""
    spans = page.get_by_role("region", name="Spans of the clip")
    add = spans.get_by_role("button", name=f"Pulse: {setting}")
    if not add.is_visible():
        spans.get_by_text("Pulses", exact=True).click()
        spans.get_by_role("button", name=re.compile("^On: every")).last.click()
        page.get_by_role("option", name="every beat").click()
    add.click()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    with Server(tmp_path / "data") as running:
        yield running


@pytest.fixture
def demo_server(own_demo: Path) -> Iterator[Server]:
    """A server of a demo of the test's own."""
    running = Server(own_demo, "demo", "--no-token")
    yield running
    running.stop()


@pytest.fixture
def page(chromium: Browser) -> Iterator[Page]:
    """A page at 1280×800 that fails the test when a script does."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    context.set_default_timeout(PATIENCE_MS)
    opened = context.new_page()
    faults: list[str] = []
    opened.on("pageerror", lambda error: faults.append(str(error)))
    opened.on(
        "console", lambda message: faults.append(message.text) if "Content Security" in message.text else None
    )
    yield opened
    context.close()
    assert faults == []
