"""The music over the API: taps, selections, cues in and out, slow copies, listening anew."""

from __future__ import annotations

import io

import mir_eval
import numpy as np
import pytest
import soundfile

from izmet.sound.peaks import BASE
from tests.desk import CLICKS, Desk
from tests.media.files import write_clicks, write_covered, write_numbered
from tests.sound.machine import RATE, play


def sha_of(state: dict) -> str:
    return state["edit"]["song"]["media"]["sha256"]


def test_taps_land_on_the_attacks_and_replace_what_was_there(desk: Desk, song):
    body = {"base": song["revision"], "times": [2.03, 2.52, 2.97, 3.3], "kind": "hand", "window": 0.06}
    state = desk.post(f"/edits/{song['id']}/taps", body)
    tapped = [cue["time"] for cue in state["edit"]["song"]["cues"] if cue["kind"] == "hand"]
    assert tapped == pytest.approx([2.0, 2.5, 3.0, 3.3], abs=0.002)
    again = desk.post(
        f"/edits/{song['id']}/taps",
        {"base": state["revision"], "times": [2.01, 2.6], "kind": "hand", "replace": True},
    )
    tapped = [cue["time"] for cue in again["edit"]["song"]["cues"] if cue["kind"] == "hand"]
    assert tapped == pytest.approx([2.01, 2.6, 3.0, 3.3], abs=0.002)


def test_a_selection_is_counted_before_it_is_kept(desk: Desk, song):
    rule = {"id": "draft", "name": "Draft", "kinds": ["beat", "downbeat"], "every": 4, "begin": 2, "end": 9}
    taken = desk.post(f"/edits/{song['id']}/chosen", rule)["cues"]
    cues = {cue["id"]: cue for cue in song["edit"]["song"]["cues"]}
    assert np.diff([cues[id]["time"] for id in taken]) == pytest.approx(2.0, abs=0.01)
    kept = desk.run(song, do="save-selection", selection=rule | {"id": "selection-1", "name": "Every fourth"})
    assert kept["edit"]["song"]["selections"][0]["name"] == "Every fourth"
    csv = desk.client.get(f"/api/edits/{song['id']}/cues/csv?selection=selection-1").text
    assert len(csv.strip().splitlines()) == 1 + len(taken)


@pytest.mark.parametrize("ending", ["csv", "txt", "vtt", "mid"])
def test_cues_leave_as_a_file_and_come_back_by_hand(desk: Desk, song, ending):
    file = desk.client.get(f"/api/edits/{song['id']}/cues/{ending}")
    assert file.status_code == 200
    query = {"base": song["revision"], "name": f"mine.{ending}", "replace": "true"}
    answer = desk.client.post(f"/api/edits/{song['id']}/cues", query_string=query, data=file.data)
    assert answer.status_code == 200, answer.text
    cues = desk.get(f"/edits/{song['id']}")["edit"]["song"]["cues"]
    before = song["edit"]["song"]["cues"]
    assert [cue["time"] for cue in cues] == pytest.approx([cue["time"] for cue in before], abs=0.001)
    assert {cue["made"] for cue in cues} == {"hand"}


def test_a_file_that_is_wrong_changes_nothing(desk: Desk, song):
    query = {"base": song["revision"], "name": "mine.csv"}
    answer = desk.client.post(f"/api/edits/{song['id']}/cues", query_string=query, data=b"time\nsoon\n")
    assert answer.status_code == 422
    assert "row 2" in answer.get_json()["where"]
    assert desk.get(f"/edits/{song['id']}")["revision"] == song["revision"]


def test_listening_anew_says_what_would_change_and_spares_what_hands_did(desk: Desk, song):
    nothing = desk.get(f"/edits/{song['id']}/analysis-changes")
    assert nothing["added"] == nothing["removed"] == nothing["moved"] == []
    beat = next(cue for cue in song["edit"]["song"]["cues"] if cue["kind"] == "beat")
    state = desk.run(song, do="count-beats", how="half")
    state = desk.run(state, do="add-cue", time=1.23, kind="hand")
    told = desk.get(f"/edits/{song['id']}/analysis-changes")
    assert len(told["added"]) > 4
    state = desk.post(f"/edits/{song['id']}/analyse-again", {"base": state["revision"]})
    cues = state["edit"]["song"]["cues"]
    assert any(cue["made"] == "hand" and cue["time"] == 1.23 for cue in cues)
    assert any(cue["time"] == beat["time"] and cue["kind"] == "beat" for cue in cues)


def test_readings_of_the_beat_come_with_their_likelihood(desk: Desk, song):
    found = desk.get(f"/assets/{sha_of(song)}/analysis")
    shares = [beats["likelihood"] for beats in found["beats"]]
    assert shares == sorted(shares, reverse=True)
    assert 0 < sum(shares) <= 1 + 1e-9
    assert set(found["confidence"]) == {"tempo", "octave", "phase", "bar"}


