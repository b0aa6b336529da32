"""The parent's side of the worker process: start it, start it again when it dies, end it."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
import threading

from izmet.store.datafolder import DataFolder

PAUSE_SECONDS = 0.5
log = logging.getLogger(__name__)


class Supervisor:
    """Keeps one worker process running for a data folder."""

    def __init__(self, folder: DataFolder):
        self._environment = {**os.environ, "IZMET_DATA": str(folder.root)}
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._keep, daemon=True)
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start the worker, and a thread that watches over it."""
        self._thread.start()

    def stop(self) -> None:
        """End the worker; its standard input closes with this process too."""
        self._stop.set()
        if self._process is not None:
            self._process.terminate()
            self._process.wait(10)

    def _keep(self) -> None:
        while not self._stop.is_set():
            self._process = subprocess.Popen(
                [sys.executable, "-m", "izmet.jobs.worker"], stdin=subprocess.PIPE, env=self._environment
            )
            code = self._process.wait()
            if not self._stop.wait(PAUSE_SECONDS):
                log.warning("the worker ended with %s; starting another", code)
