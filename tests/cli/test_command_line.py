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
