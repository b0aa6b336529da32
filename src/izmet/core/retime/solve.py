"""Which source frame does a clip show at each output frame, and how fast does it run there?

Conventions
    ``n`` output frames (int), ``p`` source frames (float), speeds relative to real
    time. Positions come from the analytic integral of each span's profile, never
    from adding up frames, and every pin is hit exactly. A clip covers the output
    frames from its first pin to its last, both included.

    Moving forward the picture shown is ``floor(p)``, so a pinned moment is never
    seen a frame early.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from izmet.core.edit import Clip, Edit
from izmet.core.rates import FRAME_TOLERANCE
from izmet.core.retime.pins import Fixed, fix_pins
from izmet.core.retime.profile import Floats, Profile
from izmet.core.retime.shapes import profile_of

Frames = NDArray[np.int64]


@dataclass(frozen=True)
class Curve:
    """A clip's retiming: ``k`` fixed pins, ``k − 1`` profiles and mean speeds."""

    pins: tuple[Fixed, ...]
    profiles: tuple[Profile, ...]
    means: tuple[float, ...]

    @property
    def frames(self) -> Frames:
        """The output frames that the clip covers, shape (count,)."""
        return np.arange(self.pins[0].n, self.pins[-1].n + 1)

    @cached_property
    def source(self) -> Floats:
        """Source positions at ``frames``, shape (count,), in source frames. Exact at every pin."""
        return self._evaluated[0]

    @cached_property
    def speed(self) -> Floats:
        """Speed at ``frames``, shape (count,); at a pin, that of the span which begins there."""
        return self._evaluated[1]

    @cached_property
    def shown(self) -> Frames:
        """The source frame that is seen at each of ``frames``, shape (count,)."""
        return np.floor(self.source + FRAME_TOLERANCE).astype(np.int64)

    @cached_property
    def _evaluated(self) -> tuple[Floats, Floats]:
        source, speed = [], []
        for (left, right), profile, mean in zip(pairwise(self.pins), self.profiles, self.means, strict=True):
            relative, passed = profile.speed_and_advance(
                np.arange(right.n - left.n) / max(1, right.n - left.n)
            )
            source.append(left.p + (right.p - left.p) * passed)
            speed.append(mean * relative)
        last = self.means[-1] * self.profiles[-1].v[-1]
        return np.concatenate([*source, [self.pins[-1].p]]), np.concatenate([*speed, [last]])

    def speeds_beside(self, pin: int) -> tuple[float | None, float | None]:
        """Speed into and out of the pin with this index; None where the clip begins or ends."""
        into = out = None
        if pin > 0:
            into = float(self.means[pin - 1] * self.profiles[pin - 1].v[-1])
        if pin < len(self.profiles):
            out = float(self.means[pin] * self.profiles[pin].v[0])
        return into, out


def solve(edit: Edit, clip: Clip) -> Curve:
    """The curve of a clip.

    Raises:
        Refusal: pins out of order or outside the take, or a shape that cannot be.
    """
    pins = fix_pins(edit, clip)
    per_frame = float(edit.take(clip.take).rate / edit.rate)
    means = [(right.p - left.p) / (per_frame * max(1, right.n - left.n)) for left, right in pairwise(pins)]
    # An open edge may have shrunk to nothing; its span keeps the speed it was given.
    means[0] = clip.pins[0].speed or means[0]
    means[-1] = clip.pins[-1].speed or means[-1]
    profiles = tuple(
        profile_of(shape, mean, where=f"clip {clip.id}, span {index + 1}")
        for index, (shape, mean) in enumerate(zip(clip.spans, means, strict=True))
    )
    return Curve(pins, profiles, tuple(means))
