"""Which source pictures are seen together on an output frame, and with what weight each?

Where a clip is blended, a frame that lies between two pictures shows both, by how near it is
to each; where its shutter is open for a while, it shows all that passes by then. Where
pictures flow, a frame that is slower than they come shows what lies between two of them on its
own instant: they are moved to one another when it is drawn. Pictures that look the same are
one: what is mixed is never a picture with its own copy.

No mix takes in a guarded moment: before its frame only what comes before it is seen, on its
frame nothing else, at full strength. Nor does any reach over a cut or a flash inside a take.
What a clip leaves out is not passed by, and one picture is not blended into the next where it is
held for longer than the take usually holds one, until its usual time before that. Automatic flow is
not looked for where it is worth nothing: between pictures that hardly differ, and such that moved
too far for it to follow. They blend.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Between, Clip, Edit, Motion, Take
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.memo import Memo
from izmet.core.retime.floor import held_frames
from izmet.core.retime.profile import Floats
from izmet.core.retime.sampling import Frames
from izmet.core.retime.solve import Curve
from izmet.core.shown.framemap import HOWS, How, Mix
from izmet.core.shown.pictures import Counted, TakePictures, fitting

SAMPLES = 9
"""Instants at which an open shutter is asked what passes by; the frame's own is the one in the middle."""
USUAL_SHUTTER = 180.0
"""Degrees for which the automatic shutter is open at twice a take's own speed and beyond: common practice,
no source. At its own speed the take has its own blur, and the shutter is closed."""
JUMP = 0.5
"""Source frames that the picture moves otherwise than its speed says, from which on it jumps."""
REMEMBERED_BYTES = 64 * 2**20

Grid = NDArray[np.int64]
Flags = NDArray[np.bool_]
FLOWS: dict[Between, How] = {"draft": "draft", "fine": "fine", "automatic": "draft"}


def mixes_of(edit: Edit, curves: Sequence[Curve], counted: Counted, beside: int) -> dict[int, Mix]:
    """The mixes of all clips that are not seen as they are, by their places in the edit.

    Args:
        counted: the pictures of takes; those of other ones are taken to be spread evenly.
        beside: output frames on which a clip may be seen before and after its own.
    """
    found = {}
    for place, (clip, curve) in enumerate(zip(edit.clips, curves, strict=True)):
        if edit.motion_of(clip).as_it_is and not clip.spans_move:
            continue
        mix = _mix_of(edit, clip, curve, edit.motions_of(clip), counted.get(clip.take), beside)
        if mix is not None:
            found[place] = mix
    return found


def _mix_of(
    edit: Edit,
    clip: Clip,
    curve: Curve,
    motions: tuple[Motion, ...],
    known: TakePictures | None,
    beside: int,
) -> Mix | None:
    """The mix of a clip, kept for as long as nothing that it depends on changes."""
    take = edit.take(clip.take)
    parts = (curve, take) if known is None else (curve, take, known)
    guards = tuple(pin.guarded for pin in clip.pins)
    return _KEPT.recall(
        parts,
        (motions, guards, beside, edit.rate),
        lambda: _mix(edit, clip, curve, motions, _Held.of(take, known), beside),
    )


_KEPT: Memo[Mix | None] = Memo(REMEMBERED_BYTES, lambda mix: 64 if mix is None else mix.nbytes)


@dataclass(frozen=True, eq=False)
class _Held:
    """The runs of source frames that hold one picture each.

    ``run`` is the run of each source frame, shape (source frames,); ``first`` and ``last``
    are the source frames of each run, ``scene`` counts those between breaks. Most are ``usual``
    source frames long at the most. ``still`` and ``far`` tell how each differs from the one before,
    shape (runs,).
    """

    run: Frames
    first: Frames
    last: Frames
    scene: Frames
    usual: int
    still: Flags
    far: Flags

    @staticmethod
    def of(take: Take, known: TakePictures | None) -> _Held:
        """The runs of a take."""
        pictures = fitting(take, known)
        begins = np.diff(pictures.distinct, prepend=pictures.distinct[0] - 1) != 0
        first = np.flatnonzero(begins)
        last = np.append(first[1:], take.frames) - 1
        run = np.cumsum(begins) - 1
        breaks = np.union1d(pictures.breaks, np.array(take.breaks, np.int64))
        # A picture is of one scene, whichever of its frames a break is put on.
        broken = np.unique(run[breaks[breaks < take.frames]])
        scene = np.searchsorted(broken, np.arange(len(first)), side="right")
        still, far = (
            np.zeros(len(first), bool) if flags is None else flags[first]
            for flags in (pictures.still, pictures.far)
        )
        return _Held(run, first, last, scene, held_frames(take), still, far)

    def begun(self, picture: Grid, way: Grid) -> Grid:
        """Where a picture begins on the way, shape as given."""
        run = self.run[picture]
        return np.where(way > 0, self.first[run], self.last[run])

    def next(self, picture: Grid, way: Grid) -> tuple[Grid, Flags]:
        """Where the next picture begins on the way, and whether there is one, shape as given."""
        run = self.run[picture] + way
        there = (run >= 0) & (run < len(self.first))
        run = np.clip(run, 0, len(self.first) - 1)
        return np.where(way > 0, self.first[run], self.last[run]), there

    def length_of(self, picture: Grid) -> Grid:
        """For how many source frames each picture is held, as far as that is usual, shape as given."""
        run = self.run[picture]
        length: Grid = np.minimum(self.last[run] - self.first[run] + 1, self.usual)
        return length

    def worth(self, seen: Grid, coming: Grid) -> NDArray[np.int8]:
        """As what two pictures in a row are mixed where that is automatic, numbers in ``HOWS``."""
        later = np.maximum(self.run[seen], self.run[coming])
        still, far, flow = (HOWS.index(how) for how in ("still", "far", FLOWS["automatic"]))
        return np.where(self.still[later], still, np.where(self.far[later], far, flow)).astype(np.int8)

    def scene_of(self, picture: Grid) -> Grid:
        """The scene of each picture, shape as given."""
        return self.scene[self.run[picture]]


