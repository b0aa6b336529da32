"""Claims a row, runs it with a heartbeat, and notes how it ended."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from itertools import chain
from typing import Any

import peewee

from izmet.core.document.refusal import Refusal
from izmet.farm.handing import HERE, Makers
from izmet.jobs.bundling import make_bundle
from izmet.jobs.exporting import export_stored
from izmet.jobs.joining import join_song
from izmet.jobs.kinds import Export, FollowPoint, Listen, MakeBundle, MakeJoinedSong, Read, Slow, work_of
from izmet.jobs.listening import listen_to_all
from izmet.jobs.reading import packs_budget, queue_reading, read_asset
from izmet.jobs.slowing import slow_asset
from izmet.jobs.tracking import follow_point
from izmet.material.files import PACK, Gone
from izmet.media import keptflow
from izmet.media.formats import FORMATS
from izmet.media.render import parts_in
from izmet.store import edits, jobrows
from izmet.store.assets import Assets
from izmet.store.database import Written, database_refusal
from izmet.store.datafolder import DataFolder, let_go
from izmet.store.models import Job, database

BEAT_SECONDS = 0.25
LOOK_SECONDS = 0.4
"""How often it looks for work that nobody rang for."""
ANYWAY_SECONDS = 5.0
AGAIN_SECONDS = 0.5
PARTS_BYTES = 4 << 30
"""What is kept for later exports may fill: rendered parts, and the motion between pictures."""
TOO_MUCH = Refusal(
    "out-of-memory",
    "This needs more memory than Izmet may use.",
    remedy="Scale the video down and try again.",
)
log = logging.getLogger(__name__)


class Worker:
    """Runs the jobs of one data folder.

    Args:
        makers: see to it that the parts of films are made and takes looked through, here or elsewhere.
    """

    def __init__(self, folder: DataFolder, makers: Makers = HERE):
        self._folder = folder
        self._makers = makers
        self._assets = Assets(folder)
        self._ending = threading.Event()
        self._bell = threading.Event()

    def wake(self) -> None:
        """Have it look for work now."""
        self._bell.set()

    def end(self) -> None:
        """Let go of what is being done, cleaned up; its row is found and queued again."""
        self._ending.set()
        self._bell.set()

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
        written = Written(self._folder.database)
        asked = 0.0
        while not self._ending.is_set():
            self._bell.clear()
            # A look for work costs fifty times as much as to ask whether anybody wrote since.
            if written.since_last() or time.monotonic() - asked > ANYWAY_SECONDS:
                asked = time.monotonic()
                with sturdy("looking for work"):
                    while not self._ending.is_set() and self.run_one(without):
                        pass
            self._bell.wait(LOOK_SECONDS)

    def _run(self, job: Job) -> None:
        try:
            with _Heart(job, self._ending) as heart:
                result = self._do(job, heart)
            _insist(lambda: jobrows.end(job, "done", result=result))
        except jobrows.Cancelled:
            _insist(lambda: jobrows.stop(job))
        except _Ending:
            return
        except Refusal as refusal:
            if isinstance(refusal, Gone) and refusal.asset.state == "ready":
                queue_reading(refusal.asset)
            _insist(lambda refusal=refusal: jobrows.fail(job, refusal))  # type: ignore[misc]
        except MemoryError:
            _insist(lambda: jobrows.fail(job, TOO_MUCH))
        except Exception as error:
            log.exception("job %s failed", job.id)
            _insist(lambda error=error: _met_a_fault(job, error))  # type: ignore[misc]

    def _do(self, job: Job, heart: _Heart) -> Any:
        assets = self._assets
        match work_of(job):
            case Read(asset=asset, media=kind):
                read_asset(assets, assets.get(asset, kind), heart.progress, self._makers.takes)
                let_go(assets.all_derived(PACK), packs_budget())
                return None
            case Listen(asset=asset):
                return listen_to_all(assets, assets.get(asset, "song"), heart.progress)
            case Slow(asset=asset, factor=factor):
                return slow_asset(assets, assets.get(asset, "song"), factor, heart.progress)
            case Export(edit=edit, revision=revision, delivery=delivery):
                asked = edits.at_revision(edit, revision)
                out = self._folder.exports / f"{job.id}.{FORMATS[delivery.format].ending}"
                kept, maker = self._folder.parts, self._makers.parts
                report = export_stored(assets, asked, out, delivery, heart.progress, kept, heart.doing, maker)
                self._trim_parts()
                return report
            case MakeBundle() as work:
                said = make_bundle(assets, self._folder.parts, work, heart.progress, self._makers.parts)
                self._trim_parts()
                return {"consequences": [news.model_dump() for news in said]}
            case FollowPoint() as work:
                return follow_point(assets, work, heart.progress)
            case MakeJoinedSong() as work:
                return join_song(assets, work, heart.progress)
        raise AssertionError(job.kind)

    def _trim_parts(self) -> None:
        kept = self._folder.parts
        let_go(chain(parts_in(kept), kept.glob(f"*{keptflow.SUFFIX}")), PARTS_BYTES)


class _Ending(Exception):
    """The worker has been asked to end."""


class _Heart:
    """Beats for a running job from a thread of its own, so that a long step does not look dead."""

    def __init__(self, job: Job, ending: threading.Event):
        self._job, self._ending = job, ending
        self._progress = (0, 0)
        self._doing = ""
        self._cancelled = threading.Event()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)

    def progress(self, done: int, total: int) -> None:
        """Note progress. Raises Cancelled when the person asked to stop, _Ending when the worker ends."""
        self._progress = (done, total)
        if self._ending.is_set():
            raise _Ending
        if self._cancelled.is_set():
            raise jobrows.Cancelled

    def doing(self, part: str) -> None:
        """Note which part of the work begins."""
        self._doing = part

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
                    with sturdy("noting progress"):
                        jobrows.beat(self._job, *self._progress, self._doing)
                except jobrows.Cancelled:
                    self._cancelled.set()
                if self._stop.wait(BEAT_SECONDS):
                    return


def sweep_forever(every: float = 2.0) -> None:
    """Look for jobs that a dead worker left."""
    with database.connection_context():  # one that stays: to open another would cost more than to look
        while True:
            with sturdy("sweeping"):
                jobrows.sweep()
            time.sleep(every)


@contextmanager
def sturdy(what: str) -> Iterator[None]:
    """Inside, a database that cannot be written just now is passed over, with a note: it is tried later."""
    try:
        yield
    except peewee.OperationalError as error:
        log.warning("%s: %s", what, error)


def _insist(note: Callable[[], object]) -> None:
    """Note how work ended, however long a full disk or another writer hinders that."""
    while True:
        with sturdy("noting how work ended"):
            note()
            return
        time.sleep(AGAIN_SECONDS)


def _met_a_fault(job: Job, error: Exception) -> None:
    """A fault of our own is given another try before anybody is told."""
    if not jobrows.try_again(job):
        jobrows.fail(job, _told(error))


def _told(error: Exception) -> Refusal:
    found = database_refusal(error) if isinstance(error, peewee.OperationalError) else None
    return found or Refusal(
        "internal", "Something went wrong inside Izmet.", remedy="Try again; see the server's log."
    )
