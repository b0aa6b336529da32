"""What do passes make of a span?

Each becomes steps (``steps``) of every span that holds some of its cues. Their factors are
chosen so that the span ends where it ended, so no pin moves and every tie still lands.
Passes work on one another in their order, but bends come first: they move what lies beneath
them in time, and a jump is seen on the frame of its cue. Pulses work on the whole clip
(``pulses``), over all of these.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from izmet.core.document.edit import (
    Alternation,
    AnyPass,
    Bends,
    Clip,
    Dip,
    Edit,
    Jumps,
    Pulse,
    Rewind,
    Shape,
    Swell,
)
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.words import counted
from izmet.core.music.selection import cues_of
from izmet.core.retime.profile import Floats
from izmet.core.retime.segment import Segment
from izmet.core.retime.shapes import profile_of
from izmet.core.retime.steps import Steps


def with_passes(edit: Edit, clip: Clip, segments: Sequence[Segment], frames: int) -> tuple[Segment, ...]:
    """A clip's segments with its passes, in order.

    Args:
        frames: how many the take has.

    Raises:
        Refusal: a pass leaves out more than a span shows, or leads out of the take.
    """
    found = list(segments)
    for each in sorted(clip.passes, key=lambda each: not isinstance(each, Bends)):
        if not each.on or isinstance(each, Pulse):
            continue
        early = each.early if isinstance(each, Alternation) else 0
        places = sorted({edit.frame_of(cue) - early for cue in cues_of(edit, each)})
        passed = 0
        for index, segment in enumerate(found):
            inside = [n for n in places if segment.start.n < n < segment.end.n]
            if not inside or not works_on(clip.spans[index]):
                continue
            steps = _steps(clip, each, segment, np.array(inside, np.float64), passed)
            found[index] = replace(segment, passes=(*segment.passes, steps))
            _check(clip, each, found[index], frames)
            passed += len(inside)
    return tuple(found)


def works_on(shape: Shape) -> bool:
    """Whether passes change a span of this shape: what stands, or goes back, they leave alone."""
    return not isinstance(shape, Rewind) and shape.shape != "hold"


def _steps(
    clip: Clip, each: Jumps | Alternation | Bends, segment: Segment, edges: Floats, before: int
) -> Steps:
    """What a pass makes of a span, when it has passed some cues ``before``."""
    marks = np.concatenate([[0.0], segment.travelled(edges)[0], [segment.way * segment.displacement]])
    pieces, total = np.diff(marks), marks[-1]
    begin, end = segment.start.n, segment.end.n
    jumps = np.zeros(len(pieces))
    if isinstance(each, Jumps):
        jumps[1:] = list(_jumps(each, before, len(edges)))
        left = total - jumps.sum()
        if left <= 0:
            raise _too_much(clip, each, jumps.sum(), total)
        return Steps(begin, end, edges, np.full(len(pieces), left / total), jumps)
    if isinstance(each, Bends):
        return Steps(begin, end, edges, np.ones(len(pieces)), jumps, profile_of(_bend_of(each), 1.0))
    slow_first = each.first == "slow"
    fast = (np.arange(len(pieces)) + before) % 2 == (1 if slow_first else 0)
    weights = np.where(fast, each.ratio, 1.0)
    return Steps(begin, end, edges, weights * total / (weights * pieces).sum(), jumps)


def _bend_of(each: Bends) -> Dip | Swell:
    """The shape that a pass gives to what lies between two cues."""
    kind = Dip if each.shape == "dip" else Swell
    return kind(strength=each.strength, reach=each.reach, softness=each.softness)


def _jumps(each: Jumps, before: int, count: int) -> Iterator[float]:
    way = 1 if each.leave >= 0 else -1
    for index in range(before, before + count):
        yield float(way * max(0, way * (each.leave + each.more * index)))


def _too_much(clip: Clip, each: Jumps, skipped: float, shown: float) -> Refusal:
    return Refusal(
        "too-much-left-out",
        f"{counted(round(skipped), 'frame')} would be skipped of the {shown:.0f} that a span shows.",
        where=Place.of(clip.id),
        remedy="Skip fewer, or choose fewer cues.",
        nearest=each.leave,
    )


def _check(clip: Clip, each: AnyPass, segment: Segment, frames: int) -> None:
    """Refuse a pass that leads out of the take: its jumps back reach beyond what lies there."""
    edges = segment.passes[-1].edges
    places = np.concatenate([edges, edges - 2 * FRAME_TOLERANCE])
    p = segment.start.p + segment.way * segment.travelled(places)[0]
    if p.min() < -FRAME_TOLERANCE or p.max() > frames - 1 + FRAME_TOLERANCE:
        outside = p.min() if p.min() < 0 else p.max()
        raise Refusal(
            "pass-outside-take",
            f"This would run to source frame {outside:.0f}, outside the take, "
            f"which has frames 0 to {frames - 1}.",
            where=Place.of(clip.id),
            remedy="Go back less, or choose other cues.",
        )
