"""Documents of every version are read, and say the same as they did."""

import json
from pathlib import Path

import pytest

from izmet.core.commands import check
from izmet.core.document.edit import parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.upgrade import VERSION, upgraded
from izmet.core.following.workings import derive

SAMPLES = Path(__file__).parent / "documents"


@pytest.mark.parametrize("version", range(1, VERSION + 1))
def test_a_sample_of_every_version_is_kept_and_read(version):
    document = json.loads((SAMPLES / f"version-{version}.json").read_text())
    assert document["version"] == version
    edit = parse_edit(document)
    check(edit)
    assert edit.version == VERSION
    assert [landing.exact for landing in derive(edit).landings] == [True, True]
    assert [landing.wanted_frame for landing in derive(edit).landings] == [1558, 1815]
    assert document["version"] == version, "the document itself is left as it was"


def test_version_1_had_no_levels():
    edit = parse_edit(json.loads((SAMPLES / "version-1.json").read_text()))
    assert edit.song.level == 1
    assert [clip.level for clip in edit.clips] == [0]


@pytest.mark.parametrize("version", [0, VERSION + 1, "1", None, True, 1.0])
def test_another_version_is_refused_by_name(version):
    with pytest.raises(Refusal, match="version") as refused:
        upgraded({"version": version})
    assert refused.value.where == "version"


@pytest.mark.parametrize(
    "spoilt", [[], {"version": 1, "clips": 3}, {"version": 1, "clips": [3]}, {"version": 1, "song": 2}]
)
def test_what_is_no_document_of_its_version_is_refused(spoilt):
    with pytest.raises(Refusal):
        parse_edit(spoilt)


def test_a_bundle_of_version_6_named_a_row_that_means_nothing_elsewhere():
    old = json.loads((SAMPLES / "version-6.json").read_text())
    old["takes"][0]["bundle"] = {"edit": 3, "revision": 8}
    assert parse_edit(old).takes[0].bundle is None
    now = parse_edit(json.loads((SAMPLES / "version-7.json").read_text()))
    assert (now.identity is not None, now.takes[1].bundle.landings) == (True, ("clip-1-pin-2",))


def test_a_pulse_of_version_13_could_say_no_last_cue_and_a_flash_said_its_part_of_white():
    old = json.loads((SAMPLES / "version-13.json").read_text())
    pulse = next(each for each in old["clips"][0]["passes"] if each["kind"] == "pulse")
    pulse["last"] = None
    old["accents"][0]["light"] = 0.5
    edit = parse_edit(old)
    (read,) = [each for each in edit.clips[0].passes if each.kind == "pulse"]
    assert read.last == 2000
    assert edit.accents[0].what.light == pytest.approx(53.39, abs=0.01), "L* of the middle of the code values"
    assert edit.accents[0].at.cues == ("drop",)
