"""Routes of media files: put one in, list them, fetch what is derived from them."""

from __future__ import annotations

import os
from collections.abc import Iterator

import numpy as np
from flask import Response, request, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import ValidationError

from izmet.core.document.refusal import Refusal
from izmet.jobs.kinds import Listen, Slow, queue
from izmet.jobs.reading import queue_reading
from izmet.material.files import (
    FETCHED,
    INDEX,
    MEASURES,
    PACK,
    PLAYED,
    POSTER,
    SOUND,
    TABLE,
    derived_of,
    pack_of,
    ready_facts,
)
from izmet.material.songs import analysis_of
from izmet.media.frametable import FrameTable
from izmet.media.looking import TakeMeasures
from izmet.media.pack import read_frame
from izmet.media.packflow import pack_flow
from izmet.media.songfile import read_stretch, wav_stretch
from izmet.picture import flow
from izmet.picture.proposal import BECOMES
from izmet.sound.cues import Found
from izmet.sound.peaks import SETTLE_SAMPLES, band_samples
from izmet.store.assets import DERIVED_VERSION
from izmet.store.models import Asset
from izmet.web import schemas
from izmet.web.answers import answer, kept
from izmet.web.jobs import show_job
from izmet.web.packets import packet
from izmet.web.states import assets, uploads

BLOCK = 1 << 20
PIECE_BYTES = 8 << 20
"""A file comes in pieces of so many bytes: the server holds no more of it in memory."""
TAG = f"v{DERIVED_VERSION}"
"""What tells one content of an address from another: not its file's time, which is that of its last use."""

api = APIBlueprint(
    "assets",
    __name__,
    url_prefix="/api/assets",
    abp_tags=[Tag(name="assets")],
    abp_responses={404: schemas.Problem, 413: schemas.Problem, 422: schemas.Problem, 507: schemas.Problem},
)


def upload_limit() -> int:
    """The most bytes that one upload may have: ``IZMET_MAX_UPLOAD_MB``, 4096 by default."""
    return int(os.environ.get("IZMET_MAX_UPLOAD_MB", "4096")) << 20


@api.get("", responses={200: schemas.AssetList})
def list_assets() -> Response:
    """All files, the newest first."""
    return _asset_list()


def _asset_list() -> Response:
    shelf, binned = ([show_asset(asset) for asset in assets().listing(each)] for each in (False, True))
    return answer(schemas.AssetList(assets=shelf, bin=binned))


@api.post("/uploads", responses={200: schemas.UploadState})
def begin_upload(body: schemas.UploadBody) -> Response:
    """Begin to put a file in, or go on with it: the answer says from which byte."""
    return _upload_state(uploads().begin(body.upload, upload_limit()))


@api.put("/uploads", responses={200: schemas.UploadState})
def add_piece(query: schemas.PieceQuery) -> Response:
    """The next piece of a file, in the body. One in the wrong place is left alone; the answer says where."""
    request.max_content_length = (
        PIECE_BYTES + 1
    )  # a body that ends at the limit is told from one that goes on
    return _upload_state(uploads().add(query.upload, query.at, _blocks()))


@api.post("/uploads/finish", responses={202: schemas.AssetInfo})
def finish_upload(body: schemas.UploadBody) -> Response:
    """Keep a file that is whole. Reading it goes on in the background."""
    asset = uploads().finish(body.upload)
    if asset.state != "ready" or not assets().is_derived(asset):
        queue_reading(asset)
    return answer(show_asset(assets().get(asset.sha256, asset.kind)), 202)


@api.delete("/uploads", responses={200: schemas.UploadState})
def give_up_upload(body: schemas.UploadBody) -> Response:
    """Throw away what came of a file."""
    uploads().give_up(body.upload)
    return _upload_state(0)


def _upload_state(received: int) -> Response:
    return answer(schemas.UploadState(received=received, piece=PIECE_BYTES))


@api.delete("/<string:sha256>", responses={200: schemas.AssetList})
def bin_asset(path: schemas.AssetPath, query: schemas.KindQuery) -> Response:
    """Take a file off the shelf. Edits that use it keep it; it can be put back."""
    assets().put_in_bin(path.sha256, query.kind)
    return _asset_list()


@api.post("/<string:sha256>/restore", responses={200: schemas.AssetList})
def restore_asset(path: schemas.AssetPath, query: schemas.KindQuery) -> Response:
    """Put a file back on the shelf."""
    assets().take_from_bin(path.sha256, query.kind)
    return _asset_list()


@api.post("/<string:sha256>/retry", responses={202: schemas.AssetInfo})
def retry(path: schemas.AssetPath, query: schemas.KindQuery) -> Response:
    """Read a file again that could not be read."""
    queue_reading(assets().get(path.sha256, query.kind))
    return answer(show_asset(assets().get(path.sha256, query.kind)), 202)


@api.get("/<string:sha256>/analysis", responses={200: Found})
def get_analysis(path: schemas.AssetPath) -> Response:
    """What the automatic pass found in a song: readings of the beat, how sure it is, cues, sections."""
    return answer(analysis_of(assets(), assets().get(path.sha256, "song")))


