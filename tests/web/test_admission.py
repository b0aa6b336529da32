"""Only the browser that opened the printed address comes in, and it comes in again."""

from __future__ import annotations

from urllib.parse import urlsplit

import pytest

from izmet.store.datafolder import DataFolder
from izmet.web.admission import Admission
from izmet.web.app import create_app

BASE = "http://127.0.0.1:8477"


@pytest.fixture
def folder(tmp_path) -> DataFolder:
    return DataFolder(tmp_path / "data").prepare()


def door(folder: DataFolder):
    admission = Admission(folder)
    address = urlsplit(admission.address(f"{BASE}/edits/1"))
    return create_app(folder, admission), f"{address.path}?{address.query}"


def test_the_token_counts_once_and_becomes_a_strict_cookie(folder):
    app, address = door(folder)
    stranger, person = app.test_client(), app.test_client()
    for path in ("/", "/api/edits", "/edits/1?token=guess", "/favicon.svg"):
        assert stranger.get(path).status_code == 403
    assert stranger.get("/api/edits").get_json()["code"] == "not-let-in"
    assert "start Izmet again" in stranger.get("/").text
    let_in = person.get(address)
    assert (let_in.status_code, let_in.headers["Location"]) == (302, "/edits/1")
    cookie = let_in.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie
    assert person.get("/api/edits").status_code == 200
    assert person.get(address).status_code == 302  # opened once more by who is in already
    assert stranger.get(address).status_code == 403


def test_who_was_in_is_in_after_a_restart_and_not_in_another_folder(folder, tmp_path):
    app, address = door(folder)
    person = app.test_client()
    person.get(address)
    again, _ = door(folder)
    moved = again.test_client()
    for cookie in person._cookies.values():  # the same browser
        moved.set_cookie(cookie.key, cookie.value)
    assert moved.get("/api/edits").status_code == 200
    other, _ = door(DataFolder(tmp_path / "other").prepare())
    elsewhere = other.test_client()
    for cookie in person._cookies.values():
        elsewhere.set_cookie(cookie.key, cookie.value)
    assert elsewhere.get("/api/edits").status_code == 403
    assert folder.key.stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("kept", ["", "a1b2", "x" * 63])
def test_a_key_that_was_not_written_whole_is_made_anew_and_lets_nobody_in(folder, kept):
    folder.key.write_text(kept)
    app, _ = door(folder)
    assert len(folder.key.read_text()) == 64
    assert folder.key.stat().st_mode & 0o777 == 0o600
    stranger = app.test_client()
    for name in (f"izmet-{kept[:8]}", f"izmet-{folder.key.read_text()[:8]}"):
        for value in ("", kept[8:]):
            stranger.set_cookie(name, value)
            assert stranger.get("/api/edits").status_code == 403


def test_a_cookie_of_any_letters_is_refused_like_others(folder):
    app, _ = door(folder)
    name = f"izmet-{folder.key.read_text()[:8]}"
    given = app.test_client().get("/api/edits", headers={"Cookie": f"{name}=ключ"})
    assert given.status_code == 403
