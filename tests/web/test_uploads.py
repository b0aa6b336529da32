"""Files come in piece by piece: judged before anything is written, taken up again where they broke off."""

from __future__ import annotations

import io
import os
import shutil
import tempfile
from collections import namedtuple
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile

from izmet.store.uploads import KEPT_SECONDS, clear_old
from tests.desk import Desk
from tests.media.files import add_sound, write_numbered

ROUTE = "/api/assets/uploads"


def begin(desk: Desk, upload: dict, status: int = 200) -> dict:
    return desk.post("/assets/uploads", upload, status)


def add(desk: Desk, upload: dict, at: int, piece: bytes, status: int = 200) -> dict:
    answer = desk.client.put(ROUTE, query_string=upload | {"at": at}, data=piece)
    assert answer.status_code == status, answer.text
    return answer.get_json()


@pytest.fixture
def upload(tmp_path: Path) -> tuple[dict, bytes]:
    content = write_numbered(tmp_path / "a.mp4", 40).read_bytes()
    return {"kind": "take", "name": "heat 3 ⛵.mp4", "size": len(content), "changed": 5}, content


def test_an_upload_that_broke_off_goes_on_where_it_was(desk: Desk, upload):
    facts, content = upload
    assert begin(desk, facts)["received"] == 0
    assert add(desk, facts, 0, content[:1000])["received"] == 1000
    again = Desk(desk.folder)  # the server was started anew
    clear_old(desk.folder.incoming)
    assert begin(again, facts)["received"] == 1000
    # A piece that comes twice, or too early, changes nothing: the answer says where to go on.
    assert add(again, facts, 0, content[:1000])["received"] == 1000
    assert add(again, facts, 2000, content[2000:3000])["received"] == 1000
    assert again.post("/assets/uploads/finish", facts, 422)["code"] == "not-whole"
    assert add(again, facts, 1000, content[1000:])["received"] == len(content)
    asset = again.post("/assets/uploads/finish", facts, 202)
    again.work()
    assert again.asset(asset["sha256"])["facts"]["frames"] == 40
    assert [left.suffix for left in desk.folder.incoming.iterdir()] == [".kept"]
    assert desk.folder.assets.joinpath(asset["sha256"][:2], asset["sha256"]).read_bytes() == content


def test_packs_are_kept_within_a_budget_and_made_again_when_looked_at(desk: Desk, tmp_path, monkeypatch):
    monkeypatch.setenv("IZMET_PACKS_MB", "0")
    takes = [desk.upload(write_numbered(tmp_path / f"{n}.mp4", 20 + n), "take") for n in range(3)]
    desk.work()
    packs = sorted(desk.folder.derived.glob("*/take/*/pack"))
    assert len(packs) == 1  # the one used last
    gone = next(take["sha256"] for take in takes if take["sha256"] != packs[0].parent.name)
    # What is small stays: the shelf, and the list of edits, need no pack.
    poster = desk.client.get(f"/api/assets/{gone}/poster")
    assert (poster.mimetype, poster.data[:2]) == ("image/jpeg", b"\xff\xd8")
    assert desk.client.get(f"/api/assets/{gone}/frames/3?poster=true").data == poster.data
    assert desk.client.get(f"/api/assets/{gone}/measures").status_code == 200
    assert desk.asset(gone)["state"] == "ready"
    assert desk.get(f"/assets/{gone}/frames/3", 409)["code"] == "not-ready"
    assert desk.asset(gone)["state"] == "reading"
    desk.work()
    assert desk.client.get(f"/api/assets/{gone}/frames/3").data[:2] == b"\xff\xd8"


def test_what_does_not_fit_is_refused_before_anything_is_written(desk: Desk, upload, monkeypatch):
    facts, content = upload
    monkeypatch.setenv("IZMET_MAX_UPLOAD_MB", "1")
    assert begin(desk, facts | {"size": 2 << 20}, 413)["code"] == "too-large"
    assert begin(desk, facts | {"size": 0}, 422)["code"] == "empty-file"
    monkeypatch.undo()
    room = namedtuple("room", "free")(300 << 20)
    monkeypatch.setattr(shutil, "disk_usage", lambda path: room)
    refused = begin(desk, facts | {"size": 100 << 20}, 507)
    assert "room for 44" in refused["what"]
    assert list(desk.folder.incoming.iterdir()) == []
    foreign = desk.client.post(ROUTE, json=facts, headers={"Origin": "http://evil.example"})
    assert foreign.status_code == 403
    # More than was announced, and more than a piece may have.
    begin(desk, facts)
    assert add(desk, facts, 0, content + b"more", 422)["code"] == "too-much"
    assert add(desk, facts, 0, bytes(9 << 20), 413)["code"] == "too-large"
    assert desk.client.delete(ROUTE, json=facts).status_code == 200
    assert list(desk.folder.incoming.iterdir()) == []


