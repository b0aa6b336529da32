"""The child process that does the work: ``python -m izmet.jobs.worker``.

It ends when its parent does: the parent holds the other end of its standard input. Of its
threads one does no long work, so that what a person waits for never waits for an export.
"""

from __future__ import annotations

import logging
import os
import threading

import av

from izmet.jobs.kinds import LONG
from izmet.jobs.work import Worker, sweep_forever
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder


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
    worker = Worker(folder)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    threading.Thread(target=worker.run_forever, daemon=True).start()
    threading.Thread(target=worker.run_forever, args=(LONG,), daemon=True).start()
    sweep_forever()


if __name__ == "__main__":
    main()
