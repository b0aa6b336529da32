"""A worker's side: from a task to what it makes, in the shared store."""

from __future__ import annotations

import json
import logging
import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from uuid import uuid4

from cachetools import LRUCache
from pydantic import TypeAdapter, ValidationError
from redis.exceptions import RedisError
from redis.lock import Lock

from izmet.core.document.edit import parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.shown.plan import Part
from izmet.core.shown.stack import frames_exported
from izmet.farm import bundled
from izmet.farm.line import Line, Lost, WorkerSeen
from izmet.farm.shared import Shared, StoreAway
from izmet.farm.task import VERSION, LookTask, PartTask, Task, look_key
from izmet.material.reading import look_through
from izmet.media import keptflow
from izmet.media.frametable import FrameTable
from izmet.media.render import Rendering, make_parts
from izmet.media.sampling import TakeFile, counted_in
from izmet.store.datafolder import let_go

log = logging.getLogger(__name__)
RENEW_SECONDS, TELL_SECONDS = 1.0, 1.0
MOST_SECONDS = {"part": 900.0, "look": 4 * 3600.0}
"""For a part, which is some seconds of film; for a take, which may be long."""
GRACE_SECONDS = 30.0
"""So much longer native code may take to come back; then the process ends, and another begins."""
TOO_MUCH = Refusal(
    "out-of-memory", "This needs more memory than a worker may use.", remedy="Export at a smaller size."
)
TOO_SLOW = Refusal("too-slow", "A worker ran out of time.", remedy="Export at a smaller size.")
FLOW_BYTES = 4 << 30
"""What a worker keeps of the motion between pictures."""
TASKS: TypeAdapter[PartTask | LookTask] = TypeAdapter(Task)
Plan = tuple[Rendering, dict[str, Part]]


