"""The server's side: hands work out, watches over it, and fetches what was made.

An export has only so many parts in line at a time, in the order of the film, so that exports begun later
get their turn. What neither stands in line nor is being made, and is not there, is asked for again: a worker
died, or Redis began anew.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Generator, Mapping, Sequence
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, TypeVar

from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.core.shown.plan import Part
from izmet.farm import bundled
from izmet.farm.line import GONE, Line, Standing
from izmet.farm.place import Place
from izmet.farm.shared import Shared, StoreAway
from izmet.farm.task import LookTask, PartTask, TakeTold, look_key
from izmet.material.reading import Looker, Progress, look_through
from izmet.media.render import Maker, Rendering, make_parts, taken_up
from izmet.media.sampling import TakeFile

log = logging.getLogger(__name__)
LOOK_SECONDS = 0.2
LEAST_ASKED, ASKED_EACH = 4, 2
"""Parts that an export has in line or under way: so many at least, and so many for each worker."""
MOST_TRIES, PAUSE_SECONDS = 8, 0.1
"""A part that is let go so often kills who makes it; the pause before it is asked for again doubles."""
SHARED_BYTES = 16 << 30
AWAY = (*GONE, StoreAway)
"""How it is told that Redis or the shared store cannot be reached just now."""

T = TypeVar("T")


class Handing:
    """Has done elsewhere what ``media.render.make_parts`` and ``material.reading.look_through`` do here."""

    def __init__(self, line: Line, shared: Shared):
        self.line = line
        self._shared = shared
        self._fetched: set[str] = set()

    def make_parts(
        self,
        rendering: Rendering,
        parts: Sequence[Part],
        folder: Path,
        progress: Progress,
        begun: Callable[[str], None],
    ) -> None:
        """See to it that the parts lie in a folder.

        Raises:
            Refusal: a worker says why a part cannot be made, or a part was let go again and again.
        """
        missing = {part.key: part for part in parts if not taken_up(rendering.file(folder, part))}
        if not missing:
            return
        names = {key: rendering.file(folder, part).name for key, part in missing.items()}
        total, done = sum(len(part.frames) for part in parts), 0

        def prepare() -> PartTask:
            for key in self._fetched & missing.keys():  # it was not whole, or was thrown away since
                self._shared.discard(names[key])
                self.line.not_made(key)
            return self._part_told(rendering)

        told = self._when_there(rendering.edit.title, prepare, lambda: progress(0, total))
        tasks = {key: told.model_copy(update={"key": key}) for key in missing}
        batch = _Batch(self.line, tasks, lambda key: self._shared.fetch_made(names[key], folder))
        with closing(batch.looks(rendering.edit.title)) as looks:
            for drawn in looks:
                for key in batch.leased:
                    begun(missing[key].clip or "")
                left = sum(len(missing[key].frames) for key in batch.tasks)
                # A worker that dies takes what it had drawn along: nobody has to see that.
                done = max(done, total - left + drawn)
                progress(done, total)
        self._fetched |= missing.keys()
        self._trim()

    def look_through(
        self, file: Path, sha256: str, name: str, folder: Path, progress: Progress
    ) -> dict[str, Any]:
        """Have what is kept of a take written into a folder. Returns its facts.

        Raises:
            Refusal: a worker says why the file cannot be used, or it was let go again and again.
        """
        self._when_there(name, lambda: self._shared.keep_known(file, sha256), lambda: progress(0, 0))
        key = look_key(sha256)
        task, made = LookTask(key=key, file=sha256, name=name), bundled.name_of(key)
        batch = _Batch(self.line, {key: task}, lambda _: self._shared.fetch_made(made, folder))
        done = total = 0
        with closing(batch.looks(name)) as looks:
            for drawn in looks:
                done, total = max(done, drawn), max(total, batch.total)
                progress(done, total)
        self._trim()
        return bundled.unpack(folder / made)

    def _when_there(self, title: str, do: Callable[[], T], looks: Callable[[], None]) -> T:
        """Do something when Redis and the shared store are there; ``looks`` is called until then."""
        patience = _Patience(self.line, title)
        while True:
            with patience:
                return do()
            looks()
            time.sleep(LOOK_SECONDS)

    def _trim(self) -> None:
        with suppress(*AWAY):
            self._shared.trim(SHARED_BYTES, self.line.wanted())

    def _part_told(self, rendering: Rendering) -> PartTask:
        """A task without its key; what it names is put into the shared store."""
        edit = rendering.edit
        takes = {id: self._take_told(edit, id, file) for id, file in rendering.takes.items()}
        document = self._shared.keep_bytes(edit.model_dump_json().encode())
        return PartTask(
            key="0" * 64, document=document, takes=takes, format=rendering.format, quality=rendering.quality
        )

    def _take_told(self, edit: Edit, id: str, file: TakeFile) -> TakeTold:
        known = edit.take(id).media.sha256
        kept = self._shared.keep(file.path) if known is None else self._shared.keep_known(file.path, known)
        with TemporaryDirectory() as folder:
            table = Path(folder) / "table"
            file.table.save(table)
            return TakeTold(file=kept, table=self._shared.keep(table), name=file.name)


@dataclass(frozen=True)
class Makers:
    """Who makes the parts of films, and who looks takes through."""

    parts: Maker = make_parts
    takes: Looker = look_through

    @classmethod
    def at(cls, place: Place | None) -> Makers:
        """Workers where the farm is, else this process itself."""
        if place is None:
            return cls()
        handing = Handing(Line(place.redis, place.key()), Shared(place.media, place.cache))
        return cls(handing.make_parts, handing.look_through)


HERE = Makers()


class _Patience:
    """Inside, it is passed over that Redis or the shared store is away: that is told, and logged once."""

    def __init__(self, line: Line, title: str):
        self._line = line
        self._title = title
        self._away = False

    def __enter__(self) -> None:
        """Begin another try."""

    def __exit__(self, _: object, error: BaseException | None, trace: object) -> bool:
        away = isinstance(error, AWAY)
        if isinstance(error, StoreAway):
            self._line.miss_store(error.what)
        if away and not self._away:
            log.warning("Redis or the shared store cannot be reached; %s waits (%s)", self._title, error)
        self._away = away
        return away


class _Batch:
    """What one job still waits for: ``tasks`` by their keys, which are ``leased``, frames in ``total``."""

    def __init__(self, line: Line, tasks: Mapping[str, PartTask | LookTask], fetch: Callable[[str], None]):
        self.tasks = dict(tasks)
        self.leased: list[str] = []
        self.total = 0
        self._line = line
        self._fetch = fetch
        self._again: dict[str, float] = {}

    def looks(self, title: str) -> Generator[int]:
        """Look after them until all are there; each time, how many frames workers have of those that are not.

        Raises:
            Refusal: a worker says why one cannot be made, or one was let go again and again.
        """
        drawn = 0
        patience = _Patience(self._line, title)
        wanted = list(self.tasks)
        try:
            while self.tasks:
                with patience:
                    drawn = self._look(title)
                yield drawn
                time.sleep(LOOK_SECONDS if self.tasks else 0)
        finally:
            self._line.want_no_more(wanted)

    def _look(self, title: str) -> int:
        """Fetch what was made, ask anew for what nobody makes, and for more where there is room in line."""
        workers = self._line.workers()
        asked = [key for key in self._again if key in self.tasks]
        self._line.want(asked)
        standing = self._line.standing(asked)
        self.leased = [key for key, stands in standing.items() if stands.leased and not stands.made]
        for key, stands in standing.items():
            if stands.made:
                self._take(key)
            elif not stands.under_way:
                self._check(stands, title)
                # It may be lost, but not where nobody was there who could have taken it out of the line.
                if workers and self._again[key] <= time.monotonic():
                    self._ask(key, stands.tries)
        room = max(LEAST_ASKED, ASKED_EACH * len(workers)) - len(asked)
        for key in [key for key in self.tasks if key not in self._again][: max(0, room)]:
            self._line.want([key])
            self._ask(key)
        mine = [worker for worker in workers if worker.doing in self.tasks]
        self.total = sum(worker.total for worker in mine)
        return sum(worker.done for worker in mine)

    @staticmethod
    def _check(stands: Standing, title: str) -> None:
        """Refuse what cannot be made."""
        if stands.failed is not None:
            raise stands.failed
        if stands.tries >= MOST_TRIES:
            raise Refusal(
                "worker-lost",
                f"Workers started it {stands.tries} times and never finished.",
                title,
                "See the workers' logs, then try again.",
            )

    def _ask(self, key: str, tries: int = 0) -> None:
        """Fetch it if it is there after all; else put it in line."""
        if key not in self._again:
            self._line.begin_anew(key)
        self._again[key] = time.monotonic() + PAUSE_SECONDS * 2**tries
        if not self._take(key):
            self._line.ask(self.tasks[key])

    def _take(self, key: str) -> bool:
        """Fetch what was made, if it is there."""
        try:
            self._fetch(key)
        except FileNotFoundError:
            self._line.not_made(key)
            return False
        del self.tasks[key]
        return True