def test_what_nobody_took_up_again_goes_after_a_day(desk: Desk, upload, monkeypatch):
    facts, content = upload
    begin(desk, facts)
    add(desk, facts, 0, content[:10])
    clear_old(desk.folder.incoming)
    assert len(list(desk.folder.incoming.iterdir())) == 1
    monkeypatch.setattr("izmet.store.uploads.KEPT_SECONDS", -KEPT_SECONDS)
    clear_old(desk.folder.incoming)
    assert list(desk.folder.incoming.iterdir()) == []


def test_one_file_is_a_song_and_a_take(desk: Desk, tmp_path: Path):
    picture = write_numbered(tmp_path / "picture.mp4", 60)
    path = add_sound(picture, np.sin(np.arange(48000) / 20) / 4, tmp_path / "with sound.mp4")
    song, take = desk.upload(path, "song"), desk.upload(path, "take")
    assert song["sha256"] == take["sha256"]
    desk.work()
    shelf = desk.get("/assets")["assets"]
    assert {(one["kind"], one["state"]) for one in shelf} == {("song", "ready"), ("take", "ready")}
    state = desk.post("/edits", {"rate": "60"}, 201)
    for kind in ("song", "take"):
        body = {"base": state["revision"], "asset": song["sha256"], "kind": kind}
        state = desk.post(f"/edits/{state['id']}/use", body)
    assert state["edit"]["song"]["media"] == state["edit"]["takes"][0]["media"]
    for part in ("pack", "peaks", "song.flac"):
        assert desk.client.get(f"/api/assets/{song['sha256']}/{part}").status_code == 200
    answer = desk.client.delete(f"/api/assets/{song['sha256']}?kind=song").get_json()
    assert [one["kind"] for one in answer["assets"]] == ["take"]


def test_a_takes_own_sound_comes_in_stretches(desk: Desk, tmp_path: Path):
    wave = np.sin(np.arange(2.5 * 48000) / 20) / 4
    heard = add_sound(write_numbered(tmp_path / "picture.mp4", 150), wave, tmp_path / "heard.mkv")
    silent = write_numbered(tmp_path / "silent.mp4", 30)
    heard_sha256, silent_sha256 = (desk.upload(path, "take")["sha256"] for path in (heard, silent))
    desk.work()

    def stretch(sha256: str, begin: int, seconds: int) -> Any:
        return desk.client.get(f"/api/assets/{sha256}/sound?begin={begin}&seconds={seconds}")

    whole, rate = soundfile.read(io.BytesIO(stretch(heard_sha256, 0, 20).data))
    second, _ = soundfile.read(io.BytesIO(stretch(heard_sha256, 1, 1).data))
    assert (rate, len(second)) == (48000, 48000)
    assert np.array_equal(second, whole[48000:96000])
    assert np.corrcoef(whole[4800:110000], wave[4800:110000])[0, 1] > 0.99
    assert stretch(heard_sha256, 20, 20).status_code == 204
    assert stretch(silent_sha256, 0, 20).status_code == 204
    assert stretch(heard_sha256, 0, 3600).status_code == 422


def test_pictures_that_end_early_are_told_from_a_file_that_is_cut_off(desk: Desk, tmp_path: Path):
    wave = np.sin(np.arange(5 * 48000) / 20) / 4
    early = add_sound(write_numbered(tmp_path / "picture.mp4", 120), wave, tmp_path / "early.mp4")
    whole = write_numbered(tmp_path / "whole.mkv", 300)
    cut = tmp_path / "cut.mkv"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    sha256s = [desk.upload(path, "take")["sha256"] for path in (early, cut)]
    desk.work()
    told = [desk.asset(sha256)["facts"]["notes"] for sha256 in sha256s]
    assert told[0] == ["Its pictures end after 2.0 s; its sound goes on to 5.0 s."]
    assert told[1][-1].startswith("It seems cut off: it says 5.0 s and holds ")


