"""Each folder's README is its contract: it names every module that is in it, and none that is not."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import izmet

ROOT = Path(izmet.__file__).parent
FOLDERS = sorted(
    readme.parent for readme in ROOT.rglob("README.md") if (readme.parent / "__init__.py").exists()
)


@pytest.mark.parametrize("folder", FOLDERS, ids=lambda folder: folder.relative_to(ROOT).as_posix())
def test_every_module_is_named(folder):
    lines = (folder / "README.md").read_text().splitlines()
    named = {
        name
        for line in lines
        if line.startswith("    ")
        for name in re.split(r",\s*", re.split(r"\s{2,}", line.strip())[0])
    }
    there = {path.stem for path in folder.glob("*.py") if path.stem != "__init__"}
    assert there - named == set()
