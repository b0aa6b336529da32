"""The command line as scripts use it: answers on standard output, reasons on standard error, exit codes."""

import json
import subprocess
import sys
from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile

from izmet.store.backups import back_up, is_good
from tests.media.files import add_sound, click_samples, decode_sound, read_numbers, write_numbered
from tests.picture.clips import Clip, Flash, draw, encode
from tests.web.test_api import document, outside


@pytest.fixture
def izmet(tmp_path):
    def run(*args):
        command = [sys.executable, "-m", "izmet.cli", *map(str, args)]
        return subprocess.run(command, capture_output=True, text=True, cwd=tmp_path, timeout=60, check=False)

    return run


def test_the_command_line_gives_cues_renders_and_exits_as_scripts_expect(izmet, tmp_path, laid, desk):
    cues = izmet("cues", "clicks.wav", "--json")
    assert cues.returncode == 0
    assert cues.stderr == ""
    assert {"tempo", "cues", "duration"} <= json.loads(cues.stdout).keys()
    assert izmet("cues", "gone.wav").returncode == 3
    assert izmet("cues").returncode == 2

    found = document(laid)
    found["song"]["media"] = {"name": "clicks", "path": "clicks.wav"}
    found["takes"][0]["media"] = {"name": "take", "path": "take.mp4"}
    (tmp_path / "edit.json").write_text(json.dumps(found))
    done = izmet("render", "edit.json", "out.mkv", "--report", "report.json")
    assert done.returncode == 0, done.stderr
    assert done.stderr == ""
    assert "lands" in done.stdout
    assert read_numbers(tmp_path / "out.mkv") == laid["derived"]["map"]["source"]
    report = json.loads((tmp_path / "report.json").read_text())
    assert report["all_exact"]
    assert report["complete"]
    assert report["measured_frames"] == report["frames"]
    assert report["measured_sound"] == pytest.approx(
        report["frames"] / float(Fraction(report["rate"])), abs=0.1
    )
    assert izmet("render", "edit.json", "out.bmp").returncode == 3
    asked = (
        "--format",
        "hevc",
        "--size",
        "90x160",
        "--rate",
        "24",
        "--quality",
        "small",
        "--report",
        "page.html",
    )
    done = izmet("render", "edit.json", "out.mp4", *asked)
    assert done.returncode == 0, done.stderr
    assert "Everything lands" in (tmp_path / "page.html").read_text()
    with av.open(str(tmp_path / "out.mp4")) as file:
        stream = file.streams.video[0]
        assert (stream.codec_context.name, stream.width, stream.height, stream.average_rate) == (
            "hevc", 90, 160, 24,
        )  # fmt: skip
    for wrong in (("--format", "mov"), ("--quality", "fine"), ("--size", "90by160"), ("--rate", "0")):
        refused = izmet("render", "edit.json", "new.mp4", *wrong)
        assert (refused.returncode, refused.stdout) == (3, ""), wrong
    (tmp_path / "take.mp4").unlink()
    refused = izmet("render", "edit.json", "other.mkv")
    assert (refused.returncode, "not there" in refused.stderr) == (3, True)
    assert not (tmp_path / "other.mkv").exists()


def test_nothing_is_written_over_and_nothing_ends_in_a_trace(izmet, tmp_path, laid, desk):
    found = document(laid)
    found["song"]["media"] = {"name": "clicks", "path": "clicks.wav"}
    found["takes"][0]["media"] = {"name": "take", "path": "take.mp4"}
    (tmp_path / "edit.json").write_text(json.dumps(found))
    before = (tmp_path / "take.mp4").read_bytes()
    (tmp_path / "there.mkv").write_text("mine")
    counted = {**found, "takes": [{**found["takes"][0], "frames": 9000}]}
    (tmp_path / "counted.json").write_text(json.dumps(counted))
    (tmp_path / "deep.json").write_text("[" * 50000)
    (tmp_path / "bytes.json").write_bytes(bytes(range(256)))
    refused = [
        (("render", "edit.json", "take.mp4"), "made from"),
        (("render", "edit.json", "take.mp4", "--force"), "made from"),
        (("render", "edit.json", "there.mkv"), "--force"),
        (("render", "edit.json", "gone/out.mkv"), "not there"),
        (("render", "edit.json", "."), "No format"),
        (("render", "edit.json", "out.mkv", "--report", "edit.json"), "made from"),
        (("render", "counted.json", "out.mkv"), "holds 130 frames"),
        (("render", "deep.json", "out.mkv"), "cannot be read"),
        (("render", "bytes.json", "out.mkv"), "cannot be read"),
        (("render", "clicks.wav", "out.mkv"), "cannot be read"),
        (("cues", "."), ""),
    ]
    for command, says in refused:
        run = izmet(*command)
        assert run.returncode == 3, (command, run.stderr)
        assert says in run.stderr, command
        assert "Traceback" not in run.stderr
    assert (tmp_path / "take.mp4").read_bytes() == before
    assert (tmp_path / "there.mkv").read_text() == "mine"
    assert not (tmp_path / "out.mkv").exists()
    assert izmet("serve", "--port", "70000").returncode == 2
    assert izmet("render", "edit.json", "there.mkv", "--force").returncode == 0
    assert read_numbers(tmp_path / "there.mkv") == laid["derived"]["map"]["source"]


