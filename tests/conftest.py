"""What several parts of the tests share."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from playwright.sync_api import Browser

from izmet.demo.fill import fill
from izmet.demo.library import write_library
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from tests.browser import chromium_open
from tests.desk import Desk, bring_song, lay

# A busy machine is no fault of the code: how long an example takes is for the bench to tell.
# The same code is judged alike each time; `--hypothesis-profile=wander` tries other examples.
settings.register_profile("wander", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("izmet", settings.get_profile("wander"), derandomize=True)
# A look while one works: fewer examples, each of them one that the whole run tries too.
settings.register_profile("quick", settings.get_profile("izmet"), max_examples=15)
settings.load_profile("izmet")


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    """The one browser of this test process."""
    with chromium_open() as browser:
        yield browser


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> DataFolder:
    """The demo's own data folder, made as ``izmet demo`` makes it. Read only: ``own_demo`` may be changed.

    It takes about half a minute, so it is made once, by whichever of the test processes comes first.
    """
    base = tmp_path_factory.getbasetemp()
    shared = base if worker_id == "master" else base.parent
    folder = DataFolder(shared / "demo" / "izmet-demo")
    with (shared / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (mark := shared / "demo.made").exists():
            open_database(folder.prepare())
            write_library(folder.root / "library", lambda what, done, total: None)
            fill(folder, lambda what, done, total: None)
            mark.touch()
    return folder


@pytest.fixture
def own_demo(demo_folder: DataFolder, tmp_path: Path) -> Path:
    """A copy of the demo to work on, as ``IZMET_DATA`` of ``izmet demo``; its files are linked."""
    own = tmp_path / "izmet"
    shutil.copytree(demo_folder.root, tmp_path / "izmet-demo", copy_function=_link_files)
    return own


def _link_files(source: str, target: str) -> None:
    if Path(source).suffix.startswith(".db"):
        shutil.copy2(source, target)
    else:
        os.link(source, target)


@pytest.fixture
def desk(tmp_path: Path, request: pytest.FixtureRequest) -> Desk:
    """An empty desk, or one with what ``laid`` or ``song`` needs: it must be there before it is opened."""
    for name in {"laid", "song"} & set(request.fixturenames):
        shutil.copytree(request.getfixturevalue(f"{name}_once"), tmp_path, dirs_exist_ok=True)
    return Desk(DataFolder(tmp_path / "data"))


@pytest.fixture
def laid(desk: Desk) -> dict:
    """An edit with a song and a take that lands on its cue at 1.5 s; their files are in ``tmp_path``."""
    return desk.get("/edits/1")


@pytest.fixture
def song(desk: Desk) -> dict:
    """An edit with a song of clicks twice a second."""
    return desk.get("/edits/1")


@pytest.fixture(scope="session")
def laid_once(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What ``laid`` copies: reading files takes a while, so it is done once."""
    root = tmp_path_factory.mktemp("laid")
    lay(Desk(DataFolder(root / "data")), root)
    return root


@pytest.fixture(scope="session")
def song_once(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What ``song`` copies."""
    root = tmp_path_factory.mktemp("song")
    bring_song(Desk(DataFolder(root / "data")), root)
    return root
