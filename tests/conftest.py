"""What several parts of the tests share."""

from __future__ import annotations

import pytest

from izmet.demo.fill import fill
from izmet.demo.library import write_library
from izmet.store.assets import Assets
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> DataFolder:
    """The demo's own data folder, made as ``izmet demo`` makes it (about half a minute, so once)."""
    folder = DataFolder(tmp_path_factory.mktemp("demo") / "izmet-demo").prepare()
    open_database(folder)
    write_library(folder.root / "library", lambda what, done, total: None)
    fill(Assets(folder), folder.root / "library", lambda what, done, total: None)
    return folder
