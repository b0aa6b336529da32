"""The edit as a row of shots: its cuts, and what in it needs a look.

Told from what the edit shows, so a clip that lies under another one has no cut there. At a
cut the movement goes on, turns, or one side stands: told from how the picture's content
moves just before and just after, per take, where that is known.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from statistics import median
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from izmet.core.document.edit import Edit, Take
from izmet.core.document.overlaps import Way as Towards
from izmet.core.document.words import counted
from izmet.core.following.derived import Derived, DerivedClip
from izmet.core.shown.flashing import flashing
from izmet.core.shown.framemap import BLACK, FrameMap
from izmet.core.shown.repeats import HIDDEN
from izmet.core.shown.stack import frames_shown, meant_dark

AROUND = 6
"""Source frames on each side of a cut whose movement is told."""
MOVES = 0.002
"""Movement per source frame, in parts of the picture's width, from which a direction can be told."""
TURN_DEGREES = 90
FLICKER = 8
"""Black frames between two clips that are seen as a blink, not as a pause."""

Way = Literal["goes on", "turns", "stands", "unknown"]
TroubleKind = Literal[
    "gap", "overlap", "hidden", "hidden tie", "stutter", "turn", "loose", "flashing", "even cadence"
]


class Drift(NamedTuple):
    """How a take's content moves since the frame before, in source pixels, each of shape (frames,).

    ``across`` and ``down`` are where in the picture that is which goes its own way, 0..1.
    """

    dx: NDArray[np.float32]
    dy: NDArray[np.float32]
    across: NDArray[np.float32]
    down: NDArray[np.float32]


class Moving(NamedTuple):
    """What a few pictures show: movement a source frame, in picture widths, and the place of what moves."""

    dx: float
    dy: float
    across: float
    down: float

    def at_speed(self, frames: float) -> Moving:
        """The same with movement an output frame, in which so many source frames pass."""
        return Moving(self.dx * frames, self.dy * frames, self.across, self.down)


def moving(drift: Drift, picture: int, along: int, way: int, take: Take) -> Moving:
    """What the pictures from one on show. Frames that repeat a picture are still, so what moves is told
    from the others, and spread over all.

    Args:
        along: 1 to look at those after it in the take, −1 at those before.
        way: the way the take runs: backwards its content goes the other way.
    """
    frames = range(picture, picture + along * AROUND, along)
    inside = [frame for frame in frames if 0 <= frame < len(drift.dx)]
    moves = [frame for frame in inside if drift.dx[frame] or drift.dy[frame]] or inside
    spread = way * len(moves) / max(1, len(inside)) / take.width
    dx, dy = (_middle(column, moves) * spread for column in (drift.dx, drift.dy))
    return Moving(dx, dy, _middle(drift.across, inside), _middle(drift.down, inside))


def _middle(column: NDArray[np.float32], frames: list[int]) -> float:
    """The median over a few frames; for so few, numpy's own takes ten times as long."""
    return median(column[frames].tolist()) if frames else math.nan


class Cut(BaseModel):
    """Where two clips meet: the output frame of the first picture after it, and the cue that it follows.

    ``last`` and ``first`` are the source frames beside it; ``degrees`` is how far the movement
    turns, ``along`` which way it goes, of both sides together. It is ``softened`` where a few black frames
    lie between, and then nobody minds a turn.
    """

    n: int
    before: str
    after: str
    cue: str | None
    last: int
    first: int
    way: Way
    degrees: float | None
    along: Towards | None
    softened: bool = False


class Trouble(BaseModel):
    """What needs a look, where, and in words."""

    kind: TroubleKind
    n: int
    clip: str | None
    what: str


class Montage(BaseModel):
    """The cuts of an edit in order, and what needs a look."""

    cuts: list[Cut]
    troubles: list[Trouble]


def montage(edit: Edit, derived: Derived, drifts: Mapping[str, Drift] | None = None) -> Montage:
    """Cuts and troubles of an edit.

    Args:
        derived: all that follows from it.
        drifts: per take id, how its content moves; a cut beside another take's says nothing of its way.
    """
    shown = frames_shown(edit)
    cuts = _cuts(edit, shown, drifts or {})
    return Montage(cuts=cuts, troubles=sorted(_troubles(edit, shown, derived, cuts), key=lambda each: each.n))


def _cuts(edit: Edit, shown: FrameMap, drifts: Mapping[str, Drift]) -> list[Cut]:
    clips = {clip.id: clip for clip in edit.clips}
    found = []
    row = list(shown.stretches())
    # A few black frames between two clips are part of the cut.
    met = [(*pair, False) for pair in pairwise(row)]
    met += [
        (a, c, True)
        for a, (clip, frames), c in zip(row, row[1:], row[2:], strict=False)
        if clip is None and len(frames) <= FLICKER
    ]
    for (before, left), (after, right), softened in met:
        if before is None or after is None:
            continue
        n = shown.first + right.start
        out, into = shown.request(left[-1]), shown.request(right[0])
        takes = [edit.take(clips[id].take) for id in (before, after)]
        sides = (
            _movement(takes[0], drifts, out.picture, out.direction, out.speed, -1),
            _movement(takes[1], drifts, into.picture, into.direction, into.speed, 1),
        )
        way, degrees = _way(*sides)
        cut = Cut(
            n=n, before=before, after=after, cue=_cue_at(edit, before, after, n), last=out.picture,
            first=into.picture, way=way, degrees=degrees, along=_along(*sides), softened=softened,
        )  # fmt: skip
        found.append(cut)
    return sorted(found, key=lambda cut: cut.n)


