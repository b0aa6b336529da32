"""Commands about takes and their moments."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from fractions import Fraction
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, changed, map_pins, new_id, song_of, with_
from izmet.core.document.edit import Clip, Edit, Moment, MomentKind, Select, Steady, Take, moment_name
from izmet.core.document.framing import Track
from izmet.core.document.limits import MOST_TAGS
from izmet.core.document.places import Pin
from izmet.core.document.rates import first_frame_from
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Id, Label, Media, Title


class UseTake(EditCommand):
    """Bring a take into the edit."""

    do: Literal["use-take"] = "use-take"
    said: ClassVar[str] = "Bring in a take"
    take: Take

    def on(self, edit: Edit) -> Edit:
        if any(take.id == self.take.id for take in edit.takes):
            raise Refusal("take-in-use", f"A take {self.take.id} is in the edit already.", where=self.take.id)
        return with_(edit, takes=[*edit.takes, self.take])


class ChangeTake(EditCommand):
    """Rename a take, tag it, write something down about it. Its file keeps its name."""

    do: Literal["change-take"] = "change-take"
    said: ClassVar[str] = "Name, tag or note a take"
    take: Id
    name: Title | None = None
    tags: Annotated[tuple[Label, ...], Field(max_length=MOST_TAGS)] | None = None
    notes: Annotated[str, Field(max_length=2000)] | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"tags", "notes"}, exclude_none=True)
        if self.name is not None:
            changes["media"] = with_(edit.take(self.take).media, name=self.name)
        edit.take(self.take)
        return with_(edit, takes=changed(edit.takes, self.take, changes))


class RemoveTake(EditCommand):
    """Take a take out of the edit. Refused while clips show it, unless they may go with it."""

    do: Literal["remove-take"] = "remove-take"
    said: ClassVar[str] = "Take a take out of the edit"
    take: Id
    with_clips: bool = False

    def on(self, edit: Edit) -> Edit:
        take = edit.take(self.take)
        clips = [clip for clip in edit.clips if clip.take == take.id]
        if clips and not self.with_clips:
            raise Refusal(
                "take-in-use",
                f"{len(clips)} {'clip shows' if len(clips) == 1 else 'clips show'} this take.",
                where=take.media.name,
                remedy="Remove it with its clips, or give them another take first.",
            )
        left = [clip for clip in edit.clips if clip.take != take.id]
        return with_(edit, clips=left, takes=[other for other in edit.takes if other.id != take.id])


class LaySelect(EditCommand):
    """Lay a select as a clip: its first frame on a cue, at real time, to its last frame."""

    do: Literal["lay-select"] = "lay-select"
    said: ClassVar[str] = "Lay a select on the music"
    take: Id
    select: Id
    cue: Id

    def on(self, edit: Edit) -> Edit:
        _check_select(edit, self.take, self.select)
        select = next(each for each in edit.take(self.take).selects if each.id == self.select)
        edit.cue(self.cue)
        pins = (Pin(id="pin-1", cue=self.cue, p=select.begin), Pin(id="pin-2", p=select.end))
        id = new_id("clip", edit.clips)
        clip = Clip(id=id, take=self.take, pins=pins, spans=(Steady(speed=1),))
        return with_(edit, clips=[*edit.clips, clip])


class RelinkSong(EditCommand):
    """Point the song to another file, with that file's length and rate. Cues and ties stay."""

    do: Literal["relink-song"] = "relink-song"
    said: ClassVar[str] = "Link the song's file"
    media: Media
    duration: Annotated[float, Field(gt=0, allow_inf_nan=False)]
    sample_rate: Annotated[int, Field(gt=0)]

    def on(self, edit: Edit) -> Edit:
        song = song_of(edit)
        beyond = [cue for cue in song.cues if cue.time > self.duration]
        if beyond:
            raise Refusal(
                "does-not-fit",
                f"The file ends at {self.duration:.3f} s, and {len(beyond)} cues lie after it, "
                f"the first at {beyond[0].time:.3f} s.",
                where=self.media.name,
                remedy="Link a file that is as long, or delete those cues first.",
            )
        changes = self.model_dump(include={"duration", "sample_rate"})
        if song.heard_to is not None and song.heard_to >= self.duration:
            changes["heard_to"] = None
        return with_(edit, song=with_(song, media=self.media, **changes))


