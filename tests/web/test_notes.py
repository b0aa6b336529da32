"""Notes come back from a review page onto the timeline, of this edit and of no other."""

import json

import pytest

from tests.desk import Desk


def sent(desk: Desk, state: dict, notes: object, status: int = 200) -> dict:
    """A file of notes, as the page's button saves it."""
    answer = desk.client.post(
        f"/api/edits/{state['id']}/notes?base={state['revision']}&name=back.json",
        data=notes if isinstance(notes, bytes) else json.dumps(notes).encode(),
    )
    assert answer.status_code == status, answer.text
    return answer.get_json()


def file_of(state: dict, *notes: dict) -> dict:
    return {"izmet_notes": 1, "edit": state["edit"]["identity"], "notes": list(notes)}


def test_notes_stand_on_the_timeline_once(desk: Desk):
    state = desk.post("/edits", {"title": "Skerry Run", "rate": "60"}, 201)
    notes = ({"time": 2.5, "text": "later\nhere", "by": "Ada"}, {"time": 1.0, "text": "softer", "by": ""})
    sent(desk, state, file_of(state, *notes))
    state = desk.get(f"/edits/{state['id']}")
    assert [(note["time"], note["text"], note["by"]) for note in state["edit"]["notes"]] == [
        (1.0, "softer", ""),
        (2.5, "later here", "Ada"),
    ]
    # The same file once more adds nothing.
    sent(desk, state, file_of(state, *notes))
    state = desk.get(f"/edits/{state['id']}")
    assert len(state["edit"]["notes"]) == 2
    state = desk.run(state, do="remove-note", note=state["edit"]["notes"][0]["id"])
    assert [note["text"] for note in state["edit"]["notes"]] == ["later here"]


@pytest.mark.parametrize(
    ("spoilt", "code"),
    [
        (b"\x00\xff no notes", "not-notes"),
        (b"[]", "not-notes"),
        ({"izmet_notes": 2, "edit": None, "notes": []}, "not-notes"),
        ({"izmet_notes": 1, "edit": "0" * 32, "notes": [{"time": 1, "text": "softer"}]}, "other-edit"),
        ({"izmet_notes": 1, "edit": None, "notes": [{"time": 1, "text": ""}]}, "not-notes"),
    ],
)
def test_what_is_no_file_of_notes_of_this_edit_is_refused(desk: Desk, spoilt, code):
    state = desk.post("/edits", {"title": "Skerry Run", "rate": "60"}, 201)
    problem = sent(desk, state, spoilt, 422)
    assert problem["code"] == code
    assert problem["remedy"]
    assert sent(desk, state, file_of(state), 422)["code"] == "no-notes"
