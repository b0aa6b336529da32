"""A film that others make is the film that one machine makes, whoever dies meanwhile.

Every file is compared byte for byte with the one that was made here alone, and its pictures are read by plain
PyAV.
"""

import errno
import hashlib
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest

from izmet.core.document.refusal import Refusal
from izmet.core.shown.stack import frames_exported
from izmet.farm.handing import MOST_TRIES, Handing
from izmet.farm.line import Line
from izmet.farm.shared import Shared, StoreAway
from izmet.farm.task import LookTask, PartTask, look_key
from izmet.material.reading import look_through
from izmet.media.render import Rendering, render
from izmet.media.sampling import counted_in
from tests.farm.conftest import KEY, film
from tests.media.files import add_sound, read_numbers, write_numbered
from tests.waiting import until


def made_here(edit, takes, tmp_path: Path) -> Path:
    out = tmp_path / "here.mkv"
    render(edit, takes, None, out, "mkv")
    return out


def made_away(edit, takes, tmp_path: Path, handing: Handing, progress=lambda done, of: None) -> Path:
    out, kept = tmp_path / "away.mkv", tmp_path / "kept"
    kept.mkdir(exist_ok=True)
    render(edit, takes, None, out, "mkv", progress, kept, maker=handing.make_parts)
    return out


class Stopped(Exception):
    """Whoever wanted an export wants it no more."""


@contextmanager
def under_way(edit, takes, tmp_path, handing) -> Iterator[tuple[threading.Thread, list]]:
    """The same in a thread, with how far it was each time it was told, and at last what became of it. It is
    stopped at the end."""
    told: list = []
    stopped = threading.Event()

    def progress(done: int, of: int) -> None:
        told.append(done)
        if stopped.is_set():
            raise Stopped

    def work() -> None:
        try:
            told.append(made_away(edit, takes, tmp_path, handing, progress))
        except Exception as error:
            told.append(error)

    thread = threading.Thread(target=work)
    thread.start()
    try:
        yield thread, told
    finally:
        stopped.set()
        thread.join()


def film_there(thread: threading.Thread, told: list) -> None:
    """Wait until what is under way has made its film."""
    thread.join(300)
    assert not thread.is_alive()
    assert not isinstance(told[-1], Exception), told[-1]


def test_two_workers_make_the_very_file_that_one_machine_makes(tmp_path, handing, workers, place):
    edit, takes = film(tmp_path, clips=12, frames=10)
    workers.start(2)
    away = made_away(edit, takes, tmp_path, handing)
    assert away.read_bytes() == made_here(edit, takes, tmp_path).read_bytes()
    assert read_numbers(away) == [k % 40 + n for k in range(12) for n in range(10)]

    # Nothing that is there is made again, not even where this machine has none of it.
    line = Line(place.redis, KEY)
    until(lambda: sum(worker.parts for worker in line.workers()) == 12, "both told what they made")
    for part in (tmp_path / "kept").iterdir():
        part.unlink()
    again = Handing(line, handing._shared)
    assert made_away(edit, takes, tmp_path, again).read_bytes() == away.read_bytes()
    time.sleep(1.5)  # workers tell of themselves every second
    assert sum(worker.parts for worker in line.workers()) == 12
    assert line.waiting() == 0


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_a_part_that_is_spoilt_in_the_store_is_made_again(tmp_path, handing, workers, place):
    edit, takes = film(tmp_path, clips=3, frames=8)
    workers.start(1)
    away = made_away(edit, takes, tmp_path, handing).read_bytes()
    for folder in (tmp_path / "kept", Path(place.media) / "made"):
        spoilt = sorted(folder.iterdir())[0]
        spoilt.write_bytes(spoilt.read_bytes()[:200])
    assert made_away(edit, takes, tmp_path, handing).read_bytes() == away


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_workers_and_redis_may_die_and_nothing_is_lost_or_doubled(tmp_path, handing, workers, redis_server):
    edit, takes = film(tmp_path, clips=40, frames=30, size=(640, 360))
    workers.start(2)
    with under_way(edit, takes, tmp_path, handing) as (thread, told):
        until(lambda: told and told[-1] != 0, "a part was made")
        for _ in range(3):
            workers.kill()
            workers.start(1)
            time.sleep(0.4)
        redis_server.kill()
        time.sleep(1.0)
        redis_server.start()
        assert thread.is_alive(), "it was over before anything died"
        film_there(thread, told)
    assert told[-1].read_bytes() == made_here(edit, takes, tmp_path).read_bytes()
    counts = told[:-1]
    assert counts == sorted(counts)


