"""The demo's song made shorter for its picture: proposed, heard, taken, and all ties still land."""

import io

import numpy as np
import pytest
import soundfile

from izmet.store.datafolder import DataFolder
from tests.desk import Desk


@pytest.fixture
def demo_desk(own_demo) -> Desk:
    return Desk(DataFolder(own_demo.with_name("izmet-demo")))


def test_the_song_is_made_four_bars_shorter(demo_desk: Desk):
    state = demo_desk.get("/edits/1")
    before = state["edit"]["song"]
    ties = [landing["wanted_frame"] for clip in state["derived"]["clips"] for landing in clip["landings"]]
    end = before["duration"] - 8.6  # four bars less
    joins = demo_desk.get(f"/edits/1/song-joins?end={end}")["joins"]
    best = joins[0]
    assert best["loose"] == 0, "what is tied stays where another place does as well"
    assert best["end"] == pytest.approx(end, abs=0.1)
    assert best["alike"] > 0.9

    # What is heard of it is what would come of it.
    address = f"/api/edits/1/song-join?leave={best['leave']}&enter={best['enter']}"
    heard, rate = soundfile.read(io.BytesIO(demo_desk.client.get(address).data), always_2d=True)
    body = {"base": state["revision"], **{name: best[name] for name in ("leave", "enter", "times")}}
    job = demo_desk.post("/edits/1/join-song", body, 202)
    demo_desk.work()
    assert demo_desk.get(f"/jobs/{job['id']}")["state"] == "done"
    state = demo_desk.get("/edits/1")
    song = state["edit"]["song"]
    assert song["media"]["sha256"] != before["media"]["sha256"]
    assert song["duration"] == pytest.approx(before["duration"] + best["leave"] - best["enter"], abs=1e-3)
    sound = demo_desk.client.get(f"/api/assets/{song['media']['sha256']}/song.flac").data
    whole, _ = soundfile.read(io.BytesIO(sound), always_2d=True)
    begin = round((best["leave"] - 4) * rate)
    part = whole[max(0, begin) : begin + len(heard)]
    np.testing.assert_allclose(part, heard[max(0, -begin) :][: len(part)], atol=2 / 32768)

    # All ties are where they were, or as much earlier as the song is, and land.
    landings = [landing for clip in state["derived"]["clips"] for landing in clip["landings"]]
    assert all(landing["landed_frame"] == landing["wanted_frame"] for landing in landings)
    moved = {landing["wanted_frame"] - was for landing, was in zip(landings, ties, strict=True)}
    assert len(moved) == 1
    state = demo_desk.post("/edits/1/undo", {"base": state["revision"]})
    assert state["edit"]["song"]["media"] == before["media"]


def test_a_song_of_few_bars_says_what_to_do(desk: Desk, laid: dict):
    refused = desk.get("/edits/1/song-joins?end=3", 422)
    assert refused["remedy"]