class RelinkTake(EditCommand):
    """Point a take to another file, with that file's rate, length and size. Ties stay.

    ``keep`` says what moments and pins hold on to: the number of their source frame, or
    their instant in the take, which is another frame when the rate is another one. By
    default it is the frame when the files have as many frames, else the instant.
    """

    do: Literal["relink-take"] = "relink-take"
    said: ClassVar[str] = "Link a take's file"
    take: Take
    keep: Literal["frame", "instant"] | None = None

    def on(self, edit: Edit) -> Edit:
        old = edit.take(self.take.id)
        keep = self.keep or ("frame" if old.frames == self.take.frames else "instant")
        scale = self.take.rate / old.rate if keep == "instant" else Fraction(1)

        def moved(frame: int) -> int:
            # Where the instant falls between two pictures, the later one: before it, the hit is not seen yet.
            return first_frame_from(frame * scale)

        moments = [with_(moment, frame=moved(moment.frame)) for moment in old.moments]
        beyond = [moment for moment in moments if moment.frame >= self.take.frames]
        if beyond:
            raise Refusal(
                "does-not-fit",
                f"The file has frames 0 to {self.take.frames - 1}, and these moments would lie after it: "
                + ", ".join(f"{moment_name(moment)} (now frame {moment.frame})" for moment in beyond)
                + ".",
                where=self.take.media.name,
                remedy="Link a file that is as long, or delete those moments first.",
                nearest=self.take.frames - 1,
            )
        last = self.take.frames - 1
        selects = [
            with_(each, begin=min(moved(each.begin), last), end=min(moved(each.end), last))
            for each in old.selects
        ]
        dismissed, breaks = (
            [frame for frame in map(moved, frames) if frame <= last] for frames in (old.dismissed, old.breaks)
        )
        tracks = [_along(track, moved, last) for track in old.tracks]
        take = with_(
            self.take,
            moments=moments,
            selects=selects,
            tracks=[track for track in tracks if track is not None],
            dismissed=dismissed,
            breaks=breaks,
            tags=old.tags,
            notes=old.notes,
        )

        def follow(clip: Clip, pin: Pin) -> Pin:
            if clip.take != take.id or pin.p is None:
                return pin
            # An open edge reaches as far as the take goes, whatever that was.
            p = min(pin.p * float(scale), last) if pin.open_n else pin.p * float(scale)
            return pin if p == pin.p else with_(pin, p=p)

        edit = with_(edit, takes=[take if other.id == take.id else other for other in edit.takes])
        return map_pins(edit, follow)


def _along(track: Track, moved: Callable[[int], int], last: int) -> Track | None:
    """A track with its frames passed through a function; None where nothing of it is left in the take."""
    points = {
        frame: with_(point, frame=frame) for point in track.points if (frame := moved(point.frame)) <= last
    }
    inside = tuple(points[frame] for frame in sorted(points))
    return with_(track, points=inside) if inside else None


class AddMoment(EditCommand):
    """Mark a source frame that matters.

    ``instead_of`` is the frame of a proposal that was near but not on it; nothing is
    proposed there any more.
    """

    do: Literal["add-moment"] = "add-moment"
    said: ClassVar[str] = "Mark a moment"
    take: Id
    frame: int
    kind: MomentKind = "impact"
    label: Label = ""
    instead_of: int | None = None

    def on(self, edit: Edit) -> Edit:
        if self.instead_of is not None:
            edit = DismissProposal(take=self.take, frame=self.instead_of).on(edit)
        moments = edit.take(self.take).moments
        moment = Moment(id=new_id("moment", moments), frame=self.frame, kind=self.kind, label=self.label)
        return _with_moments(edit, self.take, [*moments, moment])


class ChangeMoment(EditCommand):
    """Move a moment to another source frame, or rename it. Its ties follow."""

    do: Literal["change-moment"] = "change-moment"
    said: ClassVar[str] = "Change a moment"
    take: Id
    moment: Id
    frame: int | None = None
    kind: MomentKind | None = None
    label: Label | None = None

    def on(self, edit: Edit) -> Edit:
        edit.moment(self.take, self.moment)
        changes = self.model_dump(include={"frame", "kind", "label"}, exclude_none=True)
        return _with_moments(edit, self.take, changed(edit.take(self.take).moments, self.moment, changes))