@pytest.mark.parametrize("media", ["s3"], indirect=True)
def test_a_store_that_goes_away_and_comes_back_is_waited_for(tmp_path, handing, workers, s3):
    edit, takes = film(tmp_path, clips=12, frames=40, size=(640, 360))
    workers.start(2)
    with under_way(edit, takes, tmp_path, handing) as (thread, told):
        until(lambda: told and told[-1] != 0, "a part was made")
        s3.stop()
        try:
            with pytest.raises(StoreAway, match="cannot be used"):
                handing._shared.has_made("any")
            until(handing.line.store_missed, "somebody tells that the store is away")
            assert thread.is_alive(), "it waits"
        finally:
            s3.start()
        film_there(thread, told)
    assert told[-1].read_bytes() == made_here(edit, takes, tmp_path).read_bytes()


def test_an_export_that_begins_without_its_bucket_waits_and_says_so(tmp_path, redis_server, s3):
    edit, takes = film(tmp_path, clips=1, frames=8)
    lost = Handing(Line(redis_server.url, KEY), Shared("s3://nobody-made-it/izmet", tmp_path / "server"))
    with under_way(edit, takes, tmp_path, lost) as (thread, _):
        until(lost.line.store_missed, "it says so")
        assert thread.is_alive()
    assert "bucket does not exist" in lost.line.store_missed()