class Maker:
    """Makes what tasks ask for, one at a time.

    Args:
        scratch: a folder of this worker's own.
    """

    def __init__(self, url: str, key: bytes, shared: Shared, scratch: Path):
        self.line = Line(url, key, self.take_on)
        self._shared = shared
        self._scratch = scratch
        self._plans: LRUCache[str, Plan] = LRUCache(4)
        self._about = WorkerSeen(
            id=uuid4().hex, machine=socket.gethostname(), process=os.getpid(), version=VERSION
        )
        self._busy_seconds = 0.0
        self._end: float | None = None

    def take_on(self, said: dict[str, Any]) -> None:
        """Make what a task asks for, unless it is there, or another worker makes it, or nobody wants it.

        What hinders it is told under the part's key. A fault of ours is raised; the part is asked for anew.
        """
        try:
            task = TASKS.validate_python(said)
        except ValidationError as error:
            log.warning("a task says nothing of use: %s", error)
            return
        with self.line.lease(task.key, self._about.id) as lock:
            if lock is None or not self.line.is_wanted(task.key):
                return
            try:
                with self._held(task, lock) as check:
                    self._make(task, check)
                self.line.made(task.key)
            except Lost:
                log.warning("%s %s was let go", task.kind, task.key[:8])
            except StoreAway as error:
                log.warning("%s %s waits for the shared store (%s)", task.kind, task.key[:8], error)
                self.line.begin_anew(task.key)  # the part is not to blame
                self.line.miss_store(error.what)
                time.sleep(TELL_SECONDS)
            except Exception as error:
                self._tell(failures=self._about.failures + 1)
                if not isinstance(error, Refusal | MemoryError):
                    raise
                self.line.fail(task.key, error if isinstance(error, Refusal) else TOO_MUCH)

    def tell_forever(self) -> None:
        """Tell of this worker again and again; end the process where work takes far too long."""
        away = False
        while True:
            try:
                self.line.seen(self._about)
                away = False
            except RedisError as error:
                if not away:
                    log.warning("Redis cannot be reached; this worker waits for it (%s)", error)
                away = True
            end = self._end
            if end is not None and time.monotonic() > end + GRACE_SECONDS:
                log.error("work does not end; this worker does")
                os._exit(75)
            time.sleep(TELL_SECONDS)

    def end(self) -> None:
        """Tell that this worker is gone."""
        self.line.gone(self._about.id)

    def _make(self, task: PartTask | LookTask, check: Callable[[], None]) -> None:
        if task.version != VERSION:
            raise _other_version(task)
        file = self._part(task, check) if isinstance(task, PartTask) else self._look(task, check)
        if file is not None:
            self._shared.keep_made(file)
            file.unlink()

    def _part(self, task: PartTask, check: Callable[[], None]) -> Path | None:
        """Draw a part; None where it is there."""
        rendering, parts = self._plan(task)
        part = parts.get(task.key)
        if part is None:
            raise _other_version(task)
        file = rendering.file(self._scratch, part)
        if self._shared.has_made(file.name):
            return None
        begun, total = time.monotonic(), len(part.frames)
        with self._told(task.key, rendering.edit.title, check) as progress:
            make_parts(rendering, [part], self._scratch, progress, lambda clip: None)
        self._busy_seconds += time.monotonic() - begun
        drawn = self._about.frames + total
        self._tell(parts=self._about.parts + 1, frames=drawn, speed=drawn / self._busy_seconds)
        let_go(self._scratch.glob(f"*{keptflow.SUFFIX}"), FLOW_BYTES)
        return file

    def _look(self, task: LookTask, check: Callable[[], None]) -> Path | None:
        """Look a take through; None where that is there."""
        if task.key != look_key(task.file):
            raise _other_version(task)
        made = self._scratch / bundled.name_of(task.key)
        if self._shared.has_made(made.name):
            return None
        with (
            TemporaryDirectory(dir=self._scratch) as folder,
            self._told(task.key, task.name, check) as progress,
        ):
            file = self._shared.fetch(task.file)
            facts = look_through(file, task.file, task.name, Path(folder), progress)
            bundled.pack(Path(folder), facts, made)
        return made

    @contextmanager
    def _told(self, key: str, title: str, check: Callable[[], None]) -> Iterator[Callable[[int, int], None]]:
        """Inside, it is told what this worker does; what is given is called with how far it is."""

        def progress(done: int, of: int) -> None:
            self._tell(done=done, total=of)
            check()

        self._tell(doing=key, title=title)
        try:
            yield progress
        finally:
            self._tell(doing=None, title="", done=0, total=0)

    @contextmanager
    def _held(self, task: PartTask | LookTask, lock: Lock) -> Iterator[Callable[[], None]]:
        """Inside, the lease is renewed; what is given is called often, and raises when work has to end."""
        lost = threading.Event()
        ended = threading.Event()

        def hold() -> None:
            while not ended.wait(RENEW_SECONDS) and not lost.is_set():
                try:
                    self.line.renew(lock, task.key)
                except Lost:
                    lost.set()
                except RedisError as error:
                    # It may come back before anybody else makes the part; twice made is no harm.
                    log.warning("the lease cannot be renewed: %s", error)

        def check() -> None:
            if lost.is_set():
                raise Lost(task.key)
            if time.monotonic() > end:
                raise TOO_SLOW

        end = self._end = time.monotonic() + MOST_SECONDS[task.kind]
        threading.Thread(target=hold, daemon=True).start()
        try:
            yield check
        finally:
            ended.set()
            self._end = None

    def _tell(self, **facts: Any) -> None:
        self._about = self._about.model_copy(update=facts)

    def _plan(self, task: PartTask) -> Plan:
        """All parts of the film that a task belongs to, worked out by this worker itself."""
        about = task.model_dump_json(exclude={"key"})
        if about not in self._plans:
            self._plans[about] = self._planned(task)
        return self._plans[about]

    def _planned(self, task: PartTask) -> Plan:
        fetch = self._shared.fetch
        edit = parse_edit(json.loads(fetch(task.document).read_bytes()))
        takes = {
            id: TakeFile(fetch(told.file), told.name, FrameTable.load(fetch(told.table)))
            for id, told in task.takes.items()
        }
        rendering = Rendering(edit, takes, task.format, task.quality)
        shown = frames_exported(edit, counted_in(takes))
        return rendering, {part.key: part for part in rendering.plan(shown)}


def _other_version(task: PartTask | LookTask) -> Refusal:
    return Refusal(
        "other-version",
        f"A worker runs another version than the server: {VERSION}, not {task.version}.",
        socket.gethostname(),
        "Set the same version up on all machines.",
    )
