"""Routes of edits: open, change, dry-run, undo, bring in files, export."""

from __future__ import annotations

from hashlib import sha256
from typing import Any
from uuid import uuid4

from flask import Response, make_response, request
from flask_openapi3 import APIBlueprint, Tag

from izmet.core.commands import Command, attempt
from izmet.core.commands.bundles import bundle_of
from izmet.core.commands.common import song_of as song_of_edit
from izmet.core.commands.framing import check_inside
from izmet.core.commands.music import AddCues, AnalyseAgain, UseSong
from izmet.core.commands.repairs import repairs
from izmet.core.commands.sounds import AddSound, ChangeSound
from izmet.core.commands.takes import RelinkSong, RelinkTake, UseTake
from izmet.core.document.cuekinds import BEATS
from izmet.core.document.edit import CueSelection, Edit, Song, parse_edit
from izmet.core.document.refusal import Refusal
from izmet.core.music.comparing import CueChanges, changes
from izmet.core.music.selection import chosen
from izmet.core.music.tapping import draw_to
from izmet.core.shown.pictures import counted_pictures
from izmet.core.shown.stack import frames_exported
from izmet.exchange.formats import FORMATS, read_cues
from izmet.jobs.bundling import check_no_circle, renew_bundles
from izmet.jobs.delivery import Delivery
from izmet.jobs.kinds import Export, FollowPoint, MakeBundle, queue
from izmet.jobs.review import read_notes
from izmet.material.mixes import mixer_of
from izmet.material.songs import analysis_of, song_of
from izmet.material.sounds import recorded_of
from izmet.material.takes import counted_of, take_of
from izmet.media.render import sound_under
from izmet.sound.levelling import measured
from izmet.sound.loudness import decibels, told
from izmet.store import edits
from izmet.store.models import Asset
from izmet.web import schemas
from izmet.web.answers import answer, as_file
from izmet.web.jobs import show_job, show_jobs
from izmet.web.packets import packet
from izmet.web.problems import problem_of, refused
from izmet.web.states import assets, changed_since, derived_change, state_of

MOST_CUE_BYTES = 8 << 20
REPLACE_MARGIN = 0.06
"""Seconds around a tapped pass in which it replaces what was there."""

api = APIBlueprint(
    "edits",
    __name__,
    url_prefix="/api/edits",
    abp_tags=[Tag(name="edits")],
    abp_responses={404: schemas.Problem, 409: schemas.StaleProblem, 422: schemas.RefusedWish},
)


@api.get("", responses={200: schemas.EditList})
def list_edits() -> Response:
    """All edits, the newest first."""
    return _edit_list()


def _edit_list() -> Response:
    return answer(schemas.EditList(edits=_listed(False), bin=_listed(True)))


def _listed(binned: bool) -> list[schemas.EditSummary]:
    rows = edits.listing(binned)
    return [schemas.EditSummary.model_validate(row, from_attributes=True) for row in rows]


@api.post("", responses={201: schemas.EditState})
def new_edit(body: schemas.NewEdit) -> Response:
    """Begin an edit."""
    stored = edits.create(Edit(title=body.title, rate=body.rate, width=body.width, height=body.height))
    return answer(state_of(stored), 201)


@api.post("/import", responses={201: schemas.EditState})
def import_edit() -> Response:
    """Open an edit document; media that is not here is named as missing and can be linked."""
    document: Any = request.get_json(silent=True)
    return answer(state_of(edits.create(parse_edit(document), reason="opened from a document")), 201)


@api.delete("/<int:id>", responses={200: schemas.EditList})
def bin_edit(path: schemas.EditPath) -> Response:
    """Throw an edit away. It lies in the bin until it is brought back."""
    edits.put_in_bin(path.id)
    return _edit_list()


@api.post("/<int:id>/duplicate", responses={200: schemas.EditList})
def duplicate_edit(path: schemas.EditPath) -> Response:
    """One more edit like this one."""
    edits.duplicate(path.id)
    return _edit_list()


