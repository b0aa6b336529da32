"""What is new: jobs and edits that changed. A browser asks some times a second, for all its tabs at once."""

from __future__ import annotations

import time

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.store import edits, jobrows
from izmet.store.database import BUSY_SECONDS
from izmet.web import schemas
from izmet.web.answers import answer
from izmet.web.jobs import show_job

OVERLAP_SECONDS = BUSY_SECONDS + 1.0
"""A tab lists jobs, then asks for news; a change has its instant before it is written, which may have to
wait: neither must be missed."""

api = APIBlueprint("news", __name__, url_prefix="/api/news", abp_tags=[Tag(name="news")])


@api.get("", responses={200: schemas.News})
def get_news(query: schemas.NewsQuery) -> Response:
    """Jobs that changed since an instant or shortly before, and the revisions of edits that did."""
    now = time.time()
    # A clock of the wall may be put back: nothing is then missed for good.
    since = min(query.since or now, now) - OVERLAP_SECONDS
    moved = [schemas.EditMoved(edit=id, revision=revision) for id, revision in edits.moved_since(since)]
    jobs = [show_job(job) for job in jobrows.changed_since(since)]
    return answer(schemas.News(now=now, jobs=jobs, edits=moved))
