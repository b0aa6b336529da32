"""Where does a clip stand in its take when pulses move it on top of its run?

    p(n) = base(n) + Σ pulses

The ends of what a person fixed (ties, and pins at a source frame) are anchors. From one anchor to
the next the base runs slower or faster by one factor, so that it takes back all that the pulses
add, and the anchor is hit exactly; where the base stands or turns in between, it is taken back
evenly in time. Before the first anchor and after the last one nothing is taken back. What
a tied moment shows is not seen before its frame: pulses that reach it stop short of it.

All is reckoned at any instants at once. Each pulse's own part is linear in its amounts, so how
large they may be is a quotient, not a search.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Clip, Edit, Pulse
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.music.selection import cues_of
from izmet.core.retime.pins import Fixed
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Jumps
from izmet.core.retime.teeth import Move, Moves, Tooth, moves_of, teeth_of

if TYPE_CHECKING:
    from izmet.core.retime.solve import Curve

TINY = 1e-9
Flags = NDArray[np.bool_]


class Anchor(NamedTuple):
    """A pin that pulses do not move; ``guarded``: what it shows is not seen before its frame."""

    at: Fixed
    guarded: bool


@dataclass(frozen=True, eq=False)
class Pulsed:
    """A pulse on a clip: its teeth and its moves, along the clip's way."""

    pulse: Pulse
    teeth: tuple[Tooth, ...]
    moves: tuple[Move, ...]

    @property
    def restarts(self) -> Floats:
        """Output frames from which on it shows anew what it showed from the first one on."""
        again = self.pulse.pattern == "again"
        return np.array([tooth.n for tooth in self.teeth if again and not tooth.silent], np.float64)

    @property
    def goes_on(self) -> bool:
        """Whether it means to move on alone, never back."""
        steps = self.pulse.pattern in ("step", "to-and-fro", "dash") and self.pulse.at_end == "stop"
        return steps and all(tooth.amount >= 0 or tooth.silent for tooth in self.teeth)


class _Marks(NamedTuple):
    """The stretches before, between and after the anchors, one more than there are of these.

    Each counts from ``begin`` with source frame ``p``, its anchor, to ``end``; the base passes ``rises``
    source frames in it, and ``runs`` with what starts again. ``between`` two anchors all that is added is
    taken back; where it ``scales``, by the base itself.
    """

    begin: Floats
    end: Floats
    p: Floats
    rises: Floats
    runs: Floats
    between: Flags
    scales: Flags


