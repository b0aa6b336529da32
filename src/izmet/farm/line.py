"""The line of work in Redis: huey keeps the tasks; beside them stand who waits, who works, and who is there.

Redis' own clock says how long each note holds, so that no machine's clock matters. All notes are of what is
under way: when Redis begins anew with none, servers ask again for what they still miss.

    wanted  a server waits for it, and says so anew all the time; what nobody wants is let go
    asked   it stands in line
    lease   a worker makes it; that holds as long as the worker says so
    made    it lies in the shared store
    tries   how often a worker began with it
    failed  it cannot be made, and why

One note is of no work: ``store``, why somebody could not use the shared store just now.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from typing import Any

from huey import PriorityRedisHuey
from pydantic import BaseModel
from redis.backoff import ExponentialBackoff
from redis.client import Redis
from redis.exceptions import ConnectionError, LockError, RedisError, TimeoutError
from redis.lock import Lock
from redis.retry import Retry

from izmet.core.document.refusal import Refusal
from izmet.farm.task import PRIORITIES, LookTask, PartTask, Signed

WANTED_MS, ASKED_MS, MADE_MS, FAILED_MS, SEEN_MS = 60_000, 60_000, 3_600_000, 60_000, 6_000
TRIED_MS = 600_000
LEASE_SECONDS = 8.0
PREFIX = "izmet"
STORE = f"{PREFIX}:store"
GONE = (ConnectionError, TimeoutError)
"""How it is told that Redis cannot be reached just now."""


class WorkerSeen(BaseModel):
    """A worker, as it tells of itself every second.

    ``doing`` is the key of what it makes; ``speed`` is in frames a second, of the parts that it made.
    """

    id: str
    machine: str
    process: int
    version: str
    doing: str | None = None
    title: str = ""
    done: int = 0
    total: int = 0
    parts: int = 0
    frames: int = 0
    failures: int = 0
    speed: float = 0.0


@dataclass(frozen=True)
class Standing:
    """How a part stands."""

    asked: bool
    leased: bool
    made: bool
    tries: int
    failed: Refusal | None

    @property
    def under_way(self) -> bool:
        """Whether it stands in line, or is being made."""
        return self.asked or self.leased


class Lost(Exception):
    """The lease of a part is another worker's by now, or nobody wants the part any more."""


