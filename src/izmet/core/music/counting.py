"""How are the beats counted: which begins a bar, and where do they fall between beats set by hand?

Beats are the cues of kind beat and downbeat, in order of time. A beat made by hand is
pinned: where the tempo around it is bent, it stays.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np

from izmet.core.document.cuekinds import BEATS
from izmet.core.document.edit import Cue

FAR = 1e4
"""Beats beyond the ends of a song, more than anything counts."""
BEAT_STRENGTH, DOWNBEAT_STRENGTH = 0.6, 0.85

Marks = list[tuple[float, bool]]
"""Instants of beats, and whether a hand set them."""


def beats_of(cues: Iterable[Cue]) -> list[Cue]:
    """The beats among cues in order of time."""
    return [cue for cue in cues if cue.kind in BEATS]


class BeatScale:
    """A song's beats as a scale: from instants to counts of beats, and back.

    Beyond both ends it goes on as beside them.

    Args:
        beats: their instants, rising, two at least.
    """

    def __init__(self, beats: Sequence[float]):
        times, counts = np.asarray(beats, np.float64), np.arange(len(beats), dtype=np.float64)
        lead, tail = times[1] - times[0], times[-1] - times[-2]
        self._times = np.array([times[0] - FAR * lead, *times, times[-1] + FAR * tail])
        self._counts = np.array([-FAR, *counts, counts[-1] + FAR])

    def count(self, time: float) -> float:
        """How many beats an instant lies after the first one."""
        return float(np.interp(time, self._times, self._counts))

    def instant(self, count: float) -> float:
        """The instant that lies so many beats after the first one."""
        return float(np.interp(count, self._counts, self._times))


def counted(beats: Sequence[Cue], meter: int, downbeat: int) -> list[Cue]:
    """The same beats, every ``meter``-th from index ``downbeat`` on a downbeat."""
    return [
        beat.model_copy(update={"kind": "downbeat" if (index - downbeat) % meter == 0 else "beat"})
        for index, beat in enumerate(beats)
    ]


def first_downbeat(beats: Sequence[Cue]) -> int:
    """Index of the first downbeat, 0 when there is none."""
    return next((index for index, beat in enumerate(beats) if beat.kind == "downbeat"), 0)


def doubled(beats: Sequence[Cue]) -> Marks:
    """The beats and one between each two."""
    marks: Marks = []
    for beat, following in pairwise(beats):
        marks += [(beat.time, beat.made == "hand"), ((beat.time + following.time) / 2, False)]
    return [*marks, *((beat.time, beat.made == "hand") for beat in beats[-1:])]


def halved(beats: Sequence[Cue]) -> Marks:
    """Every other beat, so that the first downbeat stays."""
    return [(beat.time, beat.made == "hand") for beat in beats[first_downbeat(beats) % 2 :: 2]]


def between(beats: Sequence[Cue]) -> Marks:
    """The instants halfway between beats: the off-beat as the beat."""
    return [((beat.time + following.time) / 2, False) for beat, following in pairwise(beats)]


def bent(beats: Sequence[Cue], index: int, time: float) -> list[Cue]:
    """The beats with one set to an instant by hand, those between it and the pinned ones beside it stretched.

    Beyond the last pinned beat on a side, beats move along.
    """
    times = np.array([beat.time for beat in beats])
    pinned = sorted({index, *(i for i, beat in enumerate(beats) if beat.made == "hand")})
    to = [time if i == index else times[i] for i in pinned]
    place = pinned.index(index)
    moved = times.copy()
    if place > 0:
        left = slice(pinned[place - 1], index + 1)
        moved[left] = np.interp(times[left], [times[pinned[place - 1]], times[index]], [to[place - 1], time])
    else:
        moved[: index + 1] += time - times[index]
    if place < len(pinned) - 1:
        right = slice(index, pinned[place + 1] + 1)
        moved[right] = np.interp(
            times[right], [times[index], times[pinned[place + 1]]], [time, to[place + 1]]
        )
    else:
        moved[index + 1 :] += time - times[index]
    moved[pinned] = to  # to the last bit
    return [
        beat.model_copy(update={"time": float(at), "made": "hand" if i == index else beat.made})
        for i, (beat, at) in enumerate(zip(beats, moved, strict=True))
    ]
