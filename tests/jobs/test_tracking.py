"""A point is followed for an edit in the background: it is kept there, and a lost one is told."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from tests.desk import Desk
from tests.media.files import write_clicks, write_colours

SIZE = (320, 180)
FRAMES = 80


def places() -> np.ndarray:
    """Where the disc is in each picture, in pixels."""
    n = np.arange(FRAMES)
    return np.stack([80 + 2.1 * n - 6 * np.sin(n / 4), 90 + 30 * np.sin(n / 9)], axis=1)


@pytest.fixture
def taken(desk: Desk, tmp_path) -> dict:
    """An edit with a take of a patterned disc that goes over a still ground."""
    rng = np.random.default_rng(4)
    ground, thing = (
        128 + 60 * noise / abs(noise).max()
        for noise in (gaussian_filter(rng.normal(0, 1, SIZE[::-1]), fine) for fine in (6, 2))
    )
    down, across = (each + 0.5 for each in np.mgrid[: SIZE[1], : SIZE[0]].astype(float))
    pictures = []
    for x, y in places():
        shifted = np.roll(thing, (round(y) - 90, round(x) - 160), axis=(0, 1))
        mask = np.clip(24.5 - np.hypot(across - round(x), down - round(y)), 0, 1)
        picture = ground * (1 - mask) + shifted * mask
        pictures.append(np.repeat(picture.astype(np.uint8)[:, :, None], 3, axis=2))
    take = desk.upload(write_colours(tmp_path / "disc.mkv", pictures, SIZE, matrix=1), "take")
    song = desk.upload(write_clicks(tmp_path / "clicks.wav", [0.5, 1.5], 4), "song")
    desk.work()
    state = desk.post("/edits", {"rate": "60", "width": SIZE[0], "height": SIZE[1]}, 201)
    for asset in (song, take):
        use = {"base": state["revision"], "asset": asset["sha256"], "kind": asset["kind"]}
        state = desk.post(f"/edits/{state['id']}/use", use)
    return state


def followed(desk: Desk, state: dict, x: float, y: float, frame: int, end: int = FRAMES - 1) -> dict:
    """A point set in one picture and followed; the job."""
    take = state["edit"]["takes"][0]["id"]
    points = [{"frame": frame, "x": x / SIZE[0], "y": y / SIZE[1]}]
    state = desk.run(state, do="save-track", take=take, points=points)
    track = state["edit"]["takes"][0]["tracks"][-1]["id"]
    body = {"base": state["revision"], "take": take, "track": track, "frame": frame, "begin": 0, "end": end}
    job = desk.post(f"/edits/{state['id']}/follow", body, 202)
    desk.work()
    return desk.get(f"/jobs/{job['id']}")


def test_a_point_is_followed_both_ways_and_kept_in_the_edit(desk: Desk, taken: dict):
    frame = 30
    x, y = np.round(places()[frame])
    job = followed(desk, taken, x, y, frame)
    assert job["state"] == "done", job["error"]
    state = desk.get(f"/edits/{taken['id']}")
    (track,) = state["edit"]["takes"][0]["tracks"]
    frames, across, down = np.array([(each["frame"], each["x"], each["y"]) for each in track["points"]]).T
    assert (frames[0], frames[-1]) == (0, FRAMES - 1)
    assert len(frames) < FRAMES, "where it goes straight, two points will do"
    n = np.arange(FRAMES)
    ways = [np.interp(n, frames, part) * side for part, side in zip((across, down), SIZE, strict=True)]
    found = np.stack(ways, axis=1)
    assert np.hypot(*(found - np.round(places())).T).max() <= 0.5
    # One step back, and only the point that was set is left.
    state = desk.post(f"/edits/{taken['id']}/undo", {"base": state["revision"]})
    assert len(state["edit"]["takes"][0]["tracks"][0]["points"]) == 1


def test_a_point_that_cannot_be_told_from_what_is_around_is_refused(desk: Desk, tmp_path):
    grey = [np.full((SIZE[1], SIZE[0], 3), 90, np.uint8)] * 20
    take = desk.upload(write_colours(tmp_path / "grey.mkv", grey, SIZE, matrix=1), "take")
    desk.work()
    state = desk.post("/edits", {"rate": "60"}, 201)
    use = {"base": state["revision"], "asset": take["sha256"], "kind": "take"}
    state = desk.post(f"/edits/{state['id']}/use", use)
    job = followed(desk, state, 100, 50, 3, end=19)
    assert job["state"] == "failed"
    assert "lost straight away" in job["error"]["what"]
    assert "corner" in job["error"]["remedy"]
    state = desk.get(f"/edits/{state['id']}")
    beyond = {"base": state["revision"], "take": state["edit"]["takes"][0]["id"], "track": "track-1"}
    beyond |= {"frame": 20, "begin": 0, "end": 30}
    assert desk.post(f"/edits/{state['id']}/follow", beyond, 422)["code"] == "track-outside-take"
    bad = {"base": state["revision"], "take": "none", "track": "none", "frame": 0, "begin": 0, "end": 1}
    assert desk.post(f"/edits/{state['id']}/follow", bad, 404)["code"] == "no-such-take"
