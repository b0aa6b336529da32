"""An edit becomes a take of another one: the same pictures come out, and what changes inside shows there."""

from __future__ import annotations

import pytest

from izmet.store import edits
from izmet.store.models import database
from tests.desk import Desk, lay
from tests.media.files import read_numbers


def exported(desk: Desk, id: int) -> list[int]:
    """The numbers that the pictures of an edit's export show, read back from the file."""
    state = desk.get(f"/edits/{id}")
    job = desk.post(f"/edits/{id}/exports", {"revision": state["revision"], "format": "mkv"}, 202)
    desk.work()
    job = desk.get(f"/jobs/{job['id']}")
    assert job["state"] == "done", job["error"]
    assert job["result"]["all_exact"]
    return read_numbers(desk.folder.exports / f"{job['id']}.mkv")


@pytest.fixture
def two_clips(desk: Desk, tmp_path) -> dict:
    """A clip with a bend before its tie, and a second one of the same take after it."""
    lay(desk, tmp_path)
    state = desk.get("/edits/1")
    take = state["edit"]["takes"][0]["id"]
    state = desk.run(state, do="begin-shape", clip="clip-1", span=0, shape="dip")
    state = desk.run(state, do="add-cue", time=2.8, kind="kick")
    kick = next(cue["id"] for cue in state["edit"]["song"]["cues"] if cue["time"] == 2.8)
    return desk.run(state, do="lay-take", take=take, moment="moment-1", cue=kick)


def test_a_bundle_shows_what_its_clips_showed_and_follows_the_tie(desk: Desk, two_clips):
    before = exported(desk, 1)
    frames = two_clips["derived"]["map"]["first"]
    body = {"base": two_clips["revision"], "clips": ["clip-1", "clip-2"], "title": "the jump"}
    desk.post("/edits/1/bundle", body, 202)
    desk.work()
    state = desk.get("/edits/1")
    take = next(take for take in state["edit"]["takes"] if take["bundle"])
    assert take["media"]["name"] == "the jump"
    assert [clip["take"] for clip in state["edit"]["clips"]] == [take["id"]]
    assert len(take["moments"]) == 2
    assert state["derived"]["map"]["first"] == frames
    assert exported(desk, 1) == before
    assert [landing["wanted_frame"] for landing in state["derived"]["clips"][0]["landings"]] == [45]

    # It stays known as a bundle when its file is read again.
    file = take["media"]["sha256"]
    desk.post(f"/assets/{file}/retry?kind=take", status=202)
    desk.work()
    assert desk.asset(file)["bundle"] == take["bundle"]["edit"]

    # It is bent like any other take; what is changed inside shows outside, when the edit is next looked at.
    inner = desk.get(f"/edits/{take['bundle']['edit']}")
    assert [clip["id"] for clip in inner["edit"]["clips"]] == ["clip-1", "clip-2"]
    desk.run(inner, do="remove-clip", clip="clip-2")
    desk.get("/edits/1")
    desk.work()
    now = desk.get("/edits/1")
    assert [moment["label"] for moment in now["edit"]["takes"][-1]["moments"]] != []
    shorter = exported(desk, take["bundle"]["edit"])
    assert exported(desk, 1) == shorter[: len(exported(desk, 1))]
    assert len(shorter) < len(before)
    assert all(landing["exact"] for landing in now["derived"]["clips"][0]["landings"])
    assert desk.get("/jobs")["jobs"][0]["kind"] == "export", "nothing is made again that did not change"


def test_a_whole_edit_is_flashed_past_and_none_holds_itself(desk: Desk, two_clips):
    other = desk.post("/edits", {"rate": "30", "width": 192, "height": 108, "title": "recap"}, 201)
    song = two_clips["edit"]["song"]["media"]["sha256"]
    other = desk.post(f"/edits/{other['id']}/use", {"base": other["revision"], "asset": song, "kind": "song"})
    desk.post(f"/edits/{other['id']}/bundle", {"base": other["revision"], "edit": 1}, 202)
    desk.work()
    other = desk.get(f"/edits/{other['id']}")
    take = other["edit"]["takes"][0]
    other = desk.run(other, do="add-cue", time=3.0, kind="drop")
    drop = next(cue["id"] for cue in other["edit"]["song"]["cues"] if cue["kind"] == "drop")
    length = {"count": 0.5, "unit": "seconds"}
    other = desk.run(other, do="recap", take=take["id"], cue=drop, length=length)
    clip = other["derived"]["clips"][0]
    assert (clip["first"], len(clip["source"])) == (75, 15)
    assert clip["source"][0] == 0
    moved = desk.run(other, do="change-cue", cue=drop, time=3.2)
    assert moved["derived"]["clips"][0]["first"] == 81
    state = desk.get("/edits/1")
    refused = desk.post("/edits/1/bundle", {"base": state["revision"], "edit": other["id"]}, 422)
    assert refused["code"] == "holds-itself"
    assert desk.post("/edits/1/bundle", {"base": state["revision"], "edit": 1}, 422)["code"] == "holds-itself"
    assert desk.post("/edits/1/bundle", {"base": state["revision"], "clips": []}, 422)["code"]
    with database.connection_context():
        assert not any(stored.title == "Bundle" for stored in edits.listing())