def test_what_is_found_in_a_take_is_told_to_scripts_and_to_people(izmet, tmp_path):
    """A capture of 30 pictures in 60 frames, a pan to the right and up, a flash on its 96th frame."""
    clip = Clip(size=(320, 240), frames=150, pan=(3.0, -1.5), part=Fraction(1, 2), flashes=[Flash(96)])
    encode(draw(clip), clip.rate, tmp_path / "run.mp4")
    run = izmet("moments", "run.mp4", "--json")
    assert (run.returncode, run.stderr) == (0, "")
    found = json.loads(run.stdout)
    assert found["take"] == {"rate": "60", "frames": 150, "distinct": "30", "width": 320, "height": 240}
    assert found["distinct"] == [{"from": 0, "to": 150, "rate": "30"}]
    dx, dy = found["motion"]["dx"], found["motion"]["dy"]
    assert len(dx) == len(dy) == len(found["light"]) == 150
    assert (sum(dx[20:80]), sum(dy[20:80])) == (pytest.approx(90, rel=0.05), pytest.approx(-45, rel=0.05))
    assert found["light"][96] > found["light"][95] + 0.2
    (flash,) = (each for each in found["proposals"] if each["kind"] == "flash")
    assert flash["frame"] == 96
    assert flash.keys() == {"frame", "kind", "weight", "why"}

    said = izmet("moments", "run.mp4").stdout.splitlines()
    assert said[0] == "run.mp4: 150 frames at 60, 30 distinct pictures a second"
    assert any(line.split()[:2] == ["96", "flash"] for line in said)
    soundfile.write(tmp_path / "song.wav", click_samples([0.5], 1), 48000)
    for name, says in (("song.wav", "no picture"), ("gone.mp4", "not there")):
        refused = izmet("moments", name, "--json")
        assert (refused.returncode, refused.stdout) == (3, "")
        assert says in refused.stderr


def test_what_follows_from_a_document_is_told_and_what_cannot_be_is_refused(izmet, tmp_path, laid):
    found = document(laid)
    (tmp_path / "edit.json").write_text(json.dumps(found))
    run = izmet("solve", "edit.json", "--json")
    assert (run.returncode, run.stderr) == (0, "")
    told = json.loads(run.stdout)
    assert told["refusals"] == []
    assert told["clips"][0]["frames"] == laid["derived"]["map"]["source"]
    assert all(landing["exact"] for landing in told["clips"][0]["landings"])
    assert izmet("solve", "edit.json").returncode == 0

    outside(found)
    (tmp_path / "edit.json").write_text(json.dumps(found))
    run = izmet("solve", "edit.json", "--json")
    assert run.returncode == 3
    (refusal,) = json.loads(run.stdout)["refusals"]
    assert refusal["repairs"] != []
    assert refusal["repairs"][0]["label"] in izmet("solve", "edit.json").stdout


def test_a_takes_sound_that_begins_before_its_picture_is_exported_with_its_picture(izmet, tmp_path):
    """The picture begins a quarter of a second into the file; the loud sample is at its 60th frame."""
    write_numbered(tmp_path / "late.mp4", 120, Fraction(60), stamps=[0.25 + k / 60 for k in range(120)])
    loud = np.zeros(3 * 48000)
    loud[round(1.25 * 48000)] = 0.9
    add_sound(tmp_path / "late.mp4", loud, tmp_path / "take.mp4")
    take = {"id": "take", "media": {"name": "take", "path": "take.mp4"}, "rate": "60", "distinct": "60",
            "frames": 120, "width": 192, "height": 108}  # fmt: skip
    pins = [{"id": "a", "n": 0, "p": 0}, {"id": "b", "n": 119, "p": 119}]
    clip = {"id": "clip", "take": "take", "pins": pins, "spans": [{"shape": "steady"}], "level": 1}
    edit = {"version": 5, "rate": "60", "width": 192, "height": 108, "takes": [take], "clips": [clip]}
    (tmp_path / "edit.json").write_text(json.dumps(edit))
    done = izmet("render", "edit.json", "out.mkv")
    assert done.returncode == 0, done.stderr
    assert read_numbers(tmp_path / "out.mkv") == list(range(120))
    samples, rate = decode_sound(tmp_path / "out.mkv")
    assert np.abs(samples).argmax() / rate == pytest.approx(1.0, abs=0.003)  # Matroska stamps are whole ms.


def test_a_damaged_database_is_put_right_by_a_command(izmet, laid, desk, monkeypatch):
    monkeypatch.setenv("IZMET_DATA", str(desk.folder.root))
    assert "no good copy" in izmet("restore").stderr
    copy = back_up(desk.folder)
    desk.folder.database.write_bytes(b"garbage" * 4000)
    refused = izmet("serve", "--port", "0")
    assert (refused.returncode, "izmet restore" in refused.stderr) == (3, True)
    put_back = izmet("restore")
    assert put_back.returncode == 0
    assert put_back.stdout.startswith(f"{copy.name} is in use now.")
    assert is_good(desk.folder.database)
