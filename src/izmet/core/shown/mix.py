"""What is heard when?

The mix of an edit is a list of voices: the song, the sounds that are laid (``sounds``), and the own sound of
each clip that is not mute, where the clip is seen, or wherever it lies if that is wished; black hides no
sound. All instants are seconds of the edit. A clip's sound goes with its picture: as fast, the same way, and
with each tie's moment on its cue; it may begin before the picture, and end after it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from hashlib import sha256
from typing import NamedTuple

import numpy as np

from izmet.core.document.edit import Clip, Edit
from izmet.core.document.rates import seconds_at
from izmet.core.music.facts import heard
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve, solve
from izmet.core.shown.ending import end_of
from izmet.core.shown.framemap import FrameMap
from izmet.core.shown.sounds import Gains, faded, keyed, laid_sounds, product, song_gains, unhidden

SONG = "song"
RING = "ring"
"""What the song rings out into where it is cut off."""


class Plain(NamedTuple):
    """The way through a sound that is heard as it is; its own instant 0 lies at ``origin``."""

    origin: float

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        return str(self.origin)


@dataclass(frozen=True, eq=False)
class Bent:
    """The way through a take's sound that goes with a clip's picture.

    With ``pitch_kept`` it sounds as high as it was recorded; ``hits`` are the instants of the edit at which
    the take is struck on its cue, in seconds.
    """

    curve: Curve
    rate: Fraction
    take_rate: Fraction
    pitch_kept: bool = False
    hits: tuple[float, ...] = ()

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        curve = self.curve
        seen = sha256(curve.source.tobytes() + curve.speed.tobytes()).hexdigest()
        kept = f" {self.hits}" if self.pitch_kept else ""
        return f"{curve.first} {self.rate} {self.take_rate} {seen}{kept}"

    def at(self, instants: Floats) -> tuple[Floats, Floats]:
        """Where it is at instants of the edit, in seconds of the take, and how fast it runs there.

        Args:
            instants: rising, shape (count,). Speeds are relative to real time, below 0 backwards.
        """
        position, speed = self.curve.at(instants * float(self.rate))
        return position / float(self.take_rate), speed


class Voice(NamedTuple):
    """One sound: ``source`` is a take's id, ``song``, or the name of a laid sound's. It is heard from
    ``begin`` to ``end``, in the course of the edit as its ``gains`` say."""

    source: str
    way: Plain | Bent
    begin: float
    end: float
    level: float
    gains: Gains | None = None

    @property
    def told(self) -> str:
        """Says the same of two that are the same."""
        gains = "" if self.gains is None else self.gains.told
        return f"{self.source} {self.way.told} {self.begin} {self.end} {self.level} {gains}"


def voices(edit: Edit) -> list[Voice]:
    """All voices of an edit. Raises Refusal when a clip that is heard cannot be solved."""
    found = []
    laid = laid_sounds(edit)
    if song := edit.song:
        gains = song_gains(edit, song, laid)
        begin, end = heard(song)
        found.append(Voice(SONG, Plain(song.start), begin, end, song.level, gains))
        if song.ring_out:
            last = 1.0 if gains is None else float(gains.along(np.array([end]))[0])
            found.append(Voice(RING, Plain(end), end, end + song.ring_out, song.level * last))
    for each in laid:
        end = each.begin + each.duration
        found.append(Voice(each.source, Plain(each.begin), each.begin, end, each.gain, faded(each)))
    found += [] if edit.muted else list(_own(edit))
    return found if edit.ending is None else list(_ended(edit, found))


def _ended(edit: Edit, voices: Iterable[Voice]) -> Iterator[Voice]:
    """The same voices, faded out where the edit ends."""
    end = end_of(edit)
    assert end is not None
    fade, stop = end.gains(edit), seconds_at(end.stop, edit.rate)
    for voice in voices:
        if voice.begin < stop:
            both = [gains for gains in (voice.gains, fade) if gains is not None]
            yield voice._replace(end=min(voice.end, stop), gains=product(both))


def _own(edit: Edit) -> Iterator[Voice]:
    """The own sound of clips."""
    ground, gains = None, keyed(edit, edit.own_levels)
    for place, clip in enumerate(edit.clips):
        if clip.level == 0:
            continue
        curve = solve(edit, clip)
        way = Bent(curve, edit.rate, edit.take(clip.take).rate, clip.pitch_kept, _hits(edit, clip, curve))
        stretches = [curve.covered]
        if not clip.under:
            ground = ground or unhidden(edit)
            stretches = list(_seen(ground, place, clip.inset is not None, curve))
        for frames in stretches:
            begin, end = (seconds_at(n, edit.rate) for n in (frames.start, frames.stop))
            # Only the clip's own ends are moved, not those where another one comes between.
            before = clip.heard_before if frames.start == curve.covered.start else 0.0
            after = clip.heard_after if frames.stop == curve.covered.stop else 0.0
            yield Voice(clip.take, way, begin - before, end + after, clip.level, gains)


def _hits(edit: Edit, clip: Clip, curve: Curve) -> tuple[float, ...]:
    """When a clip's moments come, in seconds of the edit."""
    stand = zip(clip.pins, curve.pins, strict=True)
    return tuple(at.n / float(edit.rate) for pin, at in stand if pin.moment is not None)


def _seen(ground: FrameMap, place: int, inset: bool, curve: Curve) -> Iterator[range]:
    """The stretches of a clip in which no later one fills the frame."""
    over = ground.clip[ground.part_of(curve.covered)]
    seen = over < place if inset else over == place
    edges = np.flatnonzero(np.diff(seen, prepend=False, append=False)).tolist()
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        yield range(curve.first + begin, curve.first + end)
