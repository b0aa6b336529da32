"""An export comes to the loudness that is asked, by the file itself."""

import base64
from html.parser import HTMLParser
from pathlib import Path

import av
import numpy as np
import pyloudnorm
import pytest
import simplejpeg
import soundfile
import soxr

from tests.desk import Desk, lay
from tests.media.files import read_number


def channels_of(path: Path) -> tuple[np.ndarray, int]:
    """All channels of a file, shape (count, channels), and its rate, decoded with plain PyAV."""
    with av.open(str(path)) as container:
        even = av.AudioResampler(format="fltp")
        frames = [each for frame in container.decode(audio=0) for each in even.resample(frame)]
    return np.concatenate([frame.to_ndarray() for frame in frames], axis=1).T.astype(float), frames[0].rate


@pytest.mark.parametrize("format", ["mkv", "mp4"])
def test_an_export_is_as_loud_as_it_is_asked_to_be(desk: Desk, tmp_path, format):
    lay(desk, tmp_path)
    state = desk.get("/edits/1")
    heard = []
    for wanted in (None, -34.0):
        body = {"revision": state["revision"], "format": format, "loudness": wanted}
        job = desk.post("/edits/1/exports", body, 202)
        desk.work()
        job = desk.get(f"/jobs/{job['id']}")
        assert job["state"] == "done", job["error"]
        assert job["result"]["all_exact"]
        samples, rate = channels_of(desk.folder.exports / f"{job['id']}.{format}")
        found = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(samples)
        assert job["result"]["loudness"] == pytest.approx(found, abs=0.3)
        assert job["result"]["true_peak"] <= -1.0
        heard.append(found)
    assert heard[1] == pytest.approx(-34, abs=0.5)
    assert abs(heard[0] - heard[1]) > 1
    assert desk.post("/edits/1/exports", {"revision": 1, "format": format, "loudness": 3}, 422)


def blow(path: Path, lead: float, rate: int = 44_100) -> Path:
    """A file with one blow after so many seconds, hiss before it."""
    rng = np.random.default_rng(3)
    count = round((lead + 0.6) * rate)
    samples = 0.0003 * rng.normal(0, 1, count)
    begin = round(lead * rate)
    after = np.arange(count - begin)
    samples[begin:] += 0.7 * np.cos(after / 12) * np.exp(-after / 3000)
    soundfile.write(path, samples, rate)
    return path


def begun(samples: np.ndarray, near: int, reach: int) -> int:
    """The first sample near a place that comes within 10 dB of the loudest there: what resampling and codecs
    ring before an attack is below."""
    part = np.abs(samples[near - reach : near + reach])
    return near - reach + int(np.argmax(part > 10**-0.5 * part.max()))


