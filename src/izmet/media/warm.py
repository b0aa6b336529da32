"""Work that may go wrong, done apart: within limits of memory, of work and of time.

A process of its own costs most of its time to import libraries. So one is kept warm, and
forks for each piece of work; what a piece of work spoils ends with its fork. A module
that offers such work calls ``serve`` when it is run; others ask it through ``Warm``.
"""

from __future__ import annotations

import json
import multiprocessing
import resource
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import NamedTuple


class Limits(NamedTuple):
    """Of one piece of work: bytes of memory, seconds of one processor, and seconds until it is given up."""

    memory: int
    work: int
    wait: float


class Ending(NamedTuple):
    """How a piece of work ended: what it answered, and its exit code (below 0: a signal).

    A code of None: it gave no answer in time.
    """

    answer: str | None
    code: int | None


class Warm:
    """The asking side. The process is started when it is first needed, and again when it died."""

    def __init__(self, module: str):
        self._module = module
        self._process: subprocess.Popen[str] | None = None
        self._lock = threading.Lock()

    def ask(self, *words: str) -> Ending:
        """Have one piece of work done, and wait for its end."""
        with self._lock:
            return self._asked(words) or self._asked(words) or Ending(None, 1)

    def _asked(self, words: tuple[str, ...]) -> Ending | None:
        """None when the process ended before it answered."""
        process = self._running()
        assert process.stdin is not None
        assert process.stdout is not None
        with suppress(BrokenPipeError):
            print(json.dumps(words), file=process.stdin, flush=True)
        line = process.stdout.readline()
        return Ending(*json.loads(line)) if line else None

    def _running(self) -> subprocess.Popen[str]:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-m", self._module], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )
        return self._process


def serve(work: Callable[..., str], limits: Limits) -> None:
    """Do what is asked on standard input, each piece in a fork within limits, until nobody asks any more."""
    fork = multiprocessing.get_context("fork")
    for line in sys.stdin:
        here, there = fork.Pipe(duplex=False)
        process = fork.Process(target=_limited, args=(there, work, json.loads(line), limits))
        process.start()
        there.close()
        print(json.dumps(_ending(process, here, limits.wait)), flush=True)
        here.close()


def _ending(process: multiprocessing.context.ForkProcess, here: Connection, wait: float) -> Ending:
    if not here.poll(wait):
        process.kill()
        process.join()
        return Ending(None, None)
    answer = None
    with suppress(EOFError):
        answer = here.recv()
    process.join()
    return Ending(answer, process.exitcode)


def _limited(there: Connection, work: Callable[..., str], words: list[str], limits: Limits) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory, limits.memory))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.work, limits.work + 1))
    try:
        there.send(work(*words))
    except MemoryError:
        sys.exit(1)
