"""Commands about what is seen between pictures, and for how long the shutter is open."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, changed, unclear, with_, with_clip
from izmet.core.commands.spans import span_of
from izmet.core.document.edit import Between, Clip, Degrees, Edit, Motion
from izmet.core.document.limits import MOST_CLIPS, MOST_FRAMES
from izmet.core.document.values import Id


class SetMotion(EditCommand):
    """Change the motion of some clips, of a span of one, or of the edit where no clip is named.

    The edit's is that of all clips without one, and a clip's that of its spans. ``as_whole`` gives
    clips that of the edit again, or a span that of its clip.
    """

    do: Literal["set-motion"] = "set-motion"
    said: ClassVar[str] = "Change the motion"
    clips: Annotated[tuple[Id, ...], Field(max_length=MOST_CLIPS)] = ()
    span: Annotated[int, Field(ge=0)] | None = None
    between: Between | None = None
    shutter: Degrees | None = None
    as_whole: bool = False

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"between", "shutter"}, exclude_none=True)
        if self.as_whole == bool(changes) or (self.as_whole and not self.clips):
            raise unclear("Say what to change, or which clips go back to the motion of the edit.")
        if self.span is not None and len(self.clips) != 1:
            raise unclear("Say which one clip the span is in.")
        if not self.clips:
            return with_(edit, motion=with_(edit.motion, **changes))
        for id in self.clips:
            edit.clip(id)
        if self.span is not None:
            return self._on_span(edit, edit.clip(self.clips[0]), self.span, changes)
        named = set(self.clips)

        def moved(clip: Clip) -> Clip:
            own: Motion | None = None if self.as_whole else with_(edit.motion_of(clip), **changes)
            return with_(clip, motion=own)

        return with_(edit, clips=[moved(clip) if clip.id in named else clip for clip in edit.clips])

    def _on_span(self, edit: Edit, clip: Clip, index: int, changes: dict[str, object]) -> Edit:
        span = span_of(clip, index)
        own = None if self.as_whole else with_(edit.motions_of(clip)[index], **changes)
        spans = [*clip.spans[:index], with_(span, motion=own), *clip.spans[index + 1 :]]
        return with_clip(edit, clip, spans=spans)


class SetBreak(EditCommand):
    """Have nothing of the frames before a frame of a take mixed into those from it on, or
    have them mixed ``again``.
    """

    do: Literal["set-break"] = "set-break"
    said: ClassVar[str] = "Mix nothing over a frame"
    take: Id
    frame: Annotated[int, Field(ge=1, le=MOST_FRAMES)]
    again: bool = False

    def on(self, edit: Edit) -> Edit:
        others = set(edit.take(self.take).breaks) - {self.frame}
        breaks = sorted(others if self.again else others | {self.frame})
        return with_(edit, takes=changed(edit.takes, self.take, {"breaks": breaks}))
