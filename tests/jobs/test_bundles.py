"""An edit becomes a take of another one: the same pictures come out, and what changes inside shows there."""

from __future__ import annotations

import pytest

from izmet.store import edits
from izmet.store.jobrows import Cancelled
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
    assert desk.get(f"/edits/{desk.asset(file)['bundle']}")["edit"]["title"] == "the jump"


@pytest.fixture
def bundle(desk: Desk, two_clips: dict) -> dict:
    """The edit with both clips made into a bundle; edit 2 is what it holds."""
    desk.post("/edits/1/bundle", {"base": two_clips["revision"], "clips": ["clip-1", "clip-2"]}, 202)
    desk.work()
    return desk.get("/edits/1")


def looked_at(desk: Desk, times: int = 1) -> dict:
    """The edit, looked at as the browser does, and what is behind made anew."""
    for _ in range(times):
        if "behind" in desk.get("/edits/1")["bundles"].values():
            desk.post("/edits/1/renew-bundles", status=202)
    desk.work()
    return desk.get("/edits/1")


def test_a_state_is_rendered_once_and_makes_no_step_of_history(desk: Desk, bundle: dict):
    past = [each["number"] for each in desk.get("/edits/1/history")["revisions"]]
    before = exported(desk, 1)
    file = bundle["edit"]["takes"][-1]["media"]["sha256"]
    inner = desk.get("/edits/2")
    shorter = desk.run(inner, do="remove-clip", clip="clip-2")
    jobs = len(desk.get("/jobs")["jobs"])
    assert set(desk.get("/edits/1")["bundles"].values()) == {"behind"}
    now = looked_at(desk, 6)
    assert len(desk.get("/jobs")["jobs"]) == jobs + 1
    assert len(desk.get("/edits/1/history")["revisions"]) == len(past)
    assert set(now["bundles"].values()) == {"current"}
    assert exported(desk, 1) == exported(desk, 2)
    assert len(exported(desk, 2)) < len(before)
    assert all(landing["exact"] for landing in now["derived"]["clips"][0]["landings"])
    files = [asset for asset in desk.get("/assets")["assets"] if asset["bundle"]]
    assert [each["sha256"] for each in files] == [now["edit"]["takes"][-1]["media"]["sha256"]]
    assert not desk.get("/assets")["bin"]
    assert not (desk.folder.assets / file[:2] / file).exists(), "what no edit shows is not kept"

    # A title is not seen in a picture; a state that comes again is the same file, to the byte.
    titled = desk.run(shorter, do="configure", title="another title")
    assert set(desk.get("/edits/1")["bundles"].values()) == {"current"}
    undone = desk.post("/edits/2/undo", {"base": titled["revision"]})
    desk.post("/edits/2/undo", {"base": undone["revision"]})
    assert looked_at(desk)["edit"]["takes"][-1]["media"]["sha256"] == file
    assert exported(desk, 1) == before


def test_undo_after_a_bundle_was_made_anew_is_not_undone_by_the_next_look(desk: Desk, bundle: dict):
    named = desk.run(bundle, do="configure", title="with a name")
    desk.run(desk.get("/edits/2"), do="remove-clip", clip="clip-2")
    now = looked_at(desk)
    assert (now["edit"]["title"], now["revision"] > named["revision"]) == ("with a name", True)
    desk.post("/edits/1/undo", {"base": now["revision"]})
    undone = looked_at(desk)
    assert (undone["edit"]["title"], undone["can_redo"]) == (bundle["edit"]["title"], True)
    assert set(undone["bundles"].values()) == {"current"}
    redone = desk.post("/edits/1/redo", {"base": undone["revision"]})
    assert redone["edit"] == now["edit"]
    before = looked_at(desk)
    for _ in range(2):
        before = desk.post("/edits/1/undo", {"base": before["revision"]})
    assert [clip["id"] for clip in before["edit"]["clips"]] == ["clip-1", "clip-2"]


