"""The child process that does the work: ``python -m izmet.jobs.worker``.

It ends when its parent does: the parent holds the other end of its standard input.
"""

from __future__ import annotations

import logging
import os
import threading

import av

from izmet.jobs.bell import Bell
from izmet.jobs.work import Worker, sweep_forever
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder

THREADS = 2


def _end_with_parent() -> None:
    # The bare descriptor: a buffered reader's lock would hinder a normal end.
    while os.read(0, 1):
        pass
    os._exit(0)


def main() -> None:
    """Run jobs until the parent is gone."""
    logging.basicConfig(level=logging.WARNING)
    av.logging.set_level(None)
    folder = DataFolder.default().prepare()
    open_database(folder)
    bell = Bell(folder, Worker(folder).run_waiting)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    threading.Thread(target=sweep_forever, args=(bell.ring,), daemon=True).start()
    bell.huey.create_consumer(
        workers=THREADS, worker_type="thread", periodic=False, initial_delay=0.02, max_delay=0.4
    ).run()


if __name__ == "__main__":
    main()
