"""Where can a song be made shorter, or longer, so that nobody hears it?

At a join the song leaves off on one bar and goes on from another: from a later one, and what lies between is
left out; or from an earlier one, and what lies between is heard again, as often as wanted. It is not heard
where about both bars the music is alike. How alike, 0..1, is told by whoever has the sound; here it is asked
of pairs of bars between which a song would come to about the length that is wanted.

Source: joins found where a song is like itself, after Foote, "Visualizing music and audio using
self-similarity", ACM Multimedia 1999; that four bars are a phrase is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Cue, CueSelection, Section, Song
from izmet.core.document.limits import MOST_SONG_SECONDS
from izmet.core.document.refusal import Refusal

Places = NDArray[np.intp]
Likeness = Callable[[Places, Places], NDArray[np.float64]]
PHRASE_BARS = 4
UNEVEN = 0.05
"""So much less alike a join counts that does not leave out, or repeat, whole phrases."""
MISSED = 0.04
"""The same for each bar by which the song would end beside what is wanted."""
TIED = 0.15
"""The same for each place of what is left out on which something is tied, as far as ``MOST_TIED`` of them."""
MOST_TIED = 4
LEAST_ALIKE = 0.35
"""What is less alike is heard as another song."""
NEAR_BARS = 4
"""So many bars beside the wanted length are good enough to be looked at."""
MOST_TIMES = 16
FOUND = 6
SAME_BARS = 1
"""Joins whose places are no farther apart count as one."""
EARLY = 0.02
"""Seconds before a bar in which what is marked belongs to it."""


class Join(NamedTuple):
    """It leaves off at ``leave`` and goes on from ``enter``, seconds of the song. What it goes back over is
    heard ``times`` times more."""

    leave: float
    enter: float
    times: int = 1

    @property
    def longer(self) -> float:
        """By how many seconds the song becomes longer; below 0 shorter."""
        return (self.leave - self.enter) * self.times


class FoundJoin(NamedTuple):
    """A join, how alike the music is at both its places, 0..1, and of how many bars it is."""

    join: Join
    alike: float
    bars: int


def check_join(song: Song, join: Join) -> None:
    """Refuse a join that does not lie in a song, or by which it would become too long."""
    if join.leave == join.enter:
        raise Refusal(
            "no-join", "A join needs two different places.", song.media.name, "Choose another place."
        )
    if max(join.leave, join.enter) > song.duration:
        raise Refusal(
            "join-outside",
            f"The song is {song.duration:.1f} s long; a join lies inside it.",
            song.media.name,
            "Choose another place.",
        )
    if song.duration + join.longer > MOST_SONG_SECONDS:
        raise Refusal(
            "song-too-long",
            f"The song would be longer than {MOST_SONG_SECONDS / 3600:.0f} hours.",
            song.media.name,
            "Repeat less of it.",
        )


def pieces(duration: float, join: Join) -> list[tuple[float, float]]:
    """The stretches of a song that are heard one after the other, in seconds of it."""
    if join.enter > join.leave:
        return [(0.0, join.leave), (join.enter, duration)]
    again = [(join.enter, join.leave)] * (join.times - 1)
    return [(0.0, join.leave), *again, (join.enter, duration)]


def best_joins(
    bars: Sequence[float], longer: float, alike: Likeness, tied: Sequence[float] = ()
) -> list[FoundJoin]:
    """The joins by which a song comes nearest to a wanted length without being heard, the best first.

    Args:
        bars: the instants at which bars begin, rising, in seconds of the song.
        longer: by how many seconds it is to become longer; below 0 shorter.
        alike: told for bars at which it leaves off and those from which it goes on, by their places.
        tied: instants on which something is tied, rising, which had better stay.
    """
    asked = list(_pairs(np.asarray(bars), longer))
    if not asked:
        return []
    leave, enter, times, missed = (np.array(column) for column in zip(*asked, strict=True))
    likeness = alike(leave, enter)
    count = np.abs(leave - enter) * times
    uneven = np.abs(leave - enter) % PHRASE_BARS != 0
    out, into = (np.asarray(bars)[places] for places in (leave, enter))
    gone = np.searchsorted(tied, into - EARLY) - np.searchsorted(tied, out + EARLY)
    worth = likeness - UNEVEN * uneven - MISSED * missed - TIED * np.clip(gone, 0, MOST_TIED)
    found: dict[tuple[int, int], FoundJoin] = {}
    for index in np.argsort(-worth, kind="stable").tolist():
        here = (int(leave[index]), int(enter[index]))
        if likeness[index] >= LEAST_ALIKE and not any(_beside(here, other) for other in found):
            join = Join(bars[here[0]], bars[here[1]], int(times[index]))
            found[here] = FoundJoin(join, float(likeness[index]), int(count[index]))
    return list(found.values())[:FOUND]


def _beside(one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether two joins are all but the same."""
    return max(abs(one[0] - other[0]), abs(one[1] - other[1])) <= SAME_BARS


