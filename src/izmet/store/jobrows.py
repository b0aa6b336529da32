"""The durable rows behind background work.

A row goes queued → running → done, failed or cancelled. A running row's heartbeat
tells that its worker lives; one gone stale is queued again, a few times, then failed
with a retry to offer. So work neither hangs nor is lost when a worker is killed.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Any

from izmet.core.refusal import Refusal
from izmet.store.models import Asset, Job, database

STALE_SECONDS = 6.0
MOST_ATTEMPTS = 3
ENDED = ("done", "failed", "cancelled")
UNREAD = Refusal("stopped", "Reading it was stopped.", remedy="Read it again when you want it.")


class Cancelled(Exception):
    """Raised inside a job whose person does not want it any more."""


def add(kind: str, args: dict[str, Any], priority: int = 0) -> Job:
    """Queue work; smaller priorities go first."""
    return Job.create(kind=kind, args=args, priority=priority)


def add_once(kind: str, args: dict[str, Any], priority: int = 0) -> Job:
    """The job that is to do just this and has not ended yet; queued now when there is none."""
    active = Job.select().where((Job.kind == kind) & (Job.state.in_(("queued", "running"))))
    return next((job for job in active if job.args == args), None) or add(kind, args, priority)


def get(id: int) -> Job:
    """The job with this id. Raises Refusal when there is none."""
    job = Job.get_or_none(Job.id == id)
    if job is None:
        raise Refusal("no-such-job", f"There is no job {id}.")
    return job


def claim(without: Sequence[str] = ()) -> Job | None:
    """The queued job that goes first, now running in this worker, or None. Two workers never get the same.

    Args:
        without: kinds that this worker leaves to others.
    """
    waits = (Job.state == "queued") & Job.kind.not_in(without)
    if not Job.select().where(waits).exists():  # a look that needs no lock
        return None
    with database.atomic("IMMEDIATE"):
        job: Job | None = Job.select().where(waits).order_by(Job.priority, Job.id).first()
        if job is not None:
            job.state, job.attempts, job.done, job.total = "running", job.attempts + 1, 0, 0
            job.heartbeat = job.changed = time.time()
            job.save()
        return job


def beat(id: int, done: int, total: int) -> None:
    """Note progress. Raises Cancelled when the person asked to stop."""
    now = time.time()
    Job.update(done=done, total=total, heartbeat=now, changed=now).where(Job.id == id).execute()
    if Job.select(Job.cancel).where(Job.id == id).scalar():
        raise Cancelled


def end(id: int, state: str, result: Any = None, error: Any = None) -> None:
    """Note how a running job ended."""
    Job.update(state=state, result=result, error=error, changed=time.time()).where(
        (Job.id == id) & (Job.state == "running")
    ).execute()


def fail(job: Job, error: Refusal) -> None:
    """Note that a running job failed, and with it the file that it was reading."""
    end(job.id, "failed", error=error.as_dict())
    _leave_unread(job, error)


def stop(job: Job) -> None:
    """Note that a running job was stopped, as its person asked."""
    end(job.id, "cancelled")
    _leave_unread(job, UNREAD)


def _leave_unread(job: Job, error: Refusal) -> None:
    if job.kind == "read":
        Asset.update(state="failed", error=error.as_dict()).where(Asset.sha256 == job.args["asset"]).execute()


def cancel(id: int) -> None:
    """Ask a job to stop: at once when it waits, at its next heartbeat when it runs."""
    now = time.time()
    waits = (Job.id == id) & (Job.state == "queued")
    if Job.update(state="cancelled", changed=now).where(waits).execute():
        _leave_unread(get(id), UNREAD)
    Job.update(cancel=True, changed=now).where((Job.id == id) & (Job.state == "running")).execute()


def retry(id: int) -> None:
    """Queue a job again that failed or was cancelled."""
    Job.update(state="queued", cancel=False, error=None, attempts=0, changed=time.time()).where(
        (Job.id == id) & Job.state.in_(("failed", "cancelled"))
    ).execute()


def sweep() -> None:
    """Queue again what a dead worker left, or fail it after too many attempts."""
    stale = (Job.state == "running") & (Job.heartbeat < time.time() - STALE_SECONDS)
    lost = Refusal(
        "worker-lost",
        "The work stopped in the middle, more than once.",
        remedy="Try again; if it stops again, report it.",
    )
    now = time.time()
    with database.atomic("IMMEDIATE"):
        for job in list(Job.select().where(stale & Job.cancel)):
            stop(job)
        for job in list(Job.select().where(stale & (Job.attempts >= MOST_ATTEMPTS))):
            fail(job, lost)
        Job.update(state="queued", changed=now).where(stale).execute()


def listing() -> list[Job]:
    """All jobs that have not been cancelled, the newest first."""
    return list(Job.select().where(Job.state != "cancelled").order_by(Job.id.desc()).limit(50))


def changed_since(moment: float) -> list[Job]:
    """Jobs whose row changed after an instant (seconds since the epoch)."""
    return list(Job.select().where(Job.changed > moment).order_by(Job.changed))