class RemoveMoment(EditCommand):
    """Delete a moment. What was tied to it keeps its source frame, as a pin."""

    do: Literal["remove-moment"] = "remove-moment"
    said: ClassVar[str] = "Delete a moment"
    take: Id
    moment: Id

    def on(self, edit: Edit) -> Edit:
        frame = float(edit.moment(self.take, self.moment).frame)

        def let_go(clip: Clip, pin: Pin) -> Pin:
            mine = clip.take == self.take and pin.moment == self.moment
            return with_(pin, moment=None, p=frame, loose=None) if mine else pin

        edit = map_pins(edit, let_go)
        left = [moment for moment in edit.take(self.take).moments if moment.id != self.moment]
        return _with_moments(edit, self.take, left)


class AddSelect(EditCommand):
    """Keep a stretch of a take, from its first frame to its last."""

    do: Literal["add-select"] = "add-select"
    said: ClassVar[str] = "Keep a select"
    take: Id
    begin: int
    end: int
    name: Label = ""
    tags: tuple[Label, ...] = ()

    def on(self, edit: Edit) -> Edit:
        selects = edit.take(self.take).selects
        facts = self.model_dump(include={"begin", "end", "name", "tags"})
        return _with_selects(edit, self.take, [*selects, Select(id=new_id("select", selects), **facts)])


class ChangeSelect(EditCommand):
    """Move, rename or tag a select."""

    do: Literal["change-select"] = "change-select"
    said: ClassVar[str] = "Change a select"
    take: Id
    select: Id
    begin: int | None = None
    end: int | None = None
    name: Label | None = None
    tags: tuple[Label, ...] | None = None

    def on(self, edit: Edit) -> Edit:
        _check_select(edit, self.take, self.select)
        changes = self.model_dump(include={"begin", "end", "name", "tags"}, exclude_none=True)
        return _with_selects(edit, self.take, changed(edit.take(self.take).selects, self.select, changes))


class RemoveSelect(EditCommand):
    """Delete a select. Nothing else changes."""

    do: Literal["remove-select"] = "remove-select"
    said: ClassVar[str] = "Delete a select"
    take: Id
    select: Id

    def on(self, edit: Edit) -> Edit:
        _check_select(edit, self.take, self.select)
        left = [select for select in edit.take(self.take).selects if select.id != self.select]
        return _with_selects(edit, self.take, left)


class DismissProposal(EditCommand):
    """Have nothing proposed at a frame of a take any more, or again."""

    do: Literal["dismiss-proposal"] = "dismiss-proposal"
    said: ClassVar[str] = "Drop a proposal"
    take: Id
    frame: int
    again: bool = False

    def on(self, edit: Edit) -> Edit:
        kept = set(edit.take(self.take).dismissed) - {self.frame}
        dismissed = sorted(kept if self.again else kept | {self.frame})
        return with_(edit, takes=changed(edit.takes, self.take, {"dismissed": dismissed}))


def _check_select(edit: Edit, take: str, select: str) -> None:
    if all(other.id != select for other in edit.take(take).selects):
        raise Refusal("no-such-select", f"The take has no select {select}.", take, "Reload the edit.")


def _with_selects(edit: Edit, id: str, selects: Iterable[Select]) -> Edit:
    take = edit.take(id)
    ordered = sorted(selects, key=lambda select: (select.begin, select.end))
    beyond = next((select for select in ordered if select.end >= take.frames), None)
    if beyond is not None:
        raise Refusal(
            "outside-take",
            f"The select would end at frame {beyond.end}; the take ends at frame {take.frames - 1}.",
            beyond.name,
            "Set its end within the take.",
            nearest=take.frames - 1,
        )
    return with_(edit, takes=changed(edit.takes, id, {"selects": ordered}))


def _with_moments(edit: Edit, take: str, moments: Iterable[Moment]) -> Edit:
    ordered = sorted(moments, key=lambda moment: moment.frame)
    return with_(edit, takes=changed(edit.takes, take, {"moments": ordered}))
