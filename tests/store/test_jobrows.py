"""Work is claimed once, outlives its worker, and ends in one way only."""

from __future__ import annotations

import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from izmet.core.document.refusal import Refusal
from izmet.store import jobrows
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import Job, database


@pytest.fixture
def rows(tmp_path: Path):
    open_database(DataFolder(tmp_path).prepare())
    with database.connection_context():
        yield


def test_many_workers_at_once_never_get_the_same_job(rows):
    for _ in range(24):
        jobrows.add("read", {})
    claimed: list[int] = []

    def work() -> None:
        with database.connection_context():
            while (job := jobrows.claim()) is not None:
                claimed.append(job.id)

    workers = [threading.Thread(target=work) for _ in range(4)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    assert Counter(claimed) == Counter(range(1, 25))


def test_the_same_work_is_found_while_it_waits_or_runs_and_not_after(rows):
    args = {"asset": "a", "factor": 2}
    job = jobrows.add("slow", args)
    assert jobrows.add_once("slow", args).id == job.id
    assert jobrows.add_once("slow", args | {"factor": 4}).id != job.id
    jobrows.claim()
    assert jobrows.add_once("slow", args).id == job.id
    jobrows.end(jobrows.get(job.id), "done")
    assert jobrows.add_once("slow", args).id != job.id


class Rows(RuleBasedStateMachine):
    """A job under everything that can befall it, against what the row should say."""

    @initialize()
    def begin(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        open_database(DataFolder(Path(self._folder.name)).prepare())
        self._connection = database.connection_context()
        self._connection.__enter__()
        self.job = jobrows.add("export", {}).id
        self.state, self.attempts, self.asked = "queued", 0, False
        self.held: Job = jobrows.get(self.job)
        self.asleep: list[Job] = []

    def teardown(self) -> None:
        self._connection.__exit__(None, None, None)
        self._folder.cleanup()

    @rule()
    def claim(self) -> None:
        found = jobrows.claim()
        assert (found is not None) == (self.state == "queued")
        if found is not None:
            self.held = found
            self.state, self.attempts = "running", self.attempts + 1

    @rule()
    def beat(self) -> None:
        if self.state != "running":
            return
        try:
            jobrows.beat(self.held, 1, 2)
        except jobrows.Cancelled:
            assert self.asked
            jobrows.stop(self.held)
            self.state = "cancelled"
        else:
            assert not self.asked

    @rule()
    def end(self) -> None:
        jobrows.end(self.held, "done")
        if self.state == "running":
            self.state = "done"

    @rule()
    def fail(self) -> None:
        jobrows.fail(self.held, Refusal("odd", "Odd."))
        if self.state == "running":
            self.state = "failed"

    @rule()
    def cancel(self) -> None:
        jobrows.cancel(self.job)
        if self.state == "running":
            self.asked = True
        elif self.state == "queued":
            self.state = "cancelled"

    @rule()
    def retry(self) -> None:
        jobrows.retry(self.job)
        if self.state in ("failed", "cancelled"):
            self.state, self.attempts, self.asked = "queued", 0, False

    @rule()
    def die_and_sweep(self) -> None:
        """The worker dies, and the sweeper comes by when its heart has not beaten for long."""
        Job.update(heartbeat=time.monotonic() - 2 * jobrows.STALE_SECONDS).where(
            Job.state == "running"
        ).execute()
        jobrows.sweep()
        if self.state == "running":
            enough = self.attempts >= jobrows.MOST_ATTEMPTS
            self.state = "cancelled" if self.asked else "failed" if enough else "queued"

        if self.state != "running":
            self.asleep.append(self.held)

    @rule()
    def wake(self) -> None:
        """A worker that was taken for dead goes on: it learns that it lost the job, and ends nothing."""
        for attempt in self.asleep:
            with pytest.raises(jobrows.Lost):
                jobrows.beat(attempt, 9, 9)
            assert not jobrows.end(attempt, "done")
            jobrows.fail(attempt, Refusal("odd", "Odd."))

    @invariant()
    def the_row_says_so(self) -> None:
        row = jobrows.get(self.job)
        assert (row.state, row.attempts) == (self.state, self.attempts)
        assert [job.id for job in jobrows.listing()] == ([] if self.state == "cancelled" else [self.job])


TestRows = Rows.TestCase
TestRows.settings = settings(max_examples=25, stateful_step_count=20, deadline=None)
