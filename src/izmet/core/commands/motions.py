"""Commands about what is seen between pictures, and for how long the shutter is open."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, unclear, with_
from izmet.core.document.edit import Between, Clip, Degrees, Edit, Id, Motion
from izmet.core.document.limits import MOST_CLIPS


class SetMotion(EditCommand):
    """Change the motion of some clips, or of the edit where none is named: it is that of all without one.

    ``as_edit`` gives clips that of the edit again.
    """

    do: Literal["set-motion"] = "set-motion"
    said: ClassVar[str] = "Change the motion"
    clips: Annotated[tuple[Id, ...], Field(max_length=MOST_CLIPS)] = ()
    between: Between | None = None
    shutter: Degrees | None = None
    as_edit: bool = False

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"between", "shutter"}, exclude_none=True)
        if self.as_edit == bool(changes) or (self.as_edit and not self.clips):
            raise unclear("Say what to change, or which clips go back to the motion of the edit.")
        if not self.clips:
            return with_(edit, motion=with_(edit.motion, **changes))
        for id in self.clips:
            edit.clip(id)
        named = set(self.clips)

        def moved(clip: Clip) -> Clip:
            own: Motion | None = None if self.as_edit else with_(edit.motion_of(clip), **changes)
            return with_(clip, motion=own)

        return with_(edit, clips=[moved(clip) if clip.id in named else clip for clip in edit.clips])