@pytest.mark.parametrize(
    ("met", "told"),
    [
        (PermissionError("no"), StoreAway),
        (ConnectionError("no answer"), StoreAway),
        (FileNotFoundError("none"), FileNotFoundError),
        (OSError(errno.ENOSPC, "full"), OSError),
        (MemoryError(), MemoryError),
    ],
)
def test_only_a_store_that_may_be_back_counts_as_away(tmp_path, monkeypatch, met, told):
    def fail(*args):
        raise met

    shared = Shared(str(tmp_path / "shared"), tmp_path / "cache")
    monkeypatch.setattr(shared._fs, "exists", fail)
    with pytest.raises(told) as caught:
        shared.has_made("any")
    assert type(caught.value) is told


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_an_export_that_is_begun_later_does_not_wait_for_the_whole_of_another(
    tmp_path, handing, workers, place
):
    for name in ("long", "short"):
        (tmp_path / name).mkdir()
    edit, takes = film(tmp_path / "long", clips=40, frames=60, size=(640, 360))
    workers.start(1)
    with under_way(edit, takes, tmp_path / "long", handing) as (long, told):
        until(lambda: told and told[-1] != 0, "the long one is under way")
        edit, takes = film(tmp_path / "short", clips=3, frames=9)
        other = Handing(Line(place.redis, KEY), Shared(place.media, tmp_path / "other"))
        made_away(edit, takes, tmp_path / "short", other)
        assert long.is_alive()
        assert told[-1] < 40 * 60 / 2


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_a_take_goes_before_parts(tmp_path, handing, place):
    line = Line(place.redis, KEY)
    edit, takes = film(tmp_path, clips=1, frames=8)
    part = handing._part_told(Rendering(edit, takes, "mkv", "good"))
    look = LookTask(key=look_key("1" * 64), file="1" * 64, name="take")
    for task in (part, look):
        line.ask(task)
    kinds = [line.huey.dequeue().args[0]["kind"] for _ in range(2)]
    assert kinds == ["look", "part"]


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_a_stopped_export_leaves_no_worker_at_it(tmp_path, handing, workers, place):
    def progress(done: int, of: int) -> None:
        if done:
            raise Stopped

    edit, takes = film(tmp_path, clips=12, frames=100, size=(640, 360))
    workers.start(2)
    line = Line(place.redis, KEY)
    with pytest.raises(Stopped):
        made_away(edit, takes, tmp_path, handing, progress)
    until(lambda: line.workers() and all(each.doing is None for each in line.workers()), "all are idle")
    until(lambda: line.waiting() == 0, "what stood in line is let go")
    time.sleep(1.5)
    assert sum(each.parts for each in line.workers()) < 12


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_what_cannot_be_made_is_told_by_its_name(tmp_path, handing, workers, place):
    edit, takes = film(tmp_path, clips=2, frames=8)
    workers.start(1)
    gone = Path(place.media) / "content" / handing._shared.keep(takes["take-1"].path)
    gone.write_bytes(b"other")
    with pytest.raises(Refusal, match="shared store is damaged"):
        made_away(edit, takes, tmp_path, handing)
    # Mended as it says, it is tried again at once.
    gone.unlink()
    assert (
        made_away(edit, takes, tmp_path, handing).read_bytes()
        == made_here(edit, takes, tmp_path).read_bytes()
    )


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_who_tries_again_begins_anew(tmp_path, handing, place):
    edit, takes = film(tmp_path, clips=1, frames=8)
    (part,) = Rendering(edit, takes, "mkv", "good").plan(frames_exported(edit, counted_in(takes)))
    line = Line(place.redis, KEY)
    line.fail(part.key, Refusal("not-media", "It cannot be read."))
    for _ in range(MOST_TRIES):
        with line.lease(part.key, "worker"):
            pass
    with under_way(edit, takes, tmp_path, handing):
        until(lambda: line.waiting(), "it is asked for")
        stands = line.standing([part.key])[part.key]
    assert (stands.failed, stands.tries) == (None, 0)


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_another_version_is_refused_and_a_stranger_is_not_heard(tmp_path, handing, workers, place):
    workers.start(1)
    line = Line(place.redis, KEY)
    until(lambda: line.workers(), "a worker is there")
    task = PartTask(version="0", document="0" * 64, takes={}, format="mkv", quality="good", key="1" * 64)
    line.want([task.key])
    line.ask(task)
    until(lambda: line.standing([task.key])[task.key].failed, "the worker says why")
    assert "another version" in str(line.standing([task.key])[task.key].failed)

    stranger = Line(place.redis, b"s" * 32)
    other = task.model_copy(update={"key": "2" * 64})
    stranger.want([other.key])
    stranger.ask(other)
    until(lambda: line.waiting() == 0, "it was taken off the line")
    time.sleep(0.5)
    stands = line.standing([other.key])[other.key]
    assert (stands.leased, stands.made, stands.failed) == (False, False, None)
    assert line.workers(), "the worker is well"


def test_a_take_that_a_worker_looks_through_is_the_take_that_is_looked_through_here(
    tmp_path, handing, workers
):
    file = add_sound(
        write_numbered(tmp_path / "take.mp4", 90), np.zeros(48000, np.float32), tmp_path / "own.mp4"
    )
    name = hashlib.sha256(file.read_bytes()).hexdigest()
    here, away = tmp_path / "look-here", tmp_path / "look-away"
    here.mkdir()
    away.mkdir()
    told: list = []
    workers.start(1)
    found = handing.look_through(file, name, "own.mp4", away, lambda done, of: told.append((done, of)))
    assert found == look_through(file, name, "own.mp4", here, lambda done, of: None)
    assert {each.name: each.read_bytes() for each in away.iterdir()} == {
        each.name: each.read_bytes() for each in here.iterdir()
    }
    assert told == sorted(told)

    spoilt = tmp_path / "spoilt.mp4"
    spoilt.write_bytes(b"no film" * 100)
    other = hashlib.sha256(spoilt.read_bytes()).hexdigest()
    with pytest.raises(Refusal, match="cannot be read"):
        handing.look_through(spoilt, other, "spoilt.mp4", away, lambda done, of: None)
