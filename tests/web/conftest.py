"""A server's app over an empty data folder, with the worker run by hand."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from izmet.jobs.work import Worker
from izmet.store.datafolder import DataFolder
from izmet.web.app import create_app
from tests.media.files import write_clicks, write_numbered


class Desk:
    """A person's desk: the client, the folder, and what one does often."""

    def __init__(self, folder: DataFolder):
        self.folder = folder
        self.app = create_app(folder)
        self.client = self.app.test_client()

    def post(self, path: str, body: object = None, status: int = 200) -> dict:
        answer = self.client.post(f"/api{path}", json=body)
        assert answer.status_code == status, answer.text
        return answer.get_json()

    def get(self, path: str, status: int = 200) -> dict:
        answer = self.client.get(f"/api{path}")
        assert answer.status_code == status, answer.text
        return answer.get_json()

    def upload(self, file: Path, kind: str, status: int = 202) -> dict:
        query = {"kind": kind, "name": file.name}
        answer = self.client.post("/api/assets", query_string=query, data=file.read_bytes())
        assert answer.status_code == status, answer.text
        return answer.get_json()

    def work(self) -> None:
        Worker(self.folder).run_waiting()

    def asset(self, sha256: str) -> dict:
        return next(one for one in self.get("/assets")["assets"] if one["sha256"] == sha256)

    def run(self, state: dict, **command: object) -> dict:
        return self.post(f"/edits/{state['id']}/commands", {"base": state["revision"], "command": command})


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(DataFolder(tmp_path / "data"))


@pytest.fixture
def laid(desk: Desk, tmp_path: Path, prepared: Path) -> dict:
    """An edit with a song and a take that lands on its cue at 1.5 s; their files are in ``tmp_path``."""
    shutil.copytree(prepared, tmp_path, dirs_exist_ok=True)
    return desk.get("/edits/1")


@pytest.fixture(scope="session")
def prepared(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What ``laid`` copies: reading the files takes a while, so it is done once."""
    root = tmp_path_factory.mktemp("prepared")
    _lay(Desk(DataFolder(root / "data")), root)
    return root


def _lay(desk: Desk, tmp_path: Path) -> None:
    song = desk.upload(write_clicks(tmp_path / "clicks.wav", [0.5, 1.5], 4), "song")
    take = desk.upload(write_numbered(tmp_path / "take.mp4", 130), "take")
    desk.work()
    state = desk.post("/edits", {"rate": "30", "width": 192, "height": 108}, 201)
    for asset in (song, take):
        state = desk.post(f"/edits/{state['id']}/use", {"base": state["revision"], "asset": asset["sha256"]})
    id = state["edit"]["takes"][0]["id"]
    state = desk.run(state, do="add-cue", time=1.5, kind="drop")
    state = desk.run(state, do="add-moment", take=id, frame=60)
    cue = next(cue["id"] for cue in state["edit"]["song"]["cues"] if cue["kind"] == "drop")
    desk.run(state, do="lay-take", take=id, moment="moment-1", cue=cue)
