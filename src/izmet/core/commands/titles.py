"""Commands about titles, and about where the edit ends."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from izmet.core.commands.common import EditCommand, Frame, new_id, placed, unclear, with_
from izmet.core.document.edit import Edit
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import Seconds
from izmet.core.document.titles import Behind, Ending, Entrance, Font, Lettering, LetterSize, Text
from izmet.core.document.values import Colour, Id, Share
from izmet.core.music.lengths import beat_scale, counted_out

USUAL_BARS, USUAL_SECONDS = 1, 2.0
"""How long a title stays where nothing else is said. Common practice, no source."""
END_CARD = "#000000"


class TitleValues(EditCommand):
    """Base of those that say how a title looks; what is not said stays, or is as usual. A ``card`` of
    ``none`` is none."""

    font: Font | None = None
    bold: bool | None = None
    size: LetterSize | None = None
    colour: Colour | None = None
    align: Literal["left", "middle", "right"] | None = None
    across: Share | None = None
    down: Share | None = None
    behind: Behind | None = None
    card: Colour | Literal["none"] | None = None
    comes: Entrance | None = None
    goes: Entrance | None = None
    to_end: bool | None = None

    def values(self) -> dict[str, Any]:
        """What it says of that."""
        said = {name: getattr(self, name) for name in TitleValues.model_fields}
        found = {name: value for name, value in said.items() if value is not None}
        return found | ({"card": None} if self.card == "none" else {})


class AddTitle(TitleValues):
    """Write something over the picture, for a bar where no end is said."""

    do: Literal["add-title"] = "add-title"
    said: ClassVar[str] = "Add a title"
    text: Text
    since: Frame | Id
    until: Frame | Id | None = None

    def on(self, edit: Edit) -> Edit:
        since = placed("since", self.since)
        until = _usual_end(edit, since) if self.until is None else placed("until", self.until)
        id = new_id("title", edit.titles)
        title = Lettering(id=id, text=self.text, since=since, until=until, **self.values())
        return _with(edit, title)


class ChangeTitle(TitleValues):
    """Change what a title says, how it looks, or when it is seen; ``works`` turns it off and on."""

    do: Literal["change-title"] = "change-title"
    said: ClassVar[str] = "Change a title"
    title: Id
    text: Text | None = None
    since: Frame | Id | None = None
    until: Frame | Id | None = None
    works: bool | None = None

    def on(self, edit: Edit) -> Edit:
        title = _found(edit, self.title)
        changes = self.values()
        for name, value in (("text", self.text), ("on", self.works)):
            if value is not None:
                changes[name] = value
        for name, at in (("since", self.since), ("until", self.until)):
            if at is not None:
                changes[name] = placed(name, at)
        if not changes:
            raise unclear("Say what to change in the title.")
        return _with(edit, with_(title, **changes))


class CopyTitle(EditCommand):
    """Write the same, in the same way, elsewhere: from an output frame or a cue on, for as long."""

    do: Literal["copy-title"] = "copy-title"
    said: ClassVar[str] = "Copy a title"
    title: Id
    to: Frame | Id

    def on(self, edit: Edit) -> Edit:
        title = _found(edit, self.title)
        since = placed("since", self.to)
        until = Pin(id="until", n=edit.place_of(since) + len(edit.frames_in(title)))
        copy = with_(title, id=new_id("title", edit.titles), since=since, until=until, to_end=False)
        return _with(edit, copy)


class RemoveTitle(EditCommand):
    """Take a title away."""

    do: Literal["remove-title"] = "remove-title"
    said: ClassVar[str] = "Remove a title"
    title: Id

    def on(self, edit: Edit) -> Edit:
        _found(edit, self.title)
        return with_(edit, titles=[each for each in edit.titles if each.id != self.title])


class EndEdit(EditCommand):
    """End the picture on an output frame, on a cue, or where a ``sound`` that is laid ends: it is cut to
    black, or to a ``title``, and what is heard fades out over the ``tail``, in seconds. A title that begins
    there already goes along, and no other is laid."""

    do: Literal["end-edit"] = "end-edit"
    said: ClassVar[str] = "End the edit"
    at: Frame | Id
    sound: Id | None = None
    tail: Seconds | None = None
    title: Text | None = None

    def on(self, edit: Edit) -> Edit:
        before = edit.ending or Ending(at=placed("at", self.at))
        if self.sound is not None and all(each.id != self.sound for each in edit.sounds):
            raise Refusal("no-such-sound", f"There is no sound {self.sound}.", self.sound, "Reload the edit.")
        tail = before.tail if self.tail is None else self.tail
        ending = Ending(at=placed("at", self.at), sound=self.sound, tail=tail)
        goes_along = {"since": placed("since", self.at), "until": _usual_end(edit, ending.at)}
        moved = [with_(title, **goes_along) if _begins_with(edit, title) else title for title in edit.titles]
        ended = with_(edit, ending=ending, titles=moved)
        if self.title is None or any(_begins_with(edit, title) for title in edit.titles):
            return ended
        still = Entrance(frames=0, fade=False)
        how: dict[str, Any] = {"card": END_CARD, "comes": still, "goes": still, "to_end": True}
        return AddTitle(text=self.title, since=self.at, **how).on(ended)


class OpenEnd(EditCommand):
    """Let the edit end with its last clip or title again."""

    do: Literal["open-end"] = "open-end"
    said: ClassVar[str] = "End with the last clip"

    def on(self, edit: Edit) -> Edit:
        return with_(edit, ending=None)


def _begins_with(edit: Edit, title: Lettering) -> bool:
    """Whether a title begins where the edit ends, and stays."""
    ending = edit.ending
    return title.to_end and ending is not None and edit.place_of(title.since) == edit.place_of(ending.at)


def _usual_end(edit: Edit, since: Pin) -> Pin:
    n = edit.place_of(since)
    if edit.song is None or beat_scale(edit) is None:
        return Pin(id="until", n=n + counted_out(edit, USUAL_SECONDS, "seconds", n))
    return Pin(id="until", n=n + counted_out(edit, USUAL_BARS * edit.song.meter, "beats", n))


def _with(edit: Edit, title: Lettering) -> Edit:
    """The edit with a title, in place of the one with its id if there is one."""
    if not title.to_end and not edit.frames_in(title):
        raise Refusal(
            "empty-stretch",
            "The title would end where it begins, or before.",
            title.id,
            "Choose a later end, or an earlier beginning.",
        )
    kept = [title if each.id == title.id else each for each in edit.titles]
    return with_(edit, titles=kept if title in kept else [*kept, title])


def _found(edit: Edit, id: str) -> Lettering:
    for each in edit.titles:
        if each.id == id:
            return each
    raise Refusal("no-such-title", f"There is no title {id}.", id, "Reload the edit.")
