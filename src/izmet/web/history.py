"""Routes of an edit's past: all that was done, going there, naming it, comparing with it."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.store import edits
from izmet.web import schemas
from izmet.web.answers import answer
from izmet.web.edits import changed

api = APIBlueprint(
    "history",
    __name__,
    url_prefix="/api/edits",
    abp_tags=[Tag(name="history")],
    abp_responses={404: schemas.Problem, 409: schemas.StaleProblem, 422: schemas.Problem},
)


@api.get("/<int:id>/history", responses={200: schemas.EditHistory})
def get_history(path: schemas.EditPath) -> Response:
    """All revisions of an edit, the newest first."""
    return _history(path.id)


@api.post("/<int:id>/go", responses={200: schemas.EditChanged})
def go_to(path: schemas.EditPath, body: schemas.GoTo) -> Response:
    """Go to another revision. What was made after it stays in the history."""
    return changed(path.id, body.base, edits.go_to(path.id, body.base, body.revision))


@api.post("/<int:id>/revisions/<int:revision>/name", responses={200: schemas.EditHistory})
def name_revision(path: schemas.RevisionPath, body: schemas.RevisionName) -> Response:
    """Name a revision, to find it again."""
    edits.name_revision(path.id, path.revision, body.name.strip())
    return _history(path.id)


def _history(id: int) -> Response:
    past = [schemas.PastEntry.model_validate(entry, from_attributes=True) for entry in edits.history(id)]
    return answer(schemas.EditHistory(revisions=past))
