"""A person's desk for tests: the app over a data folder of its own, with the worker run by hand."""

from __future__ import annotations

from pathlib import Path

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

    def work_once(self) -> None:
        """Do the oldest job that waits, and leave those that follow from it."""
        Worker(self.folder).run_one()

    def asset(self, sha256: str) -> dict:
        return next(one for one in self.get("/assets")["assets"] if one["sha256"] == sha256)

    def run(self, state: dict, **command: object) -> dict:
        return self.post(f"/edits/{state['id']}/commands", {"base": state["revision"], "command": command})


def lay(desk: Desk, tmp_path: Path) -> None:
    """Put a song and a take in and tie them: the take lands on its cue at 1.5 s."""
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
