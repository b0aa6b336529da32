"""Commands about what is heard: sounds on cues, ties and cuts, and how loud the song is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, new_id, song_of, unclear, with_
from izmet.core.document.accents import Anchor
from izmet.core.document.edit import Edit
from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.sounds import QUIETEST, Decibels, Duck, LevelKey, Made, Recorded, Seconds, Sound
from izmet.core.document.values import Easing, Id, Share

AnySound = Annotated[Made | Recorded, Field(discriminator="kind")]
USUAL: dict[str, dict[str, Any]] = {
    "riser": {"lands": "end"},
    "swell": {"lands": "end"},
    "boom": {"duck": Duck()},
}
"""How each of those that come along is laid where nothing else is said. Common practice, no source."""


class SoundValues(EditCommand):
    """Base of those that say how a sound is laid; what is not said stays, or is as usual."""

    level: Decibels | None = None
    by_strength: Share | None = None
    lands: Literal["attack", "end"] | None = None
    exact: Literal["cue", "frame"] | None = None
    fade_in: Seconds | None = None
    fade_out: Seconds | None = None
    duck: Duck | None = None

    def values(self) -> dict[str, Any]:
        """What it says of that."""
        return {
            name: value for name in SoundValues.model_fields if (value := getattr(self, name)) is not None
        }


class AddSound(SoundValues):
    """Lay a sound, at one place or at many."""

    do: Literal["add-sound"] = "add-sound"
    said: ClassVar[str] = "Add a sound"
    at: Anchor
    what: AnySound

    def on(self, edit: Edit) -> Edit:
        usual = USUAL.get(self.what.name, {}) if isinstance(self.what, Made) else {}
        id = new_id("sound", edit.sounds)
        return with_(
            edit, sounds=[*edit.sounds, Sound(id=id, at=self.at, what=self.what, **usual | self.values())]
        )


class ChangeSound(SoundValues):
    """Change some values of a sound, what it is, or where it stands; ``works`` turns it off and on, ``ducks``
    whether the song gives way to it."""

    do: Literal["change-sound"] = "change-sound"
    said: ClassVar[str] = "Change a sound"
    sound: Id
    at: Anchor | None = None
    what: AnySound | None = None
    works: bool | None = None
    ducks: bool | None = None

    def on(self, edit: Edit) -> Edit:
        sound = _found(edit, self.sound)
        changes = self.values()
        for name, value in (("at", self.at), ("what", self.what), ("on", self.works)):
            if value is not None:
                changes[name] = value
        if self.ducks is not None:
            changes["duck"] = (self.duck or sound.duck or Duck()) if self.ducks else None
        if not changes:
            raise unclear("Say what to change in the sound.")
        changed = with_(sound, **changes)
        return with_(edit, sounds=[changed if each.id == self.sound else each for each in edit.sounds])


class CopySound(EditCommand):
    """The same sound at another place."""

    do: Literal["copy-sound"] = "copy-sound"
    said: ClassVar[str] = "Copy a sound"
    sound: Id
    at: Anchor

    def on(self, edit: Edit) -> Edit:
        copied = with_(_found(edit, self.sound), id=new_id("sound", edit.sounds), at=self.at)
        return with_(edit, sounds=[*edit.sounds, copied])


class RemoveSound(EditCommand):
    """Take a sound away."""

    do: Literal["remove-sound"] = "remove-sound"
    said: ClassVar[str] = "Remove a sound"
    sound: Id

    def on(self, edit: Edit) -> Edit:
        _found(edit, self.sound)
        return with_(edit, sounds=[each for each in edit.sounds if each.id != self.sound])


class MuteClips(EditCommand):
    """Have no clip's own sound heard, or have each heard as it says."""

    do: Literal["mute-clips"] = "mute-clips"
    said: ClassVar[str] = "Mute the clips"
    muted: bool

    def on(self, edit: Edit) -> Edit:
        return with_(edit, muted=self.muted)


class FadeSong(EditCommand):
    """Set how loud the song is all through, over how many seconds it comes and goes, and for how many it
    rings out where it is cut off."""

    do: Literal["fade-song"] = "fade-song"
    said: ClassVar[str] = "Set the song's level"
    level: Decibels | None = None
    fade_in: Seconds | None = None
    fade_out: Seconds | None = None
    ring_out: Seconds | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"fade_in", "fade_out", "ring_out"}, exclude_none=True)
        if self.level is not None:
            changes["level"] = 0.0 if self.level <= QUIETEST else min(4.0, 10 ** (self.level / 20))
        return with_(edit, song=with_(song_of(edit), **changes))


class SetLevelKey(EditCommand):
    """Set how loud the song is on an output frame or a cue, or the clips' ``own`` sound; a key that is there
    already is changed."""

    do: Literal["set-level-key"] = "set-level-key"
    said: ClassVar[str] = "Set a level here"
    key: Id | None = None
    of: Literal["song", "own"] = "song"
    n: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] | None = None
    cue: Id | None = None
    level: Decibels | None = None
    ease: Easing | None = None

    def on(self, edit: Edit) -> Edit:
        place = self.model_dump(include={"n", "cue"}, exclude_none=True)
        said = self.model_dump(include={"level", "ease"}, exclude_none=True)
        if place:
            said["at"] = Pin(id="at", **place)
        if self.key is not None:
            _check_level(edit, self.key)
            return _levels_changed(
                edit, lambda keys: [with_(key, **said) if key.id == self.key else key for key in keys]
            )
        if not place:
            raise unclear("Say on which frame or cue the level is set.")
        here = edit.own_levels if self.of == "own" else song_of(edit).levels
        there = next((key.id for key in here if key.at == said["at"]), None)
        if there is not None:
            return self.model_copy(update={"key": there}).on(edit)
        key = LevelKey(id=new_id("level", edit.levels), **said)
        if self.of == "own":
            return with_(edit, own_levels=[*edit.own_levels, key])
        song = song_of(edit)
        return with_(edit, song=with_(song, levels=[*song.levels, key]))


class RemoveLevelKey(EditCommand):
    """Take a key of a level away."""

    do: Literal["remove-level-key"] = "remove-level-key"
    said: ClassVar[str] = "Remove a level"
    key: Id

    def on(self, edit: Edit) -> Edit:
        _check_level(edit, self.key)
        return _levels_changed(edit, lambda keys: [key for key in keys if key.id != self.key])


def _check_level(edit: Edit, id: str) -> None:
    if all(key.id != id for key in edit.levels):
        raise Refusal("no-such-level", f"There is no level {id}.", id, "Reload the edit.")


def _levels_changed(edit: Edit, change: Callable[[Sequence[LevelKey]], list[LevelKey]]) -> Edit:
    """An edit with all its keys of levels passed through a function."""
    song = edit.song and with_(edit.song, levels=change(edit.song.levels))
    return with_(edit, song=song, own_levels=change(edit.own_levels))


def _found(edit: Edit, id: str) -> Sound:
    for each in edit.sounds:
        if each.id == id:
            return each
    raise Refusal("no-such-sound", f"There is no sound {id}.", id, "Reload the edit.")
