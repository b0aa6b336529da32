"""What a worker sends back of a take is taken by a list of names, whole, or not at all."""

import zipfile
from pathlib import Path

import pytest

from izmet.core.document.refusal import Refusal
from izmet.farm.bundled import pack, unpack
from izmet.material.reading import KEPT

FACTS = {"frames": 3, "of": [1.5, None]}


@pytest.fixture
def bundle(tmp_path: Path) -> Path:
    kept, there = tmp_path / "kept", tmp_path / "there"
    for folder in (kept, there):
        folder.mkdir()
    for name in KEPT[:2]:
        (kept / name).write_bytes(name.encode() * 100)
    (kept / "other").write_text("nobody asked for it")
    pack(kept, FACTS, there / "take.zip")
    return there / "take.zip"


def test_what_is_kept_comes_back_and_nothing_else(bundle):
    assert unpack(bundle) == FACTS
    assert {file.name: file.read_bytes() for file in bundle.parent.iterdir()} == {
        name: name.encode() * 100 for name in KEPT[:2]
    }


@pytest.mark.parametrize("name", ["../evil", "/evil", "other"])
def test_another_name_is_refused(bundle, name):
    with zipfile.ZipFile(bundle, "a") as held:
        held.writestr(name, "x")
    with pytest.raises(Refusal, match="damaged"):
        unpack(bundle)
    assert not any(bundle.parent.iterdir())


@pytest.mark.parametrize(
    "spoil", [lambda all: all[:-40], lambda all: all.replace(b"facts", b"fakts"), lambda _: b""]
)
def test_one_that_is_not_whole_is_refused(bundle, spoil):
    bundle.write_bytes(spoil(bundle.read_bytes()))
    with pytest.raises(Refusal, match="damaged"):
        unpack(bundle)