def test_what_cannot_be_made_anew_is_told_once_and_leaves_the_edit_as_it_was(desk: Desk, bundle: dict):
    inner = desk.get("/edits/2")
    for clip in inner["edit"]["clips"]:
        inner = desk.run(inner, do="remove-clip", clip=clip["id"])
    assert looked_at(desk, 3)["edit"] == bundle["edit"]
    failed = [job for job in desk.get("/jobs")["jobs"] if job["state"] == "failed"]
    assert [job["error"]["code"] for job in failed] == ["nothing-to-export"]
    looked_at(desk, 3)
    assert len([job for job in desk.get("/jobs")["jobs"] if job["kind"] == "bundle"]) == 2
    assert set(desk.get("/edits/1")["bundles"].values()) == {"behind"}


def test_a_bundle_that_fails_or_is_asked_for_twice_leaves_no_edit_behind(desk: Desk, two_clips: dict):
    body = {"base": two_clips["revision"], "clips": ["clip-1", "clip-2"], "title": "the jump"}
    first, second = (desk.post("/edits/1/bundle", body, 202)["id"] for _ in range(2))
    assert first == second
    desk.post(f"/jobs/{first}/cancel")
    other = desk.post("/edits/1/bundle", {**body, "clips": ["clip-2"]}, 202)["id"]
    desk.run(two_clips, do="remove-clip", clip="clip-2")
    desk.work()
    assert desk.get(f"/jobs/{other}")["error"]["code"] == "no-such-clip"
    assert [edit["id"] for edit in desk.get("/edits")["edits"]] == [1]


def test_a_bundle_that_is_stopped_while_its_picture_is_read_leaves_no_take(desk, two_clips, monkeypatch):
    def stopped(*args: object) -> None:
        assert desk.get("/assets")["assets"] == shelf, "nobody sees it before it is whole"
        raise Cancelled

    shelf = desk.get("/assets")["assets"]
    files = set(desk.folder.assets.rglob("*"))
    job = desk.post("/edits/1/bundle", {"base": two_clips["revision"], "clips": ["clip-1"]}, 202)
    monkeypatch.setattr("izmet.jobs.bundling.read_asset", stopped)
    desk.work()
    assert desk.get(f"/jobs/{job['id']}")["state"] == "cancelled"
    assert desk.get("/assets")["assets"] == shelf
    assert {file for file in desk.folder.assets.rglob("*") if file.is_file()} <= files


def test_documents_find_one_another_again_by_what_they_are(desk: Desk, bundle: dict):
    """Elsewhere a row's number means another edit: a link that is not known is told, and left."""
    outer, inner = (desk.get(f"/edits/{id}/document") for id in (1, 2))
    assert outer["takes"][-1]["bundle"]["edit"] == inner["identity"] != outer["identity"]
    opened = desk.post("/edits/import", outer, 201)
    assert desk.get(f"/edits/{opened['id']}/document")["identity"] != outer["identity"], "both are here"
    assert set(opened["bundles"].values()) == {"current"}

    stranger = {**outer, "identity": "a" * 32, "takes": [dict(take) for take in outer["takes"]]}
    stranger["takes"][-1]["bundle"] = {**outer["takes"][-1]["bundle"], "edit": "b" * 32}
    there = desk.post("/edits/import", stranger, 201)
    assert set(there["bundles"].values()) == {"unknown"}
    desk.post(f"/edits/{there['id']}/renew-bundles", status=202)
    desk.work()
    assert desk.get(f"/edits/{there['id']}")["edit"] == there["edit"]
    # When the edit that it shows comes too, it is known again; two that hold one another stay as they are.
    circle = {**inner, "identity": "b" * 32, "takes": [*inner["takes"], dict(outer["takes"][-1])]}
    circle["takes"][-1]["bundle"] = {**outer["takes"][-1]["bundle"], "edit": "a" * 32}
    desk.post("/edits/import", circle, 201)
    assert set(desk.get(f"/edits/{there['id']}")["bundles"].values()) == {"current"}


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
