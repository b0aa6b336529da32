"""How many output frames is a length that a person says in seconds, in beats, or as a part?"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.document.edit import Edit
from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Refusal
from izmet.core.memo import Memo
from izmet.core.music.counting import BeatScale, beats_of

Unit = Literal["frames", "seconds", "beats", "percent"]


class Length(BaseModel):
    """A length as it was said. ``percent`` is of what there is now."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    count: Annotated[float, Field(gt=0, le=MOST_FRAMES)]
    unit: Unit = "frames"


def frames_of(edit: Edit, length: Length, at: int, now: int = 0, back: bool = False) -> int:
    """A length in whole output frames, one at least.

    Args:
        at: the output frame from which beats are counted, forward, or back from it.
        now: output frames of which a percentage is taken.

    Raises:
        Refusal: beats of a song that has none.
    """
    return counted_out(edit, length.count, length.unit, at, now, back)


def counted_out(edit: Edit, count: float, unit: Unit, at: int, now: int = 0, back: bool = False) -> int:
    """The same of a count in a unit."""
    match unit:
        case "seconds":
            frames = count * float(edit.rate)
        case "beats":
            frames = abs(_beats_on(edit, at, -count if back else count) - at)
        case "percent":
            frames = now * count / 100
        case _:
            frames = count
    return max(1, nearest_frame(frames))


def beat_scale(edit: Edit) -> BeatScale | None:
    """The beats of an edit's song on its output frames; None where there are fewer than two.

    Made once a song: many lengths are asked for at each step of a drag.
    """
    return _KEPT.recall((edit.song,), edit.rate, lambda: _scale(edit))


_KEPT: Memo[BeatScale | None] = Memo(64)


def _scale(edit: Edit) -> BeatScale | None:
    cues = beats_of(edit.song.cues) if edit.song else []
    return None if len(cues) < 2 else BeatScale([edit.instant(cue.id) * float(edit.rate) for cue in cues])


def _beats_on(edit: Edit, at: int, beats: float) -> float:
    """The output frame, with its fraction, that lies so many beats after another one."""
    scale = beat_scale(edit)
    if scale is None:
        raise Refusal(
            "no-beats",
            "The song has no beats to count in.",
            remedy="Mark its beats on the Music desk, or say the length in seconds.",
        )
    return scale.instant(scale.count(at) + beats)