def test_files_are_their_owners_alone(desk: Desk, tmp_path: Path, monkeypatch):
    before = os.umask(0o077)  # as the command line sets it
    try:
        sha256 = desk.upload(write_numbered(tmp_path / "a.mp4", 10), "take")["sha256"]
        desk.work()
    finally:
        os.umask(before)
    kept = [desk.folder.assets / sha256[:2] / sha256, *desk.folder.derived.rglob("pack")]
    assert len(kept) == 2
    assert all(path.stat().st_mode & 0o077 == 0 for path in kept)


@pytest.mark.skipif(not Path("/dev/shm").is_dir(), reason="no other disk at hand")
def test_assets_may_lie_on_another_disk(desk: Desk, tmp_path: Path):
    with tempfile.TemporaryDirectory(dir="/dev/shm") as other:
        desk.folder.assets.rmdir()
        desk.folder.assets.symlink_to(other)
        sha256 = desk.upload(write_numbered(tmp_path / "a.mp4", 10), "take")["sha256"]
        desk.work()
        assert desk.asset(sha256)["state"] == "ready"
        assert (Path(other) / sha256[:2] / sha256).exists()


def test_what_was_derived_and_is_gone_is_made_again(desk: Desk, laid: dict):
    take, song = laid["edit"]["takes"][0]["media"]["sha256"], laid["edit"]["song"]["media"]["sha256"]
    shutil.rmtree(desk.folder.derived)
    for address in (f"{take}/frames/3", f"{song}/peaks", f"{song}/analysis"):
        answer = desk.client.get(f"/api/assets/{address}")
        assert (answer.status_code, answer.get_json()["code"]) in ((409, "not-ready"), (404, "no-such-part"))
    job = desk.post(f"/edits/{laid['id']}/exports", {"revision": laid["revision"], "format": "mkv"}, 202)
    desk.work()  # reading goes first
    assert desk.get(f"/jobs/{job['id']}")["state"] == "done"
    for address in (f"{take}/frames/3", f"{song}/peaks", f"{song}/analysis"):
        assert desk.client.get(f"/api/assets/{address}").status_code == 200


def test_an_answer_that_got_lost_is_asked_for_again(desk: Desk, upload):
    facts, content = upload
    begin(desk, facts)
    add(desk, facts, 0, content)
    first, again = (desk.post("/assets/uploads/finish", facts, 202) for _ in range(2))
    assert first == again
    clear_old(desk.folder.incoming)
    desk.work()
    assert desk.post("/assets/uploads/finish", facts, 202)["state"] == "ready"
    # Begun again it is sent again: what is there is not taken for granted.
    begin(desk, facts)
    assert desk.post("/assets/uploads/finish", facts, 422)["code"] == "not-whole"


def test_what_is_no_character_in_a_name_is_a_space(desk: Desk, upload):
    facts, content = upload
    strange = facts | {"name": "he\0at\x1b 3\n.mp4"}
    begin(desk, strange)
    add(desk, strange, 0, content)
    sha256 = desk.post("/assets/uploads/finish", strange, 202)["sha256"]
    desk.work()
    assert (desk.asset(sha256)["state"], desk.asset(sha256)["name"]) == ("ready", "he at  3 .mp4")
    edit = desk.post("/edits", {"rate": "30", "title": "a\0b"}, 201)
    assert edit["edit"]["title"] == "a b"
    assert desk.run(edit, do="configure", title="c\td")["edit"]["title"] == "c d"


def test_frames_that_share_a_time_are_told_not_lost_in_silence(desk: Desk, tmp_path: Path):
    path = tmp_path / "stuck.mkv"
    with av.open(str(path), "w") as container:
        video = container.add_stream("ffv1", rate=30)
        video.width, video.height, video.pix_fmt = 192, 108, "yuv420p"
        for number in range(12):
            frame = av.VideoFrame.from_ndarray(np.full((108, 192, 3), 20 * number, np.uint8), format="rgb24")
            frame.pts = number // 2 * 2
            container.mux(video.encode(frame))
        container.mux(video.encode(None))
    sha256 = desk.upload(path, "take")["sha256"]
    desk.work()
    facts = desk.asset(sha256)["facts"]
    assert (facts["frames"], facts["notes"]) == (6, ["6 frames dropped: at the time of the frame before."])
