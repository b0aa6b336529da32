"""One stream of events a tab: jobs that changed, and edits that changed elsewhere."""

from __future__ import annotations

import time
from collections.abc import Iterator

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.store import jobrows
from izmet.store.models import EditRow, database
from izmet.web.jobs import show_job
from izmet.web.schemas import EventQuery

LOOK_SECONDS = 0.1
ALIVE_SECONDS = 10
OVERLAP_SECONDS = 2.0
"""A tab lists jobs, then subscribes: what changed in between must not be missed."""

api = APIBlueprint("events", __name__, url_prefix="/api/events", abp_tags=[Tag(name="events")])


@api.get("")
def stream(query: EventQuery) -> Response:
    """Server-sent events: ``job`` with a job, ``edit`` with the number of the current revision."""
    response = Response(_events(query.edit), mimetype="text/event-stream")
    response.headers["X-Accel-Buffering"] = "no"
    return response


def _events(edit: int | None) -> Iterator[str]:
    since = time.time() - OVERLAP_SECONDS
    revision: int | None = None
    version, alive = None, 0.0
    with database.connection_context():
        while True:
            # SQLite tells cheaply whether another connection has written anything.
            now = database.pragma("data_version")
            if now != version:
                version = now
                for job in jobrows.changed_since(since):
                    since = max(since, job.changed)
                    yield f"event: job\ndata: {show_job(job).model_dump_json()}\n\n"
                current = EditRow.select(EditRow.current).where(EditRow.id == edit).scalar() if edit else None
                if current != revision:
                    revision = current
                    yield f"event: edit\ndata: {revision}\n\n"
            if time.time() - alive > ALIVE_SECONDS:
                alive = time.time()
                yield ": alive\n\n"
            time.sleep(LOOK_SECONDS)
