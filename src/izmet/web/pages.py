"""The built front end: hashed files for ever, the page that names them never from a cache."""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Response, send_from_directory

STATIC = Path(__file__).parent / "static"
ONE_YEAR = 31_536_000

pages = Blueprint("pages", __name__)


@pages.get("/assets/<path:name>")
def hashed(name: str) -> Response:
    """A script, style or font whose name holds its hash."""
    response = send_from_directory(STATIC / "assets", name, max_age=ONE_YEAR)
    response.headers["Cache-Control"] = f"public, max-age={ONE_YEAR}, immutable"
    return response


@pages.get("/")
@pages.get("/workers")
@pages.get("/edits/<int:id>")
def page(id: int | None = None) -> Response:
    """The one page; the front end's router does the rest."""
    response = send_from_directory(STATIC, "index.html")
    response.headers["Cache-Control"] = "no-cache"
    if id is not None:
        # The edit is on its way while the script is still read.
        response.headers["Link"] = f"</api/edits/{id}>; rel=preload; as=fetch; crossorigin"
    return response


@pages.get("/favicon.svg")
def icon() -> Response:
    """The page's icon."""
    return send_from_directory(STATIC, "favicon.svg")