def test_only_a_song_that_has_been_read_is_heard_to_its_end(desk: Desk, tmp_path):
    asset = desk.upload(write_clicks(tmp_path / "clicks.wav", CLICKS, 14), "song")
    assert desk.post(f"/assets/{asset['sha256']}/listen", status=409)["code"] == "not-ready"
    take = desk.upload(write_numbered(tmp_path / "take.mp4", 30), "take")
    desk.work()
    assert desk.post(f"/assets/{take['sha256']}/listen", status=404)["code"] == "no-such-asset"


def test_single_samples_and_slow_copies_are_served(desk: Desk, song):
    sha = sha_of(song)
    rate = desk.asset(sha)["facts"]["sample_rate"]
    wave = desk.client.get(f"/api/assets/{sha}/wave?begin={rate // 2 - 50}&count=400")
    bands = np.frombuffer(wave.data, "<i2").reshape(-1, 3)
    loud = np.flatnonzero(np.abs(bands[:, 2]) > 1000)
    assert len(bands) == 400
    assert abs(loud[0] - 50) <= 1  # the click at half a second, to the sample
    assert desk.get(f"/assets/{sha}/slow-2.flac", 404)["what"]
    job = desk.post(f"/assets/{sha}/slow", {"factor": 2}, 202)
    assert desk.post(f"/assets/{sha}/slow", {"factor": 2}, 202)["id"] == job["id"]
    desk.work()
    slow, slow_rate = soundfile.read(io.BytesIO(desk.client.get(f"/api/assets/{sha}/slow-2.flac").data))
    assert len(slow) / slow_rate == pytest.approx(28, abs=0.01)
    level = np.abs(slow).reshape(len(slow), -1).max(axis=1)
    for time in CLICKS[2:]:
        near = level[round((2 * time - 0.1) * rate) : round((2 * time + 0.1) * rate)]
        assert np.argmax(near) / rate - 0.1 == pytest.approx(0, abs=0.03)


def test_a_long_song_is_there_at_once_and_heard_to_its_end_then(desk: Desk, tmp_path):
    """The first cues come from its beginning; the rest joins the edit, and marks by hand are spared."""
    played = play(120, bars=44)
    path = tmp_path / "long.wav"
    soundfile.write(path, played.samples, RATE)
    asset = desk.upload(path, "song")
    desk.work_once()
    state = desk.post("/edits", {"rate": "60"}, 201)
    state = desk.post(
        f"/edits/{state['id']}/use",
        {"base": state["revision"], "asset": asset["sha256"], "kind": asset["kind"]},
    )
    first = [cue["time"] for cue in state["edit"]["song"]["cues"]]
    assert 12 < max(first) < 17
    heard = desk.get(f"/assets/{asset['sha256']}/analysis")["heard"]
    assert max(first) < heard < 17
    desk.run(state, do="add-cue", time=50.123, kind="hand")
    # Listening is stopped, and asked for again; asked twice it is still one job.
    (job,) = [job for job in desk.get("/jobs")["jobs"] if job["kind"] == "listen"]
    desk.post(f"/jobs/{job['id']}/cancel")
    assert desk.asset(asset["sha256"])["state"] == "ready"
    again = desk.post(f"/assets/{asset['sha256']}/listen", status=202)
    assert again["id"] != job["id"]
    assert desk.post(f"/assets/{asset['sha256']}/listen", status=202)["id"] == again["id"]
    desk.work()
    facts = desk.asset(asset["sha256"])["facts"]
    assert desk.get(f"/assets/{asset['sha256']}/analysis")["heard"] == pytest.approx(facts["duration"])
    cues = desk.get(f"/edits/{state['id']}")["edit"]["song"]["cues"]
    assert max(cue["time"] for cue in cues) > 85
    assert any(cue["time"] == 50.123 and cue["made"] == "hand" for cue in cues)
    beats = np.array([cue["time"] for cue in cues if cue["kind"] in ("beat", "downbeat")])
    assert mir_eval.beat.f_measure(played.beats, beats, 0.02) > 0.95


@pytest.mark.parametrize("name", ["clicks.mp3", "clicks.txt"])
def test_a_wrong_ending_is_no_matter(desk: Desk, tmp_path, name):
    path = write_clicks(tmp_path / "clicks.wav", CLICKS, 14).rename(tmp_path / name)
    asset = desk.upload(path, "song")
    desk.work()
    assert desk.asset(asset["sha256"])["state"] == "ready"


def test_a_song_with_eight_channels_tags_and_a_cover_is_read(desk: Desk, tmp_path):
    eight = desk.upload(write_clicks(tmp_path / "eight.wav", CLICKS, 14, channels=8), "song")
    covered = desk.upload(write_covered(tmp_path / "covered.mp3", CLICKS, 14), "song")
    desk.work()
    for asset in (eight, covered):
        found = desk.asset(asset["sha256"])
        assert found["state"] == "ready", found["error"]
        assert found["facts"]["tempo"] == pytest.approx(120, rel=0.01)


def test_the_pyramid_of_peaks_is_as_long_as_the_song(desk: Desk, song):
    facts = desk.asset(sha_of(song))["facts"]
    peaks = desk.client.get(f"/api/assets/{sha_of(song)}/peaks").data
    assert facts["peaks"]["levels"][0] == -(-round(facts["duration"] * facts["sample_rate"]) // BASE)
    assert len(peaks) == 3 * sum(facts["peaks"]["levels"])
