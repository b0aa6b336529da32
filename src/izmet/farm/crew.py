"""The workers of one machine: child processes, each started again when it dies."""

from __future__ import annotations

import signal
import threading
from pathlib import Path
from tempfile import TemporaryDirectory

from izmet.farm.place import Place
from izmet.processes import Hand


def work(place: Place, count: int) -> None:
    """Have so many processes work until this one is interrupted or terminated.

    Each has a folder of its own in the cache.
    """
    ended = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: ended.set())
    place.cache.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory(dir=place.cache, prefix="at-work-") as own:
        folders = [str(Path(own) / f"{number + 1}") for number in range(count)]
        hands = [Hand("izmet.farm.worker", [folder], place.as_environment()) for folder in folders]
        for hand in hands:
            hand.start()
        ended.wait()
        for hand in hands:
            hand.stop()
