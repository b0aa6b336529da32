"""A person's desk for tests: the app over a data folder of its own, with the worker run by hand."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from izmet.jobs.work import Worker
from izmet.store.datafolder import DataFolder
from izmet.web.app import create_app
from tests.media.files import write_clicks, write_numbered

KEPT_FACTS = ("id", "revision", "can_undo", "can_redo", "music", "mix", "missing", "floors", "bundles")


class Desk:
    """A person's desk: the client, the folder, and what one does often."""

    def __init__(self, folder: DataFolder):
        self.folder = folder
        self.app = create_app(folder)
        self.client = self.app.test_client()
        self.known: dict[tuple[int, int], dict] = {}

    def post(self, path: str, body: object = None, status: int = 200) -> dict:
        """What is answered; of an edit that changed, its whole state, put together as the browser does."""
        answer = self.client.post(f"/api{path}", json=body)
        assert answer.status_code == status, answer.text
        found = answer.get_json()
        if isinstance(found, dict) and "base" in found:
            known = self.known.get((found["id"], found["base"]))
            state = self.get(f"/edits/{found['id']}")
            if known is not None:
                assert with_change(known, found) == state
            return state
        return self.keep(found)

    def keep(self, found: dict) -> dict:
        if isinstance(found, dict) and "derived" in found:
            self.known[found["id"], found["revision"]] = found
        return found

    def get(self, path: str, status: int = 200) -> dict:
        answer = self.client.get(f"/api{path}")
        assert answer.status_code == status, answer.text
        return self.keep(answer.get_json())

    def upload(self, file: Path, kind: str, status: int = 202) -> dict:
        content = file.read_bytes()
        upload = {"kind": kind, "name": file.name, "size": len(content)}
        answer = self.client.post("/api/assets/uploads", json=upload)
        while answer.status_code == 200 and (at := answer.get_json()["received"]) < len(content):
            piece = content[at : at + answer.get_json()["piece"]]
            answer = self.client.put("/api/assets/uploads", query_string=upload | {"at": at}, data=piece)
        if answer.status_code == 200:
            answer = self.client.post("/api/assets/uploads/finish", json=upload)
        assert answer.status_code == status, answer.text
        return answer.get_json()

    def work(self) -> None:
        Worker(self.folder).run_waiting()

    def work_once(self) -> None:
        """Do the oldest job that waits, and leave those that follow from it."""
        Worker(self.folder).run_one()

    def asset(self, sha256: str) -> dict:
        return next(one for one in self.get("/assets")["assets"] if one["sha256"] == sha256)

    def dry_run(self, state: dict, **command: object) -> dict:
        """What would follow from a command, put together from its packet as the browser does."""
        (outcome,) = self.try_out(state, command)
        assert outcome["refused"] is None, outcome
        return derived_with(state["derived"], outcome["change"])

    def try_out(self, state: dict, *commands: dict) -> list[dict]:
        """What would come of each of some commands."""
        body = {"base": state["revision"], "commands": commands}
        answer = self.client.post(f"/api/edits/{state['id']}/dry-run", json=body)
        assert answer.status_code == 200, answer.text
        return unpacked(answer.data)["outcomes"]

    def run(self, state: dict, **command: object) -> dict:
        return self.post(f"/edits/{state['id']}/commands", {"base": state["revision"], "command": command})


def spliced(before: list, splice: dict | None) -> list:
    if splice is None:
        return before
    return [*before[: splice["at"]], *splice["put"], *before[splice["at"] + splice["drop"] :]]


def with_change(state: dict, change: dict) -> dict:
    """A state of an edit with a change to it, by docs/openapi.json alone."""
    edit = state["edit"] | change["edit"]["fields"]
    for name in ("takes", "clips"):
        edit[name] = spliced(edit[name], change["edit"][name])
    if song := change["edit"]["song"]:
        edit["song"] = edit["song"] | song["fields"]
        edit["song"]["cues"] = spliced(edit["song"]["cues"], song["cues"])
    return {
        **{name: change[name] for name in KEPT_FACTS},
        "edit": edit,
        "cue_frames": spliced(state["cue_frames"], change["cue_frames"]),
        "derived": derived_with(state["derived"], change["derived"]),
    }


def derived_with(before: dict, derived: dict) -> dict:
    """What follows from an edit, with a change to it."""
    clips = {clip["id"]: clip for clip in (*before["clips"], *derived["clips"])}
    map = before["map"]
    if new := derived["map"]:
        rest = slice(new["begin"] + len(new["clip"]), new["length"])
        runs = ("framings", "placings", "layers", "looks", "titles")
        over = {name: new[name] for name in runs if new[name] is not None}
        map = before["map"] | {"first": new["first"], "clips": new["clips"]} | over
        for name in ("clip", "source"):
            old = before["map"][name]
            map[name] = [*old[: new["begin"]], *new[name], *old[rest]]
    return {
        "clips": [clips[id] for id in derived["order"]],
        "map": map,
        **{
            name: before[name] if derived[name] is None else derived[name]
            for name in ("loose", "accents", "sounds")
        },
        "end": derived["end"],
    }


def unpacked(packet: bytes) -> dict:
    """A packet, read by what web/packets says of its form."""
    length = int.from_bytes(packet[:4], "little")
    columns = packet[4 + length :]

    def filled(value: object) -> object:
        if isinstance(value, dict) and value.keys() == {"column"}:
            kind, offset, count = value["column"]
            return np.frombuffer(columns, f"<{kind}", count, offset).tolist()
        if isinstance(value, dict):
            return {name: filled(each) for name, each in value.items()}
        return [filled(each) for each in value] if isinstance(value, list) else value

    found = filled(json.loads(packet[4 : 4 + length]))
    assert isinstance(found, dict)
    return found


CLICKS = [0.5 + 0.5 * beat for beat in range(24)]


def bring_song(desk: Desk, tmp_path: Path) -> None:
    """Put a song of clicks twice a second into an edit."""
    asset = desk.upload(write_clicks(tmp_path / "clicks.wav", CLICKS, 14), "song")
    desk.work()
    state = desk.post("/edits", {"rate": "60"}, 201)
    use = {"base": state["revision"], "asset": asset["sha256"], "kind": asset["kind"]}
    desk.post(f"/edits/{state['id']}/use", use)


def lay(desk: Desk, tmp_path: Path) -> None:
    """Put a song and a take in and tie them: the take lands on its cue at 1.5 s."""
    song = desk.upload(write_clicks(tmp_path / "clicks.wav", [0.5, 1.5], 4), "song")
    take = desk.upload(write_numbered(tmp_path / "take.mp4", 130), "take")
    desk.work()
    state = desk.post("/edits", {"rate": "30", "width": 192, "height": 108}, 201)
    for asset in (song, take):
        state = desk.post(
            f"/edits/{state['id']}/use",
            {"base": state["revision"], "asset": asset["sha256"], "kind": asset["kind"]},
        )
    id = state["edit"]["takes"][0]["id"]
    state = desk.run(state, do="add-cue", time=1.5, kind="drop")
    state = desk.run(state, do="add-moment", take=id, frame=60)
    cue = next(cue["id"] for cue in state["edit"]["song"]["cues"] if cue["kind"] == "drop")
    desk.run(state, do="lay-take", take=id, moment="moment-1", cue=cue)
