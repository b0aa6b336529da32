"""Claims a row, runs it with a heartbeat, and notes how it ended."""

from __future__ import annotations

import logging
import threading
import time
from typing import Any

from izmet.core.refusal import Refusal
from izmet.jobs.exporting import export_stored
from izmet.jobs.listening import listen_to_all
from izmet.jobs.reading import read_asset
from izmet.jobs.slowing import slow_asset
from izmet.store import edits, jobrows
from izmet.store.assets import Assets
from izmet.store.datafolder import DataFolder
from izmet.store.models import Job, database

BEAT_SECONDS = 0.25
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

    def run_one(self) -> bool:
        """Run the oldest queued job. Returns whether there was one."""
        with database.connection_context():
            job = jobrows.claim()
            if job is not None:
                self._run(job)
        return job is not None

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
        match job.kind:
            case "read":
                read_asset(self._assets, self._assets.get(job.args["asset"]), heart.progress)
                return None
            case "listen":
                listen_to_all(self._assets, self._assets.get(job.args["asset"]), heart.progress)
                return None
            case "slow":
                asset = self._assets.get(job.args["asset"])
                slow_asset(self._assets, asset, job.args["factor"], heart.progress)
                return None
            case "export":
                edit = edits.at_revision(job.args["edit"], job.args["revision"])
                out = self._folder.exports / f"{job.id}.{job.args['format']}"
                return export_stored(self._assets, edit, out, job.args["format"], heart.progress)
        raise Refusal("unknown-job", f"No work is called {job.kind}.")


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


def sweep_forever(ring: Any, every: float = 1.0) -> None:
    """Look for jobs that a dead worker left, and ring for those that wait."""
    while True:
        with database.connection_context():
            waiting = jobrows.sweep()
        for _ in range(min(waiting, 2)):
            ring()
        time.sleep(every)
