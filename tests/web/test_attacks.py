"""What people and broken programs send: it spoils no list, freezes no request, and no answer is a fault."""

import io
import json
import random
import re
import string
import time
from fractions import Fraction
from urllib.parse import unquote

import mido
import peewee
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.words import one_line
from izmet.store.database import BUSY_SECONDS
from izmet.store.datafolder import DataFolder
from izmet.store.models import Asset, EditRow, Job, Revision, database
from izmet.web.news import OVERLAP_SECONDS
from tests.core.test_upgrade import SAMPLES
from tests.desk import Desk, lay
from tests.media.files import write_numbered

SAMPLE = json.loads((SAMPLES / "version-2.json").read_text())
NAMES = [
    "Привет", "漢字かな交じり文", "🚤💥", "مرحبا بالعالم", "e\u0301te\u0301 n\u0303",
    "line\nbreak", "a/b\\\\c", '"quoted"; x',
    "100 % sure", "‮reversed", "z" * 200, "..", "tab\there",
]  # fmt: skip


@pytest.mark.parametrize("rate", ["1/2", "1/3", "2000"])
def test_a_take_of_an_odd_rate_is_read_or_refused_and_spoils_no_list(desk, tmp_path, rate):
    take = write_numbered(tmp_path / "odd.mkv", 8, Fraction(rate))
    good = desk.upload(write_numbered(tmp_path / "good.mp4", 20), "take")
    odd = desk.upload(take, "take")
    desk.work()
    listed = {asset["sha256"]: asset for asset in desk.get("/assets")["assets"]}
    assert listed[good["sha256"]]["state"] == "ready"
    found = listed[odd["sha256"]]
    assert found["state"] in ("ready", "failed")
    state = desk.post("/edits", {"rate": "30"}, 201)
    if found["state"] == "ready":
        desk.post(
            f"/edits/{state['id']}/use", {"base": state["revision"], "asset": odd["sha256"], "kind": "take"}
        )
    assert len(desk.get("/edits")["edits"]) == 1


def test_a_spoilt_row_is_named_and_the_others_are_listed(desk, tmp_path):
    good = desk.upload(write_numbered(tmp_path / "a.mp4", 20), "take")
    bad = desk.upload(write_numbered(tmp_path / "b.mp4", 21), "take")
    desk.work()
    desk.post("/edits", {"rate": "30", "title": "good"}, 201)
    desk.post("/edits", {"rate": "30", "title": "bad"}, 201)
    with database.connection_context():
        Asset.update(facts={"rate": "1/0"}).where(Asset.sha256 == bad["sha256"]).execute()
        Revision.update(content=b"no revision").where(Revision.edit == 2).execute()
        EditRow.update(rate="nonsense").where(EditRow.id == 2).execute()
    listed = {asset["sha256"]: asset for asset in desk.get("/assets")["assets"]}
    assert listed[good["sha256"]]["state"] == "ready"
    assert listed[bad["sha256"]]["state"] == "failed"
    assert listed[bad["sha256"]]["error"]["remedy"]
    assert [each["title"] for each in desk.get("/edits")["edits"]] == ["bad", "good"]
    assert desk.get("/edits/1")["edit"]["title"] == "good"
    told = desk.client.get("/api/edits/2")
    assert told.status_code in (409, 422)
    assert told.get_json()["remedy"]


SPOILT = [
    '{"version": 2, "rate": "60", "song": {"media": {"name": "a", "path": "a"}, "duration": 1e999,'
    ' "sample_rate": 1}}',
    '{"version": 2, "rate": "1e8000000"}',
    '{"version": 2, "rate": "' + "9" * 5000 + '"}',
    "[" * 20000 + "]" * 20000,
    '{"version": 2, "rate": "60", "width": 1e308}',
    '{"version": 9223372036854775808, "rate": "60"}',
    "nonsense",
    "",
    "null",
    '{"version": 2, "rate": "60", "title": "\\ud800"}',
]


@pytest.mark.parametrize("text", SPOILT, ids=range(len(SPOILT)))
def test_a_spoilt_document_is_refused_at_once_and_nothing_is_kept(desk, text):
    began = time.monotonic()
    answer = desk.client.post("/api/edits/import", data=text, content_type="application/json")
    assert answer.status_code in (400, 422), answer.text
    assert answer.get_json()["what"]
    assert time.monotonic() - began < 10, "seconds and minutes are apart; this is no measure of speed"
    assert desk.get("/edits")["edits"] == []


