"""The durable rows behind background work.

A row goes queued → running → done, failed or cancelled. A running row's heartbeat
tells that its worker lives; one gone stale is queued again, a few times, then failed
with a retry to offer. So work neither hangs nor is lost when a worker is killed.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Any
from uuid import uuid4

from izmet.core.document.refusal import Refusal
from izmet.store.models import Asset, Job, database

STALE_SECONDS = 6.0
MOST_ATTEMPTS = 3
MOST_FAULTS = 2
"""Attempts that may end in a fault of our own before the job has failed."""
UNREAD = Refusal("stopped", "Reading it was stopped.", remedy="Read it again when you want it.")


class Cancelled(Exception):
    """Raised inside a job whose person does not want it any more."""


class Lost(Cancelled):
    """Raised inside a job that was taken for dead: another attempt has begun, and this one ends unseen."""


def add(kind: str, args: dict[str, Any], priority: int = 0) -> Job:
    """Queue work; smaller priorities go first."""
    return Job.create(kind=kind, args=args, priority=priority)


def add_once(kind: str, args: dict[str, Any], priority: int = 0) -> Job:
    """The job that is to do just this and has not ended yet; queued now when there is none."""
    active = Job.select().where((Job.kind == kind) & (Job.state.in_(("queued", "running"))))
    return next((job for job in active if job.args == args), None) or add(kind, args, priority)


def has_failed(kind: str, args: dict[str, Any]) -> bool:
    """Whether a job with these arguments has failed or was cancelled."""
    ended = Job.select().where((Job.kind == kind) & Job.state.in_(("failed", "cancelled")))
    return any(job.args == args for job in ended)


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
            job.owner, job.heartbeat, job.changed = uuid4().hex, time.monotonic(), time.time()
            job.save()
        return job


def beat(job: Job, done: int, total: int, doing: str = "") -> None:
    """Note progress, and which part of the work is under way.

    Raises Cancelled when the person asked to stop, Lost when another attempt has begun.
    """
    facts = {
        "done": done,
        "total": total,
        "doing": doing,
        "heartbeat": time.monotonic(),
        "changed": time.time(),
    }
    if not Job.update(**facts).where(_mine(job)).execute():
        raise Lost
    if Job.select(Job.cancel).where(Job.id == job.id).scalar():
        raise Cancelled


def end(job: Job, state: str, result: Any = None, error: Any = None) -> bool:
    """Note how a running job ended. Whether it was still this attempt's to end."""
    facts = {"state": state, "result": result, "error": error, "changed": time.time()}
    return bool(Job.update(**facts).where(_mine(job)).execute())


def fail(job: Job, error: Refusal) -> None:
    """Note that a running job failed, and with it the file that it was reading."""
    if end(job, "failed", error=error.as_dict()):
        _leave_unread(job, error)


def try_again(job: Job) -> bool:
    """Queue a job again that met with a fault, once; whether it was not tried again before."""
    if job.attempts >= MOST_FAULTS:
        return False
    facts = {"state": "queued", "owner": "", "changed": time.time()}
    return bool(Job.update(**facts).where(_mine(job)).execute())


def stop(job: Job) -> None:
    """Note that a running job was stopped, as its person asked."""
    if end(job, "cancelled"):
        _leave_unread(job, UNREAD)


def _mine(job: Job) -> Any:
    """Whether the row still belongs to the attempt that claimed it: a worker may have slept for long."""
    return (Job.id == job.id) & (Job.state == "running") & (Job.owner == job.owner)


def _leave_unread(job: Job, error: Refusal) -> None:
    if job.kind == "read":
        is_it = (Asset.sha256 == job.args["asset"]) & (Asset.kind == job.args.get("media", "take"))
        Asset.update(state="failed", error=error.as_dict()).where(is_it).execute()


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
    # The clock of the machine, not of the wall: it rests while the machine sleeps, and begins anew with it.
    now = time.monotonic()
    stale = (Job.state == "running") & ((Job.heartbeat < now - STALE_SECONDS) | (Job.heartbeat > now + 1))
    if not Job.select().where(stale).exists():  # a look that needs no lock
        return
    lost = Refusal(
        "worker-lost",
        "The work stopped in the middle, more than once.",
        remedy="Try again; if it stops again, report it.",
    )
    with database.atomic("IMMEDIATE"):
        for job in list(Job.select().where(stale & Job.cancel)):
            stop(job)
        for job in list(Job.select().where(stale & (Job.attempts >= MOST_ATTEMPTS))):
            fail(job, lost)
        Job.update(state="queued", owner="", changed=time.time()).where(stale).execute()


def listing() -> list[Job]:
    """All jobs that have not been cancelled, the newest first."""
    return list(Job.select().where(Job.state != "cancelled").order_by(Job.id.desc()).limit(50))


def changed_since(moment: float) -> list[Job]:
    """Jobs whose row changed after an instant (seconds since the epoch)."""
    return list(Job.select().where(Job.changed > moment).order_by(Job.changed))
