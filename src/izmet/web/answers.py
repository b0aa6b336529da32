"""Models as JSON answers."""

from __future__ import annotations

import re
from urllib.parse import quote

from flask import Response, make_response, request
from pydantic import BaseModel


def answer(model: BaseModel, status: int = 200) -> Response:
    """A model as a JSON answer."""
    response = make_response(model.model_dump_json(), status)
    response.mimetype = "application/json"
    return response


def kept(response: Response, tag: str) -> Response:
    """An answer that the browser keeps, and asks for again only when it would come out differently."""
    response.set_etag(tag)
    response.headers.pop("Last-Modified", None)
    response.headers["Cache-Control"] = "private, no-cache"
    response.make_conditional(request)
    return response


UNSAFE = re.compile(r"[\x00-\x1f\x7f\u2028\u2029/\\\\]+")


def as_file(response: Response, name: str) -> Response:
    """An answer to be saved under a name in any script.

    Source: RFC 6266 with the extended notation of RFC 8187; the plain one beside it
    is for programs that do not know that.
    """
    safe = UNSAFE.sub(" ", name).strip(" .") or "izmet"
    plain = re.sub(r'[^ -~]|["%]', "_", safe)
    value = f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(safe, safe='')}"
    response.headers["Content-Disposition"] = value
    return response
