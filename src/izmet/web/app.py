"""Puts the web interface together."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError

from izmet.store.assets import Assets
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.uploads import Uploads
from izmet.web import arranging, assets, edits, guard, history, jobs, news, problems, titles, workers
from izmet.web.admission import Admission
from izmet.web.pages import pages


def create_app(folder: DataFolder, admission: Admission | None = None) -> OpenAPI:
    """The Flask app that serves a data folder, to all who know where it is when nobody stands at the door."""
    database = open_database(folder.prepare())
    app = OpenAPI(
        __name__,
        info=Info(title="Izmet", version="1"),
        security_schemes={},
        validation_error_status=422,
        validation_error_callback=_invalid,
        doc_ui=False,
        static_folder=None,
    )
    app.extensions["izmet.folder"] = folder
    held = Assets(folder)
    app.extensions["izmet.assets"] = held
    app.extensions["izmet.uploads"] = Uploads(folder, held)

    @app.before_request
    def connect() -> None:
        # Each of the server's few threads keeps its connection: opening one costs more than most questions.
        database.connect(reuse_if_open=True)

    guard.register(app)
    if admission is not None:
        admission.register(app)
    problems.register(app)
    for part in (edits, history, arranging, assets, jobs, news, titles, workers):
        app.register_api(part.api)
    app.register_blueprint(pages)
    return app


def _invalid(error: ValidationError) -> Any:
    return problems.invalid(error)
