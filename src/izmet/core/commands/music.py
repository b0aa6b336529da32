"""Commands about the music: the song and where it lies, its cues, its beats, its selections.

Times of cues are seconds of the song. A cue that a person set, moved or renamed counts
as made by hand from then on, and no analysis changes it.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from izmet.core.arrange.songs import carried_selections
from izmet.core.commands.common import (
    EditCommand,
    changed,
    map_pass_cues,
    map_pins,
    map_places,
    named_cues,
    new_id,
    new_ids,
    song_of,
    with_,
    with_cues,
)
from izmet.core.document.cuekinds import BEATS, CueKind
from izmet.core.document.edit import Clip, Cue, CueSelection, Edit, Section, Song
from izmet.core.document.limits import MOST_SECONDS
from izmet.core.document.places import Pin
from izmet.core.document.rates import frame_at, nearest_frame
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Id, Media, Share
from izmet.core.music.comparing import merged, same_cues
from izmet.core.music.counting import (
    BEAT_STRENGTH,
    DOWNBEAT_STRENGTH,
    Marks,
    beats_of,
    bent,
    between,
    counted,
    doubled,
    first_downbeat,
    halved,
)
from izmet.core.music.joining import MOST_TIMES, Join, check_join, joined, taking_its_place

Second = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Cues = Annotated[tuple[Id, ...], Field(min_length=1)]

REPLACED_SECONDS = 0.05
"""How far from the old cue a cue of another song may lie to be the one that a tie meant."""

LEAST_BEAT_SECONDS = 0.1
"""The shortest beat that doubling makes: 600 a minute."""


class UseSong(EditCommand):
    """Choose the music, with the cues found in it. Ties follow their cues; without one they are loose."""

    do: Literal["use-song"] = "use-song"
    said: ClassVar[str] = "Choose the song"
    song: Song

    def on(self, edit: Edit) -> Edit:
        old = edit.song
        if old is None:
            return with_(edit, song=self.song)
        song = with_(self.song, start=old.start)
        same = same_cues(old.cues, song.cues, REPLACED_SECONDS)
        to_new = {old_id: new_id for new_id, old_id in same.items()}

        def follow(pin: Pin) -> Pin:
            if pin.cue is None:
                return pin
            return with_(pin, cue=to_new[pin.cue]) if pin.cue in to_new else _loosened(edit, pin)

        edit = map_pass_cues(named_cues(edit), to_new.get)
        return _with_other_song(map_places(edit, follow), song)


class ChangeSong(EditCommand):
    """Choose another song; each cue's part is taken by the one that is named, what has none is loose.

    Kept selections go along by their rules, where these find a cue in the new song.
    What is loose stands at its cue's place in the new song, in seconds of it, where that is told.
    What stands on an output frame in a clip that follows cues goes along with these. The song
    begins later where something would come before the edit does.
    """

    do: Literal["change-song"] = "change-song"
    said: ClassVar[str] = "Change the song"
    song: Song
    to: dict[str, Id | None]
    places: dict[str, float] = Field(default_factory=dict)

    def on(self, edit: Edit) -> Edit:
        for new in self.to.values():
            if new is not None and new not in self.song.by_id:
                raise Refusal(
                    "no-such-cue", f"The new song has no cue {new}.", new, "Ask for the table again."
                )
        start = song_of(edit).start
        after = self._taken_over(edit, start)
        other = [now for was, now in zip(edit.clips, after.clips, strict=True) if now != was]
        first = min((pin.n for clip in other for pin in clip.places if pin.n is not None), default=0)
        return after if first >= 0 else self._taken_over(edit, start - first / float(edit.rate))

    def _taken_over(self, edit: Edit, start: float) -> Edit:
        song = with_(self.song, start=start)

        def follow(pin: Pin) -> Pin:
            if pin.cue is None:
                return pin
            new = self.to.get(pin.cue)
            if new is not None:
                return with_(pin, cue=new, loose=None)
            if pin.cue not in self.places:
                return _loosened(edit, pin)
            return _loose_at(edit, pin, self.places[pin.cue] + start)

        kept = carried_selections(edit, song, self.to)
        ours = {name for each in kept for name in (each.id, each.name)}
        theirs = [each for each in song.selections if each.id not in ours and each.name not in ours]
        ordered = sorted([*theirs, *kept], key=lambda each: each.name.casefold())
        song = with_(song, selections=ordered)
        named = map_pass_cues(named_cues(edit, {each.id for each in kept}), self.to.get)
        return _gone_along(edit, _with_other_song(map_places(named, follow), song))


def _with_other_song(edit: Edit, song: Song) -> Edit:
    """The edit with another song, as loud as the one before it."""
    if edit.song is None:
        return with_(edit, song=song)
    kept = {name: getattr(edit.song, name) for name in ("level", "levels", "fade_in", "fade_out", "ring_out")}
    return with_(edit, song=with_(song, **kept))


def _gone_along(before: Edit, after: Edit) -> Edit:
    """What stands on output frames goes along with what follows the music in the same clip."""

    def along(clip: Clip, pin: Pin) -> Pin:
        was = before.clip(clip.id)
        if pin.n is None or pin not in was.places:  # one that followed a cue has its place already
            return pin
        led = [pair for pair in zip(was.places, clip.places, strict=True) if pair[0].cue is not None]
        if not led:
            return pin
        old, new = zip(*sorted((before.place_of(a), after.place_of(b)) for a, b in led), strict=True)
        at = min(max(pin.n, old[0]), old[-1])
        by = nearest_frame(float(np.interp(at, old, new))) - at
        loose = pin.loose if pin.loose is None else pin.loose + by / float(after.rate)
        return with_(pin, n=pin.n + by, loose=loose)

    return map_pins(after, along)


class AnalyseAgain(EditCommand):
    """Take over a new analysis of the same song. Cues made by hand stay; ids and ties follow."""

    do: Literal["analyse-again"] = "analyse-again"
    said: ClassVar[str] = "Analyse the song again"
    cues: tuple[Cue, ...]
    sections: tuple[Section, ...] = ()
    meter: int | None = None

    def on(self, edit: Edit) -> Edit:
        song = song_of(edit)
        after = with_cues(_let_go(edit, _gone(song, merged(song, self.cues))), merged(song, self.cues))
        return _with_song(after, sections=self.sections, meter=self.meter or song.meter)


class JoinSong(EditCommand):
    """Take the same song, made shorter or longer at a join, from another file; what is tied goes along.

    The song is the one whose file has the hash ``of``. What was tied to what is left out is loose, at its
    cue's place in ``places``, in seconds of the new song.
    """

    do: Literal["join-song"] = "join-song"
    said: ClassVar[str] = "Change the song's length"
    of: str
    media: Media
    duration: Annotated[float, Field(gt=0, le=MOST_SECONDS)]
    leave: Second
    enter: Second
    times: Annotated[int, Field(ge=1, le=MOST_TIMES)] = 1
    places: dict[str, float] = Field(default_factory=dict)

    def on(self, edit: Edit) -> Edit:
        old, join = song_of(edit), Join(self.leave, self.enter, self.times)
        if old.media.sha256 != self.of:
            raise Refusal("another-song", "The edit has another song by now.", old.media.name, "Choose anew.")
        check_join(old, join)
        after = joined(old, join)
        # What is written is counted in samples, and may end a part of one before the last mark does.
        song = with_(after, media=self.media, duration=max(self.duration, after.duration))

        def now(id: str) -> str | None:
            found = taking_its_place(song, edit.cue(id), join)
            return None if found is None else found.id

        def follow(pin: Pin) -> Pin:
            if pin.cue is None:
                return pin
            new = now(pin.cue)
            if new is not None:
                return with_(pin, cue=new)
            if pin.cue not in self.places:
                return _loosened(edit, pin)
            return _loose_at(edit, pin, self.places[pin.cue] + old.start)

        followed = map_places(map_pass_cues(edit, now), follow)
        return _gone_along(edit, with_(followed, song=with_(song, levels=song_of(followed).levels)))


class PlaceSong(EditCommand):
    """Move the song against the edit, or trim what is heard of it. Ties follow their cues."""

    do: Literal["place-song"] = "place-song"
    said: ClassVar[str] = "Place the song"
    start: float | None = None
    heard_from: Second | None = None
    heard_to: Second | None = None

    def on(self, edit: Edit) -> Edit:
        song = song_of(edit)
        changes = self.model_dump(exclude={"do"}, exclude_none=True)
        if self.heard_to is not None and self.heard_to >= song.duration:
            changes["heard_to"] = None
        return _with_song(edit, **changes)


class AddCue(EditCommand):
    """Set a cue by hand."""

    do: Literal["add-cue"] = "add-cue"
    said: ClassVar[str] = "Add a cue"
    time: float
    kind: CueKind = "hand"
    strength: float = 1.0

    def on(self, edit: Edit) -> Edit:
        song = song_of(edit)
        cue = Cue(id=new_id("cue", song.cues), time=self.time, kind=self.kind, strength=self.strength)
        return with_cues(edit, [*song.cues, cue])


class AddCues(EditCommand):
    """Set several cues by hand: a tapped pass, or a file. ``replace`` clears a stretch of their kinds."""

    do: Literal["add-cues"] = "add-cues"
    said: ClassVar[str] = "Add cues"
    cues: Annotated[tuple[tuple[Second, CueKind, Share], ...], Field(description="time, kind, strength")]
    replace: tuple[Second, Second] | None = None

    def on(self, edit: Edit) -> Edit:
        kinds = {kind for _, kind, _ in self.cues}
        if self.replace is not None:
            begin, end = self.replace
            old = [c.id for c in song_of(edit).cues if c.kind in kinds and begin <= c.time <= end]
            edit = _without(edit, old)
        song = song_of(edit)
        ids = new_ids("cue", song.cues)
        fresh = [
            Cue(id=next(ids), time=time, kind=kind, strength=strength) for time, kind, strength in self.cues
        ]
        return with_cues(edit, [*song.cues, *fresh])


class ChangeCue(EditCommand):
    """Move a cue, or change its kind or strength."""

    do: Literal["change-cue"] = "change-cue"
    said: ClassVar[str] = "Change a cue"
    cue: Id
    time: float | None = None
    kind: CueKind | None = None
    strength: Share | None = None

    def on(self, edit: Edit) -> Edit:
        edit.cue(self.cue)
        changes = self.model_dump(include={"time", "kind", "strength"}, exclude_none=True)
        return with_cues(edit, changed(song_of(edit).cues, self.cue, changes | {"made": "hand"}))


class ChangeCues(EditCommand):
    """Move several cues together, or give them all one kind."""

    do: Literal["change-cues"] = "change-cues"
    said: ClassVar[str] = "Change cues"
    cues: Cues
    by: float = 0.0
    kind: CueKind | None = None

    def on(self, edit: Edit) -> Edit:
        _known(edit, self.cues)
        chosen = set(self.cues)

        def change(cue: Cue) -> Cue:
            if cue.id not in chosen:
                return cue
            return with_(cue, time=cue.time + self.by, kind=self.kind or cue.kind, made="hand")

        return with_cues(edit, [change(cue) for cue in song_of(edit).cues])


class RemoveCues(EditCommand):
    """Delete cues. A tie to one of them stays on its frame and is loose."""

    do: Literal["remove-cues"] = "remove-cues"
    said: ClassVar[str] = "Delete cues"
    cues: Cues

    def on(self, edit: Edit) -> Edit:
        _known(edit, self.cues)
        return _without(edit, self.cues)


class MergeCues(EditCommand):
    """Make one of cues of the same kind that lie close together: the strongest stays, ties follow it."""

    do: Literal["merge-cues"] = "merge-cues"
    said: ClassVar[str] = "Merge cues"
    cues: Cues
    within: Annotated[float, Field(gt=0, le=1, description="seconds")] = 0.05

    def on(self, edit: Edit) -> Edit:
        _known(edit, self.cues)
        chosen = set(self.cues)
        kept: dict[str, Cue] = {}
        instead: dict[str, str] = {}
        for cue in (cue for cue in song_of(edit).cues if cue.id in chosen):
            last = kept.get(cue.kind)
            if last is None or cue.time - last.time > self.within:
                kept[cue.kind] = cue
                continue
            winner, loser = (cue, last) if _outranks(cue, last) else (last, cue)
            instead = {old: winner.id if to == loser.id else to for old, to in instead.items()}
            instead[loser.id] = winner.id
            kept[cue.kind] = winner
        if not instead:
            raise Refusal(
                "nothing-to-merge",
                f"No two of these cues are of one kind and within {self.within * 1000:.0f} ms.",
                remedy="Choose cues of the same kind that lie closer together.",
            )
        edit = map_places(edit, lambda pin: with_(pin, cue=instead[pin.cue]) if pin.cue in instead else pin)
        edit = map_pass_cues(edit, lambda cue: instead.get(cue, cue))
        return _without(edit, tuple(instead))


class SetDownbeat(EditCommand):
    """Say which beat begins a bar (the one that does now, by default), and how many beats a bar has."""

    do: Literal["set-downbeat"] = "set-downbeat"
    said: ClassVar[str] = "Set the downbeat"
    cue: Id | None = None
    meter: Annotated[int, Field(ge=1, le=16)] | None = None

    def on(self, edit: Edit) -> Edit:
        song, beats = song_of(edit), _beats(edit)
        index = first_downbeat(beats) if self.cue is None else _index(beats, self.cue)
        meter = self.meter or song.meter
        return _with_song(_recounted(edit, counted(beats, meter, index)), meter=meter)


class CountBeats(EditCommand):
    """Count the beats twice or half as fast, one beat earlier or later in the bar, or on the off-beat."""

    do: Literal["count-beats"] = "count-beats"
    said: ClassVar[str] = "Count the beats otherwise"
    how: Literal["double", "half", "beat-earlier", "beat-later", "off-beat"]

    def on(self, edit: Edit) -> Edit:
        song, beats = song_of(edit), _beats(edit)
        first = first_downbeat(beats)
        if self.how in ("beat-earlier", "beat-later"):
            by = 1 if self.how == "beat-later" else -1
            return _recounted(edit, counted(beats, song.meter, first + by))
        if self.how == "double":
            _check_room(beats)
        marks, downbeat = {
            "double": lambda: (doubled(beats), 2 * first),
            "half": lambda: (halved(beats), first // 2),
            "off-beat": lambda: (between(beats), first),
        }[self.how]()
        return _with_beats(edit, marks, song.meter, downbeat)


class UseBeats(EditCommand):
    """Count the song another way: these instants are its beats. Beats set by hand stay."""

    do: Literal["use-beats"] = "use-beats"
    said: ClassVar[str] = "Take another count of beats"
    times: Annotated[tuple[Second, ...], Field(min_length=2)]
    meter: Annotated[int, Field(ge=1, le=16)] = 4
    downbeat: Annotated[int, Field(ge=0)] = 0

    def on(self, edit: Edit) -> Edit:
        if self.downbeat >= len(self.times):
            raise Refusal(
                "no-such-beat",
                f"There are {len(self.times)} beats; none has the index {self.downbeat}.",
                where="downbeat",
                remedy="Count them from 0.",
            )
        by_hand = [beat for beat in beats_of(song_of(edit).cues) if beat.made == "hand"]
        near = [time for time in self.times if all(abs(time - b.time) > REPLACED_SECONDS for b in by_hand)]
        marks = sorted([(time, False) for time in near] + [(beat.time, True) for beat in by_hand])
        downbeat = min(range(len(marks)), key=lambda i: abs(marks[i][0] - self.times[self.downbeat]))
        return _with_song(_with_beats(edit, marks, self.meter, downbeat % self.meter), meter=self.meter)


class SetTempo(EditCommand):
    """Count the whole song at a steady tempo, through one of its beats. Beats set by hand stay."""

    do: Literal["set-tempo"] = "set-tempo"
    said: ClassVar[str] = "Set the tempo"
    tempo: Annotated[float, Field(ge=20, le=400, description="beats a minute")]
    cue: Id

    def on(self, edit: Edit) -> Edit:
        song, anchor = song_of(edit), edit.cue(self.cue)
        beat, beats = 60 / self.tempo, beats_of(song.cues)
        before = int(anchor.time / beat)
        count = before + 1 + int((song.duration - anchor.time) / beat)
        times = tuple(anchor.time + (index - before) * beat for index in range(count))
        if len(times) < 2:
            raise Refusal(
                "too-short",
                f"The song is shorter than two beats at {self.tempo:g} a minute.",
                where="tempo",
                remedy="Choose a faster tempo.",
            )
        ids = [each.id for each in beats]
        place = ids.index(anchor.id) - first_downbeat(beats) if anchor.id in ids else 0
        return UseBeats(times=times, meter=song.meter, downbeat=(before - place) % song.meter).on(edit)


class PinBeat(EditCommand):
    """Set a beat to an instant by hand; the tempo between it and the next beats set by hand follows."""

    do: Literal["pin-beat"] = "pin-beat"
    said: ClassVar[str] = "Pin a beat"
    cue: Id
    time: Second

    def on(self, edit: Edit) -> Edit:
        beats = _beats(edit)
        index = _index(beats, self.cue)
        pinned = [i for i, beat in enumerate(beats) if beat.made == "hand" and i != index]
        before = max((beats[i].time for i in pinned if i < index), default=-1.0)
        after = min((beats[i].time for i in pinned if i > index), default=float("inf"))
        if not before < self.time < after:
            raise Refusal(
                "beat-past-pin",
                f"{self.time:.3f} s lies past the next beat that was set by hand.",
                where=self.cue,
                remedy="Keep it between the beats set by hand on either side.",
            )
        end = song_of(edit).duration
        return _recounted(edit, [b for b in bent(beats, index, self.time) if 0 <= b.time <= end])


class SaveSelection(EditCommand):
    """Keep a cue selection under its name; one with the same id is replaced."""

    do: Literal["save-selection"] = "save-selection"
    said: ClassVar[str] = "Keep a choice of cues"
    selection: CueSelection

    def on(self, edit: Edit) -> Edit:
        others = [other for other in song_of(edit).selections if other.id != self.selection.id]
        if any(other.name == self.selection.name for other in others):
            raise Refusal(
                "name-taken",
                f"There is a selection named {self.selection.name} already.",
                where="name",
                remedy="Choose another name.",
            )
        ordered = sorted([*others, self.selection], key=lambda selection: selection.name.casefold())
        return _with_song(edit, selections=ordered)


class RemoveSelection(EditCommand):
    """Forget a cue selection."""

    do: Literal["remove-selection"] = "remove-selection"
    said: ClassVar[str] = "Delete a choice of cues"
    selection: Id

    def on(self, edit: Edit) -> Edit:
        left = [other for other in song_of(edit).selections if other.id != self.selection]
        return _with_song(named_cues(edit, {other.id for other in left}), selections=left)


def _with_song(edit: Edit, **changes: object) -> Edit:
    return with_(edit, song=with_(song_of(edit), **changes))


def _known(edit: Edit, cues: tuple[str, ...]) -> None:
    for cue in cues:
        edit.cue(cue)


def _outranks(cue: Cue, other: Cue) -> bool:
    return (cue.made == "hand", cue.strength) > (other.made == "hand", other.strength)


def _without(edit: Edit, cues: list[str] | tuple[str, ...]) -> Edit:
    """The edit without some cues; automatic ones are remembered as struck."""
    song, gone = song_of(edit), set(cues)
    struck = [cue for cue in song.cues if cue.id in gone and cue.made == "auto"]
    edit = with_cues(_let_go(edit, gone), [cue for cue in song.cues if cue.id not in gone])
    return _with_song(edit, struck=[*song.struck, *struck]) if struck else edit


def _gone(song: Song, after: list[Cue]) -> set[str]:
    return song.by_id.keys() - {cue.id for cue in after}


def _let_go(edit: Edit, cues: set[str]) -> Edit:
    """Ties to cues that go stay on their frames, loose; selections forget them."""
    edit = map_places(edit, lambda pin: _loosened(edit, pin) if pin.cue in cues else pin)
    edit = map_pass_cues(edit, lambda cue: None if cue in cues else cue)
    selections = [
        with_(
            selection,
            extra=[id for id in selection.extra if id not in cues],
            without=[id for id in selection.without if id not in cues],
        )
        for selection in song_of(edit).selections
    ]
    return _with_song(edit, selections=selections) if selections else edit


def _loosened(edit: Edit, pin: Pin) -> Pin:
    """A pin whose cue is gone: a tie is loose from now on, a pin without a moment just stays put."""
    assert pin.cue is not None
    loose = edit.instant(pin.cue) if pin.moment is not None else None
    return with_(pin, cue=None, n=edit.frame_of(pin.cue), loose=loose)


def _loose_at(edit: Edit, pin: Pin, instant: float) -> Pin:
    """The same, standing at another instant of the edit."""
    n = frame_at(instant, edit.rate, edit.landing)
    return with_(pin, cue=None, n=n, loose=None if pin.moment is None else instant)


def _beats(edit: Edit) -> list[Cue]:
    beats = beats_of(song_of(edit).cues)
    if len(beats) < 2:
        raise Refusal(
            "no-beats",
            "The song has no beats to count.",
            remedy="Tap them along with the music, or set two by hand.",
        )
    return beats


def _check_room(beats: list[Cue]) -> None:
    apart = (beats[-1].time - beats[0].time) / (len(beats) - 1) / 2
    if apart < LEAST_BEAT_SECONDS:
        raise Refusal(
            "beats-too-close",
            f"Twice as many beats would lie {apart * 1000:.0f} ms apart, closer than anybody counts.",
            remedy="Set cues of another kind between the beats instead.",
        )


def _index(beats: list[Cue], cue: str) -> int:
    for index, beat in enumerate(beats):
        if beat.id == cue:
            return index
    raise Refusal("not-a-beat", "This cue is not a beat.", where=cue, remedy="Choose a beat or a downbeat.")


def _recounted(edit: Edit, beats: list[Cue]) -> Edit:
    """The edit with its beats changed; ids stay, so ties follow."""
    left = {beat.id for beat in beats}
    song = song_of(edit)
    gone = {cue.id for cue in song.cues if cue.kind in BEATS and cue.id not in left}
    edit = _let_go(edit, gone) if gone else edit
    return with_cues(edit, [*(cue for cue in song.cues if cue.kind not in BEATS), *beats])


def _with_beats(edit: Edit, marks: Marks, meter: int, downbeat: int) -> Edit:
    """The edit with other beats; those that stay within reach keep their ids."""
    song = song_of(edit)
    old = [beat.model_copy(update={"kind": "beat"}) for beat in beats_of(song.cues)]
    ids = new_ids("cue", song.cues)
    fresh = [
        Cue(
            id=next(ids),
            time=time,
            kind="beat",
            strength=BEAT_STRENGTH,
            made="hand" if hand else "auto",
        )
        for i, (time, hand) in enumerate(marks)
        if time <= song.duration
    ]
    same = same_cues(old, fresh)
    kept = [beat.model_copy(update={"id": same.get(beat.id, beat.id)}) for beat in fresh]
    beats = [
        beat.model_copy(update={"strength": DOWNBEAT_STRENGTH if beat.kind == "downbeat" else BEAT_STRENGTH})
        for beat in counted(kept, meter, downbeat)
    ]
    return _recounted(edit, beats)