@api.get("/<string:sha256>/wave")
def get_wave(path: schemas.AssetPath, query: schemas.WaveQuery) -> Response:
    """Single samples in three bands: int16, low, middle and high of each sample in turn."""
    file = derived_of(assets(), assets().get(path.sha256, "song")) / PLAYED
    if not file.exists():
        raise Refusal("not-ready", "This song has not been read yet.", path.sha256, "Wait until it is ready.")
    stretch, before, rate = read_stretch(file, query.begin, query.count, SETTLE_SAMPLES)
    bands = band_samples(stretch, rate)[before:]
    samples = (bands * 32767).astype("<i2").tobytes()
    return kept(Response(samples, mimetype="application/octet-stream"), TAG)


@api.get("/<string:sha256>/sound")
def get_sound(path: schemas.AssetPath, query: schemas.SoundQuery) -> Response:
    """Some seconds of a take's own sound, as WAV; no content where there is none."""
    asset = assets().get(path.sha256, "take")
    ready_facts(asset)
    file = derived_of(assets(), asset) / SOUND
    sound = wav_stretch(file, query.begin, query.seconds) if file.exists() else None
    return kept(Response(sound, 200 if sound else 204, mimetype="audio/wav"), TAG)


@api.get("/<string:sha256>/measures", responses={200: schemas.TakeMeasuresInfo})
def get_measures(path: schemas.AssetPath) -> Response:
    """What was seen in a take, and what is proposed. The body is a packet."""
    asset = assets().get(path.sha256, "take")
    ready_facts(asset)
    folder = derived_of(assets(), asset)
    found, table = TakeMeasures.load(folder / MEASURES), FrameTable.load(folder / TABLE)
    response = packet(
        schemas.TakeMeasuresInfo.model_construct(
            light=found.light,
            dx=found.dx,
            dy=found.dy,
            moves=found.moves,
            loud=found.loud,
            fresh=(np.diff(table.distinct_of, prepend=-1) > 0).astype(np.int16),
            distinct=[schemas.StretchInfo(begin=begin, rate=rate) for begin, rate in found.distinct],
            proposals=[
                schemas.ProposalInfo(**each._asdict(), becomes=BECOMES[each.kind]) for each in found.proposals
            ],
        )
    )
    return kept(response, TAG)


@api.post("/<string:sha256>/listen", responses={202: schemas.JobInfo})
def hear_all(path: schemas.AssetPath) -> Response:
    """Hear all of a long song of which only the beginning has been heard."""
    song = assets().get(path.sha256, "song")
    ready_facts(song)
    return answer(show_job(queue(Listen(asset=song.sha256, name=song.name))), 202)


@api.post("/<string:sha256>/slow", responses={202: schemas.JobInfo})
def make_slow(path: schemas.AssetPath, body: schemas.SlowBody) -> Response:
    """Make a slow copy of a song, to listen to; it can then be fetched as slow-2.flac or slow-4.flac."""
    asset = assets().get(path.sha256, "song")
    return answer(show_job(queue(Slow(asset=asset.sha256, name=asset.name, factor=body.factor))), 202)


@api.get("/<string:sha256>/<string:file>")
def get_derived(path: schemas.DerivedPath) -> Response:
    """What is derived from a file; ranges are served."""
    made = FETCHED[path.file]
    asset = assets().get(path.sha256, made.kind)
    file = (pack_of if path.file == PACK else derived_of)(assets(), asset) / path.file
    if not file.exists():
        raise Refusal(
            "no-such-part", "This has not been made yet.", path.file, "Wait until the file is read."
        )
    return kept(send_file(file, mimetype=made.mimetype, conditional=True, etag=TAG), TAG)


@api.get("/<string:sha256>/frames/<int:frame>")
def get_frame(path: schemas.FramePath, query: schemas.FrameQuery) -> Response:
    """One source frame's proxy picture, as a JPEG."""
    asset = assets().get(path.sha256, "take")
    if query.poster and not (derived_of(assets(), asset) / PACK).exists():
        return send_file(derived_of(assets(), asset) / POSTER, mimetype="image/jpeg", max_age=0)
    folder = pack_of(assets(), asset)
    jpeg = read_frame(folder / PACK, folder / INDEX, path.frame)
    if jpeg is None:
        raise Refusal("no-such-frame", f"There is no frame {path.frame} here.", path.sha256)
    return kept(Response(jpeg, mimetype="image/jpeg"), TAG)


@api.get("/<string:sha256>/flow")
def get_flow(path: schemas.AssetPath, query: schemas.PairQuery) -> Response:
    """How two source frames move to one another (see ``media.packflow``); no content between two scenes."""
    folder = pack_of(assets(), assets().get(path.sha256, "take"))
    found = pack_flow(folder / PACK, folder / INDEX, query.first, query.second)
    if found is None:
        raise Refusal("no-such-frame", "There are no such frames here.", path.sha256)
    status = 200 if found else 204
    return kept(Response(found, status, mimetype="application/octet-stream"), f"{TAG}-{flow.VERSION}")


def show_asset(asset: Asset) -> schemas.AssetInfo:
    """An asset as the browser gets it; one whose facts make no sense is named, and can be read again."""
    try:
        return schemas.AssetInfo.model_validate(asset, from_attributes=True)
    except ValidationError:
        problem = schemas.Problem(
            code="unreadable", what="What was found in this file makes no sense.", remedy="Read it again."
        )
        return schemas.AssetInfo(
            sha256=asset.sha256,
            kind=asset.kind,
            name=asset.name,
            size=asset.size,
            state="failed",
            error=problem,
        )


def _blocks() -> Iterator[bytes]:
    while block := request.stream.read(BLOCK):
        yield block
