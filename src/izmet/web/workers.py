"""The route of workers: who makes parts of films, at what, and how quickly."""

from __future__ import annotations

from functools import cache

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.farm.line import GONE, Line
from izmet.farm.place import Place
from izmet.farm.task import VERSION
from izmet.web import schemas
from izmet.web.answers import answer

api = APIBlueprint("workers", __name__, url_prefix="/api/workers", abp_tags=[Tag(name="workers")])


@api.get("", responses={200: schemas.Workers})
def get_workers() -> Response:
    """Who makes parts of films, and how many stand in line; this machine alone where no Redis was given."""
    place = Place.given()
    if place is None:
        return answer(schemas.Workers(state="alone", version=VERSION))
    line = _line(place)
    try:
        store, waiting, workers = line.store_missed(), line.waiting(), line.workers()
        found = schemas.Workers(
            state="shared", version=VERSION, store=store, waiting=waiting, workers=workers
        )
    except GONE:
        found = schemas.Workers(state="away", version=VERSION)
    return answer(found)


@cache
def _line(place: Place) -> Line:
    return Line(place.redis, place.key())
