"""Which source frame does a clip show at each output frame, and how fast does it run there?

Conventions
    ``n`` output frames (int), ``p`` source frames (float), speeds relative to real
    time, below 0 backwards. Positions come from the analytic integral of each
    segment's profile, never from adding up frames, and every pin is hit exactly. A
    clip covers the output frames from its first pin to its last, both included. A pin
    inside it may lie between two output frames.
    Which picture is seen at a position is told by ``sampling``.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np

from izmet.core.document.edit import Clip, Edit, Rewind
from izmet.core.document.refusal import Place, Refusal
from izmet.core.memo import Memo
from izmet.core.music.selection import cues_of
from izmet.core.retime.floor import smooth_floor
from izmet.core.retime.inside import check_inside
from izmet.core.retime.passes import with_passes
from izmet.core.retime.pins import Fixed, fixed_pins, known_pins, sign_of
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.pulses import Pulses, pulses_on
from izmet.core.retime.room import check_room
from izmet.core.retime.sampling import Directions, Frames, Jumps, directions, pictures_shown
from izmet.core.retime.segment import Segment
from izmet.core.retime.shapes import profile_of
from izmet.core.retime.through import shared

REMEMBERED_BYTES = 96 * 2**20
"""Curves that are kept for the next look: some edits of a thousand clips, or a score of very long ones."""
SEGMENT_BYTES, FRAME_BYTES = 1600, 26
"""What a curve holds for each of its segments and for each frame, as tracemalloc counts."""


@dataclass(frozen=True, eq=False)
class Curve:
    """A clip's retiming: one segment for each span, one after the other.

    Of what they lay out, moved by its ``pulses``, the clip shows the output frames from ``since`` on
    and before ``until``.
    """

    segments: tuple[Segment, ...]
    since: int | None = None
    until: int | None = None
    pulses: Pulses | None = None

    @cached_property
    def pins(self) -> tuple[Fixed, ...]:
        """Where the pins stand, one more than there are segments."""
        return (self.segments[0].start, *(segment.end for segment in self.segments))

    @cached_property
    def first(self) -> int:
        """The first output frame that the clip covers."""
        begins = self.begins
        return begins if self.since is None else max(begins, self.since)

    @cached_property
    def begins(self) -> int:
        """The output frame of its first pin; the clip may have been cut later."""
        return int(self.segments[0].start.n)

    @cached_property
    def last(self) -> int:
        """The last one."""
        ends = int(self.segments[-1].end.n)
        return ends if self.until is None else min(ends, self.until - 1)

    @cached_property
    def evaluated(self) -> range:
        """The output frames at which it is evaluated: those it shows, and what is laid out before them.

        What comes before tells what is seen only where the way rests or turns.
        """
        onward = (
            self.pulses is None
            and len({segment.way for segment in self.segments}) == 1
            and all(segment.goes_on for segment in self.segments)
        )
        return range(self.first if onward else self.begins, self.last + 1)

    @property
    def _covered(self) -> slice:
        """Of all frames that are evaluated, those that the clip shows."""
        return slice(self.first - self.evaluated.start, None)

    @property
    def covered(self) -> range:
        """The output frames that the clip covers."""
        return range(self.first, self.last + 1)

    @cached_property
    def frames(self) -> Frames:
        """The same as an array, shape (count,)."""
        return np.arange(self.first, self.last + 1)

    @cached_property
    def source(self) -> Floats:
        """Source positions at ``frames``, shape (count,), in source frames. Exact at every pin."""
        return self._evaluated[0][self._covered]

    @cached_property
    def speed(self) -> Floats:
        """Speed at ``frames``, shape (count,); at a pin, that of the span which begins there."""
        return self._evaluated[1][self._covered]

    @cached_property
    def way(self) -> Directions:
        """The way of travel into each of ``frames``, shape (count,): 1 forward, −1 backward."""
        return self._seen[0][self._covered]

    @cached_property
    def shown(self) -> Frames:
        """The source frame that is seen at each of ``frames``, shape (count,)."""
        return self._seen[1][self._covered]

    @cached_property
    def _seen(self) -> tuple[Directions, Frames]:
        """Ways and pictures of all that is evaluated: a cut does not change what comes after it."""
        source, _, back = self._evaluated
        way = directions(source, back)
        return way, pictures_shown(source, way, back)

    @property
    def back(self) -> Jumps:
        """Into which of ``frames`` the picture jumps back, shape (count,)."""
        return self._evaluated[2][self._covered]

    @cached_property
    def _evaluated(self) -> tuple[Floats, Floats, Jumps]:
        frames, last = self.evaluated, self.segments[-1]
        parts = [
            segment.evaluate(part)
            for segment in self.segments
            if (part := range(max(segment.frames.start, frames.start), min(segment.frames.stop, frames.stop)))
        ]
        if last.end.n in frames:
            parts.append((np.array([last.end.p]), np.array([last.speed_out]), np.array([False])))
        source, speed, back = map(np.concatenate, zip(*parts, strict=True))
        for segment in self.segments:
            if segment.start.n in frames:
                source[int(segment.start.n) - frames.start] = segment.start.p
        if self.pulses is not None:
            source, speed = self.pulses.over(np.arange(frames.start, frames.stop, dtype=float), source, speed)
            back = back | self.pulses.jumps_back(frames)
        return source, speed, back

    def at(self, n: Floats) -> tuple[Floats, Floats]:
        """Source positions and speeds at any instants, in output frames, each of the shape given.

        Before its first pin and after its last one it goes on as fast as it is there.
        """
        inside = np.clip(n, self.segments[0].start.n, self.segments[-1].end.n)
        ends = np.array([segment.end.n for segment in self.segments])
        segment = np.minimum(ends.searchsorted(inside, side="right"), len(ends) - 1)
        position, speed = np.empty_like(inside), np.empty_like(inside)
        for index in np.unique(segment):
            here = segment == index
            position[here], speed[here] = self.segments[index].at(inside[here])
        if self.pulses is not None:
            position, speed = self.pulses.over(inside, position, speed)
        return position + self.segments[0].per_frame * speed * (n - inside), speed

    def beside(self, n: Frames) -> tuple[Floats, Frames]:
        """Source positions and pictures at output frames that it need not show, each of shape (count,)."""
        source, speed = self.at(n.astype(np.float64))
        way = np.where(speed < 0, -1, 1).astype(np.int8)
        return source, pictures_shown(source, way, np.zeros(len(n), bool))

    def speeds_beside(self, pin: int) -> tuple[float | None, float | None]:
        """Speed into and out of the pin with this index; None where the clip begins or ends."""
        into = self.segments[pin - 1].speed_out if pin > 0 else None
        out = self.segments[pin].speed_in if pin < len(self.segments) else None
        return into, out


def solve(edit: Edit, clip: Clip) -> Curve:
    """The curve of a clip. Solved once for as long as nothing that it depends on changes.

    Raises:
        Refusal: pins out of order or outside the take, or a shape that cannot be.
    """
    return _KEPT.recall(*surroundings(edit, clip), lambda: _solved(edit, clip))


def curves_of(edit: Edit) -> list[Curve]:
    """The curves of all clips, in their order. Raises Refusal when one cannot be solved."""
    return [solve(edit, clip) for clip in edit.clips]


def _weight(curve: Curve) -> int:
    return len(curve.segments) * SEGMENT_BYTES + len(curve.evaluated) * FRAME_BYTES


_KEPT: Memo[Curve] = Memo(REMEMBERED_BYTES, _weight)


def surroundings(edit: Edit, clip: Clip) -> tuple[tuple[object, ...], tuple[object, ...]]:
    """The parts and the facts on which a clip's curve depends. Raises Refusal when a part is not there."""
    song, rate = edit.song, edit.rate
    facts = (rate.numerator, rate.denominator, edit.landing, song.start if song else 0.0)
    followed = {id: None for each in clip.passes if each.on for id in cues_of(edit, each)}
    return (clip, edit.take(clip.take), *map(edit.cue, (*clip.cue_ids, *followed))), facts


