"""Commands about takes and their moments."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from izmet.core.commands.parts import Step, changed, map_pins, new_id, song_of, with_
from izmet.core.edit import Clip, Edit, Id, Label, Media, Moment, MomentKind, Pin, Take
from izmet.core.refusal import Refusal


class UseTake(Step):
    """Bring a take into the edit."""

    do: Literal["use-take"] = "use-take"
    take: Take

    def on(self, edit: Edit) -> Edit:
        if any(take.id == self.take.id for take in edit.takes):
            raise Refusal("take-in-use", f"A take {self.take.id} is in the edit already.", where=self.take.id)
        return with_(edit, takes=[*edit.takes, self.take])


class Relink(Step):
    """Point a take, or the song when no take is named, to another file. Marks and ties stay."""

    do: Literal["relink"] = "relink"
    take: Id | None = None
    media: Media
    frames: int | None = None
    duration: float | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"frames", "duration"}, exclude_none=True) | {"media": self.media}
        if self.take is None:
            return with_(edit, song=with_(song_of(edit), **changes))
        edit.take(self.take)
        return with_(edit, takes=changed(edit.takes, self.take, changes))


class AddMoment(Step):
    """Mark a source frame that matters."""

    do: Literal["add-moment"] = "add-moment"
    take: Id
    frame: int
    kind: MomentKind = "impact"
    label: Label = ""

    def on(self, edit: Edit) -> Edit:
        moments = edit.take(self.take).moments
        moment = Moment(id=new_id("moment", moments), frame=self.frame, kind=self.kind, label=self.label)
        return _with_moments(edit, self.take, [*moments, moment])


class ChangeMoment(Step):
    """Move a moment to another source frame, or rename it. Its ties follow."""

    do: Literal["change-moment"] = "change-moment"
    take: Id
    moment: Id
    frame: int | None = None
    kind: MomentKind | None = None
    label: Label | None = None

    def on(self, edit: Edit) -> Edit:
        edit.moment(self.take, self.moment)
        changes = self.model_dump(include={"frame", "kind", "label"}, exclude_none=True)
        return _with_moments(edit, self.take, changed(edit.take(self.take).moments, self.moment, changes))


class RemoveMoment(Step):
    """Delete a moment. What was tied to it keeps its source frame, as a pin."""

    do: Literal["remove-moment"] = "remove-moment"
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


def _with_moments(edit: Edit, take: str, moments: Iterable[Moment]) -> Edit:
    ordered = sorted(moments, key=lambda moment: moment.frame)
    return with_(edit, takes=changed(edit.takes, take, {"moments": ordered}))
