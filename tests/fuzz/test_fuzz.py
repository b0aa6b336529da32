"""What is spoilt by chance is refused in words or works: no fault, nothing half kept, lists go on.

A quick part runs with all tests; ``make fuzz`` runs many more and prints what became of them.
"""

from __future__ import annotations

import json
import os
import random
from collections import Counter

import pytest

from izmet.exchange.formats import FORMATS
from tests.core.test_upgrade import SAMPLES
from tests.desk import lay
from tests.fuzz.mutations import spoilt_bytes, spoilt_json
from tests.media.files import encode_song, write_clicks, write_numbered

ROUNDS = int(os.environ.get("IZMET_FUZZ", "120"))
SEED = int(os.environ.get("IZMET_FUZZ_SEED", "1"))
DOCUMENTS = [json.loads(path.read_text()) for path in sorted(SAMPLES.glob("*.json"))]
COMMANDS = [
    {"do": "change-tie", "clip": "clip-1", "pin": "pin-2", "cue": "cue-1"},
    {"do": "add-cue", "time": 1.2, "kind": "kick", "strength": 0.5},
    {"do": "change-cues", "cues": ["cue-1", "cue-2"], "by": 0.01, "kind": "snare"},
    {"do": "set-value", "clip": "clip-1", "span": 0, "name": "strength", "value": 0.4},
    {"do": "begin-shape", "clip": "clip-1", "span": 1, "shape": "dip"},
    {
        "do": "shape-span",
        "clip": "clip-1",
        "span": 0,
        "shape": {"shape": "build", "start": 0.5, "change": 0.5},
    },
    {"do": "change-edge", "clip": "clip-1", "pin": "pin-1", "p": 3, "speed": 0.7},
    {"do": "configure", "rate": "30000/1001", "width": 640, "height": 360, "title": "Heat"},
    {"do": "use-beats", "times": [0.1, 0.6, 1.1], "meter": 4, "downbeat": 0},
    {"do": "place-song", "start": 0.2, "heard_from": 0.1, "heard_to": 2},
    {"do": "set-level", "clip": "clip-1", "level": 0.5},
    {"do": "add-moment", "take": "take", "frame": 3, "kind": "impact", "label": "hit"},
]


def told(what: str, ends: Counter) -> None:
    print(f"{what}: {sum(ends.values())} tried: {dict(ends)}")


def test_documents(desk):
    chance, ends = random.Random(SEED), Counter()
    for _ in range(ROUNDS):
        document = spoilt_json(chance.choice(DOCUMENTS), chance)
        answer = desk.client.post("/api/edits/import", json=document)
        ends[answer.status_code] += 1
        assert answer.status_code in (201, 404, 422), (
            answer.status_code,
            answer.text[:300],
            json.dumps(document)[:600],
        )
        if answer.status_code == 201:
            assert desk.client.get(f"/api/edits/{answer.get_json()['id']}").status_code == 200
    assert desk.client.get("/api/edits").status_code == 200
    told("documents", ends)


def test_commands(desk, tmp_path):
    lay(desk, tmp_path)
    state = desk.get("/edits/1")
    chance, ends = random.Random(SEED), Counter()
    for _ in range(ROUNDS):
        command = spoilt_json(chance.choice(COMMANDS), chance)
        where, what = chance.choice(
            [("commands", {"command": command}), ("dry-run", {"commands": [command]})]
        )
        body = {"base": state["revision"], **what}
        answer = desk.client.post(f"/api/edits/1/{where}", json=body)
        ends[answer.status_code] += 1
        assert answer.status_code in (200, 404, 422), (answer.text[:300], command)
        if where == "commands" and answer.status_code == 200:
            state = desk.get("/edits/1")
    assert all(landing for clip in state["derived"]["clips"] for landing in clip["landings"])
    told("commands", ends)


@pytest.mark.parametrize("ending", FORMATS)
def test_cue_files(desk, ending):
    state = desk.post("/edits/import", DOCUMENTS[-1], 201)
    whole = desk.client.get(f"/api/edits/{state['id']}/cues/{ending}").data
    chance, ends = random.Random(SEED), Counter()
    for _ in range(ROUNDS):
        query = {"base": state["revision"], "name": f"a.{ending}"}
        spoilt = spoilt_bytes(whole, chance)
        answer = desk.client.post(f"/api/edits/{state['id']}/cues", query_string=query, data=spoilt)
        ends[answer.status_code] += 1
        assert answer.status_code in (200, 422), (answer.text[:300], spoilt[:200])
        if answer.status_code == 200:
            state = desk.get(f"/edits/{state['id']}")
    told(f"cue files, {ending}", ends)


def test_media(desk, tmp_path):
    wholes = [
        (write_numbered(tmp_path / "a.mp4", 12), "take"),
        (write_numbered(tmp_path / "a.mkv", 12, codec="ffv1", pixels="bgr0"), "take"),
        (write_clicks(tmp_path / "a.flac", [0.5], 1), "song"),
        (encode_song(write_clicks(tmp_path / "b.wav", [0.5], 1), tmp_path / "b.mp3", "libmp3lame"), "song"),
    ]
    chance, ends = random.Random(SEED), Counter()
    for number in range(max(8, ROUNDS // 10)):
        path, kind = chance.choice(wholes)
        spoilt = tmp_path / f"spoilt-{number}{path.suffix}"
        spoilt.write_bytes(spoilt_bytes(path.read_bytes(), chance) or b"\0")
        desk.upload(spoilt, kind)
    desk.work()
    for asset in desk.get("/assets")["assets"]:
        code = (asset["error"] or {}).get("code")
        ends[f"{asset['state']} {code or ''}".strip()] += 1
        assert asset["state"] in ("ready", "failed"), asset
        assert code not in ("internal", "worker-lost"), asset
    told("media", ends)