class Line:
    """The line of work of one Redis. What is made is named by its key.

    Args:
        work: what a worker does with a task; a server needs none.
    """

    def __init__(self, url: str, key: bytes, work: Callable[[dict[str, Any]], None] | None = None):
        self.huey = PriorityRedisHuey(PREFIX, url=url, results=False, serializer=Signed(key))
        self._redis: Redis = Redis.from_url(url, retry=Retry(ExponentialBackoff(), 3), socket_timeout=5)

        def make(said: dict[str, Any]) -> None:
            if work is not None:
                work(said)

        self._make = self.huey.task()(make)

    def ask(self, task: PartTask | LookTask) -> None:
        """Put work in line, unless it stands there."""
        if self._redis.set(_name("asked", task.key), 1, nx=True, px=ASKED_MS):
            message = self._make.s(task.model_dump(mode="json"))
            message.priority = PRIORITIES[task.kind]
            self.huey.enqueue(message)

    def want(self, keys: Sequence[str]) -> None:
        """Say that parts are waited for."""
        if not keys:
            return
        with self._redis.pipeline(transaction=False) as several:
            for key in keys:
                several.set(_name("wanted", key), 1, px=WANTED_MS)
            several.execute()

    def begin_anew(self, key: str) -> None:
        """Forget how a part failed before: somebody tries again."""
        self._redis.delete(_name("failed", key), _name("tries", key))

    def want_no_more(self, keys: Collection[str]) -> None:
        """Say that parts are waited for no more; a Redis that is gone forgets by itself."""
        with suppress(*GONE):
            if keys:
                self._redis.delete(*(_name("wanted", key) for key in keys))

    def is_wanted(self, key: str) -> bool:
        """Whether anybody waits for a part."""
        return bool(self._redis.exists(_name("wanted", key)))

    def wanted(self) -> set[str]:
        """The keys of all parts that anybody waits for."""
        names = self._redis.scan_iter(_name("wanted", "*"), count=1000)
        return {name.decode().rpartition(":")[2] for name in names}

    def standing(self, keys: Sequence[str]) -> dict[str, Standing]:
        """How parts stand."""
        kinds = ("asked", "lease", "made", "tries", "failed")
        found = self._redis.mget([_name(kind, key) for key in keys for kind in kinds]) if keys else []
        rows = (found[at : at + len(kinds)] for at in range(0, len(found), len(kinds)))
        return {
            key: Standing(bool(asked), bool(lease), bool(made), int(tries or 0), _refusal(failed))
            for key, (asked, lease, made, tries, failed) in zip(keys, rows, strict=True)
        }

    @contextmanager
    def lease(self, key: str, worker: str) -> Iterator[Lock | None]:
        """Hold the lease of a part inside; None where somebody else holds it."""
        lock: Lock = self._redis.lock(_name("lease", key), timeout=LEASE_SECONDS, thread_local=False)
        got = lock.acquire(blocking=False, token=worker)
        self._redis.delete(_name("asked", key))
        if got:
            self._redis.incr(_name("tries", key))
            self._redis.pexpire(_name("tries", key), TRIED_MS)
        try:
            yield lock if got else None
        finally:
            if got:
                with suppress(LockError, RedisError):
                    lock.release()

    def renew(self, lock: Lock, key: str) -> None:
        """Hold a lease for longer. Raises Lost."""
        try:
            lock.reacquire()
        except LockError:
            raise Lost(key) from None
        if not self.is_wanted(key):
            raise Lost(key)

    def made(self, key: str) -> None:
        """Say that a part lies in the shared store."""
        self._redis.set(_name("made", key), 1, px=MADE_MS)
        self._redis.delete(_name("tries", key))

    def not_made(self, key: str) -> None:
        """Take that back: the part was not whole."""
        self._redis.delete(_name("made", key))

    def fail(self, key: str, why: Refusal) -> None:
        """Say that a part cannot be made."""
        self._redis.set(_name("failed", key), json.dumps(why.as_dict()), px=FAILED_MS)

    def seen(self, worker: WorkerSeen) -> None:
        """Tell of a worker."""
        self._redis.set(_name("worker", worker.id), worker.model_dump_json(), px=SEEN_MS)

    def gone(self, worker: str) -> None:
        """Tell that a worker has ended."""
        with suppress(*GONE):
            self._redis.delete(_name("worker", worker))

    def workers(self) -> list[WorkerSeen]:
        """All workers that told of themselves lately, by machine."""
        names = sorted(self._redis.scan_iter(_name("worker", "*"), count=1000))
        told = self._redis.mget(names) if names else []
        found = [WorkerSeen.model_validate_json(text) for text in told if text is not None]
        return sorted(found, key=lambda worker: (worker.machine, worker.process))

    def miss_store(self, why: str) -> None:
        """Tell that the shared store cannot be used just now."""
        with suppress(*GONE):
            self._redis.set(STORE, json.dumps(why), px=SEEN_MS)

    def store_missed(self) -> str | None:
        """Why somebody could not use the shared store lately; None where nobody met that."""
        told = self._redis.get(STORE)
        return None if told is None else str(json.loads(told))

    def waiting(self) -> int:
        """How many parts stand in line."""
        return int(self.huey.storage.queue_size())


def _name(kind: str, key: str) -> str:
    return f"{PREFIX}:{kind}:{key}"


def _refusal(said: bytes | str | None) -> Refusal | None:
    return None if said is None else Refusal.of_dict(json.loads(said))
