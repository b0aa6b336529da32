"""What is proposed over the network: repairs, working backwards, the past, other songs, the montage."""

from __future__ import annotations

from tests.desk import Desk
from tests.media.files import write_clicks


def test_a_refusal_brings_repairs_that_work(desk: Desk, laid: dict):
    pin = laid["edit"]["clips"][0]["pins"][1]["id"]
    command = {"do": "hold-picture", "clip": "clip-1", "pin": pin, "frames": 10_000_000}
    refused = desk.post("/edits/1/commands", {"base": laid["revision"], "command": command}, 422)
    assert refused["what"]
    early = {"do": "set-span", "clip": "clip-1", "span": 9, "speed": 2}
    assert desk.post("/edits/1/commands", {"base": laid["revision"], "command": early}, 404)["repairs"] == []
    skip = {"do": "set-pin", "clip": "clip-1", "pin": pin, "skip": 5000}
    refused = desk.post("/edits/1/commands", {"base": laid["revision"], "command": skip}, 422)
    (first, *_) = refused["repairs"]
    state = desk.post("/edits/1/commands", {"base": laid["revision"], "command": first["commands"][0]})
    assert state["edit"]["clips"][0]["pins"][1]["skip"] > 0


def test_the_past_is_gone_through_and_named(desk: Desk, laid: dict):
    past = desk.get("/edits/1/history")["revisions"]
    assert past[0]["reason"].startswith("Lay a take on the music: ")
    first = past[-1]["number"]
    named = desk.post(f"/edits/1/revisions/{first}/name", {"name": "the beginning"})
    assert named["revisions"][-1]["name"] == "the beginning"
    state = desk.post("/edits/1/go", {"base": laid["revision"], "revision": first})
    assert state["edit"]["clips"] == []
    assert (
        desk.post("/edits/1/go", {"base": laid["revision"], "revision": first}, 409)["code"]
        == "stale-revision"
    )
    back = desk.post("/edits/1/go", {"base": state["revision"], "revision": laid["revision"]})
    assert back["edit"] == laid["edit"]
    assert desk.get("/edits/1/history")["revisions"][-1]["name"] == "the beginning"
    desk.post("/edits/1/revisions/999/name", {"name": "x"}, 404)


def test_moments_are_proposed_backwards_and_what_changes_is_told(desk: Desk, laid: dict):
    take = laid["edit"]["takes"][0]["id"]
    state = desk.run(laid, do="add-moment", take=take, frame=30)
    state = desk.run(state, do="add-cue", time=0.5, kind="kick")
    pin = state["edit"]["clips"][0]["pins"][1]["id"]
    (best, *_) = desk.post("/edits/1/backwards", {"clip": "clip-1", "pin": pin})["arrangements"]
    assert best["ties"][0]["label"] == "impact at frame 30"
    assert desk.get("/edits/1/shift")["shift"]["after_ms"] <= desk.get("/edits/1/shift")["shift"]["before_ms"]
    cue = state["edit"]["clips"][0]["pins"][1]["cue"]
    command = {"do": "change-cue", "cue": cue, "time": 1.9}
    answer = desk.client.post("/api/edits/1/commands", json={"base": state["revision"], "command": command})
    assert answer.get_json()["consequences"] == [{"code": "ties-moved", "count": 1, "text": "1 tie moved"}]
    assert len(desk.get("/recipes")["recipes"]) == 6


def test_another_song_is_taken_by_its_table_and_the_montage_is_told(desk: Desk, laid: dict, tmp_path):
    other = desk.upload(write_clicks(tmp_path / "other.wav", [0.4, 1.2, 2.0], 4), "song")
    desk.work()
    rows = desk.post("/edits/1/song-change", {"asset": other["sha256"]})["rows"]
    assert [row["holds"] for row in rows] == [["impact at frame 60"]]
    to, places = {row["cue"]: row["to"] for row in rows}, {row["cue"]: row["place"] for row in rows}
    body = {"base": laid["revision"], "asset": other["sha256"], "to": to, "places": places}
    state = desk.post("/edits/1/change-song", body)
    assert state["edit"]["song"]["media"]["name"] == "other.wav"
    assert len(state["derived"]["loose"]) == sum(cue is None for cue in to.values())
    found = desk.get("/edits/1/montage")
    assert found["cuts"] == []
    told = [(group["kind"], len(group["troubles"])) for group in found["groups"]]
    loose = len(state["derived"]["loose"])
    assert told == ([("loose", loose)] if loose else [])
    wrong = {**body, "base": state["revision"], "to": dict.fromkeys(to, "cue-none")}
    assert desk.post("/edits/1/change-song", wrong, 404)["code"] == "no-such-cue"


def test_another_song_is_corrected_in_an_edit_of_its_own_before_it_is_chosen(
    desk: Desk, laid: dict, tmp_path
):
    other = desk.upload(write_clicks(tmp_path / "other.wav", [0.4, 1.2, 2.0], 4), "song")
    desk.work()
    look = desk.post("/edits", {"title": "Looked at", "rate": "30"}, 201)
    use = {"base": look["revision"], "asset": other["sha256"], "kind": "song"}
    look = desk.post(f"/edits/{look['id']}/use", use)
    assert desk.post("/edits/1/song-change", {"asset": other["sha256"]})["sources"] == []
    look = desk.run(look, do="add-cue", time=1.234, kind="drop")

    found = desk.post("/edits/1/song-change", {"asset": other["sha256"]})
    assert found["sources"] == [{"edit": look["id"], "title": "Looked at"}]
    corrected = {"asset": other["sha256"], "edit": look["id"]}
    rows = desk.post("/edits/1/song-change", corrected)["rows"]
    assert rows[0]["to_time"] == 1.234, "the drop that was set by hand takes the part of the drop"
    to = {row["cue"]: row["to"] for row in rows}
    state = desk.post("/edits/1/change-song", {"base": laid["revision"], "to": to, **corrected})
    assert state["edit"]["song"]["cues"] == look["edit"]["song"]["cues"]
    assert all(landing["exact"] for clip in state["derived"]["clips"] for landing in clip["landings"])
    wrong = {"asset": state["edit"]["takes"][0]["media"]["sha256"], "edit": look["id"]}
    desk.post("/edits/1/song-change", wrong, 404)


def test_what_would_be_hidden_is_refused_with_a_way_to_do_it_all_the_same(desk: Desk, laid: dict):
    clip = laid["edit"]["clips"][0]
    cues = [cue["id"] for cue in laid["edit"]["song"]["cues"]]
    fill = {
        "do": "fill-slots",
        "cues": cues[:1] + cues[-1:],
        "shots": [{"take": clip["take"]}],
        "how": "begin",
    }
    refused = desk.post("/edits/1/commands", {"base": laid["revision"], "command": fill}, 422)
    assert refused["code"] == "would-crowd"
    (*_, anyway) = refused["repairs"]
    state = desk.run(laid, **anyway["commands"][0])
    assert len(state["edit"]["clips"]) == 2
    assert desk.get("/edits/1/history")["revisions"][0]["reason"].startswith("Fill slots")
