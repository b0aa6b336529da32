"""An export comes to the loudness that is asked, by the file itself."""

from pathlib import Path

import av
import numpy as np
import pyloudnorm
import pytest

from tests.desk import Desk, lay


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
        assert job["result"]["true_peak"] <= -0.9
        heard.append(found)
    assert heard[1] == pytest.approx(-34, abs=0.5)
    assert abs(heard[0] - heard[1]) > 1
    assert desk.post("/edits/1/exports", {"revision": 1, "format": format, "loudness": 3}, 422)