def laid_out(n: float, speed: float) -> dict:
    clips = [
        {
            "id": "clip-1", "take": "gannet", "spans": [{"shape": "steady"}, {"shape": "steady"}],
            "pins": [
                {"id": "a", "p": 0, "speed": 1}, {"id": "b", "n": n, "p": 5},
                {"id": "c", "p": 900, "speed": speed},
            ],
        }
    ]  # fmt: skip
    return {**SAMPLE, "clips": clips}


@pytest.mark.parametrize(("n", "speed"), [(2e7, 1), (1e9, 1), (-1e9, 1), (10, 1e-5), (9_999_990, 1e-4)])
def test_an_edit_beyond_the_limits_is_refused_with_the_figure(desk, n, speed):
    answer = desk.client.post("/api/edits/import", json=laid_out(int(n), speed))
    assert answer.status_code == 422
    assert re.search(r"\d", answer.get_json()["what"])
    assert desk.get("/edits")["edits"] == []


def test_the_longest_edit_is_one_that_can_be_opened(desk):
    found = laid_out(MOST_FRAMES // 100, 1)
    state = desk.post("/edits/import", found, 201)
    assert desk.get(f"/edits/{state['id']}")["derived"]["clips"][0]["pins"][1]["n"] == MOST_FRAMES // 100


@pytest.mark.parametrize("title", NAMES)
def test_a_title_in_any_script_names_its_downloads(desk, title):
    state = desk.post("/edits/import", {**SAMPLE, "title": title}, 201)
    for path in ("document", "cues/csv", "cues/mid"):
        answer = desk.client.get(f"/api/edits/{state['id']}/{path}")
        assert answer.status_code == 200, answer.text
        header = answer.headers["Content-Disposition"]
        assert "\n" not in header
        name = unquote(re.search(r"filename\*=UTF-8''(\S+)", header).group(1))
        assert not re.search(r"[\x00-\x1f/\\\\]", name)
        kept = re.sub(r"[\x00-\x1f/\\\\]+", " ", title).strip(" .")
        assert name.startswith(kept)
    assert desk.get(f"/edits/{state['id']}")["edit"]["title"] == one_line(title)


@settings(max_examples=40, deadline=None)
@given(title=st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=60))
def test_any_title_is_kept_and_can_be_saved(any_desk, title):
    state = any_desk.post("/edits", {"rate": "30", "title": title}, 201)
    assert any_desk.get(f"/edits/{state['id']}")["edit"]["title"] == one_line(title)
    assert any_desk.client.get(f"/api/edits/{state['id']}/document").status_code == 200


@pytest.fixture(scope="module")
def any_desk(tmp_path_factory):
    return Desk(DataFolder(tmp_path_factory.mktemp("any")))


def midi_far_away() -> bytes:
    file = mido.MidiFile()
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("set_tempo", tempo=16_777_215))
    for _ in range(8):
        track.append(mido.Message("note_on", note=36, velocity=90, channel=9, time=0x0FFFFFFF))
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


CUES = [
    ("a.csv", b"time\r1\r2\r"),
    ("a.csv", b'time,kind\n1,"' + b"x" * 200_000 + b'"\n'),
    ("a.csv", b"time\n1e400\n"),
    ("a.csv", b"time,time\n1,2,3\n"),
    ("a.csv", b"time\nnan\n"),
    ("a.vtt", b"WEBVTT\n\n" + b"9" * 400 + b":00:00.000 --> 00:00:01.000\nkick\n"),
    ("a.txt", b"9" * 400 + b"\t1\tkick\n"),
    ("a.txt", b"\x00\t\x00\t\x00\n"),
    ("a.mid", midi_far_away()),
    ("a.mid", midi_far_away()[:-3]),
]


@pytest.mark.parametrize(("name", "data"), CUES, ids=range(len(CUES)))
def test_a_spoilt_file_of_cues_is_refused_or_read_and_never_a_fault(desk, name, data):
    state = desk.post("/edits/import", SAMPLE, 201)
    query = {"base": state["revision"], "name": name}
    answer = desk.client.post(f"/api/edits/{state['id']}/cues", query_string=query, data=data)
    assert answer.status_code in (200, 422), answer.text
    if answer.status_code == 422:
        assert answer.get_json()["what"]
        assert desk.get(f"/edits/{state['id']}")["revision"] == state["revision"]


@pytest.mark.parametrize(
    "path", ["/api/edits/{}", "/api/jobs/{}", "/api/edits/{}/history", "/api/edits/{}/document"]
)
def test_numbers_beyond_the_database_are_refused(desk, path):
    for number in (2**63, 2**31 + 1, 10**30):
        assert desk.client.get(path.format(number)).status_code in (404, 422)


