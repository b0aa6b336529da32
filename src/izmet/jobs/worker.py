"""A child process that does work: ``python -m izmet.jobs.worker KIND…``, without work of these kinds.

The parent holds the other end of its standard input: what is written there wakes it, and it
ends when its parent does.
"""

from __future__ import annotations

import logging
import os
import signal
import sqlite3
import sys
import threading
import time

import av

from izmet.farm.handing import Makers
from izmet.farm.place import Place
from izmet.jobs.work import Worker, sweep_forever
from izmet.processes import end_with_parent, limit_memory
from izmet.store.backups import back_up
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder

LOOK_SECONDS = 900
ENDING_SECONDS = 5
"""How long the work at hand may take to clean up after itself."""


def _back_up_daily(folder: DataFolder) -> None:
    while True:
        try:
            back_up(folder)
        except (OSError, sqlite3.Error) as error:
            logging.warning("the daily copy of the database was not made: %s", error)
        time.sleep(LOOK_SECONDS)


def main() -> None:
    """Run jobs until the parent is gone."""
    os.umask(0o077)
    limit_memory()
    logging.basicConfig(level=logging.WARNING)
    av.logging.set_level(None)
    folder = DataFolder.default().prepare()
    open_database(folder)
    worker = Worker(folder, Makers.at(Place.given()))
    end_with_parent(worker.wake)
    at_work = threading.Thread(target=worker.run_forever, args=(sys.argv[1:],), daemon=True)
    at_work.start()
    threading.Thread(target=_back_up_daily, args=(folder,), daemon=True).start()
    signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(0))
    try:
        sweep_forever()
    finally:
        worker.end()
        at_work.join(ENDING_SECONDS)
        os._exit(0)


if __name__ == "__main__":
    main()
