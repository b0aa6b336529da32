"""Routes of what is proposed: working backwards, shifting or changing the song, recipes, the montage."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.core.arrange.backwards import work_backwards
from izmet.core.arrange.continuing import beginnings
from izmet.core.arrange.recipes import SHIPPED
from izmet.core.arrange.shift import least_shift
from izmet.core.arrange.songs import carry, places_left
from izmet.core.commands.common import song_of as song_in
from izmet.core.commands.mending import grouped
from izmet.core.commands.music import ChangeSong
from izmet.core.document.edit import Edit, Song
from izmet.core.document.refusal import Refusal
from izmet.core.following.montage import montage
from izmet.core.music.facts import heard
from izmet.core.music.joining import FoundJoin, Join, check_join
from izmet.jobs.kinds import MakeJoinedSong, queue
from izmet.material.songs import joins_of, played, song_of
from izmet.material.takes import drifts_of
from izmet.media.songfile import wav_of
from izmet.sound.joins import joined_source
from izmet.store import edits
from izmet.web import schemas
from izmet.web.answers import answer
from izmet.web.edits import changed
from izmet.web.jobs import show_job
from izmet.web.states import assets, derived_of

HEARD_SECONDS = 4.0
"""What is heard before a join, and after it."""

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


@api.get("/edits/<int:id>/montage", responses={200: schemas.MontageInfo})
def get_montage(path: schemas.EditPath) -> Response:
    """The cuts of an edit, and what in it needs a look."""
    stored = edits.current(path.id)
    edit, derived = stored.edit, derived_of(stored.edit)
    found = montage(edit, derived, drifts_of(assets(), edit))
    groups = grouped(edit, derived, found.troubles)
    return answer(schemas.MontageInfo(revision=stored.revision, cuts=found.cuts, groups=groups))


@api.get("/edits/<int:id>/beginnings", responses={200: schemas.Beginnings})
def get_beginnings(path: schemas.EditPath, query: schemas.CutQuery) -> Response:
    """From which pictures the clip after a cut would go on best. Nothing is changed."""
    edit = edits.current(path.id).edit
    found = beginnings(edit, query.before, query.after, drifts_of(assets(), edit))
    return answer(schemas.Beginnings(beginnings=found))


@api.get("/edits/<int:id>/song-joins", responses={200: schemas.SongJoins})
def song_joins(path: schemas.EditPath, query: schemas.LengthQuery) -> Response:
    """Where the song could be made shorter or longer, to end at an instant. Nothing is changed."""
    edit = edits.current(path.id).edit
    song = song_in(edit)
    end = heard(song)[1]
    tied = sorted({edit.cue(pin.cue).time for clip in edit.clips for pin in clip.pins if pin.cue is not None})
    found = joins_of(assets(), song, query.end - end, tied)
    return answer(schemas.SongJoins(joins=[_told(edit, each, end) for each in found]))


def _told(edit: Edit, found: FoundJoin, end: float) -> schemas.SongJoin:
    gone = places_left(edit, found.join)
    loose = sum(pin.moment is not None and pin.cue in gone for clip in edit.clips for pin in clip.pins)
    return schemas.SongJoin(
        **found.join._asdict(),
        alike=found.alike,
        bars=found.bars,
        end=end + found.join.longer,
        loose=loose,
    )


@api.get("/edits/<int:id>/song-join")
def hear_join(path: schemas.EditPath, query: schemas.JoinQuery) -> Response:
    """What is heard about a join of the song, as a WAV file; the join is in its middle."""
    song = song_in(edits.current(path.id).edit)
    sound = played(assets(), assets().get(song.media.sha256 or "", "song"))
    join = Join(query.leave, query.enter)
    check_join(song, join)
    begin = round((query.leave - HEARD_SECONDS) * sound.rate)
    samples = joined_source(sound, join).stretch(begin, round(2 * HEARD_SECONDS * sound.rate))
    return Response(wav_of(samples, sound.rate), mimetype="audio/wav")


@api.post("/edits/<int:id>/join-song", responses={202: schemas.JobInfo})
def join_song(path: schemas.EditPath, body: schemas.SongToJoin) -> Response:
    """Have the song made shorter or longer at a join; the edit then uses that."""
    song = song_in(edits.at_base(path.id, body.base))
    check_join(song, Join(body.leave, body.enter, body.times))
    work = MakeJoinedSong(
        into=path.id,
        song=song.media.sha256 or "",
        name=song.media.name,
        **body.model_dump(exclude={"base"}),
    )
    return answer(show_job(queue(work)), 202)


@api.post("/edits/<int:id>/song-change", responses={200: schemas.SongChangeTable})
def song_change(path: schemas.EditPath, body: schemas.OtherSong) -> Response:
    """What would go where with another song. Nothing is changed."""
    edit = edits.current(path.id).edit
    rows = carry(edit, _song(body.asset, body.edit)) if edit.song else []
    return answer(schemas.SongChangeTable(rows=rows, sources=_sources(_song(body.asset), path.id)))


@api.post("/edits/<int:id>/change-song", responses={200: schemas.EditChanged})
def change_song(path: schemas.EditPath, body: schemas.TakeSong) -> Response:
    """Change to another song, cues carried over as the table says."""
    song = _song(body.asset, body.edit)
    command = ChangeSong(song=song, to=body.to, places=body.places)
    return changed(path.id, body.base, edits.run(path.id, body.base, command))


def _song(asset: str, edit: int | None = None) -> Song:
    """A song with the cues that were found in it, or as they were corrected in an edit."""
    song = song_of(assets(), assets().get(asset, "song"))
    if edit is None:
        return song
    corrected = edits.current(edit).edit.song
    if corrected is None or corrected.media.sha256 != asset:
        raise Refusal(
            "another-song",
            "That edit has another song by now.",
            edits.current(edit).edit.title,
            "Choose anew.",
        )
    kept = ("meter", "cues", "sections", "selections", "struck")
    return song.model_copy(update={name: getattr(corrected, name) for name in kept})


def _sources(found: Song, without: int) -> list[schemas.SongSource]:
    """The other edits in which a song has other cues than those that were found in it."""
    others = [(listed, edits.current(listed.id).edit.song) for listed in edits.listing()]
    return [
        schemas.SongSource(edit=listed.id, title=listed.title)
        for listed, song in others
        if listed.id != without
        and song is not None
        and song.media.sha256 == found.media.sha256
        and _marks(song) != _marks(found)
    ]


def _marks(song: Song) -> tuple[int, set[tuple[str, float]]]:
    return song.meter, {(cue.kind, cue.time) for cue in song.cues}


@api.get("/recipes", responses={200: schemas.RecipeList})
def recipes() -> Response:
    """The recipes that come with the app."""
    return answer(schemas.RecipeList(recipes=list(SHIPPED)))
