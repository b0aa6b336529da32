"""Models as JSON answers."""

from __future__ import annotations

from flask import Response, make_response
from pydantic import BaseModel


def answer(model: BaseModel, status: int = 200) -> Response:
    """A model as a JSON answer."""
    response = make_response(model.model_dump_json(), status)
    response.mimetype = "application/json"
    return response