def _solved(edit: Edit, clip: Clip) -> Curve:
    take = edit.take(clip.take)
    step = float(take.rate / edit.rate)
    pins = fixed_pins(clip, known_pins(edit, clip), step, take.frames)
    spans = range(len(clip.spans))
    ways, signs = clip.ways, [sign_of(clip, index) for index in spans]
    means = [_mean(clip, index, step, left, right) for index, (left, right) in enumerate(pairwise(pins))]
    profiles: list[Profile] = []
    for index, shape in enumerate(clip.spans):
        if isinstance(shape, Rewind) and shape.mirror:
            profiles.append(profiles[-1].mirrored)
        else:
            profiles.append(profile_of(shape, means[index], where=Place.of(clip.id, span=index + 1)))
    through = [pin.through for pin in clip.pins[1:-1]]
    if any(through):
        profiles = shared(profiles, through, ways, smooth_floor(edit, take))
    since, until = (None if edge is None else edit.place_of(edge) for edge in (clip.since, clip.until))
    segments = tuple(
        Segment(left, right, step, mean, profile, sign, pin.skip, to.moment is not None and way != 0)
        for (left, right), mean, profile, way, sign, (pin, to) in zip(
            pairwise(pins), means, profiles, ways, signs, pairwise(clip.pins), strict=True
        )
    )
    if clip.passes:
        segments = with_passes(edit, clip, segments, take.frames)
    base = Curve(segments)
    pulses = pulses_on(edit, clip, base)
    curve = Curve(segments, since, until, pulses)
    if curve.last < curve.first:
        raise Refusal(
            "nothing-left",
            f"Nothing of this clip is left between its cuts, frames {curve.first} and {curve.last + 1}.",
            where=Place.of(clip.id),
            remedy="Move one of the cuts, or remove the clip.",
        )
    for index, segment in enumerate(curve.segments):
        check_inside(clip, index, segment, take.frames)
    if pulses is not None:
        check_room(clip, pulses, curve.frames.astype(np.float64), curve.source)
    return curve


def _mean(clip: Clip, index: int, step: float, left: Fixed, right: Fixed) -> float:
    """The mean speed of a span, above 0; the given one where its end had no room."""
    way, length = clip.ways[index], right.n - left.n
    if length == 0:
        return clip.spans[index].speed or 0.0
    passed = (right.p - left.p) * way - clip.pins[index].skip
    return passed / (step * length) if way else 0.0
