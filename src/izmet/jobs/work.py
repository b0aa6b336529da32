"""Claims a row, runs it with a heartbeat, and notes how it ended."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Sequence
from typing import Any

from izmet.core.refusal import Refusal
from izmet.jobs.exporting import export_stored
from izmet.jobs.kinds import Export, Listen, Read, Slow, work_of
from izmet.jobs.listening import listen_to_all
from izmet.jobs.reading import read_asset
from izmet.jobs.slowing import slow_asset
from izmet.store import edits, jobrows
from izmet.store.assets import Assets
from izmet.store.datafolder import DataFolder
from izmet.store.models import Job, database

BEAT_SECONDS = 0.25
LOOK_SECONDS = 0.05
PARTS_BYTES = 4 << 30
"""What rendered parts that are kept may fill."""
log = logging.getLogger(__name__)


class Worker:
    """Runs the jobs of one data folder."""

    def __init__(self, folder: DataFolder):
        self._folder = folder
        self._assets = Assets(folder)

    def run_waiting(self) -> None:
        """Run queued jobs until none is left."""
        while self.run_one():
            pass

    def run_one(self, without: Sequence[str] = ()) -> bool:
        """Run the queued job that goes first, of other kinds than these. Returns whether there was one."""
        with database.connection_context():
            job = jobrows.claim(without)
            if job is not None:
                self._run(job)
        return job is not None

    def run_forever(self, without: Sequence[str] = ()) -> None:
        """Run what is queued, now and from now on."""
        while True:
            if not self.run_one(without):
                time.sleep(LOOK_SECONDS)

    def _run(self, job: Job) -> None:
        try:
            with _Heart(job.id) as heart:
                result = self._do(job, heart)
            jobrows.end(job.id, "done", result=result)
        except jobrows.Cancelled:
            jobrows.stop(job)
        except Refusal as refusal:
            jobrows.fail(job, refusal)
        except Exception:
            log.exception("job %s failed", job.id)
            fault = Refusal(
                "internal", "Something went wrong inside Izmet.", remedy="Try again; see the server's log."
            )
            jobrows.fail(job, fault)

    def _do(self, job: Job, heart: _Heart) -> Any:
        assets = self._assets
        match work_of(job):
            case Read(asset=asset):
                return read_asset(assets, assets.get(asset), heart.progress)
            case Listen(asset=asset):
                return listen_to_all(assets, assets.get(asset), heart.progress)
            case Slow(asset=asset, factor=factor):
                return slow_asset(assets, assets.get(asset), factor, heart.progress)
            case Export(edit=edit, revision=revision, format=format):
                asked = edits.at_revision(edit, revision)
                out = self._folder.exports / f"{job.id}.{format}"
                report = export_stored(assets, asked, out, format, heart.progress, self._folder.parts)
                self._folder.trim_parts(PARTS_BYTES)
                return report
        raise AssertionError(job.kind)


class _Heart:
    """Beats for a running job from a thread of its own, so that a long step does not look dead."""

    def __init__(self, id: int):
        self._id = id
        self._progress = (0, 0)
        self._cancelled = threading.Event()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)

    def progress(self, done: int, total: int) -> None:
        """Note progress. Raises Cancelled when the person asked to stop."""
        self._progress = (done, total)
        if self._cancelled.is_set():
            raise jobrows.Cancelled

    def __enter__(self) -> _Heart:
        self._thread.start()
        return self

    def __exit__(self, *error: object) -> None:
        self._stop.set()
        self._thread.join()

    def _beat(self) -> None:
        with database.connection_context():
            while True:
                try:
                    jobrows.beat(self._id, *self._progress)
                except jobrows.Cancelled:
                    self._cancelled.set()
                if self._stop.wait(BEAT_SECONDS):
                    return


def sweep_forever(every: float = 1.0) -> None:
    """Look for jobs that a dead worker left."""
    while True:
        with database.connection_context():
            jobrows.sweep()
        time.sleep(every)
