"""Who may come in: whoever opened the address that was printed, and nobody else on this machine.

The address carries a token that counts once; for it the browser gets a cookie, which it
sends to this site alone. What the cookie holds lies in the data folder, which only its
owner can read, so a browser that was let in once is let in after a restart too.
"""

from __future__ import annotations

import hmac
import secrets
from urllib.parse import urlencode

from flask import Flask, Response, redirect, request
from werkzeug.wrappers import Response as AnyResponse

from izmet.store.datafolder import DataFolder, clear
from izmet.web.answers import answer
from izmet.web.schemas import Problem

TOKEN = "token"
ONE_YEAR = 31_536_000
KEY_LENGTH = 64


class Admission:
    """The door of one server."""

    def __init__(self, folder: DataFolder):
        self._key = _key(folder)
        # Cookies know no ports: every data folder has a name of its own.
        self._cookie = f"izmet-{self._key[:8]}"
        self._token: str | None = secrets.token_urlsafe(24)

    def address(self, address: str) -> str:
        """An address with the token that lets its browser in, once."""
        return f"{address}?{urlencode({TOKEN: self._token})}"

    def register(self, app: Flask) -> None:
        """Check every request."""
        app.before_request(self._check)

    def _check(self) -> AnyResponse | None:
        given, known = request.args.get(TOKEN), self._is_known()
        if given is not None and request.method == "GET" and (known or self._takes(given)):
            return self._let_in()
        return None if known else _refused()

    def _is_known(self) -> bool:
        given = request.cookies.get(self._cookie, "")
        # As bytes: a cookie may hold anything, and text outside ASCII cannot be compared.
        return bool(given) and hmac.compare_digest(given.encode(), self._secret.encode())

    def _takes(self, given: str) -> bool:
        """Whether the token is the one that was printed; it does not count again."""
        if self._token is None or not hmac.compare_digest(given.encode(), self._token.encode()):
            return False
        self._token = None
        return True

    @property
    def _secret(self) -> str:
        return self._key[8:]

    def _let_in(self) -> AnyResponse:
        response = redirect(request.path)
        response.set_cookie(
            self._cookie, self._secret, max_age=ONE_YEAR, httponly=True, samesite="Strict", path="/"
        )
        return response


def _key(folder: DataFolder) -> str:
    """What the cookie's name and content are made of, made once for a data folder.

    One that was not written whole, as on a full disk, is made anew: it must never be short.
    """
    kept = folder.key.read_text() if folder.key.exists() else ""
    if len(kept) == KEY_LENGTH:
        return kept
    part = folder.key.with_suffix(".part")
    clear(part)
    part.touch(mode=0o600)
    part.write_text(secrets.token_hex(KEY_LENGTH // 2))
    part.replace(folder.key)
    return folder.key.read_text()


def _refused() -> Response:
    problem = Problem(
        code="not-let-in",
        what="This Izmet was not opened from the address that it printed.",
        remedy="Open that address once in this browser. It counts once: start Izmet again for another.",
    )
    if request.path.startswith("/api/"):
        return answer(problem, 403)
    text = f"{problem.what}\n{problem.remedy}\n"
    return Response(text, 403, mimetype="text/plain")