@pytest.mark.parametrize(("format", "exact"), [("mkv", "cue"), ("mkv", "frame"), ("mp4", "cue")])
@pytest.mark.parametrize("own", [False, True])
def test_the_attack_of_a_laid_sound_is_on_its_cue_in_the_file(desk: Desk, tmp_path, format, exact, own):
    """The file decoded with plain PyAV: within a sample, or what the codec spreads of it."""
    lay(desk, tmp_path)
    asset = desk.upload(blow(tmp_path / "Bell.wav", 0.1371), "song")["sha256"]
    desk.work()
    state = desk.run(desk.get("/edits/1"), do="fade-song", level=-60)
    landing = state["derived"]["clips"][0]["landings"][0]
    at = {"to": "cues", "cues": [landing["cue"]]}
    if own:
        state = desk.post("/edits/1/sounds", {"base": state["revision"], "asset": asset, "at": at})
        assert state["edit"]["sounds"][0]["what"]["attack"] == pytest.approx(0.1371, abs=2 / 44_100)
    else:
        state = desk.run(state, do="add-sound", at=at, what={"kind": "made", "name": "click"})
    state = desk.run(state, do="change-sound", sound="sound-1", exact=exact)
    job = desk.post("/edits/1/exports", {"revision": state["revision"], "format": format}, 202)
    desk.work()
    job = desk.get(f"/jobs/{job['id']}")
    assert job["state"] == "done", job["error"]
    assert job["result"]["all_exact"]
    samples, rate = channels_of(desk.folder.exports / f"{job['id']}.{format}")
    edit_rate = float(state["edit"]["rate"])
    instant = landing["wanted_frame"] / edit_rate if exact == "frame" else landing["cue_time"]
    place = round((instant - job["result"]["first_frame"] / edit_rate) * rate)
    tolerance = 1 if format == "mkv" else 0.003 * rate
    # The one file's attack is found to two samples of its own.
    assert begun(samples[:, 0], place, rate // 10) == pytest.approx(place, abs=tolerance + 2 * own)


def test_one_edit_goes_out_in_other_shapes_rates_and_as_sound_alone(desk: Desk, tmp_path):
    """Each file lands as the edit does, at its own rate, and holds what it says."""
    lay(desk, tmp_path)
    state = desk.get("/edits/1")
    asked = (
        {"format": "hevc", "quality": "small", "width": 90, "height": 160},
        {"format": "mov", "rate": "24000/1001"},
        {"format": "wav"},
    )
    jobs = [
        desk.post("/edits/1/exports", {"revision": state["revision"], **each}, 202)["id"] for each in asked
    ]
    assert len(set(jobs)) == 3, "several wait at once"
    desk.work()
    found = [desk.get(f"/jobs/{id}") for id in jobs]
    assert [job["state"] for job in found] == ["done"] * 3, [job["error"] for job in found]
    assert all(job["result"]["all_exact"] for job in found)
    tall, slow, alone = (desk.client.get(f"/api/jobs/{id}/file") for id in jobs)
    assert [each.mimetype for each in (tall, slow, alone)] == ["video/mp4", "video/quicktime", "audio/wav"]
    for answer, name in ((tall, "tall.mp4"), (slow, "slow.mov"), (alone, "alone.wav")):
        (tmp_path / name).write_bytes(answer.data)
    with av.open(str(tmp_path / "tall.mp4")) as file:
        stream = file.streams.video[0]
        assert (stream.codec_context.width, stream.codec_context.height, stream.codec_context.codec_tag) == (
            90, 160, "hvc1",
        )  # fmt: skip
    with av.open(str(tmp_path / "slow.mov")) as file:
        assert float(file.streams.video[0].average_rate) == pytest.approx(24000 / 1001)
        assert file.streams.video[0].frames == found[1]["result"]["frames"]
    samples, rate = soundfile.read(tmp_path / "alone.wav")
    assert len(samples) / rate == pytest.approx(found[2]["result"]["measured_sound"], abs=0.01)
    assert np.abs(samples).max() > 0.01
    assert found[2]["result"]["landings"] == []
    for wrong in ({"format": "avi"}, {"format": "mp4", "width": 91}, {"format": "mp4", "rate": "0"}):
        desk.post("/edits/1/exports", {"revision": state["revision"], **wrong}, 422)


@pytest.mark.parametrize("format", ["mp4", "webm", "mkv"])
def test_no_wave_of_any_file_reaches_over_the_ceiling(desk: Desk, tmp_path, format):
    """True peak by soxr at four times the rate (ITU-R BS.1770), of a mix that codecs find hard to keep."""
    lay(desk, tmp_path)
    state = desk.run(desk.get("/edits/1"), do="fade-song", level=12)
    landing = state["derived"]["clips"][0]["landings"][0]
    at = {"to": "cues", "cues": [landing["cue"]]}
    for name in ("boom", "click", "swell"):
        state = desk.run(state, do="add-sound", at=at, what={"kind": "made", "name": name}, level=12)
    body = {"revision": state["revision"], "format": format, "loudness": -5}
    job = desk.post("/edits/1/exports", body, 202)
    desk.work()
    job = desk.get(f"/jobs/{job['id']}")
    assert job["state"] == "done", job["error"]
    samples, rate = channels_of(desk.folder.exports / f"{job['id']}.{format}")
    peak = np.abs(soxr.resample(samples, rate, 4 * rate, quality="VHQ")).max()
    assert 20 * np.log10(peak) <= -0.95
    assert 20 * np.log10(peak) >= -2.5
    assert job["result"]["true_peak"] <= -1.0


class Page(HTMLParser):
    """The pictures of a page by what they are called, its text, and all that it asks for from elsewhere."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.pictures: dict[str, bytes] = {}
        self.text = ""
        self.elsewhere: list[dict] = []
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list) -> None:
        said = dict(attrs)
        if tag == "img":
            self.pictures[said["alt"]] = base64.b64decode(said["src"].partition("base64,")[2])
        if tag in ("script", "link") or "href" in said:
            self.elsewhere.append(said)

    def handle_data(self, data: str) -> None:
        self.text += data


def test_the_proof_page_holds_all_that_it_shows(desk: Desk, tmp_path):
    """Read with the standard library alone: the pictures beside each landing are those that lie there."""
    lay(desk, tmp_path)
    state = desk.run(desk.get("/edits/1"), do="configure", title="Heat <three> & last")
    job = desk.post("/edits/1/exports", {"revision": state["revision"], "format": "mp4"}, 202)
    assert desk.client.get(f"/api/jobs/{job['id']}/proof").status_code == 404, "it is not done"
    desk.work()
    result = desk.get(f"/jobs/{job['id']}")["result"]
    answer = desk.client.get(f"/api/jobs/{job['id']}/proof")
    assert (answer.status_code, answer.mimetype) == (200, "text/html")
    page = Page(answer.text)
    assert page.elsewhere == []
    assert "Heat <three> & last" in page.text
    assert "Everything lands" in page.text
    shown = state["derived"]["map"]
    for line in result["landings"]:
        for n in range(line["wanted_frame"] - 1, line["wanted_frame"] + 2):
            if not 0 <= n - shown["first"] < len(shown["source"]):
                continue
            picture = simplejpeg.decode_jpeg(page.pictures[f"Frame {n}"], "GRAY")[..., 0]
            assert read_number(picture) == shown["source"][n - shown["first"]]
        assert f"frame {line['wanted_frame']}, {line['timecode']}" in page.text