@dataclass(frozen=True, eq=False)
class _Wanted:
    """What is wanted of each output frame, each of shape (frames,): what is seen between pictures, and for
    how many degrees the shutter is open."""

    between: NDArray[np.str_]
    shutter: Floats

    @staticmethod
    def of(motions: Sequence[Motion], curve: Curve, frames: Frames, pace: Floats) -> _Wanted:
        """What the motions of a clip's spans ask for, given how many pictures pass on each output frame."""
        begins = [segment.start.n for segment in curve.segments[1:]]
        span = np.searchsorted(begins, frames, side="right")
        between = np.array([motion.between for motion in motions])[span]
        asked = np.array([motion.shutter for motion in motions])[span]
        by_itself = USUAL_SHUTTER * np.clip(pace - 1, 0, 1)
        return _Wanted(between, np.where(between == "automatic", by_itself, asked))

    def instants(self) -> Floats:
        """When each frame's shutter asks, in output frames from its own instant, shape (frames, samples)."""
        if not self.shutter.any():
            return np.zeros((len(self.shutter), 1))
        within = (np.arange(SAMPLES) + 0.5) / SAMPLES - 0.5
        return within * (self.shutter[:, None] / 360)


def _mix(
    edit: Edit, clip: Clip, curve: Curve, motions: Sequence[Motion], held: _Held, beside: int
) -> Mix | None:
    take = edit.take(clip.take)
    frames = np.arange(curve.first - beside, curve.last + 1 + beside)
    plain = _nearest(curve, frames, take.frames)
    per_speed = float(take.distinct / edit.rate)
    wanted = _Wanted.of(motions, curve, frames, np.abs(curve.at(frames.astype(float))[1]) * per_speed)
    position, speed = _around(curve, frames, wanted.instants())
    way = np.where(speed < 0, -1, np.where(speed > 0, 1, _ways(curve, frames)[:, None]))
    seen = _pictures(position, way, plain)
    guarded = np.zeros(len(held.first), bool)
    guarded[held.run[_moments(edit, clip)]] = True
    early = guarded[held.run[seen]] & (held.run[seen] != held.run[plain][:, None])
    elsewhere = held.scene_of(seen) != held.scene_of(plain)[:, None]
    seen = np.where(early | elsewhere, plain[:, None], seen)
    coming, there = held.next(seen, way)
    middle = way.shape[1] // 2
    slow = (np.abs(speed) * float(take.rate / edit.rate) < held.length_of(seen)) & (wanted.between != "held")[
        :, None
    ]
    asked = np.where(slow & there, _blended(held, seen, coming, way, position), 0)
    kept_out = guarded[held.run[coming]] | (held.scene_of(coming) != held.scene_of(seen))
    part = np.where(kept_out, 0, asked)
    flows = slow[:, middle] & np.isin(wanted.between, list(FLOWS))
    at_once = flows | (wanted.shutter == 0)
    for column in (seen, coming, part):
        column[at_once] = column[at_once, middle][:, None]
    landed = np.isin(frames, _landings(clip, curve))
    seen[landed], part[landed] = plain[landed][:, None], 0
    coming = np.where(part > 0, coming, seen)
    how = np.where(at_once, HOWS.index("blend"), HOWS.index("blur"))
    for between, flow in FLOWS.items():
        how[flows & (wanted.between == between)] = HOWS.index(flow)
    by_itself = flows & (wanted.between == "automatic")
    how[by_itself] = held.worth(seen[by_itself, middle], coming[by_itself, middle])
    alone = np.where((kept_out & (asked > 0))[:, middle], HOWS.index("guarded"), HOWS.index("as it is"))
    return _merged(int(frames[0]), seen, coming, part, way[:, middle], (how, alone), held)


