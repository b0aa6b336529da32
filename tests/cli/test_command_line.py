"""The command line as scripts use it: answers on standard output, reasons on standard error, exit codes."""

import json
import subprocess
import sys

import pytest

from tests.media.files import read_numbers
from tests.web.test_api import document


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
    assert json.loads((tmp_path / "report.json").read_text())["all_exact"]
    assert izmet("render", "edit.json", "out.gif").returncode == 3
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