@api.post("/<int:id>/restore", responses={200: schemas.EditList})
def restore_edit(path: schemas.EditPath) -> Response:
    """Bring an edit back from the bin."""
    edits.take_from_bin(path.id)
    return _edit_list()


@api.get("/<int:id>", responses={200: schemas.EditState})
def get_edit(path: schemas.EditPath) -> Response:
    """An edit at its current revision."""
    return answer(state_of(edits.current(path.id)))


@api.post("/<int:id>/bundle", responses={202: schemas.JobInfo})
def bundle(path: schemas.EditPath, body: schemas.NewBundle) -> Response:
    """Make a take of some clips, which it then stands for, or of another whole edit."""
    edit = edits.at_base(path.id, body.base)
    if body.edit is None:
        bundle_of(edit, body.clips, body.title)  # refused now, not when its turn comes
        of, name, base = _identity_for(path.id, body), body.title, body.base
    else:
        check_no_circle(body.edit, path.id)
        of, name, base = edits.identity_of(body.edit), edits.current(body.edit).edit.title, None
    work = MakeBundle(of=of, into=path.id, clips=body.clips, base=base, name=name)
    return answer(show_job(queue(work)), 202)


@api.post("/<int:id>/follow", responses={202: schemas.JobInfo})
def follow(path: schemas.EditPath, body: schemas.PointToFollow) -> Response:
    """Have a tracked point followed through a take, from one frame on."""
    edit = edits.at_base(path.id, body.base)
    take = edit.take(body.take)
    edit.track(body.take, body.track)
    check_inside(take, body.frame)
    work = FollowPoint(into=path.id, name=take.media.name, **body.model_dump(exclude={"base"}))
    return answer(show_job(queue(work)), 202)


@api.post("/<int:id>/renew-bundles", responses={202: schemas.JobList})
def renew(path: schemas.EditPath) -> Response:
    """Have the bundles made anew whose edits have changed, each state of them once."""
    renew_bundles(path.id)
    return show_jobs(202)


def _identity_for(into: int, body: schemas.NewBundle) -> str:
    """Of the edit that some clips become: the same when two tabs ask for it at once."""
    asked = f"{edits.identity_of(into)} {body.model_dump_json()}"
    identity = sha256(asked.encode()).hexdigest()[:32]
    return identity if edits.known_as(identity) is None else uuid4().hex


@api.get("/<int:id>/document", responses={200: Edit})
def get_document(path: schemas.EditPath) -> Response:
    """The edit document, to keep or to render elsewhere."""
    edit = edits.document(path.id)
    response = make_response(edit.model_dump_json(indent=2, exclude_defaults=False))
    response.mimetype = "application/json"
    return as_file(response, f"{edit.title}.izmet.json")


@api.post("/<int:id>/commands", responses={200: schemas.EditChanged})
def run_command(path: schemas.EditPath, body: schemas.RunCommand) -> Response:
    """Change an edit. A refusal comes with what could be done instead."""
    with counted_pictures(counted_of(assets(), edits.current(path.id).edit)):
        try:
            stored = edits.run(path.id, body.base, body.command)
        except Refusal as refusal:
            instead = repairs(edits.at_revision(path.id, body.base), body.command, refusal)
            return refused(refusal, instead)
    return changed(path.id, body.base, stored)


@api.post("/<int:id>/dry-run", responses={200: schemas.Outcomes})
def dry_run(path: schemas.EditPath, body: schemas.DryRun) -> Response:
    """What would change by each of some commands, without keeping it: for live dragging, and ahead of it.

    The body is a packet.
    """
    before = edits.at_base(path.id, body.base)
    outcomes = [_outcome(before, command) for command in body.commands]
    return packet(schemas.Outcomes.model_construct(outcomes=outcomes))


def _outcome(before: Edit, command: Command) -> schemas.Outcome:
    try:
        change = derived_change(before, attempt(before, command))
    except Refusal as refusal:
        return schemas.Outcome.model_construct(change=None, refused=problem_of(refusal))
    return schemas.Outcome.model_construct(change=change, refused=None)