def _blended(held: _Held, seen: Grid, coming: Grid, way: Grid, position: Floats) -> Floats:
    """What part the picture that comes has beside the one that is seen, shape as given."""
    ramp = np.clip(np.abs(coming - held.begun(seen, way)), 1, held.usual)
    part = np.clip(1 - np.abs(coming - position) / ramp, 0, 1)
    return np.where(part < FRAME_TOLERANCE, 0, part)


def _nearest(curve: Curve, frames: Frames, of: int) -> Frames:
    """The source frame that each output frame shows as it is, shape (frames,)."""
    before, after = frames[frames < curve.first], frames[frames > curve.last]
    beside = [np.clip(curve.beside(part)[1], 0, of - 1) if len(part) else part for part in (before, after)]
    return np.concatenate([beside[0], curve.shown, beside[1]])


def _ways(curve: Curve, frames: Frames) -> Frames:
    """The way of travel of each output frame, shape (frames,)."""
    return curve.way[np.clip(frames - curve.first, 0, len(curve.way) - 1)].astype(np.int64)


def _around(curve: Curve, frames: Frames, offsets: Floats) -> tuple[Floats, Floats]:
    """Positions and speeds at instants of the shutter, shape (frames, samples).

    Past a jump it sees what it saw on its own frame.
    """
    instants = frames[:, None] + offsets
    position, speed = (each.reshape(instants.shape) for each in curve.at(instants.ravel()))
    middle = offsets.shape[1] // 2
    if middle:
        passed = (speed[:, 1:] + speed[:, :-1]) / 2 * np.diff(offsets, axis=1) * curve.segments[0].per_frame
        jumps = np.abs(np.diff(position, axis=1) - passed) > JUMP
        past = np.zeros(position.shape, bool)
        past[:, middle + 1 :] = np.logical_or.accumulate(jumps[:, middle:], axis=1)
        past[:, :middle] = np.logical_or.accumulate(jumps[:, :middle][:, ::-1], axis=1)[:, ::-1]
        position = np.where(past, position[:, middle : middle + 1], position)
        speed = np.where(past, speed[:, middle : middle + 1], speed)
    return position, speed


def _pictures(position: Floats, way: Grid, plain: Frames) -> Grid:
    """The source frame seen at each instant, none that the frames beside it did not come to."""
    seen = np.where(
        way > 0, np.floor(position + FRAME_TOLERANCE), np.ceil(position - FRAME_TOLERANCE)
    ).astype(np.int64)
    near = np.stack([np.append(plain[:1], plain[:-1]), plain, np.append(plain[1:], plain[-1:])])
    seen = np.clip(seen, near.min(axis=0)[:, None], near.max(axis=0)[:, None])
    seen[:, seen.shape[1] // 2] = plain
    return seen


def _moments(edit: Edit, clip: Clip) -> list[int]:
    """The source frames of a clip's guarded moments."""
    return [edit.moment(clip.take, pin.moment).frame for pin in clip.pins if _is_guarded(pin) and pin.moment]


def _landings(clip: Clip, curve: Curve) -> list[int]:
    """The output frames of a clip's guarded moments."""
    return [int(at.n) for at, pin in zip(curve.pins, clip.pins, strict=True) if _is_guarded(pin)]


def _is_guarded(pin: Pin) -> bool:
    return pin.is_tie and pin.guarded


def _merged(
    first: int, seen: Grid, coming: Grid, part: Floats, way: Frames, how: tuple[Frames, Frames], held: _Held
) -> Mix | None:
    """The mix of all that is seen on each frame, as many columns as the fullest one needs; None for one.

    Args:
        how: what each frame is made of where several pictures are seen, and where it is one.
    """
    count, samples = seen.shape
    pictures = np.concatenate([seen, coming], axis=1)
    weights = np.concatenate([1 - part, part], axis=1) / samples
    order = np.argsort(pictures * way[:, None], axis=1, kind="stable")
    pictures, weights = (np.take_along_axis(each, order, axis=1) for each in (pictures, weights))
    run = held.run[pictures]
    column = np.cumsum(np.diff(run, axis=1, prepend=run[:, :1]) != 0, axis=1)
    most = int(column.max()) + 1
    if most == 1:
        return None
    rows = np.broadcast_to(np.arange(count)[:, None], column.shape)
    mixed = np.repeat(pictures[:, -1:], most, axis=1)
    mixed[rows, column] = pictures
    share = np.zeros((count, most))
    np.add.at(share, (rows, column), weights)
    together = np.count_nonzero(share, axis=1) > 1
    return Mix(first, mixed, share, np.where(together, *how).astype(np.int8))
