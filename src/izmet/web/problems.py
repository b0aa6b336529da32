"""Refusals and faults as JSON: always what, where and what to do, never a stack trace."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Sequence

import peewee
from flask import Flask, Response
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from izmet.core.commands.repairs import Repair
from izmet.core.document.refusal import Place, Refusal
from izmet.jobs.reading import queue_reading
from izmet.material.files import Gone
from izmet.media.faults import full_disk
from izmet.store.database import database_refusal
from izmet.store.edits import Stale
from izmet.web.answers import answer
from izmet.web.schemas import Problem, RefusedWish, StaleProblem
from izmet.web.states import state_of

log = logging.getLogger(__name__)

NOT_FOUND = "no-such-"
STATUS = {"too-large": 413, "disk-full": 507, "not-ready": 409, "busy": 503, "database": 503}


def register(app: Flask) -> None:
    """Answer every kind of failure with a Problem."""
    app.register_error_handler(Refusal, refused)
    app.register_error_handler(Gone, _gone)
    app.register_error_handler(Stale, _stale)
    app.register_error_handler(peewee.OperationalError, lambda error: refused(database_refusal(error)))
    app.register_error_handler(OSError, _disk)
    for error in (RecursionError, OverflowError):
        app.register_error_handler(error, _too_deep)
    app.register_error_handler(RequestEntityTooLarge, _body_too_large)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _fault)


def invalid(error: ValidationError) -> Response:
    """The answer to a request that does not have its shape."""
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    what = f"{first['msg'].removeprefix('Value error, ')}."
    return answer(Problem(code="bad-request", what=what, where=where, remedy="Correct this field."), 422)


def refused(refusal: Refusal, instead: Sequence[Repair] = ()) -> Response:
    """The answer to a wish that cannot be granted, with what could be done instead."""
    problem = problem_of(refusal, instead)
    if refusal.code.startswith(NOT_FOUND):
        return answer(problem, 404)
    return answer(problem, STATUS.get(refusal.code, 422))


def problem_of(refusal: Refusal, instead: Sequence[Repair] = ()) -> RefusedWish:
    """A refusal as it is told."""
    return RefusedWish.model_validate({**refusal.as_dict(), "repairs": list(instead)})


def _gone(gone: Gone) -> Response:
    """What was made of a file is made again, while the person is told to wait."""
    if gone.asset.state == "ready":
        queue_reading(gone.asset)
    return refused(gone)


def _stale(stale: Stale) -> Response:
    clips = tuple(sorted({part.id for part in stale.both if part.field == "clips" and part.id}))
    take = next((part.id for part in sorted(stale.both) if part.field == "takes"), None)
    problem = StaleProblem(
        code="stale-revision",
        what="This was changed elsewhere in the meantime."
        if stale.both
        else f"The edit was changed elsewhere: it is at revision {stale.current.revision}, not {stale.base}.",
        where="base",
        about=Place(clips=clips, take=take) if clips or take else None,
        remedy="The current edit is shown now; make your change again.",
        current=state_of(stale.current),
    )
    return answer(problem, 409)


def _disk(error: OSError) -> Response:
    full = full_disk(error)
    return _fault(error) if full is None else refused(full)


def _too_deep(error: Exception) -> Response:
    problem = Problem(
        code="bad-request", what="The request is nested too deep, or holds a number that is too large."
    )
    return answer(problem, 422)


def _body_too_large(error: RequestEntityTooLarge) -> Response:
    problem = Problem(
        code="too-large", what="The request's body is larger than is taken here.", remedy="Send less."
    )
    return answer(problem, 413)


def _http(error: HTTPException) -> Response:
    code = (error.name or "error").lower().replace(" ", "-")
    return answer(Problem(code=code, what=error.description or code), error.code or 500)


def _fault(error: Exception) -> Response:
    number = secrets.token_hex(3)
    log.error("fault %s", number, exc_info=error)
    problem = Problem(
        code="internal",
        what=f"Something went wrong inside Izmet: fault {number}.",
        remedy="Nothing was changed. Look for that number in the server's log.",
    )
    return answer(problem, 500)
