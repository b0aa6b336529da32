"""Routes of background work: list, cancel, try again, fetch the exported file."""

from __future__ import annotations

from pathlib import Path

from flask import Response, current_app, make_response, send_file
from flask_openapi3 import APIBlueprint, Tag

from izmet.core.document.refusal import Refusal
from izmet.jobs.kinds import Export, work_of
from izmet.jobs.poster import poster_of
from izmet.jobs.proof import proof_page
from izmet.jobs.review import SMALL, review_page, small_copy
from izmet.media.formats import FORMATS
from izmet.store import edits, jobrows
from izmet.store.datafolder import DataFolder
from izmet.store.models import Job
from izmet.web import schemas
from izmet.web.answers import answer, as_file

api = APIBlueprint(
    "jobs",
    __name__,
    url_prefix="/api/jobs",
    abp_tags=[Tag(name="jobs")],
    abp_responses={404: schemas.Problem, 422: schemas.Problem},
)


def show_job(job: Job) -> schemas.JobInfo:
    """A job as the browser gets it."""
    if job.kind == Export.kind:
        # Rows of early versions are told as those of today.
        job.args = work_of(job).model_dump(mode="json")
    return schemas.JobInfo.model_validate(job, from_attributes=True)


@api.get("", responses={200: schemas.JobList})
def list_jobs() -> Response:
    """Jobs that were not cancelled, the newest first."""
    return show_jobs()


def show_jobs(status: int = 200) -> Response:
    """All jobs as the browser gets them."""
    return answer(schemas.JobList(jobs=[show_job(job) for job in jobrows.listing()]), status)


@api.get("/<int:id>", responses={200: schemas.JobInfo})
def get_job(path: schemas.JobPath) -> Response:
    """One job."""
    return answer(show_job(jobrows.get(path.id)))


@api.post("/<int:id>/cancel", responses={200: schemas.JobInfo})
def cancel_job(path: schemas.JobPath) -> Response:
    """Ask a job to stop."""
    jobrows.get(path.id)
    jobrows.cancel(path.id)
    return answer(show_job(jobrows.get(path.id)))


@api.post("/<int:id>/retry", responses={202: schemas.JobInfo})
def retry_job(path: schemas.JobPath) -> Response:
    """Do a job again that failed or was cancelled."""
    jobrows.get(path.id)
    jobrows.retry(path.id)
    return answer(show_job(jobrows.get(path.id)), 202)


@api.get("/<int:id>/file")
def get_file(path: schemas.JobPath) -> Response:
    """The exported file."""
    _, work, file = _exported(path.id)
    chosen = FORMATS[work.delivery.format]
    sent = send_file(file, mimetype=chosen.mimetype, conditional=True)
    return as_file(sent, f"{work.title}.{chosen.ending}")


@api.get("/<int:id>/proof")
def get_proof(path: schemas.JobPath) -> Response:
    """The landing report of an export as a page by itself."""
    job, work, file = _exported(path.id)
    edit = work.delivery.of(edits.at_revision(work.edit, work.revision))
    page = make_response(proof_page(job.result, file, work.title, work.delivery.said(edit)))
    page.mimetype = "text/html"
    return as_file(page, f"{work.title}, landings.html")


@api.get("/<int:id>/poster")
def get_poster(path: schemas.JobPath, query: schemas.PosterQuery) -> Response:
    """A picture of a finished file as JPEG."""
    job, work, file = _exported(path.id)
    if FORMATS[work.delivery.format].video is None:
        raise Refusal("no-film", "This file has no video.", work.title, "Export it in another format.")
    answered = make_response(poster_of(file, min(query.index, job.result["frames"] - 1)))
    answered.mimetype = "image/jpeg"
    return as_file(answered, f"{work.title}, poster.jpg")


@api.get("/<int:id>/review")
def get_review(path: schemas.JobPath) -> Response:
    """A finished file as a page by itself, on which notes can be made."""
    job, work, file = _exported(path.id)
    if FORMATS[work.delivery.format].video is None:
        raise Refusal("no-film", "There is no film to review.", work.title, "Export it in another format.")
    edit = work.delivery.of(edits.at_revision(work.edit, work.revision))
    small = small_copy(file, file.with_name(f"{file.stem}-{SMALL}"), job.result["frames"] / edit.rate)
    page = make_response(review_page(job.result, small, edit, work.title))
    page.mimetype = "text/html"
    return as_file(page, f"{work.title}, review.html")


def _exported(id: int) -> tuple[Job, Export, Path]:
    """A finished export and its file. Raises Refusal where there is none."""
    job = jobrows.get(id)
    folder: DataFolder = current_app.extensions["izmet.folder"]
    gone = Refusal("no-such-file", "There is no finished file of this job.", remedy="Export again.")
    work = work_of(job)
    if not isinstance(work, Export) or job.state != "done":
        raise gone
    file = folder.exports / f"{job.id}.{FORMATS[work.delivery.format].ending}"
    if not file.exists():
        raise gone
    return job, work, file
