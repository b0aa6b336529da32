"""Routes of what is proposed: working backwards, shifting or changing the song, recipes, the montage."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from izmet.core.arrange.backwards import work_backwards
from izmet.core.arrange.continuing import beginnings
from izmet.core.arrange.recipes import SHIPPED
from izmet.core.arrange.shift import least_shift
from izmet.core.arrange.songs import carry
from izmet.core.commands.mending import grouped
from izmet.core.commands.music import ChangeSong
from izmet.core.document.edit import Song
from izmet.core.document.refusal import Refusal
from izmet.core.following.montage import montage
from izmet.material.songs import song_of
from izmet.material.takes import drifts_of
from izmet.store import edits
from izmet.web import schemas
from izmet.web.answers import answer
from izmet.web.edits import changed
from izmet.web.states import assets, derived_of

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
    edit = edits.current(path.id).edit
    derived = derived_of(edit)
    found = montage(edit, derived, drifts_of(assets(), edit))
    groups = grouped(edit, derived, found.troubles)
    return answer(schemas.MontageInfo(cuts=found.cuts, groups=groups))


@api.get("/edits/<int:id>/beginnings", responses={200: schemas.Beginnings})
def get_beginnings(path: schemas.EditPath, query: schemas.CutQuery) -> Response:
    """From which pictures the clip after a cut would go on best. Nothing is changed."""
    edit = edits.current(path.id).edit
    found = beginnings(edit, query.before, query.after, drifts_of(assets(), edit))
    return answer(schemas.Beginnings(beginnings=found))


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
