"""Where does an edit end, and how does what is heard fade out there?"""

from __future__ import annotations

from typing import NamedTuple

from izmet.core.document.edit import Edit
from izmet.core.document.rates import frame_at, nearest_frame, seconds_at
from izmet.core.document.titles import Ending
from izmet.core.memo import Memo
from izmet.core.shown.sounds import Gains, eased_to, laid_sounds


class End(NamedTuple):
    """From output frame ``dark`` on nothing is seen but titles, and from ``stop`` on there is nothing."""

    dark: int
    stop: int

    def gains(self, edit: Edit) -> Gains | None:
        """How all that is heard fades out; None where it stops at once."""
        since, until = (seconds_at(n, edit.rate) for n in self)
        return None if since == until else eased_to(since, until, 1.0, 0.0)


def end_of(edit: Edit) -> End | None:
    """Where an edit ends; None where it does so with its last clip or title.

    A sound ends the picture on the first frame after it, wherever it is heard last; one that is not heard
    leaves the end where it was.
    """
    ending = edit.ending
    return None if ending is None else _KEPT.recall((edit,), None, lambda: _found(edit, ending))


_KEPT: Memo[End] = Memo(4)
"""Titles and what is heard ask again and again; where a sound ends takes a look at all of them."""


def _found(edit: Edit, ending: Ending) -> End:
    dark = edit.place_of(ending.at)
    if ending.sound is not None:
        heard = [each.begin + each.duration for each in laid_sounds(edit) if each.sound.id == ending.sound]
        dark = frame_at(max(heard), edit.rate, "after") if heard else dark
    return End(dark, dark + nearest_frame(ending.tail * float(edit.rate)))
