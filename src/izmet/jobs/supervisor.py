"""The parent's side of the workers: start them, start them again when they die, end them."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
import threading
from collections.abc import Mapping, Sequence
from contextlib import suppress

from izmet.jobs.kinds import LONG
from izmet.store.datafolder import DataFolder

PAUSE_SECONDS = 0.5
HANDS: tuple[Sequence[str], ...] = ((), LONG)
"""What each process does not do. One does no long work, so that what a person waits for never waits for an
export; and work that kills its process takes none along that is done beside it."""
log = logging.getLogger(__name__)


class Supervisor:
    """Keeps the worker processes of a data folder running."""

    def __init__(self, folder: DataFolder):
        self._environment = {**os.environ, "IZMET_DATA": str(folder.root)}
        self._stop = threading.Event()
        self._hands = [_Hand(without, self._environment, self._stop) for without in HANDS]

    def start(self) -> None:
        """Start the workers, and a thread for each that watches over it."""
        for hand in self._hands:
            hand.start()

    def ring(self) -> None:
        """Tell the workers that there is work: they look for it by themselves too, but more seldom."""
        for hand in self._hands:
            hand.ring()

    def stop(self) -> None:
        """End the workers; their standard input closes with this process too."""
        self._stop.set()
        for hand in self._hands:
            hand.stop()


class _Hand:
    """One worker process, started again when it dies."""

    def __init__(self, without: Sequence[str], environment: Mapping[str, str], stop: threading.Event):
        self._command = [sys.executable, "-m", "izmet.jobs.worker", *without]
        self._environment = environment
        self._stop = stop
        self._thread = threading.Thread(target=self._keep, daemon=True)
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self._thread.start()

    def ring(self) -> None:
        if self._process is not None and self._process.stdin is not None:
            with suppress(OSError):  # it has just died: the next one looks when it starts
                os.write(self._process.stdin.fileno(), b"!")

    def stop(self) -> None:
        if self._process is not None:
            self._process.terminate()
            self._process.wait(10)

    def _keep(self) -> None:
        while not self._stop.is_set():
            self._process = subprocess.Popen(
                self._command, stdin=subprocess.PIPE, env=dict(self._environment)
            )
            code = self._process.wait()
            if not self._stop.wait(PAUSE_SECONDS):
                log.warning("a worker ended with %s; starting another", code)
