"""How many output frames is a length that a person says in seconds, in beats, or as a part?"""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from izmet.core.edit import Edit
from izmet.core.limits import MOST_FRAMES
from izmet.core.music.counting import beats_of
from izmet.core.refusal import Refusal

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
    match length.unit:
        case "seconds":
            frames = length.count * edit.rate
        case "beats":
            frames = abs(_beats_on(edit, at, -length.count if back else length.count) - at)
        case "percent":
            frames = now * length.count / 100
        case _:
            frames = length.count
    return max(1, round(frames))


def _beats_on(edit: Edit, at: int, beats: float) -> float:
    """The output frame, with its fraction, that lies so many beats after another one."""
    cues = beats_of(edit.song.cues) if edit.song else []
    if len(cues) < 2:
        raise Refusal(
            "no-beats",
            "The song has no beats to count in.",
            remedy="Mark its beats on the Music desk, or say the length in seconds.",
        )
    frames = np.array([edit.instant(cue.id) for cue in cues]) * float(edit.rate)
    count = _beyond(frames, np.arange(len(frames), dtype=np.float64), at) + beats
    return _beyond(np.arange(len(frames), dtype=np.float64), frames, count)


def _beyond(known: np.ndarray, values: np.ndarray, at: float) -> float:
    """Linear interpolation that goes on beyond both ends as it does beside them."""
    if at < known[0]:
        return float(values[0] + (at - known[0]) * (values[1] - values[0]) / (known[1] - known[0]))
    if at > known[-1]:
        return float(values[-1] + (at - known[-1]) * (values[-1] - values[-2]) / (known[-1] - known[-2]))
    return float(np.interp(at, known, values))
