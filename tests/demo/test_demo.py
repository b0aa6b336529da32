"""The demo's truth, known by construction, against what the app finds and exports."""

import json

import av
import numpy as np
import pytest

from izmet.core.following.montage import montage
from izmet.core.following.workings import derive
from izmet.demo.songs import SONGS
from izmet.demo.takes import TAKES
from izmet.jobs.delivery import Delivery
from izmet.jobs.exporting import export_stored
from izmet.material.songs import song_of
from izmet.material.takes import table_of
from izmet.store import edits
from izmet.store.assets import Assets
from izmet.store.database import open_database
from izmet.store.models import Asset


def truth_of(folder, file_name: str) -> dict:
    return json.loads((folder.root / "library" / file_name).with_suffix(".truth.json").read_text())


@pytest.fixture
def database(demo_folder):
    with open_database(demo_folder).connection_context():
        yield


def test_takes_are_read_as_they_were_drawn(demo_folder, database):
    for take in TAKES:
        truth = truth_of(demo_folder, take.file_name)
        facts = Asset.get(Asset.name == take.name).facts
        assert (facts["rate"], facts["frames"]) == (truth["rate"], truth["frames"]), take.name
        if take.varying:
            assert "rate varies" in facts["notes"][0]
        else:
            assert facts["distinct"] == truth["distinct"], take.name


@pytest.mark.parametrize("song", SONGS, ids=lambda song: song.name)
def test_beats_are_where_the_songs_have_them(demo_folder, database, song):
    """Shares are of this first pass on the demo's own songs, no measure of other music."""
    truth = truth_of(demo_folder, song.file_name)
    found = song_of(Assets(demo_folder), Asset.get(Asset.name == song.name))
    times = np.array([cue.time for cue in found.cues if cue.kind in ("beat", "downbeat")])
    beats = np.array(truth["beats"])
    heard = beats[(beats > 1) & (beats < found.duration - 3)]
    assert len(heard) > 50
    near = np.array([np.abs(times - beat).min() for beat in heard])
    assert np.mean(near < 0.003) > 0.9


def test_the_boat_lands_on_the_drop_in_the_exported_file(demo_folder, database, tmp_path):
    edit = edits.current(1).edit
    landings = derive(edit).landings
    assert [landing.label for landing in landings] == ["run-up", "lift-off", "splash-down", "away"]
    assert all(landing.exact for landing in landings)
    drop = truth_of(demo_folder, SONGS[0].file_name)["drops"][0]
    assert landings[2].cue_time == pytest.approx(drop, abs=0.001)  # found, not told

    out = tmp_path / "heat.mp4"
    asked = Delivery(format="mp4")
    report = export_stored(Assets(demo_folder), edit, out, asked, lambda done, total: None, tmp_path)
    assert report["all_exact"]
    assert all(abs(line["sound_offset_ms"]) < 5 for line in report["landings"])

    # Seen with plain PyAV: the white of the splash appears on just that frame.
    with av.open(str(out)) as container:
        white = [
            int((frame.to_ndarray(format="gray")[380:560] > 225).sum()) for frame in container.decode(video=0)
        ]
    assert len(white) == report["frames"]
    landed = landings[2].wanted_frame - report["first_frame"]
    jump = int(np.argmax(np.diff(white))) + 1
    assert jump == landed


def test_each_take_shows_its_hit_first_on_the_frame_that_its_truth_names(demo_folder, database):
    assets, seen = Assets(demo_folder), 0
    for take in TAKES:
        asset = Asset.get(Asset.name == take.name)
        table = table_of(assets, edits.current(1).edit.takes[TAKES.index(take)].media)
        for moment in truth_of(demo_folder, take.file_name)["moments"]:
            if moment["kind"] != "impact" or take.varying:
                continue
            frame = moment["frame"]
            before, after = table.distinct_of[frame - 1], table.distinct_of[frame]
            assert after == before + 1, asset.name
            assert table.motion[frame] > table.motion[frame - 3 : frame].max(), asset.name
            seen += 1
    assert seen == 3


def test_the_whole_race_lands_with_all_that_a_montage_can_do(demo_folder, database):
    edit = edits.current(2).edit
    derived = derive(edit)
    assert len(edit.clips) >= 19
    assert len(derived.landings) >= 19
    assert all(landing.exact for landing in derived.landings)
    shapes = {shape.shape for clip in edit.clips for shape in clip.spans}
    assert {"rewind", "hold"} <= shapes
    assert max(clip.speed.max() for clip in derived.clips) >= 2, "it is run through"
    assert derived.map.layers
    assert derived.map.looks
    (bundle,) = [take for take in edit.takes if take.bundle]
    assert edits.known_as(bundle.bundle.edit) == 3
    assert {trouble.kind for trouble in montage(edit, derived).troubles} <= {
        "stutter",
        "turn",
        "even cadence",
    }


def test_what_a_codec_makes_of_a_loud_mix_stays_under_the_ceiling(demo_folder, database, tmp_path):
    """By how much the encoder of AAC overshoots changes from try to try; it is tried until none does."""
    asked = Delivery(format="mp4", loudness=-14, width=128, height=72)
    edit = asked.of(edits.current(1).edit)
    out = tmp_path / "loud.mp4"
    report = export_stored(Assets(demo_folder), edit, out, asked, lambda done, total: None, tmp_path)
    assert report["true_peak"] <= -1
    assert report["loudness"] == pytest.approx(-14, abs=0.3)
