"""When is each laid sound heard, and how does the song give way to it?

A sound lies so that its attack, or its end, is on its place: on the very instant of its cue, or where the
frame begins on which the cue lands. What leads up to its place is in a stretch as long as that; a whoosh as
long as the picture runs fast before it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from izmet.core.document.accents import OnTies
from izmet.core.document.edit import Edit, Song
from izmet.core.document.limits import LONGEST_SOUND
from izmet.core.document.places import Pin
from izmet.core.document.rates import seconds_at
from izmet.core.document.sounds import RISING, LevelKey, Made, Recorded, Sound
from izmet.core.music.facts import heard
from izmet.core.music.lengths import beat_scale, counted_out
from izmet.core.retime.easings import eased
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import Curve, curves_of
from izmet.core.shown.courses import BEATS_A_SECOND, FAST, Spot, spots_of
from izmet.core.shown.framemap import FrameMap, frame_map
from izmet.core.shown.insets import insets_in

PEAK = 0.7
"""How far into a whoosh it is at its fullest."""
EASED_STEPS = 32


class Heard(NamedTuple):
    """A sound at one of its places, in seconds of the edit: it begins at ``begin``, and its attack, or its
    end, lies at ``at``. ``gain`` is how loud it is, 1 as recorded."""

    sound: Sound
    begin: float
    at: float
    duration: float
    gain: float

    @property
    def source(self) -> str:
        """The name of what it is heard from."""
        return source_name(self.sound, self.duration)


class Gains:
    """How loud something is in the course of the edit: straight between ``gain`` at the seconds ``at``."""

    def __init__(self, at: Floats, gain: Floats):
        self.at, self.gain = at, gain

    @cached_property
    def told(self) -> str:
        """Says the same of two that are the same."""
        return f"{self.at.tolist()} {self.gain.tolist()}"

    def along(self, instants: Floats) -> Floats:
        """The gain at some instants."""
        return np.interp(instants, self.at, self.gain)


def source_name(sound: Sound, duration: float) -> str:
    """The name of what a sound is heard from, the same for the same samples."""
    what = sound.what
    if isinstance(what, Made):
        return f"made:{what.name}:{duration!r}:{what.seed}"
    return file_name(what)


def file_name(what: Recorded) -> str:
    """The name of a file as the source of laid sounds."""
    return f"file:{what.media.sha256 or what.media.path}"


def attack_in(sound: Sound, duration: float) -> float:
    """Where the attack of a sound lies, in seconds from its beginning."""
    what = sound.what
    if not isinstance(what, Made):
        return what.attack
    if what.name == "whoosh":
        return PEAK * duration
    return duration if what.name in RISING else 0.0


def heard_of(edit: Edit, curves: Sequence[Curve], ground: FrameMap) -> Iterator[Heard]:
    """All laid sounds that are on, at all of their places.

    Args:
        ground: which clip fills each frame, and how fast it runs there.
    """
    for sound in edit.sounds:
        if not sound.on:
            continue
        for spot in spots_of(edit, curves, sound.at):
            at, since = _place(edit, ground, sound, spot)
            duration = _duration(edit, sound, at, since)
            lands = duration if sound.lands == "end" else attack_in(sound, duration)
            weight = 1 - sound.by_strength * (1 - spot.strength)
            if weight > 0:
                yield Heard(sound, at - lands, at, duration, weight * 10 ** (sound.level / 20))


def laid_sounds(edit: Edit) -> list[Heard]:
    """The sounds that are laid, at all of their places, in order of these."""
    if not edit.sounds:
        return []
    return sorted(heard_of(edit, curves_of(edit), unhidden(edit)), key=lambda each: each.begin)


def unhidden(edit: Edit) -> FrameMap:
    """Which clip fills each frame, were nothing black."""
    ids = [clip.id for clip in edit.clips]
    return frame_map(ids, curves_of(edit), insets=insets_in(edit.clips))


def _place(edit: Edit, ground: FrameMap, sound: Sound, spot: Spot) -> tuple[float, float | None]:
    """Where a sound lands at a spot, and since when it leads up to it, in seconds."""
    rising = isinstance(sound.what, Made) and sound.what.name in RISING
    into = isinstance(sound.at, OnTies) and sound.at.side == "into"
    ends = spot.end is not None and (rising or into)
    n = spot.end if ends and spot.end is not None else spot.n
    on_cue = spot.cue is not None and sound.exact == "cue" and (into or not ends)
    at = edit.instant(spot.cue or "") if on_cue else seconds_at(n, edit.rate)
    if not rising:
        return at, None
    since = spot.n if ends else None
    if isinstance(sound.what, Made) and sound.what.name == "whoosh":
        fast = _fast_since(ground, n)
        since = since if fast is None else fast
    return at, None if since is None or since >= n else seconds_at(since, edit.rate)


def _fast_since(ground: FrameMap, n: int) -> int | None:
    """Since which output frame the picture has run fast when it comes to frame ``n``."""
    speed = np.abs(ground.speed[: max(0, n - ground.first)])
    slow = np.flatnonzero(speed <= FAST)
    since = ground.first + (int(slow[-1]) + 1 if len(slow) else 0)
    return since if since < n and len(speed) else None


def _duration(edit: Edit, sound: Sound, at: float, since: float | None) -> float:
    what = sound.what
    return min(LONGEST_SOUND, _length(edit, what, at, since)) if isinstance(what, Made) else what.duration


def _length(edit: Edit, what: Made, at: float, since: float | None) -> float:
    """How long a sound that comes along would be, were there no end to it."""
    if since is not None:
        return (at - since) / (PEAK if what.name == "whoosh" else 1.0)
    if what.unit == "seconds":
        return what.length
    if beat_scale(edit) is None:
        return what.length / BEATS_A_SECOND
    n = round(at * float(edit.rate))
    frames = counted_out(edit, what.length, "beats", n, back=what.name in RISING)
    return frames / float(edit.rate)


def faded(each: Heard) -> Gains | None:
    """How a laid sound comes and goes; None where it does so at once."""
    sound, end = each.sound, each.begin + each.duration
    return _faded_at_ends(each.begin, end, sound.fade_in, sound.fade_out, [])


def song_gains(edit: Edit, song: Song, sounds: Sequence[Heard]) -> Gains | None:
    """How loud the song is in the course of the edit, beside its level; None where that never changes."""
    more = [gains for gains in (keyed(edit, song.levels), *_ducked(sounds)) if gains is not None]
    return _faded_at_ends(*heard(song), song.fade_in, song.fade_out, more)


def _faded_at_ends(
    begin: float, end: float, fade_in: float, fade_out: float, more: list[Gains]
) -> Gains | None:
    """Gains laid over one another and faded at both ends."""
    length = end - begin
    if fade_in:
        more = [*more, eased_to(begin, begin + min(fade_in, length), 0.0, 1.0)]
    if fade_out:
        more = [*more, eased_to(end - min(fade_out, length), end, 1.0, 0.0)]
    return product(more)


def product(courses: Sequence[Gains]) -> Gains | None:
    """Gains laid over one another; None without any."""
    if not courses:
        return None
    at = np.unique(np.concatenate([gains.at for gains in courses]))
    return Gains(at, np.prod([gains.along(at) for gains in courses], axis=0))


def eased_to(since: float, until: float, one: float, other: float) -> Gains:
    """A gain that goes softly from one value to another, and stays there."""
    x = np.linspace(0, 1, EASED_STEPS + 1)
    return Gains(since + (until - since) * x, one + (other - one) * eased("soft", x)[0])


def keyed(edit: Edit, keys: Sequence[LevelKey]) -> Gains | None:
    """What the keys of a level say: in dB along their courses; None without any."""
    if not keys:
        return None
    placed = sorted(((_instant(edit, key.at), key) for key in keys), key=lambda pair: pair[0])
    at, level = [placed[0][0]], [placed[0][1].level]
    x = np.linspace(0, 1, EASED_STEPS + 1)[1:]
    for (since, one), (until, key) in pairwise(placed):
        at.extend((since + (until - since) * x).tolist())
        level.extend((one.level + (key.level - one.level) * eased(key.ease, x)[0]).tolist())
    return Gains(np.array(at), 10 ** (np.array(level) / 20))


def _instant(edit: Edit, pin: Pin) -> float:
    return seconds_at(edit.place_of(pin), edit.rate) if pin.cue is None else edit.instant(pin.cue)


def _ducked(sounds: Sequence[Heard]) -> Iterator[Gains]:
    """How the song gives way: where sounds meet, to the one that asks for most."""
    ducks = [(each.at, each.sound.duck) for each in sounds if each.sound.duck is not None]
    if not ducks:
        return
    courses = []
    x = np.linspace(0, 1, EASED_STEPS + 1)
    for at, duck in ducks:
        down, back = duck.by * x, duck.by * (1 - x)
        times = np.concatenate([at - duck.attack * (1 - x), at + duck.hold + duck.release * x])
        courses.append((times, np.concatenate([down, back])))
    every = np.unique(np.concatenate([times for times, _ in courses]))
    lowered = np.max([np.interp(every, times, by, 0, 0) for times, by in courses], axis=0)
    yield Gains(every, 10 ** (-lowered / 20))
