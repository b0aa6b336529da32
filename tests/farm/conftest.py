"""A Redis of the tests' own, a shared store of either kind, and workers in processes of their own."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import pytest

from izmet.core.document.edit import Clip, Edit, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.values import Media
from izmet.farm.handing import Handing
from izmet.farm.line import Line
from izmet.farm.place import Place
from izmet.farm.shared import Shared
from izmet.media.sampling import TakeFile
from tests.media.files import write_numbered
from tests.media.test_render import looked_at
from tests.standins import BUCKET, RedisServer, S3Store

KEY = b"k" * 32


class Workers:
    """Worker processes, each with its folder."""

    def __init__(self, place: Place):
        self._place = place
        self._made = 0
        self.processes: list[subprocess.Popen[bytes]] = []

    def start(self, count: int = 1, cores: Sequence[int] | None = None) -> None:
        """Start so many, each on one of these cores in turn, where they are told."""
        for _ in range(count):
            self._made += 1
            folder = self._place.cache / f"worker-{self._made}"
            command = [sys.executable, "-m", "izmet.farm.worker", str(folder)]
            environment = {**os.environ, **self._place.as_environment()}
            if cores:
                command = ["taskset", "-c", str(cores[self._made % len(cores)]), *command]
            self.processes.append(subprocess.Popen(command, stdin=subprocess.PIPE, env=environment))

    def kill(self) -> None:
        """Kill the oldest one without a warning."""
        dead = self.processes.pop(0)
        dead.send_signal(signal.SIGKILL)
        dead.wait()

    def end(self) -> None:
        for process in self.processes:
            process.terminate()
        for process in self.processes:
            process.wait()
        self.processes = []


@pytest.fixture
def redis_server() -> Iterator[RedisServer]:
    server = RedisServer()
    yield server
    server.kill()


@pytest.fixture(scope="session")
def s3() -> Iterator[S3Store]:
    """A stand-in for an S3 store; the environment says where it is, as it does to all that knows S3."""
    store = S3Store()
    with pytest.MonkeyPatch.context() as patch:
        for name, value in store.environment.items():
            patch.setenv(name, value)
        yield store
    store.stop()


@pytest.fixture(params=["folder", "s3"])
def media(request: pytest.FixtureRequest, tmp_path: Path) -> str:
    """The address of a shared store."""
    if request.param == "folder":
        return str(tmp_path / "shared")
    request.getfixturevalue("s3")
    return f"s3://{BUCKET}/{tmp_path.name}"


def place_in(folder: Path, redis: RedisServer, media: str | None = None) -> Place:
    """A farm whose key and cache lie in a folder, its store too where no other is given."""
    key_file = folder / "key"
    key_file.write_bytes(KEY)
    return Place(redis.url, media or str(folder / "shared"), key_file, folder / "cache")


@pytest.fixture
def place(redis_server: RedisServer, media: str, tmp_path: Path) -> Place:
    return place_in(tmp_path, redis_server, media)


@pytest.fixture
def workers(place: Place) -> Iterator[Workers]:
    crew = Workers(place)
    yield crew
    crew.end()


@pytest.fixture
def handing(place: Place, tmp_path: Path) -> Handing:
    """The server's side, with a cache of its own."""
    return Handing(Line(place.redis, KEY), Shared(place.media, tmp_path / "server"))


def film(tmp_path: Path, clips: int, frames: int, size: tuple[int, int] = (192, 108)) -> tuple[Edit, dict]:
    """An edit of so many clips of a numbered take, each of so many frames, and its take's file."""
    path = write_numbered(tmp_path / "take.mp4", 150, Fraction(30), size=size)
    file: TakeFile = looked_at(path, size)
    media = Media(name=path.name, path=path.name)
    take = Take(
        id="take-1", media=media, rate=file.table.rate, frames=len(file.table), distinct=file.table.distinct,
        width=size[0], height=size[1],
    )  # fmt: skip
    laid = tuple(
        Clip(
            id=f"clip-{k + 1}", take="take-1", spans=(Steady(),),
            pins=(
                Pin(id="pin-1", n=k * frames, p=k % 40),
                Pin(id="pin-2", n=(k + 1) * frames - 1, p=k % 40 + frames - 1),
            ),
        )
        for k in range(clips)
    )  # fmt: skip
    return Edit(rate=Fraction(30), width=size[0], height=size[1], takes=(take,), clips=laid), {"take-1": file}
