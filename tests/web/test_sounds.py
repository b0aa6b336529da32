"""Files that are laid as sounds: missed by name, linked again; exports that were asked for long ago."""

import numpy as np
import soundfile

from izmet.store.models import Job
from tests.desk import Desk, lay


def bell(path, pitch: float):
    """A short sound that begins at once."""
    n = np.arange(20_000)
    soundfile.write(path, 0.5 * np.cos(n * pitch) * np.exp(-n / 4000), 44_100)
    return path


def test_the_file_of_a_sound_is_missed_by_name_and_linked_again(desk: Desk, tmp_path):
    lay(desk, tmp_path)
    first = desk.upload(bell(tmp_path / "Bell.wav", 0.05), "song")["sha256"]
    other = desk.upload(bell(tmp_path / "Buoy.wav", 0.08), "song")["sha256"]
    state = desk.get("/edits/1")
    at = {"to": "frame", "n": 60}
    asked = {"base": state["revision"], "asset": first, "at": at}
    assert desk.post("/edits/1/sounds", asked, 409)["code"] == "not-ready"
    desk.work()
    state = desk.post("/edits/1/sounds", asked)
    assert state["derived"]["sounds"][0]["heard"][0]["at"] == 2.0
    assert state["missing"] == []
    quiet = state["mix"]["key"]

    (desk.folder.assets / first[:2] / first).unlink()
    assert desk.get("/edits/1")["missing"] == ["sound-1"]
    job = desk.post("/edits/1/exports", {"revision": state["revision"], "format": "wav"}, 202)
    desk.work()
    refused = desk.get(f"/jobs/{job['id']}")["error"]
    assert (refused["code"], "sound-1" in refused["what"]) == ("media-missing", True)

    linked = desk.post("/edits/1/relink", {"base": state["revision"], "asset": other, "sound": "sound-1"})
    assert linked["missing"] == []
    assert linked["edit"]["sounds"][0]["what"]["media"]["name"] == "Buoy.wav"
    assert linked["edit"]["sounds"][0]["at"] == state["edit"]["sounds"][0]["at"]
    assert linked["mix"]["key"] != quiet
    desk.post("/edits/1/relink", {"base": linked["revision"], "asset": other, "sound": "none"}, 404)


def test_how_loud_a_mix_is_is_told_as_it_goes(desk: Desk, tmp_path):
    lay(desk, tmp_path)
    state = desk.get("/edits/1")
    found = desk.get(f"/edits/1/loudness?revision={state['revision']}")
    shown = state["derived"]["map"]
    seconds = len(shown["clip"]) / 30
    assert found["begin"] == shown["first"] / 30
    assert len(found["momentary"]) == int(seconds * 10) - 3, "blocks of 0.4 s, ten a second (ITU-R BS.1770)"
    assert max(level for level in found["momentary"] if level is not None) >= found["integrated"]
    assert found["true_peak"] <= -0.9
    silent = desk.run(state, do="fade-song", level=-60)
    assert desk.get(f"/edits/1/loudness?revision={silent['revision']}")["integrated"] is None


def test_an_export_of_an_early_version_is_still_there(desk: Desk, tmp_path):
    """Rows of then say the format and the loudness by themselves."""
    args = {"edit": 1, "revision": 1, "format": "webm", "title": "Heat one", "loudness": -14.0}
    job = Job.create(kind="export", args=args, priority=4, state="done")
    (desk.folder.exports / f"{job.id}.webm").write_bytes(b"pictures")
    answer = desk.client.get(f"/api/jobs/{job.id}/file")
    assert (answer.status_code, answer.data, answer.mimetype) == (200, b"pictures", "video/webm")
    (listed,) = desk.get("/jobs")["jobs"]
    assert (listed["id"], listed["args"]["delivery"]["format"]) == (job.id, "webm")
