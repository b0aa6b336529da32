"""No message that was altered or signed with another key is read, and no name leads out of the store."""

import json
from pathlib import Path

import itsdangerous
import pytest
from huey.registry import Message
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from izmet.core.document.refusal import Refusal
from izmet.farm.place import Place
from izmet.farm.shared import Shared
from izmet.farm.task import PartTask, Signed

TASK = {
    "version": "1", "document": "a" * 64, "takes": {}, "format": "mkv", "quality": "good", "key": "b" * 64,
}  # fmt: skip
MESSAGE = Message(id="1", name="part", args=[TASK], kwargs={})


def test_a_message_comes_back_as_it_was():
    key = Signed(b"k" * 32)
    assert key.deserialize(key.serialize(MESSAGE)) == MESSAGE


@given(at=st.integers(0, 10_000), flip=st.integers(1, 255))
def test_an_altered_message_is_not_read(at, flip):
    key = Signed(b"k" * 32)
    said = bytearray(key.serialize(MESSAGE))
    said[at % len(said)] ^= flip
    with pytest.raises(itsdangerous.BadSignature):
        key.deserialize(bytes(said))


@given(other=st.binary(min_size=32, max_size=32).filter(lambda key: key != b"k" * 32))
def test_a_message_of_another_key_is_not_read(other):
    with pytest.raises(itsdangerous.BadSignature):
        Signed(b"k" * 32).deserialize(Signed(other).serialize(MESSAGE))


@pytest.mark.parametrize(
    "wrong",
    [
        {"key": "../../etc/passwd"},
        {"document": "A" * 64},
        {"run": "this"},
        {"kind": "shell"},
        {"format": "exe"},
        {"key": "b" * 63},
        {"takes": {"take-1": {"file": "../x", "table": "c" * 64, "name": "x"}}},
    ],
)
def test_a_task_says_nothing_but_hashes_and_known_words(wrong):
    PartTask.model_validate(TASK)
    with pytest.raises(ValidationError):
        PartTask.model_validate(json.loads(json.dumps(TASK | wrong)))


@pytest.mark.parametrize("name", ["../x", "/etc/passwd", "", ".hidden", "a/b"])
def test_no_name_leads_out_of_the_store(tmp_path, name):
    shared = Shared(str(tmp_path / "shared"), tmp_path / "cache")
    with pytest.raises(ValueError, match=r"."):
        shared.fetch(name)


def test_the_store_keeps_content_by_its_hash_and_drops_the_oldest_parts_that_nobody_uses(media, tmp_path):
    shared = Shared(media, tmp_path / "cache")
    file = tmp_path / "clip"
    file.write_bytes(b"some pictures")
    name = shared.keep(file)
    assert shared.keep_bytes(b"some pictures") == name
    assert Shared(media, tmp_path / "elsewhere").fetch(name).read_bytes() == b"some pictures"
    with pytest.raises(Refusal, match="not in the shared store"):
        shared.fetch("0" * 64)
    for index in range(4):
        part = tmp_path / f"{index}.nut"
        part.write_bytes(bytes(100))
        shared.keep_made(part)
    shared.trim(250, in_use={"0"})
    assert [shared.has_made(f"{index}.nut") for index in range(4)].count(True) == 2
    assert shared.has_made("0.nut")
    shared.fetch_made("0.nut", tmp_path / "cache")
    assert (tmp_path / "cache" / "0.nut").stat().st_size == 100
    with pytest.raises(FileNotFoundError):
        shared.fetch_made("9.nut", tmp_path / "cache")


def test_a_farm_is_said_whole_and_its_key_is_long(tmp_path: Path):
    assert Place.given({}) is None
    with pytest.raises(Refusal, match="a key"):
        Place.given({"IZMET_REDIS": "redis://here"})
    said = {"IZMET_REDIS": "redis://here", "IZMET_MEDIA": "/m", "IZMET_KEY_FILE": str(tmp_path / "key")}
    place = Place.given(said)
    assert place is not None
    with pytest.raises(Refusal, match="openssl"):
        place.key()
    (tmp_path / "key").write_bytes(b"short")
    with pytest.raises(Refusal, match="5 bytes"):
        place.key()
    (tmp_path / "key").write_bytes(b"x" * 64)
    assert place.key() == b"x" * 64
    assert Place.given(place.as_environment()) == place
