"""Routes of what is proposed: working backwards, shifting the song, recipes."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.core.arrange.backwards import work_backwards
from izmet.core.arrange.recipes import SHIPPED
from izmet.core.arrange.shift import least_shift
from izmet.store import edits
from izmet.web import schemas
from izmet.web.answers import answer

api = APIBlueprint(
    "arranging",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="arranging")],
    abp_responses={404: schemas.Problem, 422: schemas.Problem},
)


@api.post("/edits/<int:id>/backwards", responses={200: schemas.Arrangements})
def backwards(path: schemas.EditPath, body: schemas.Backwards) -> Response:
    """Which earlier moments should land on which earlier cues. Nothing is changed."""
    found = work_backwards(
        edits.current(path.id).edit, body.clip, body.pin, body.cues, body.slowest, body.fastest
    )
    return answer(schemas.Arrangements(arrangements=found))


@api.get("/edits/<int:id>/shift", responses={200: schemas.ShiftInfo})
def shift(path: schemas.EditPath) -> Response:
    """By how little the song would move for the landings to fall closest to their cues."""
    return answer(schemas.ShiftInfo(shift=least_shift(edits.current(path.id).edit)))


@api.get("/recipes", responses={200: schemas.RecipeList})
def recipes() -> Response:
    """The recipes that come with the app."""
    return answer(schemas.RecipeList(recipes=list(SHIPPED)))
