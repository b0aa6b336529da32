"""The wheel holds all that it needs, and says what else it runs on."""

from __future__ import annotations

import ast
import re
import shutil
import subprocess
import sys
import urllib.request
from importlib.metadata import PathDistribution, packages_distributions
from pathlib import Path

import pytest

from tests.e2e.conftest import Server

ROOT = Path(__file__).parent.parent.parent
PIP = (sys.executable, "-m", "pip", "-q", "--disable-pip-version-check")


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    """The wheel, built and unpacked in a folder of its own: nothing is fetched for that."""
    folder = tmp_path_factory.mktemp("wheel")
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, folder)
    shutil.copytree(ROOT / "src", folder / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    subprocess.run(
        [*PIP, "wheel", "--no-deps", "--no-build-isolation", "-w", folder / "out", folder], check=True
    )
    (wheel,) = (folder / "out").glob("*.whl")
    subprocess.run([*PIP, "install", "--no-deps", "--target", folder / "there", wheel], check=True)
    return folder / "there"


def test_the_wheel_says_what_it_runs_on(installed):
    (info,) = installed.glob("*.dist-info")
    about = PathDistribution(info)
    said = {re.split(r"[<>=!;\[ ]", each)[0].lower() for each in about.requires or ()}
    assert "setuptools" not in said
    known = packages_distributions()
    for module in _imported(installed / "izmet"):
        names = {name.lower().replace("_", "-") for name in known.get(module, [])}
        assert module in sys.stdlib_module_names or module == "izmet" or names & said, module
    assert about.metadata["License-Expression"]
    assert about.metadata["Version"]


def test_the_wheel_serves_its_own_front_end(installed, tmp_path, monkeypatch):
    monkeypatch.setenv("PYTHONPATH", str(installed))
    where = subprocess.run(
        [sys.executable, "-c", "import izmet; print(izmet.__file__)"],
        capture_output=True, text=True, check=True, cwd=tmp_path,
    )  # fmt: skip
    assert Path(where.stdout.strip()).is_relative_to(installed)
    with Server(tmp_path / "data") as server:
        page = urllib.request.urlopen(server.address).read().decode()
        (script,) = re.findall(r'<script[^>]* src="([^"]+)"', page)
        assert len(urllib.request.urlopen(server.address + script).read()) > 100_000


def _imported(package: Path) -> set[str]:
    """The first names of all modules that a package imports from elsewhere."""
    found = set()
    for file in package.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Import):
                found |= {each.name.partition(".")[0] for each in node.names}
            if isinstance(node, ast.ImportFrom) and node.module and not node.level:
                found.add(node.module.partition(".")[0])
    return found
