"""Takes as they come: cut off, spoilt, tiny, huge, changed on the way. Each is read or says what is wrong."""

from __future__ import annotations

import random
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from izmet.core.document.refusal import Refusal
from izmet.media.looking import TakeMeasures
from izmet.media.pack import Looked
from tests.desk import Desk
from tests.media.files import write_clicks, write_numbered
from tests.picture.clips import see


def look(path: Path) -> Looked:
    looked = see(path)
    found = TakeMeasures.of(looked, 100, None)
    assert len(found.light) == len(found.dx) == len(looked.table)
    assert np.isfinite(found.light).all()
    assert np.isfinite(found.dx).all()
    assert all(0 <= each.frame < len(looked.table) for each in found.proposals)
    return looked


def looked_or_refused(path: Path) -> int:
    """How many frames were read, 0 when the file was refused, with a word on what to do."""
    return frames_or_words(lambda: look(path))


def frames_or_words(read: Callable[[], Looked]) -> int:
    try:
        return len(read().table)
    except Refusal as refusal:
        words = (refusal.what, refusal.remedy)
    assert all(words)
    return 0


@pytest.mark.parametrize("suffix", ["mp4", "mkv", "ts", "avi"])
def test_a_file_cut_off_anywhere_gives_what_is_left(tmp_path, suffix):
    whole = write_numbered(tmp_path / f"whole.{suffix}", 60, Fraction(30))
    data = whole.read_bytes()
    read = []
    for tenth in range(1, 10):
        path = tmp_path / f"cut {tenth}.{suffix}"
        path.write_bytes(data[: len(data) * tenth // 10])
        read.append(looked_or_refused(path))
    assert all(count <= 61 for count in read)
    if suffix in ("mkv", "ts"):  # these can be read from the beginning without their end
        assert read == sorted(read)
        assert read[-1] > 30


def test_a_file_with_spoilt_bytes_is_read_around_them(tmp_path):
    data = bytearray(write_numbered(tmp_path / "whole.mkv", 90, Fraction(30)).read_bytes())
    rng = random.Random(4)
    most = 0
    for turn in range(6):
        hurt = bytearray(data)
        at = rng.randrange(len(hurt) // 4, len(hurt) * 3 // 4)
        hurt[at : at + 200] = rng.randbytes(200)
        path = tmp_path / f"hurt {turn}.mkv"
        path.write_bytes(hurt)
        most = max(most, looked_or_refused(path))
    assert most > 45


@pytest.mark.parametrize("count", [1, 2, 3, 5])
def test_a_few_frames_are_a_take(tmp_path, count):
    looked = look(write_numbered(tmp_path / "few.mkv", count))
    assert len(looked.table) == count
    assert looked.table.distinct == looked.table.rate


@pytest.mark.parametrize("size", [(16, 16), (2, 2), (1918, 2), (98, 402)])
def test_pictures_of_any_shape_are_looked_at(tmp_path, size):
    assert len(look(write_numbered(tmp_path / "odd.mkv", 12, size=size, codec="ffv1")).table) == 12


def test_pictures_of_8k_are_looked_at(tmp_path):
    path = tmp_path / "large.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=30)
        stream.width, stream.height, stream.pix_fmt = 7680, 4320, "yuv420p"
        for k in range(3):
            frame = av.VideoFrame.from_ndarray(np.full((4320, 7680), 60 * k, np.uint8), format="gray")
            frame.pts = k
            out.mux(stream.encode(frame.reformat(format="yuv420p")))
        out.mux(stream.encode(None))
    assert len(look(path).table) == 3


def test_what_is_no_take_says_so_and_the_rest_goes_on(tmp_path, desk: Desk):
    """A queue with sound as a take, text, a wrong suffix and a file that vanishes; nothing half-made."""
    sound = write_clicks(tmp_path / "sound.mp4.wav", [0.5], 2).rename(tmp_path / "sound only.mp4")
    text = tmp_path / "notes.mp4"
    text.write_text("not a video")
    wrong = write_numbered(tmp_path / "right.mkv", 20).rename(tmp_path / "wrong suffix.avi")
    good = write_numbered(tmp_path / "good.mp4", 21)
    lost = write_numbered(tmp_path / "lost.mp4", 22)
    kept = {path.stem: desk.upload(path, "take")["sha256"] for path in (sound, text, wrong, good, lost)}
    desk.folder.assets.joinpath(kept["lost"][:2], kept["lost"]).unlink()
    desk.work()
    states = {name: desk.asset(sha256) for name, sha256 in kept.items()}
    assert {name for name, asset in states.items() if asset["state"] == "ready"} == {"wrong suffix", "good"}
    for name in ("sound only", "notes", "lost"):
        assert states[name]["error"]["what"], name
        assert states[name]["error"]["remedy"], name
    derived = [path.name for path in desk.folder.derived.glob("*/take/*")]
    assert sorted(derived) == sorted([kept["wrong suffix"], kept["good"]])
    # A file that is deleted afterwards is named when it is needed.
    state = desk.post("/edits", {"rate": "60"}, 201)
    body = {"base": state["revision"], "asset": kept["good"], "kind": "take"}
    state = desk.post(f"/edits/{state['id']}/use", body)
    desk.folder.assets.joinpath(kept["good"][:2], kept["good"]).unlink()
    assert desk.get(f"/edits/{state['id']}")["missing"] == [state["edit"]["takes"][0]["id"]]


def test_a_file_that_changes_while_it_is_read_ends_in_a_word_or_in_what_was_read(tmp_path):
    path = write_numbered(tmp_path / "growing.mkv", 80, Fraction(30))
    data = path.read_bytes()

    def spoil(done: int) -> None:
        if done == 10:
            path.write_bytes(data[: len(data) // 3])

    read = frames_or_words(lambda: see(path, spoil))
    assert read == 0 or 10 <= read <= 81
