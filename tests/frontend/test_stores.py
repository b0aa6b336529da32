"""The stores, dry runs and the pack worker against the server itself: what they show is what it keeps."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from typing import Any

import pytest
from flask import request
from werkzeug.serving import make_server

from tests.desk import Desk
from tests.frontend.helpers import Helpers


class Screen:
    """The stores of one edit's screen, over a desk that answers on a port; ``asked`` are its requests."""

    def __init__(self, desk: Desk, edit: int):
        self.asked: list[str] = []
        desk.app.before_request_funcs.setdefault(None, []).append(self._note)
        self._server = make_server("127.0.0.1", 0, desk.app, threaded=True)
        threading.Thread(target=self._server.serve_forever, daemon=True).start()
        self._node = Helpers(f"http://127.0.0.1:{self._server.port}")
        self.call = self._node.call
        self.call("createPinia", keep="pinia")
        self.call("setActivePinia", {"kept": "pinia"})
        self.call("openEdit", edit)
        for store in ("edit", "view", "shelf", "compare", "notices", "library"):
            self.call(f"use{store.capitalize()}", keep=store)
        self.call("library.load")
        self.call("edit.open")
        self.asked.clear()

    def _note(self) -> None:
        self.asked.append(f"{request.method} {request.path}")

    def get(self, path: str) -> Any:
        return self.call(path, how="get")

    def told(self) -> list[dict]:
        return self.get("notices.list")

    def close(self) -> None:
        self._node.close()
        self._server.shutdown()


@pytest.fixture
def screen(desk: Desk, laid: dict) -> Iterator[Screen]:
    screen = Screen(desk, laid["id"])
    yield screen
    screen.close()


def test_commands_show_what_the_server_keeps_one_step_each(desk, laid, screen):
    assert screen.get("edit.state.edit") == laid["edit"]
    assert screen.call("edit.run", {"do": "configure", "title": "Heat one"})
    assert screen.get("edit.state.revision") == laid["revision"] + 1
    two = [{"do": "configure", "title": "Heat two"}, {"do": "add-cue", "time": 2.5}]
    assert screen.call("edit.runAll", two)
    kept = desk.get(f"/edits/{laid['id']}")
    assert kept["revision"] == laid["revision"] + 2
    for part in ("edit", "derived", "cue_frames"):
        assert screen.get(f"edit.state.{part}") == kept[part]
    # All of several, or none.
    wrong = [{"do": "configure", "title": "Heat three"}, {"do": "remove-cues", "cues": ["cue-none"]}]
    assert not screen.call("edit.runAll", wrong)
    assert desk.get(f"/edits/{laid['id']}")["edit"]["title"] == "Heat two"
    assert [notice["kind"] for notice in screen.told()] == ["problem"]
    assert screen.call("edit.undo")
    assert screen.get("edit.edit.title") == "Heat one"
    assert screen.told() == []


def test_what_another_tab_did_is_shown_and_not_written_over(desk, laid, screen):
    moved = desk.run(laid, do="configure", title="Elsewhere")
    assert not screen.call("edit.run", {"do": "configure", "title": "Here"})
    assert screen.get("edit.edit.title") == "Elsewhere"
    assert desk.get(f"/edits/{laid['id']}")["revision"] == moved["revision"]
    assert screen.call("edit.run", {"do": "configure", "title": "Here"})
    further = desk.run(desk.get(f"/edits/{laid['id']}"), do="configure", title="Elsewhere again")
    screen.call("edit.catchUp", further["revision"])
    assert screen.get("edit.edit.title") == "Elsewhere again"
    # News of what is shown already asks nothing.
    screen.asked.clear()
    screen.call("edit.catchUp", further["revision"])
    assert screen.asked == []


def test_late_news_of_a_change_that_is_known_takes_no_refusal_away(desk, laid, screen):
    for title in ("Heat one", "Heat two"):
        assert screen.call("edit.run", {"do": "configure", "title": title})
    assert not screen.call("edit.run", {"do": "remove-cues", "cues": ["cue-none"]})
    (refused,) = screen.told()
    screen.call("edit.catchUp", laid["revision"] + 1)
    assert screen.told() == [refused]
    # What somebody else changes since may have mended it.
    moved = desk.run(desk.get(f"/edits/{laid['id']}"), do="configure", title="Elsewhere")
    screen.call("edit.catchUp", moved["revision"])
    assert screen.told() == []


def test_late_news_of_a_change_that_is_known_takes_neither_b_nor_a_drag_away(desk, laid, screen):
    screen.call("compare.keep")
    for title in ("Heat one", "Heat two"):
        assert screen.call("edit.run", {"do": "configure", "title": title})
    dragged = {"do": "configure", "rate": "60"}
    screen.call("edit.dryRun", dragged)
    shown = screen.get("edit.live")
    assert shown is not None
    screen.call("edit.catchUp", laid["revision"] + 1)
    assert screen.get("edit.live") == shown
    # Let go where it was taken up, the hand has changed nothing, and nothing of it stays.
    assert screen.call("edit.run", {"do": "configure", "title": "Heat two"})
    assert screen.get("edit.live") is None
    screen.call("compare.toggle")
    assert screen.get("edit.edit.title") == laid["edit"]["title"]
    screen.call("edit.catchUp", laid["revision"] + 1)
    assert screen.get("edit.edit.title") == laid["edit"]["title"]
    assert screen.get("edit.instead") is not None


