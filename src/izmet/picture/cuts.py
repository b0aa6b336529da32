"""Where does a take cut to another scene?

At a cut nothing of the structure is kept, or the light of most of the picture jumps,
wherever it may have moved; and what comes stays: the pictures before and after it keep
theirs. A flash is no cut, nor is its end.

Source: as in ``flashes``; thresholds likewise.
"""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from izmet.picture import local
from izmet.picture.local import Flags
from izmet.picture.proposal import Proposal
from izmet.picture.scenes import BACK, BACK_SECONDS, alike, apart, comes_back, is_over, nearer, stays
from izmet.picture.watching import Floats, Seen

REACH = 6
LOST = 0.35
"""By how much less is kept than is usual around it."""
MOST_KEPT = 0.6
TIMES = 2.5
"""How many times more changes than in the pictures beside it."""
LEAST_CHANGE, LEAST_STEP = 3.0, 8.0
"""In levels; where as much changes in the pictures beside it, by more."""
GONE, BESIDE = 0.3, 0.6
"""What is kept of the structure where a cut is told by that alone, and in the pictures beside it."""
ALL_LOST, HARDLY, STRANGE = 0.45, 0.12, 0.5
"""By how much less is kept than is usual where all is lost, what is kept at most, how alike blocks may be."""
NOTHING = 0.05
"""What is kept where nothing is, though the light of the blocks may lie as it did."""
KEPT = 0.8
"""What is kept from picture to picture of a scene that goes on."""
MORE = 1.3
"""How many times more the blocks change there than in the pictures beside it."""
JUMP_TIMES, JUMP_KEPT, JUMP_PART = 4.0, 0.8, 0.5
"""A jump of light is so many times that of the pictures beside it, leaves at most so much of the structure,
and is seen in so much of the picture at least."""
FLASH_FRAMES = 2
FLASH_SECONDS = 1.0
"""How long a flash may last."""
STAYS_SECONDS = 0.25
"""Longer than most passes by; a quick pan has not left its scene behind yet."""
LEAST_WEIGHT = 0.3


def cuts(seen: Seen, rate: float, flashes: Collection[int]) -> list[Proposal]:
    """The cuts of a take, by the first picture of the new scene."""
    if len(seen) < 3:
        return []
    usual, _ = local.around(seen.kept, REACH)
    lost = usual - seen.kept
    steps = _steps(seen)
    gone = (lost > LOST) & (seen.kept < MOST_KEPT) & (_sudden(seen.change) | _alone(seen, steps))
    gone |= _strange(seen, lost)
    return [
        Proposal(
            int(frame),
            "cut",
            round(float(np.clip(lost[frame], LEAST_WEIGHT, 1)), 3),
            "hard cut in the take",
        )
        for frame in np.flatnonzero(gone | _jumps(seen, steps))
        if frame > 0
        and not any(0 <= frame - lit <= FLASH_FRAMES or _ends(seen, int(frame), lit, rate) for lit in flashes)
        and _remains(seen, int(frame), rate, flashes)
    ]


def _beside(values: Floats) -> Floats:
    """The greater one of the values beside each; there is none beyond the ends."""
    beside = np.maximum(np.roll(values, 1), np.roll(values, -1))
    beside[0] = beside[-1] = values[1]
    return beside


def _sudden(change: Floats) -> Flags:
    """Where more changes than in the pictures beside it."""
    beside = np.minimum(_beside(change), np.roll(change, -2))
    sudden: Flags = change > np.maximum(LEAST_CHANGE, TIMES * beside)
    return sudden


def _steps(seen: Seen) -> Floats:
    """By how many levels each block changes, shape (pictures, 18, 32)."""
    blocks = seen.blocks.astype(np.float32)
    return np.abs(np.diff(blocks, axis=0, prepend=blocks[:1]))


def _alone(seen: Seen, steps: Floats) -> Flags:
    """Where the structure is lost in one picture alone, though all changes quickly."""
    told = (seen.kept < GONE) & (-_beside(-seen.kept) > BESIDE) & (seen.change > LEAST_STEP)
    much = steps.mean(axis=(1, 2))
    return _elsewhere(seen, told & (much > MORE * _beside(much)), BACK)


def _strange(seen: Seen, lost: Floats) -> Flags:
    """Where all of the structure is lost and light lies elsewhere, however quickly all changes."""
    told = (lost > ALL_LOST) & (seen.kept < HARDLY) & (seen.change > LEAST_STEP)
    return _elsewhere(seen, told, STRANGE)


def _elsewhere(seen: Seen, told: Flags, most_alike: float) -> Flags:
    """Those of the pictures told whose light lies elsewhere than that of the one before."""
    for frame in np.flatnonzero(told):
        told[frame] = frame > 0 and alike(seen, int(frame), int(frame) - 1) < most_alike
    return told


def _jumps(seen: Seen, steps: Floats) -> Flags:
    """Where the light of most of the picture jumps, wherever it may have moved."""
    much = steps.mean(axis=(1, 2))
    told: Flags = (much > np.maximum(LEAST_CHANGE, JUMP_TIMES * _beside(much))) & (seen.kept < JUMP_KEPT)
    told &= np.count_nonzero(steps > LEAST_CHANGE, axis=(1, 2)) > JUMP_PART * steps[0].size
    for frame in np.flatnonzero(told):
        told[frame] = 0 < frame < len(seen) - 1 and _far(seen, int(frame))
    return told


def _far(seen: Seen, frame: int) -> bool:
    """Whether no movement brings a picture as near to the one before as those beside it are."""
    beside = max(apart(seen, at, at - 1) for at in (frame - 1, frame + 1) if at > 0)
    return apart(seen, frame, frame - 1) > max(LEAST_CHANGE, JUMP_TIMES * beside)


def _remains(seen: Seen, frame: int, rate: float, flashes: Collection[int]) -> bool:
    """Whether what comes at a frame does not give way to what was before it."""
    loses_all = seen.kept[frame] < NOTHING or alike(seen, frame, frame - 1) < BACK
    return (
        stays(seen, frame, STAYS_SECONDS, rate)
        or not comes_back(seen, frame, rate, as_light=bool(loses_all))
        or (seen.kept[frame] < MOST_KEPT and _unbroken(seen, frame, rate, flashes))
    )


def _unbroken(seen: Seen, frame: int, rate: float, flashes: Collection[int]) -> bool:
    """Whether the structure that comes at a frame is kept until a flash, or until nothing could come back.

    Scenes that repeat themselves find each other by their blocks; this tells them.
    """
    end = min((lit for lit in flashes if lit > frame), default=len(seen))
    later = seen.kept[frame + 1 : min(end, frame + 2 + round(BACK_SECONDS * rate))]
    return len(later) > STAYS_SECONDS * rate and bool(later.min() > KEPT)


def _ends(seen: Seen, frame: int, lit: int, rate: float) -> bool:
    """Whether a flash that came at ``lit`` has faded at a frame, and not long ago."""
    if not 0 < frame - lit <= FLASH_SECONDS * rate or not is_over(seen, frame, lit, lit):
        return False
    long_ago = range(lit + 1, lit + 1 + 2 * (frame - lit) // 3)
    was_over = any(is_over(seen, at, lit, lit) for at in long_ago)
    return not was_over and 2 * sum(nearer(seen, at, lit, lit) for at in long_ago) <= len(long_ago)
