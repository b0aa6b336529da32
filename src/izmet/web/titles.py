"""The route of what is written: the picture of a title, for the preview."""

from __future__ import annotations

from io import BytesIO

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from PIL import Image

from izmet.picture import lettering
from izmet.web import schemas
from izmet.web.answers import kept

api = APIBlueprint(
    "titles",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="titles")],
    abp_responses={422: schemas.Problem},
)


@api.get("/lettering", responses={200: None})
def get_lettering(query: schemas.LetteringQuery) -> Response:
    """The picture of a title in a frame of this size, as PNG: its letters, in the middle of as much around
    them as their shadow or plate takes."""
    drawn = lettering.lettered(query, (query.width, query.height))
    file = BytesIO()
    Image.fromarray(drawn).save(file, "png", compress_level=1)
    return kept(Response(file.getvalue(), mimetype="image/png"), f"lettered-{lettering.VERSION}")