def _cue_at(edit: Edit, before: str, after: str, n: int) -> str | None:
    """The cue that a side of the cut follows."""
    for id in (*edit.clip(after).cue_ids, *edit.clip(before).cue_ids):
        if edit.frame_of(id) == n:
            return id
    return None


def _movement(
    take: Take, drifts: Mapping[str, Drift], picture: int, direction: int, speed: float, side: int
) -> tuple[float, float] | None:
    """How the picture moves on the screen on one side of a cut, in picture widths a source frame."""
    drift = drifts.get(take.id)
    if drift is None or speed == 0:
        return None
    found = moving(drift, picture, side * direction, direction, take)
    return found.dx, found.dy


def _way(before: tuple[float, float] | None, after: tuple[float, float] | None) -> tuple[Way, float | None]:
    if before is None or after is None:
        return "unknown", None
    if math.hypot(*before) < MOVES or math.hypot(*after) < MOVES:
        return "stands", None
    turned = math.degrees(math.atan2(after[1], after[0]) - math.atan2(before[1], before[0]))
    degrees = abs((turned + 180) % 360 - 180)
    return ("turns" if degrees > TURN_DEGREES else "goes on"), degrees


def _along(*sides: tuple[float, float] | None) -> Towards | None:
    """Which way the content moves on the screen, mostly; None where it stands, or nobody knows."""
    dx, dy = (sum(each) for each in zip(*(side or (0.0, 0.0) for side in sides), strict=True))
    if math.hypot(dx, dy) < MOVES:
        return None
    if abs(dx) >= abs(dy):
        return "right" if dx > 0 else "left"
    return "down" if dy > 0 else "up"


def _covered(clip: DerivedClip, shown: FrameMap, dark: NDArray[np.bool_]) -> int:
    """How many frames of a clip lie under another clip."""
    mine = shown.part_of(range(clip.first, clip.first + len(clip.steps)))
    return int(np.count_nonzero((clip.steps == HIDDEN) & ~dark[mine]))


def _gaps(shown: FrameMap, dark: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The first output frame and the count of frames of each stretch that is black and not meant to be."""
    empty = (shown.clip == BLACK) & ~dark
    edges = np.flatnonzero(np.diff(empty, prepend=False, append=False)).tolist()
    return [(shown.first + begin, end - begin) for begin, end in zip(edges[::2], edges[1::2], strict=True)]


def _troubles(edit: Edit, shown: FrameMap, derived: Derived, cuts: list[Cut]) -> list[Trouble]:
    found = []
    dark = meant_dark(edit, shown)
    for n, count in _gaps(shown, dark):
        found.append(Trouble(kind="gap", n=n, clip=None, what=f"{counted(count, 'frame')} without a picture"))
    for each in derived.clips:
        n = each.first
        if shown.seen[shown.index_of[each.id]] == 0:
            found.append(Trouble(kind="hidden", n=n, clip=each.id, what="hidden by later clips"))
            continue
        covered = _covered(each, shown, dark)
        if covered:
            found.append(
                Trouble(
                    kind="overlap", n=n, clip=each.id, what=f"{counted(covered, 'frame')} under a later clip"
                )
            )
        for landing in each.landings:
            if landing.hidden_by is not None:
                found.append(
                    Trouble(
                        kind="hidden tie",
                        n=landing.wanted_frame,
                        clip=each.id,
                        what=f"{landing.label} is hidden",
                    )
                )
        smooth = each.smoothness
        if smooth.repeats and smooth.even is None and smooth.worst is not None:
            what = f"{counted(smooth.repeats, 'repeat')}, {smooth.longest} in a row"
            found.append(Trouble(kind="stutter", n=smooth.worst, clip=each.id, what=what))
        elif smooth.even is not None:
            what = f"each picture is held for {smooth.even:.3g} frames"
            found.append(Trouble(kind="even cadence", n=n, clip=each.id, what=what))
    for stretch in flashing(edit, shown):
        seconds = (stretch.last - stretch.first + 1) / float(edit.rate)
        what = f"flashes too often for {seconds:.1f} s"
        found.append(Trouble(kind="flashing", n=stretch.first, clip=None, what=what))
    places = {(clip.id, pin.id): pin.n for clip in derived.clips for pin in clip.pins}
    for tie in derived.loose:
        found.append(
            Trouble(
                kind="loose", n=int(places[(tie.clip, tie.pin)]), clip=tie.clip, what=f"{tie.label} is loose"
            )
        )
    for cut in cuts:
        if cut.way == "turns" and not cut.softened:
            what = f"the movement turns by {cut.degrees:.0f}°"
            found.append(Trouble(kind="turn", n=cut.n, clip=cut.after, what=what))
    return found