@dataclass(frozen=True, eq=False)
class Pulses:
    """All pulses of a clip, over the ``base`` that its spans and other passes lay out.

    ``way`` is the clip's way of travel, and its take has so many ``frames``.
    """

    base: Curve
    anchors: tuple[Anchor, ...]
    parts: tuple[Pulsed, ...]
    way: int
    frames: int

    def over(self, n: Floats, source: Floats, speed: Floats) -> tuple[Floats, Floats]:
        """Positions and speeds at instants, given those of the base; each of shape (count,)."""
        run, running, added, adding = self._laid(n, source, speed)
        p = self._kept_behind(n, source, self._turned(run + added.sum(axis=0)))
        return p, running + adding.sum(axis=0) / self._step

    def parted(self, n: Floats) -> tuple[Floats, Floats]:
        """Where the clip runs at instants without its pulses, shape (count,), and what each of them adds,
        less what is taken back for it, shape (parts, count)."""
        run, _, added, _ = self._laid(n, *self.base.at(n))
        return run, added

    def jumps_back(self, frames: range) -> Jumps:
        """Into which output frames it jumps against the way of travel, shape (frames,)."""
        back = np.zeros(len(frames), bool)
        again = [n for part in self.parts for n in part.restarts[1:]]
        for n in (*self._moves.jumps_back(), *again):
            if int(n) in frames:
                back[int(n) - frames.start] = True
        return back

    def _laid(self, n: Floats, source: Floats, speed: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """The run and its speed, and what each pulse adds and by how many source frames an output frame."""
        marks, at = self._marks, self._stretch(n)
        beneath, running = self._again(n, at, source, speed)
        length, runs = marks.end[at] - marks.begin[at], marks.runs[at]
        scales, between = marks.scales[at], marks.between[at]
        # How much of its stretch is over by then: in travel where the base moves on, in time where not.
        time, rate = (n - marks.begin[at]) / length, 1 / length
        passed = np.where(scales, runs, 1.0)
        part = np.where(scales, (beneath - marks.p[at]) / passed, np.where(between, time, 0.0))
        pace = np.where(scales, running * self._step / passed, np.where(between, rate, 0.0))
        left = marks.rises[at] - runs
        run, speeds = beneath + left * part, running + left * pace / self._step
        moved, moving = self._moved(n)
        first, last = (edge[:, at] for edge in self._moved_there)
        total = np.where(between, last - first, 0.0)
        return run, speeds, moved - first - total * part, moving - total * pace

    @property
    def _step(self) -> float:
        return self.base.segments[0].per_frame

    def _moved(self, n: Floats) -> tuple[Floats, Floats]:
        """How far the pulses move it, and how fast, with nothing taken back, both of shape (parts, count)."""
        moved, moving = self._moves.at(n)
        return self.way * moved, self.way * moving

    @cached_property
    def _moves(self) -> Moves:
        return Moves.of([part.moves for part in self.parts])

    @cached_property
    def _moved_there(self) -> tuple[Floats, Floats]:
        """How far the pulses have moved it where each stretch begins and ends, both (parts, stretches)."""
        count = len(self._marks.begin)
        moved, _ = self._moved(np.concatenate([self._marks.begin, self._marks.end]))
        return moved[:, :count], moved[:, count:]

    @cached_property
    def _edges(self) -> Floats:
        """Output frames of the anchors."""
        return np.array([anchor.at.n for anchor in self.anchors])

    def _stretch(self, n: Floats) -> NDArray[np.int64]:
        """The stretch of each instant; on an anchor the one that begins there."""
        return self._edges.searchsorted(n + FRAME_TOLERANCE, side="right")

    @cached_property
    def _marks(self) -> _Marks:
        edges, count = self._edges, len(self._edges)
        p = np.array([anchor.at.p for anchor in self.anchors])
        inner = np.arange(1, count)
        begin, end = np.append(edges[:1], edges), np.append(edges[:1], edges) + 1
        end[inner] = edges[1:]
        between = np.zeros(count + 1, bool)
        between[inner] = True
        rises = np.zeros(count + 1)
        rises[inner] = np.diff(p)
        runs = rises.copy()
        runs[inner] = self._again(edges[1:], inner, p[1:], np.zeros(count - 1))[0] - p[:-1]
        scales = np.array([self._moves_one_way(*stretch) for stretch in zip(begin, end, strict=True)])
        scales &= between & (np.abs(runs) > TINY) & (runs * rises > 0)
        return _Marks(begin, end, np.append(p[:1], p), rises, runs, between, scales)

    def _moves_one_way(self, begin: float, end: float) -> bool:
        """Whether the base goes one way all along a stretch, or stands."""
        spans = [each for each in self.base.segments if each.start.n < end and each.end.n > begin]
        return len({each.travel for each in spans} - {"rest"}) <= 1

    def _again(
        self, n: Floats, at: NDArray[np.int64], source: Floats, speed: Floats
    ) -> tuple[Floats, Floats]:
        """Positions and speeds of the base in some stretches, where some cues start it anew."""
        restarts = np.unique(np.concatenate([np.empty(0), *(part.restarts for part in self.parts)]))
        if not len(restarts):
            return source, speed
        of = self._stretch(restarts)
        latest = restarts.searchsorted(n + FRAME_TOLERANCE, side="right") - 1
        first = of.searchsorted(at)
        moved = (latest > first) & (of[latest] == at)
        shifted = np.where(moved, n - restarts[latest] + restarts[np.minimum(first, len(of) - 1)], n)
        again = self.base.at(shifted)
        return np.where(moved, again[0], source), np.where(moved, again[1], speed)

    def _kept_behind(self, n: Floats, source: Floats, p: Floats) -> Floats:
        """Positions that reach no guarded moment before its frame, from the side on which the base comes."""
        since = -np.inf
        for anchor in self.anchors:
            if not anchor.guarded:
                continue
            before = (n >= since) & (n < anchor.at.n - FRAME_TOLERANCE)
            ahead = before & (source < anchor.at.p - FRAME_TOLERANCE)
            behind = before & (source > anchor.at.p + FRAME_TOLERANCE)
            p = np.where(ahead, np.minimum(p, anchor.at.p - 2 * FRAME_TOLERANCE), p)
            p = np.where(behind, np.maximum(p, anchor.at.p + 2 * FRAME_TOLERANCE), p)
            since = anchor.at.n
        return p

    def _turned(self, p: Floats) -> Floats:
        """Positions folded back into the take at its ends, where a pulse says so."""
        most = self.frames - 1
        if not most or all(part.pulse.at_end == "stop" for part in self.parts):
            return p
        return most - np.abs(p % (2 * most) - most)


def pulses_on(edit: Edit, clip: Clip, base: Curve) -> Pulses | None:
    """The pulses of a clip that are on, over what its spans and other passes lay out; None without any."""
    pulses = [each for each in clip.passes if isinstance(each, Pulse) and each.on]
    if not pulses:
        return None
    take = edit.take(clip.take)
    begin, end = base.pins[0].n, base.pins[-1].n
    way = -1 if clip.reversed else 1
    shown = base.source

    def room(ahead: bool) -> float:
        rising = ahead == (way > 0)
        return float(take.frames - 1 - shown.max() if rising else shown.min())

    parts = []
    for each in pulses:
        cues = [edit.cue(cue) for cue in cues_of(edit, each)]
        placed = [(cue.id, edit.frame_of(cue.id), cue.strength) for cue in cues]
        inside = sorted((cue for cue in placed if begin <= cue[1] <= end), key=lambda cue: cue[1])
        teeth = teeth_of(each, inside, float(take.rate), room)
        parts.append(Pulsed(each, teeth, moves_of(each, teeth, end)))
    anchors = [
        Anchor(at, pin.is_tie and pin.guarded)
        for at, pin in zip(base.pins, clip.pins, strict=True)
        if pin.moment is not None or pin.p is not None
    ]
    return Pulses(base, tuple(anchors or [Anchor(base.pins[0], False)]), tuple(parts), way, take.frames)