@api.post("/<int:id>/undo", responses={200: schemas.EditChanged})
def undo(path: schemas.EditPath, body: schemas.Base) -> Response:
    """Go back to the revision before."""
    return changed(path.id, body.base, edits.undo(path.id, body.base))


@api.post("/<int:id>/redo", responses={200: schemas.EditChanged})
def redo(path: schemas.EditPath, body: schemas.Base) -> Response:
    """Go forward again."""
    return changed(path.id, body.base, edits.redo(path.id, body.base))


@api.post("/<int:id>/taps", responses={200: schemas.EditChanged})
def tap(path: schemas.EditPath, body: schemas.Taps) -> Response:
    """Set a cue at every tap, drawn to the music's own attacks where one is near."""
    edit = edits.at_base(path.id, body.base)
    times = sorted(body.times)
    drawn = draw_to(times, _attacks(edit), body.window) if body.window else times
    cues = tuple((time, body.kind, 1.0) for time in drawn)
    replace = (max(0.0, times[0] - REPLACE_MARGIN), times[-1] + REPLACE_MARGIN) if body.replace else None
    return changed(path.id, body.base, edits.run(path.id, body.base, AddCues(cues=cues, replace=replace)))


@api.post("/<int:id>/chosen", responses={200: schemas.Chosen})
def choose_cues(path: schemas.EditPath, body: CueSelection) -> Response:
    """The cues that a selection takes, saved or not: for a live count."""
    song = song_of_edit(edits.current(path.id).edit)
    return answer(schemas.Chosen(cues=[cue.id for cue in chosen(song, body)]))


@api.get("/<int:id>/analysis-changes", responses={200: CueChanges})
def compare_cues(path: schemas.EditPath) -> Response:
    """What taking over the automatic pass anew would change. Cues made by hand are never touched."""
    song = song_of_edit(edits.current(path.id).edit)
    return answer(changes(song, analysis_of(assets(), _song_asset(song)).cues))


@api.post("/<int:id>/analyse-again", responses={200: schemas.EditChanged})
def reread(path: schemas.EditPath, body: schemas.Base) -> Response:
    """Take over the automatic pass anew."""
    song = song_of(assets(), _song_asset(song_of_edit(edits.at_base(path.id, body.base))))
    command = AnalyseAgain(cues=song.cues, sections=song.sections, meter=song.meter)
    return changed(path.id, body.base, edits.run(path.id, body.base, command))


@api.post("/<int:id>/notes", responses={200: schemas.EditChanged})
def bring_notes(path: schemas.EditPath, query: schemas.NotesUpload) -> Response:
    """Notes from a file that a review page saved; the body is the file itself."""
    request.max_content_length = MOST_CUE_BYTES
    command = read_notes(request.get_data(), query.name, edits.at_base(path.id, query.base))
    return changed(path.id, query.base, edits.run(path.id, query.base, command))


@api.get("/<int:id>/cues/<string:ending>")
def get_cues(path: schemas.CueFilePath, query: schemas.CueFileQuery) -> Response:
    """The cues as a file for other programs."""
    edit = edits.current(path.id).edit
    song, format = song_of_edit(edit), FORMATS[path.ending]
    picked = next((each for each in song.selections if each.id == query.selection), None)
    cues = chosen(song, picked) if picked else song.cues
    response = make_response(format.write(song, cues))
    response.mimetype = format.mimetype
    return as_file(response, f"{edit.title} cues.{path.ending}")


@api.post("/<int:id>/cues", responses={200: schemas.EditChanged})
def bring_cues(path: schemas.EditPath, query: schemas.CueUpload) -> Response:
    """Cues from a file; the body is the file itself."""
    request.max_content_length = MOST_CUE_BYTES
    duration = song_of_edit(edits.at_base(path.id, query.base)).duration
    marks = read_cues(request.get_data(), query.name, duration)
    cues = tuple((mark.time, mark.kind, mark.strength) for mark in marks)
    command = AddCues(cues=cues, replace=(0.0, duration) if query.replace else None)
    return changed(path.id, query.base, edits.run(path.id, query.base, command))