def test_a_dry_run_shows_and_keeps_nothing_and_is_asked_once(desk, laid, screen):
    clip = laid["edit"]["clips"][0]
    cues = [cue["id"] for cue in laid["edit"]["song"]["cues"] if cue["made"] == "auto"]
    tie = {"do": "change-tie", "clip": clip["id"], "pin": clip["pins"][-1]["id"]}
    tied = next(pin for pin in clip["pins"] if pin.get("cue"))
    tie["pin"] = tied["id"]
    here, there = ({**tie, "cue": cue} for cue in (tied["cue"], next(c for c in cues if c != tied["cue"])))
    screen.call("edit.dryRun", there, here)
    wanted = desk.dry_run(laid, **there)
    assert screen.get("edit.live.clips") == wanted["clips"]
    # What was foreseen, and what was asked before, is answered without a question.
    asked = len(screen.asked)
    screen.call("edit.dryRun", here)
    screen.call("edit.dryRun", there)
    assert len(screen.asked) == asked
    screen.call("edit.settle")
    assert screen.get("edit.live") is None
    assert screen.get("edit.derived") == laid["derived"]
    assert desk.get(f"/edits/{laid['id']}")["revision"] == laid["revision"]
    # A refusal is shown beside the hand, not as a notice.
    screen.call("edit.dryRun", {**tie, "cue": "cue-none"})
    assert screen.get("edit.liveProblem.code")
    assert screen.told() == []


def test_b_is_shown_in_place_of_the_edit_and_changes_nothing(desk, laid, screen):
    screen.call("compare.keep")
    assert screen.call("edit.run", {"do": "configure", "title": "Later"})
    screen.call("compare.toggle")
    assert screen.get("edit.edit.title") == laid["edit"]["title"]
    assert not screen.call("edit.run", {"do": "configure", "title": "In B"})
    assert "B is shown" in screen.told()[-1]["what"]
    screen.call("compare.toggle")
    assert screen.get("edit.edit.title") == "Later"
    screen.call("compare.toggle")
    screen.call("compare.takeB")
    assert desk.get(f"/edits/{laid['id']}")["edit"]["title"] == laid["edit"]["title"]


def test_the_playhead_stands_on_the_frame_that_was_meant(laid, screen):
    end = laid["derived"]["map"]["first"] + len(laid["derived"]["map"]["clip"])
    for n in range(0, end, 7):
        screen.call("view.seekFrame", n)
        assert screen.get("view.frame") == n
    screen.call("view.seekFrame", -5)
    assert screen.get("view.frame") == 0


def test_the_shelf_finds_takes_by_name_tag_and_note(laid, screen):
    (take,) = laid["edit"]["takes"]
    assert screen.call("edit.run", {"do": "change-take", "take": take["id"], "notes": "the near gate"})
    for sought, found in ((take["media"]["name"][:4].upper(), 1), ("near GATE", 1), ("harbour", 0)):
        screen.call("shelf.sought", sought, how="set")
        assert len(screen.get("shelf.takes")) == found


def test_the_pack_worker_gives_the_servers_own_pictures(desk, laid, screen):
    sha256 = laid["edit"]["takes"][0]["media"]["sha256"]
    base = f"/api/assets/{sha256}"
    for number, frame in enumerate((0, 59, 60, 61, 3)):
        found = screen.call("worker.ask", {"id": number, "sha256": sha256, "frame": frame})
        assert bytes(found["bitmap"]) == desk.client.get(f"{base}/frames/{frame}").data
    assert screen.asked.count(f"GET {base}/index") == 1
    assert screen.asked.count(f"GET {base}/pack") == 2
    # What is not there is no picture, and is asked for again later.
    for number in (10, 11):
        assert screen.call("worker.ask", {"id": number, "sha256": "0" * 64, "frame": 0})["bitmap"] is None
    assert screen.asked.count(f"GET /api/assets/{'0' * 64}/index") == 2


def test_a_picture_that_is_not_there_is_not_asked_for_at_every_drawing(laid, screen):
    take = laid["edit"]["takes"][0]
    screen.call("useThumbs", keep="thumbs")
    for _ in range(5):
        assert screen.call("thumbs.thumb", take["media"]["sha256"], take["frames"] + 7) is None
        screen.call("view.seekFrame", 0)  # a moment in which the refusal arrives
    time.sleep(0.3)
    assert screen.call("thumbs.thumb", take["media"]["sha256"], take["frames"] + 7) is None
    asked = f"GET /api/assets/{take['media']['sha256']}/frames/{take['frames'] + 7}"
    assert screen.asked.count(asked) == 1


def test_flow_is_asked_for_once_whether_it_is_there_or_not(laid, screen):
    take = laid["edit"]["takes"][0]
    sha256, frames = take["media"]["sha256"], take["frames"]
    for first, is_there in ((0, True), (frames + 7, False)):
        pair = {"first": first, "second": first + 1}
        for _ in range(3):
            screen.call("flows.get", sha256, pair)
        assert screen.asked.count(f"GET /api/assets/{sha256}/flow") == (1 if is_there else 2)
        assert (screen.call("flows.ready", sha256, pair) is not None) == is_there