def test_what_is_thrown_away_can_be_brought_back(desk, laid):
    sha256 = laid["edit"]["takes"][0]["media"]["sha256"]
    assert desk.client.delete("/api/edits/1").get_json()["edits"] == []
    assert [each["id"] for each in desk.get("/edits")["bin"]] == [1]
    assert desk.post("/edits/1/restore")["bin"] == []
    assert desk.get("/edits/1")["revision"] == laid["revision"]
    gone = desk.client.delete(f"/api/assets/{sha256}?kind=take").get_json()
    assert sha256 not in [each["sha256"] for each in gone["assets"]]
    assert desk.get("/edits/1")["missing"] == [], "what uses the file keeps it"
    assert sha256 in [each["sha256"] for each in desk.post(f"/assets/{sha256}/restore?kind=take")["assets"]]
    assert desk.client.delete("/api/edits/99").status_code == 404


@pytest.mark.parametrize(
    ("said", "status", "code"),
    [
        ("database or disk is full", 507, "disk-full"),
        ("database is locked", 503, "busy"),
        ("odd", 503, "database"),
    ],
)
def test_a_database_that_cannot_be_written_says_the_cause(desk, monkeypatch, said, status, code):
    state = desk.post("/edits", {"rate": "30"}, 201)

    def fails(*args, **fields):
        raise peewee.OperationalError(said)

    monkeypatch.setattr(Revision, "create", fails)
    body = {"base": state["revision"], "command": {"do": "configure", "title": "other"}}
    assert desk.post(f"/edits/{state['id']}/commands", body, status)["code"] == code
    monkeypatch.undo()
    with database.connection_context():  # the one that was open keeps what it was told
        database.execute_sql("PRAGMA max_page_count = 4294967294")
    assert desk.run(state, do="configure", title="other")["edit"]["title"] == "other"


def test_a_full_disk_is_told_even_where_sqlite_has_rolled_back_by_itself(desk, monkeypatch):
    """Its own roll-back makes ours fail, and that error says nothing of the disk."""
    state = desk.post("/edits", {"rate": "30"}, 201)
    db = database.obj
    prepare = db._add_conn_hooks
    with database.connection_context():
        (pages,) = database.execute_sql("PRAGMA page_count").fetchone()

    def small_disk(connection) -> None:
        prepare(connection)
        connection.execute(f"PRAGMA max_page_count = {pages}")

    monkeypatch.setattr(db, "_add_conn_hooks", small_disk)
    chance = random.Random(5)
    titles = ("".join(chance.choices(string.ascii_letters, k=200)) for _ in range(500))
    body = {"rate": "30", "width": 640, "height": 360}
    answers = (desk.client.post("/api/edits", json={**body, "title": title}) for title in titles)
    refused = next(answer for answer in answers if answer.status_code != 201)
    assert (refused.status_code, refused.get_json()["code"]) == (507, "disk-full")
    monkeypatch.undo()
    with database.connection_context():  # the one that was open keeps what it was told
        database.execute_sql("PRAGMA max_page_count = 4294967294")
    assert desk.run(state, do="configure", title="other")["edit"]["title"] == "other"


def test_an_export_that_was_not_acknowledged_is_not_queued(desk, laid, monkeypatch):
    def fails(*args, **fields):
        raise peewee.OperationalError("database or disk is full")

    monkeypatch.setattr(Job, "create", fails)
    body = {"revision": laid["revision"], "format": "mp4"}
    desk.post("/edits/1/exports", body, 507)
    monkeypatch.undo()
    assert [job for job in desk.get("/jobs")["jobs"] if job["kind"] == "export"] == []


def test_news_tell_of_jobs_and_edits_since_an_instant(desk, tmp_path, monkeypatch):
    lay(desk, tmp_path)
    news, laid = desk.get("/news"), desk.get("/edits/1")
    assert {"edit": 1, "revision": laid["revision"]} in news["edits"]
    long_after = news["now"] + OVERLAP_SECONDS + 0.1
    monkeypatch.setattr(time, "time", lambda: long_after)
    quiet = desk.get(f"/news?since={long_after}")
    assert (quiet["edits"], quiet["jobs"]) == ([], [])
    moved = desk.run(laid, do="configure", title="moved")
    told = desk.get(f"/news?since={quiet['now']}")
    assert told["edits"] == [{"edit": 1, "revision": moved["revision"]}]
    # One that had to wait for its turn to be written bears an instant from before the last answer.
    EditRow.update(changed=long_after - BUSY_SECONDS).execute()
    assert desk.get(f"/news?since={long_after}")["edits"] == told["edits"]
    assert desk.get(f"/news?since={news['now'] + 1e6}")["now"] < news["now"] + 1e6