@api.post("/<int:id>/use", responses={200: schemas.EditChanged})
def use_asset(path: schemas.EditPath, body: schemas.UseAsset) -> Response:
    """Bring a file that has been read into the edit."""
    asset = assets().get(body.asset, body.kind)
    if asset.kind == "song":
        song = UseSong(song=song_of(assets(), asset))
        return changed(path.id, body.base, edits.run(path.id, body.base, song))
    command = UseTake(take=take_of(asset, f"take-{asset.sha256[:8]}"))
    return changed(path.id, body.base, edits.run(path.id, body.base, command))


@api.post("/<int:id>/sounds", responses={200: schemas.EditChanged})
def lay_sound(path: schemas.EditPath, body: schemas.LayAsset) -> Response:
    """Lay an audio file of the shelf as a sound, its attack as it is found."""
    what = recorded_of(assets(), assets().get(body.asset, "song"))
    stored = edits.run(path.id, body.base, AddSound(at=body.at, what=what))
    return changed(path.id, body.base, stored)


@api.post("/<int:id>/relink", responses={200: schemas.EditChanged})
def relink(path: schemas.EditPath, body: schemas.RelinkAsset) -> Response:
    """Point a take, a sound or the song to another file; its marks and ties stay."""
    command: RelinkSong | RelinkTake | ChangeSound
    asset = assets().get(body.asset, "song" if body.take is None else "take")
    if body.sound is not None:
        command = ChangeSound(sound=body.sound, what=recorded_of(assets(), asset))
    elif body.take is None:
        song = song_of(assets(), asset)
        command = RelinkSong(media=song.media, duration=song.duration, sample_rate=song.sample_rate)
    else:
        command = RelinkTake(take=take_of(asset, body.take), keep=body.keep)
    return changed(path.id, body.base, edits.run(path.id, body.base, command))


@api.get("/<int:id>/mix")
def get_mix(path: schemas.EditPath, query: schemas.MixQuery) -> Response:
    """A block of what is heard: float32, little-endian, the channels of each sample in turn."""
    block = mixer_of(assets(), edits.at_revision(path.id, query.revision)).block(query.begin, query.count)
    response = Response(block.astype("<f4").tobytes(), mimetype="application/octet-stream")
    response.headers["Cache-Control"] = "no-store"
    return response


@api.get("/<int:id>/loudness", responses={200: schemas.MixLoudness})
def get_loudness(path: schemas.EditPath, query: schemas.RevisionQuery) -> Response:
    """How loud the mix of a revision is, in all and as it goes."""
    edit = edits.at_revision(path.id, query.revision)
    heard = sound_under(edit, frames_exported(edit), mixer_of(assets(), edit))
    found = measured(heard)
    loudness = schemas.MixLoudness(
        begin=heard.start / heard.mixer.rate,
        momentary=[told(level) for level in found.momentary.tolist()],
        loudest=told(found.loudest),
        integrated=told(found.integrated),
        true_peak=told(decibels(found.true_peak)),
    )
    return answer(loudness)


@api.post("/<int:id>/exports", responses={202: schemas.JobInfo})
def export(path: schemas.EditPath, body: schemas.NewExport) -> Response:
    """Begin an export of a revision."""
    edit = edits.at_revision(path.id, body.revision)
    if not edit.clips:
        raise Refusal(
            "nothing-to-export", "No clip is laid on the music yet.", remedy="Lay a take on a cue first."
        )
    work = Export(
        edit=path.id,
        revision=body.revision,
        delivery=Delivery.model_validate(body.model_dump(exclude={"revision"})),
        title=edit.title,
    )
    return answer(show_job(queue(work)), 202)


def changed(id: int, base: int, stored: edits.Stored) -> Response:
    """The answer to a change that was based on a revision."""
    return answer(changed_since(base, edits.at_revision(id, base), stored))


def _song_asset(song: Song) -> Asset:
    return assets().get(song.media.sha256 or "", "song")


def _attacks(edit: Edit) -> list[float]:
    """Instants of all hits that the automatic pass heard, in order."""
    found = analysis_of(assets(), _song_asset(song_of_edit(edit)))
    return [cue.time for cue in found.cues if cue.kind not in BEATS]
