"""What is pinned is enough for every Python that Izmet runs on, not only for the one that is here."""

from importlib.metadata import requires
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).parents[1]
PYTHONS = ["3.11.0", "3.11.2", "3.12.0", "3.13.0", "3.14.0"]
"""The oldest, Debian 12's, and those since."""


def pinned(*lists: str) -> list[Requirement]:
    lines = [line for name in lists for line in (ROOT / name).read_text().splitlines()]
    return [Requirement(line.rstrip("\\ ")) for line in lines if "==" in line and line[0] not in " #"]


def holds(asked: Requirement, **facts: str) -> bool:
    return asked.marker is None or asked.marker.evaluate({"extra": "", **facts})


@pytest.mark.parametrize("lists", [["requirements.txt"], ["requirements.txt", "requirements-dev.txt"]])
@pytest.mark.parametrize("python", PYTHONS)
def test_every_package_finds_what_it_asks_for(lists, python):
    facts = {"python_full_version": python, "python_version": python.rpartition(".")[0]}
    pins = pinned(*lists)
    there = {canonicalize_name(pin.name) for pin in pins if holds(pin, **facts)}
    for pin in filter(holds, pins):  # what a package asks for is known of those that are here
        for asked in map(Requirement, requires(pin.name) or ()):
            if any(holds(asked, extra=extra, **facts) for extra in ("", *pin.extras)):
                assert canonicalize_name(asked.name) in there, f"{pin.name} asks for {asked}"
