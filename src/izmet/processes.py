"""Child processes that work: kept running by their parent, ended with it, within limits."""

from __future__ import annotations

import logging
import os
import resource
import signal
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress

PAUSE_SECONDS = 0.5
LEAST_MEMORY = 3 << 30
"""What a child may use at least; half of the machine's memory where that is more."""
log = logging.getLogger(__name__)


class Hand:
    """A child process that runs a module of ours, started again when it dies."""

    def __init__(self, module: str, arguments: Sequence[str], environment: Mapping[str, str]):
        self._command = [sys.executable, "-m", module, *arguments]
        self._environment = {**os.environ, **environment}
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._keep, daemon=True)
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it, and a thread that watches over it."""
        self._thread.start()

    def ring(self) -> None:
        """Wake it."""
        if self._process is not None and self._process.stdin is not None:
            with suppress(OSError):  # it has just died: the next one looks when it starts
                os.write(self._process.stdin.fileno(), b"!")

    def stop(self) -> None:
        """End it; its standard input closes with this process too."""
        self._stop.set()
        if self._process is not None:
            self._process.terminate()
            self._process.wait(10)

    def _keep(self) -> None:
        while not self._stop.is_set():
            self._process = subprocess.Popen(self._command, stdin=subprocess.PIPE, env=self._environment)
            code = self._process.wait()
            if not self._stop.wait(PAUSE_SECONDS):
                log.warning("a worker ended with %s; starting another", code)


def end_with_parent(rung: Callable[[], None]) -> None:
    """In a child: have it end when its parent does, and call this when the parent rings."""
    threading.Thread(target=_listen, args=(rung,), daemon=True).start()


def _listen(rung: Callable[[], None]) -> None:
    # The bare descriptor: a buffered reader's lock would hinder a normal end.
    while os.read(0, 64):
        rung()
    os.kill(os.getpid(), signal.SIGTERM)


def limit_memory() -> None:
    """Have work that asks for all memory there is fail by itself, and nothing else with it."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    most = max(LEAST_MEMORY, memory // 2)
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