def _pairs(bars: NDArray[np.float64], longer: float) -> Iterator[tuple[int, int, int, float]]:
    """Bars to leave off at and to go on from, how often, and by how many bars that misses what is wanted."""
    if len(bars) < 2:
        return
    bar = float(np.median(np.diff(bars)))
    for times in range(1, MOST_TIMES + 1 if longer > 0 else 2):
        step = longer / times
        for leave, at in enumerate(bars):
            near = np.flatnonzero(np.abs(at - bars - step) * times <= NEAR_BARS * bar)
            for enter in near.tolist():
                if enter != leave and (enter < leave) == (longer > 0):
                    yield leave, enter, times, abs(at - bars[enter] - step) * times / bar


def taking_its_place(song: Song, cue: Cue, join: Join) -> Cue | None:
    """What a cue is in a joined ``song``: itself, or where it began the bar at which that leaves off, what
    begins the one from which it goes on."""
    if cue.id in song.by_id:
        return song.by_id[cue.id]
    if abs(cue.time - join.leave) > EARLY:
        return None
    near = (each for each in song.cues if each.kind == cue.kind and abs(each.time - join.leave) <= 2 * EARLY)
    return min(near, key=lambda each: abs(each.time - cue.time), default=None)


def joined(song: Song, join: Join) -> Song:
    """A song with its marks where they are heard after a join; its length too, its file is still the old one.

    Marks of what is left out are gone; those of what is heard again are there as often, with new ids.
    """
    parts = pieces(song.duration, join)
    starts = np.cumsum([0.0, *(end - begin for begin, end in parts)]).tolist()
    cues = tuple(_cues(song.cues, parts, starts, "cue"))
    kept = {cue.id for cue in cues}
    heard_to = None if song.heard_to is None else _moved(song.heard_to, parts, starts)
    return song.model_copy(
        update={
            "duration": starts[-1],
            "heard_to": heard_to,
            "cues": tuple(sorted(cues, key=lambda cue: cue.time)),
            "struck": tuple(_cues(song.struck, parts, starts, "struck")),
            "sections": tuple(_sections(song.sections, parts, starts)),
            "selections": tuple(_selection(each, kept, parts, starts) for each in song.selections),
        }
    )


Parts = Sequence[tuple[float, float]]


def _cues(cues: Sequence[Cue], parts: Parts, starts: Sequence[float], name: str) -> Iterator[Cue]:
    """Cues in the stretches that are heard; where one is heard again it is another one."""
    known = {cue.id for cue in cues}
    seen: set[str] = set()
    for place, ((begin, end), start) in enumerate(zip(parts, starts, strict=False)):
        until = np.inf if place == len(parts) - 1 else end - EARLY
        for cue in cues:
            if begin - EARLY <= cue.time < until:
                id = cue.id if cue.id not in seen else _unused(f"{cue.id[:40]}-again-{place}", known)
                seen.add(id)
                known.add(id)
                yield cue.model_copy(update={"id": id, "time": max(start, cue.time - begin + start)})


def _unused(id: str, known: set[str]) -> str:
    while id in known:
        id += "-"
    return id


def _moved(time: float, parts: Parts, starts: Sequence[float]) -> float:
    """Where an instant is heard last; that of the join where it is left out."""
    for (begin, end), start in reversed(list(zip(parts, starts, strict=False))):
        if begin <= time <= end:
            return time - begin + start
    return starts[1]


def _sections(sections: Iterable[Section], parts: Parts, starts: Sequence[float]) -> Iterator[Section]:
    for (begin, end), start in zip(parts, starts, strict=False):
        for each in sections:
            since, until = max(each.start, begin), min(each.end, end)
            if since < until:
                moved = {"start": since - begin + start, "end": until - begin + start}
                yield each.model_copy(update=moved)


def _selection(each: CueSelection, kept: set[str], parts: Parts, starts: Sequence[float]) -> CueSelection:
    ends = {
        name: None if (time := getattr(each, name)) is None else _moved(time, parts, starts)
        for name in ("begin", "end")
    }
    named = {name: tuple(id for id in getattr(each, name) if id in kept) for name in ("extra", "without")}
    return each.model_copy(update=ends | named)
