"""Commands about how two clips meet: cut, or one fading into the other."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import EditCommand, with_, with_clip
from izmet.core.document.edit import Edit
from izmet.core.document.limits import LONGEST_EFFECT
from izmet.core.document.overlaps import Overlap, OverlapKind, Reveal, Way
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id
from izmet.core.document.words import counted
from izmet.core.retime.solve import curves_of
from izmet.core.shown.overlaps import halves, meeting, room_beyond
from izmet.core.shown.stack import frames_along


class OverlapClips(EditCommand):
    """Have a clip come in over the one before it, over some output frames around their cut; 0 cuts hard.

    A kind, a way or a shape that is not said stays as it is.
    """

    do: Literal["overlap-clips"] = "overlap-clips"
    said: ClassVar[str] = "Overlap two clips"
    clip: Id
    frames: Annotated[int, Field(ge=0, le=LONGEST_EFFECT)]
    kind: OverlapKind | None = None
    way: Way | None = None
    reveal: Reveal | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        if not self.frames:
            return with_clip(edit, clip, overlap=None)
        said = self.model_dump(include={"kind", "way", "reveal"}, exclude_none=True)
        overlap = with_(clip.overlap or Overlap(frames=self.frames), frames=self.frames, **said)
        most = longest_overlap(edit, self.clip, overlap.kind)
        if self.frames > most:
            raise Refusal(
                "no-room",
                f"An overlap of {counted(self.frames, 'frame')} has no room: "
                "a take has no more pictures, or the next cut comes.",
                where=Place.of(clip.id),
                remedy=f"There is room for {counted(most, 'frame')}." if most else "Cut hard here.",
                nearest=most,
            )
        return with_clip(edit, clip, overlap=overlap)


def longest_overlap(edit: Edit, clip: str, kind: OverlapKind = "dissolve") -> int:
    """How many output frames a clip may overlap the one before it: in a dip each is seen on its side alone.

    Raises:
        Refusal: none is seen before it, or a clip cannot be solved.
    """
    curves = curves_of(edit)
    shown = frames_along(edit, curves)
    place = shown.index_of[clip]
    met = meeting(shown, place, curves[place])
    if met is None:
        raise Refusal(
            "no-cut",
            "No clip is seen just before this one.",
            where=Place.of(clip),
            remedy="Lay one there first, or remove what lies over the cut.",
        )
    if kind == "dip":
        return min(2 * met.room[0] + 1, 2 * met.room[1], LONGEST_EFFECT)
    lead, tail = halves(LONGEST_EFFECT, kind)
    coming, going = range(max(0, met.n - lead), met.n), range(met.n, met.n + tail)
    before = min(met.room[0], room_beyond(edit, edit.clips[met.after], curves[met.after], coming))
    after = min(met.room[1], room_beyond(edit, edit.clips[met.before], curves[met.before], going))
    return before if kind == "reveal" else min(2 * before + 1, 2 * after)
