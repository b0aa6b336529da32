"""Commands about cuts: splitting, joining, rolling, slipping, sliding, running through."""

from __future__ import annotations

import math
from itertools import chain
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import (
    Asking,
    EditCommand,
    Frame,
    moved,
    new_id,
    new_ids,
    unclear,
    with_,
    with_clip,
    with_clips,
)
from izmet.core.commands.keeping import edge_on, fitted, reaching, slot_of
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Clip, Edit, Hold, Rewind, Steady, moment_name
from izmet.core.document.limits import MOST_CLIPS, MOST_FRAMES, MOST_PINS
from izmet.core.document.places import Pin
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id, Speed
from izmet.core.document.words import counted
from izmet.core.music.lengths import Length, frames_of
from izmet.core.retime.solve import solve
from izmet.core.shown.stack import frames_shown


class SplitClip(EditCommand):
    """Cut a clip on an output frame, or on each of some cues. The curve stays, and all ties with it."""

    do: Literal["split-clip"] = "split-clip"
    said: ClassVar[str] = "Split a clip"
    clip: Id
    n: Frame | None = None
    cues: Annotated[tuple[Id, ...], Field(max_length=MOST_PINS)] = ()

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        curve = solve(edit, clip)
        wanted = {edit.frame_of(cue): Pin(id="cut", cue=cue) for cue in self.cues}
        if self.n is not None:
            wanted[self.n] = Pin(id="cut", n=self.n)
        places = [wanted[n] for n in sorted(wanted) if curve.first < n <= curve.last]
        if not places:
            raise Refusal(
                "nothing-to-cut",
                f"The clip is seen from frame {curve.first} to {curve.last}; no cut lies within.",
                where=Place.of(clip.id),
                remedy="Cut where the clip is.",
            )
        parts: list[Clip] = []
        ids = chain([clip.id], new_ids("clip", edit.clips))
        for since, until in zip([clip.since, *places], [*places, clip.until], strict=True):
            # What comes in over the clip before is the first of them.
            overlap = None if parts else clip.overlap
            parts.append(with_(clip, id=next(ids), since=since, until=until, overlap=overlap))
        at = edit.clips.index(clip)
        return with_clips(edit, [*edit.clips[:at], *parts, *edit.clips[at + 1 :]])


class JoinClips(EditCommand):
    """Make one clip again of two that were split."""

    do: Literal["join-clips"] = "join-clips"
    said: ClassVar[str] = "Join what was split"
    clip: Id
    other: Id

    def on(self, edit: Edit) -> Edit:
        left, right = edit.clip(self.clip), edit.clip(self.other)
        apart = {"id", "since", "until", "overlap"}
        same = left.model_dump(exclude=apart) == right.model_dump(exclude=apart)
        if not same or left.until is None or left.until != right.since:
            raise Refusal(
                "not-split",
                "These two were not split from one clip, or were changed since.",
                where=Place.of(left.id, right.id),
                remedy="Undo what was changed in one of them, or keep them as two.",
            )
        joined = with_(left, until=right.until)
        clips = [joined if clip is left else clip for clip in edit.clips if clip is not right]
        return with_clips(edit, clips)


class MoveCut(Asking):
    """Move the cut between two clips to an output frame or a cue; both sides are solved again.

    The pictures of both stay where they are, and so do all ties that are still seen: the one
    shows more, the other less. A clip that has nothing laid out there is made longer, at the
    speed of its end, as far as its take goes.
    """

    do: Literal["move-cut"] = "move-cut"
    said: ClassVar[str] = "Move a cut"
    clip: Id
    other: Id
    n: Frame | None = None
    cue: Id | None = None

    def on(self, edit: Edit) -> Edit:
        if (self.n is None) == (self.cue is None):
            raise unclear("Say to which output frame the cut moves, or to which cue.")
        edge = Pin(id="cut", n=self.n, cue=self.cue)
        n = self.n if self.cue is None else edit.frame_of(self.cue)
        assert n is not None
        edit = reaching(edit, edit.clip(self.clip), last=n - 1)
        edit = with_clip(edit, edit.clip(self.clip), until=edge)
        edit = reaching(edit, edit.clip(self.other), first=n)
        return with_clip(edit, edit.clip(self.other), since=edge)


class ContinueCut(Asking):
    """Begin the clip after a cut with another picture. Its ties go on landing: the way to the first bends.

    A clip without ties is slipped.
    """

    do: Literal["continue-cut"] = "continue-cut"
    said: ClassVar[str] = "Match a cut"
    keeps: ClassVar[bool] = True
    clip: Id
    frame: Frame

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        curve = solve(edit, clip)
        if all(pin.moment is None for pin in clip.pins):
            return SlipClip(clip=clip.id, by=self.frame - nearest_frame(float(curve.source[0]))).on(edit)
        on_cut = [
            pin for pin, at in zip(clip.pins, curve.pins, strict=True) if pin.moment and at.n == curve.first
        ]
        if on_cut:
            raise Refusal(
                "tied-on-the-cut",
                f"{moment_name(edit.moment(clip.take, on_cut[0].moment or ''))} lands on the cut itself.",
                where=Place.of(clip.id),
                remedy="Tie it to a later cue first.",
            )
        if clip.since is None:
            clip = with_(clip, since=Pin(id="since", n=curve.first))
            edit = with_clip(edit, clip)
        edit = _laid_to_cut(edit, clip, at_end=False)
        clip = edit.clip(clip.id)
        begun = with_(clip.pins[0], moment=None, loose=None, p=float(self.frame))
        spans = [with_(clip.spans[0], speed=None, frames=None), *clip.spans[1:]]
        return with_clip(edit, clip, pins=[begun, *clip.pins[1:]], spans=spans)


class SlipClip(EditCommand):
    """Show other pictures in the same place: all source frames of a clip move, by so many.

    A bent span that uses its take to the end has no room on that side: its curve would change, and does
    so only to ``bend``.
    """

    do: Literal["slip-clip"] = "slip-clip"
    said: ClassVar[str] = "Slip a clip's pictures"
    clip: Id
    by: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]
    bend: bool = False

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        held = [pin for pin in clip.pins if pin.moment is not None]
        if held:
            names = ", ".join(moment_name(edit.moment(clip.take, pin.moment or "")) for pin in held)
            raise Refusal(
                "ties-hold",
                f"The clip's ties hold its pictures in place: {names}.",
                where=Place.of(clip.id),
                remedy="Move the moments, or remove the ties first.",
            )
        last = edit.take(clip.take).frames - 1
        least = min((pin.p for pin in clip.pins if pin.p is not None and not pin.open_n), default=0.0)
        if least + self.by < 0:
            raise Refusal(
                "pin-outside-take",
                f"The take has {counted(round(least), 'frame')} before what the clip shows; "
                f"{-self.by} are asked for.",
                where=Place.of(clip.id),
                remedy="Slip it less.",
                nearest=-least,
            )
        room = _room_to_slip(clip, last)
        if self.by not in room and not self.bend:
            most = min(max(self.by, room.start), room.stop - 1)
            raise Refusal(
                "bends-anew",
                "The clip's curve uses its take to the end: slipped by more than "
                f"{counted(abs(most), 'frame')}, it would change.",
                where=Place.of(clip.id),
                remedy="Slip it less, or let its curve change.",
                nearest=most,
            )

        def slipped(pin: Pin) -> Pin:
            if pin.p is None:
                return pin
            # An open end reaches as far as the take does, wherever the rest of the clip stands.
            return with_(pin, p=min(max(pin.p + self.by, 0.0), last) if pin.open_n else pin.p + self.by)

        return with_clip(edit, clip, pins=[slipped(pin) for pin in clip.pins])


def _room_to_slip(clip: Clip, last: int) -> range:
    """By how many source frames a clip's open ends can move along with it, where the spans there are bent."""
    ends = [
        pin.p
        for pin, span in ((clip.pins[0], clip.spans[0]), (clip.pins[-1], clip.spans[-1]))
        if pin.open_n and pin.p is not None and not isinstance(span, Steady | Hold)
    ]
    return range(
        -math.floor(min(ends, default=MOST_FRAMES)), math.floor(last - max(ends, default=-MOST_FRAMES)) + 1
    )


class SlideClip(Asking):
    """Move a clip in time by some output frames; the clips that touch it grow and shrink to meet it.

    A cut that follows a cue goes to another cue that lies so far away. Where there is none it stops
    following one only to ``let_go`` of it.
    """

    do: Literal["slide-clip"] = "slide-clip"
    said: ClassVar[str] = "Slide a clip"
    clip: Id
    by: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]
    let_go: bool = False

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        tied = [pin for pin in clip.pins if pin.cue is not None]
        if tied:
            raise Refusal(
                "ties-hold",
                f"{len(tied)} of the clip's pins follow cues.",
                where=Place.of(clip.id),
                remedy="Tie them to other cues instead.",
            )
        curve = solve(edit, clip)
        before, after = curve.first, curve.last + 1
        since, until = (edge and self._slid(edit, clip, edge) for edge in (clip.since, clip.until))
        edit = with_clip(edit, with_(moved(clip, self.by), since=since, until=until))
        begin, end = (since or Pin(id="cut", n=before + self.by)), (until or Pin(id="cut", n=after + self.by))
        for other in edit.clips:
            if other.id == clip.id:
                continue
            spread = solve(edit, other)
            if spread.last + 1 == before:
                edit = reaching(edit, other, last=before + self.by - 1)
                edit = with_clip(edit, edit.clip(other.id), until=begin)
            elif spread.first == after:
                edit = reaching(edit, other, first=after + self.by)
                edit = with_clip(edit, edit.clip(other.id), since=end)
        return edit

    def _slid(self, edit: Edit, clip: Clip, edge: Pin) -> Pin:
        """Where a cut goes: on with its cue where one lies there. Raises Refusal where none does."""
        n = edit.place_of(edge) + self.by
        if edge.cue is None:
            return with_(edge, n=n)
        there = edge_on(edit, n, edit.song.cues if edit.song else ())
        if there.cue is None and not self.let_go:
            cue = edit.cue(edge.cue)
            raise Refusal(
                "cut-on-a-cue",
                f"The clip is cut on the {CUE_KINDS[cue.kind].name} at {edit.instant(cue.id):.3f} s, "
                f"and no cue lies {counted(abs(self.by), 'frame')} from it.",
                where=Place.of(clip.id),
                remedy="Slide it to another cue, or detach its cuts from their cues.",
            )
        return there


class RunThrough(Asking):
    """Run fast through cuts: so long at the end of the clip before and the start of the one after.

    ``out`` only runs into the cut, ``in`` only out of it. Both clips go on meeting on it, and
    every tie lands.
    """

    do: Literal["run-through"] = "run-through"
    said: ClassVar[str] = "Run through cuts"
    keeps: ClassVar[bool] = True
    cuts: Annotated[tuple[tuple[Id, Id], ...], Field(min_length=1, max_length=MOST_CLIPS)]
    length: Length = Length(count=30)
    speed: Speed = 3.0
    side: Literal["both", "out", "in"] = "both"

    def on(self, edit: Edit) -> Edit:
        try:
            return self._through(edit)
        except Refusal as refusal:
            fits = self._that_fits(edit)
            if fits is None:
                raise
            raise Refusal(
                "no-room",
                refusal.what,
                where=refusal.where,
                remedy=f"Run fast for {counted(fits, 'frame')}.",
                nearest=fits,
            ) from None

    def _through(self, edit: Edit) -> Edit:
        for before, after in self.cuts:
            edit = _meeting(edit, before, after)
            for id, at_end in ((before, True), (after, False)):
                if self.side in ("both", "out" if at_end else "in"):
                    edit = _ran(edit, edit.clip(id), self.length, self.speed, at_end)
                    solve(edit, edit.clip(id))
        return edit

    def _that_fits(self, edit: Edit) -> int | None:
        """The most frames for which it can run fast, None where not even one can."""

        def fits(frames: int) -> bool:
            try:
                with_(self, length=Length(count=frames))._through(edit)
            except Refusal:
                return False
            return True

        spans = (solve(edit, edit.clip(id)) for cut in self.cuts for id in cut)
        works, fails = 0, min(len(curve.frames) for curve in spans)
        while fails - works > 1:
            middle = (works + fails) // 2
            works, fails = (middle, fails) if fits(middle) else (works, middle)
        return works or None


class AlternateMoments(Asking):
    """From one of its take's moments to the next a clip runs slow, fast, slow, fast; its first tie stays.

    The other moments land where these speeds bring them, tied to no cue.
    """

    do: Literal["alternate-moments"] = "alternate-moments"
    said: ClassVar[str] = "Alternate between moments"
    keeps: ClassVar[bool] = True
    clip: Id
    slow: Speed = 0.5
    fast: Speed = 2.0
    first: Literal["slow", "fast"] = "slow"

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        tie = next((pin for pin in clip.pins if pin.is_tie), None)
        fixed = solve(edit, clip).pins
        low, high = sorted((fixed[0].p, fixed[-1].p))
        moments = [each for each in edit.take(clip.take).moments if low <= each.frame <= high]
        if tie is None or clip.reversed or len(moments) < 2:
            raise Refusal(
                "too-few-moments",
                f"The clip shows {len(moments)} moments, of which one has to be tied, running forward.",
                where=Place.of(clip.id),
                remedy="Mark the actions in the take, and tie one of them.",
            )
        pins: list[Pin] = []
        ids = new_ids("pin", clip.pins)
        for each in moments:
            fresh = Pin(id=next(ids), moment=each.id)
            pins.append(tie if each.id == tie.moment else fresh)
        speeds = (self.slow, self.fast) if self.first == "slow" else (self.fast, self.slow)
        inner = [Steady(speed=speeds[index % 2]) for index in range(len(pins) - 1)]
        if low < moments[0].frame:
            pins, inner = [Pin(id=clip.pins[0].id, p=low), *pins], [Steady(speed=1), *inner]
        if high > moments[-1].frame:
            pins, inner = [*pins, Pin(id=clip.pins[-1].id, p=high)], [*inner, Steady(speed=1)]
        return with_clip(edit, clip, pins=pins, spans=inner)


def _meeting(edit: Edit, before: str, after: str) -> Edit:
    """The edit with two clips that meet on the cut between them, whichever lies over the other."""
    shown = frames_shown(edit)
    left, right = (slot_of(edit, shown, edit.clip(id)) for id in (before, after))
    if left is None or right is None or left.frames.stop != right.frames.start:
        raise Refusal(
            "no-cut",
            "These two clips do not meet.",
            where=Place.of(before, after),
            remedy="Choose a cut between two clips.",
        )
    n = right.frames.start
    edge = right.since or left.until or edge_on(edit, n)
    one, two = edit.clip(before), edit.clip(after)
    if solve(edit, one).last >= n:
        edit = with_clip(edit, one, until=edge)
    if solve(edit, two).first < n:
        edit = with_clip(edit, two, since=edge)
    return edit


def _ran(edit: Edit, clip: Clip, length: Length, speed: float, at_end: bool) -> Edit:
    """A clip that runs fast at one end. Both ends stay on their output frames; what is open gives way."""
    edit = _laid_to_cut(edit, clip, at_end)
    clip = edit.clip(clip.id)
    far, window = (0, clip.since) if at_end else (-1, clip.until)
    if window is None and clip.pins[far].open_n and clip.pins[far].moment is None:
        # The far end stays where it stands, and what it shows follows.
        curve, pins, spans = solve(edit, clip), list(clip.pins), list(clip.spans)
        pins[far] = with_(pins[far], n=int(curve.pins[far].n), p=None)
        spans[far] = with_(spans[far], speed=curve.segments[far].mean or None, frames=None)
        edit = with_clip(edit, clip, pins=pins, spans=spans)
        clip = edit.clip(clip.id)
    curve, side = solve(edit, clip), -1 if at_end else 0
    segment = curve.segments[side]
    cut = curve.last if at_end else curve.first
    frames = frames_of(edit, length, cut, len(curve.frames), back=at_end)
    if segment.length <= frames:
        raise Refusal(
            "no-room",
            f"The span at the cut is {counted(round(segment.length), 'frame')} long; "
            f"{frames} are to run fast.",
            where=Place.of(clip.id),
            remedy="Run through in fewer frames, or move the tie beside the cut.",
            nearest=max(1, math.floor(segment.length) - 1),
        )
    pins, spans = list(clip.pins), list(clip.spans)
    if pins[side].open_n:
        pins[side] = with_(pins[side], n=int(curve.pins[side].n), p=None)
    beside = pins[-2 if at_end else 1]
    both = pins[side].is_fixed and beside.is_fixed
    slow = with_(spans[side], speed=None if both else segment.mean)
    quick, inner = Steady(speed=speed, frames=frames), Pin(id=new_id("pin", pins))
    pins.insert(len(pins) - 1 if at_end else 1, inner)
    spans[-1 if at_end else 0 : None if at_end else 1] = [slow, quick] if at_end else [quick, slow]
    ran = with_clip(edit, clip, pins=pins, spans=spans)
    if not pins[side].open_p:
        return ran
    edge = edit.take(clip.take).frames - 1 if at_end == (segment.way > 0) else 0
    return fitted(ran, ran.clip(clip.id), end=side, beside=-2 if at_end else 1, p=edge)


def _laid_to_cut(edit: Edit, clip: Clip, at_end: bool) -> Edit:
    """The clip with a pin where it is cut at one end, and nothing laid out beyond it."""
    cut = clip.until if at_end else clip.since
    if cut is None:
        return edit
    curve = solve(edit, with_(clip, since=None, until=None))
    n = edit.place_of(cut)
    window: dict[str, object] = {"until": None} if at_end else {"since": None}
    if n > curve.pins[-1].n if at_end else n < curve.pins[0].n:
        return with_clip(edit, clip, **window)  # it ends before it is cut
    on = [i for i, pin in enumerate(curve.pins) if pin.n == n and clip.pins[i].is_fixed]
    if on:
        keep = slice(0, on[0] + 1) if at_end else slice(on[0], None)
        pins, spans = list(clip.pins[keep]), list(clip.spans[: on[0]] if at_end else clip.spans[on[0] :])
    else:
        inside = [i for i, pin in enumerate(curve.pins) if (pin.n < n if at_end else pin.n > n)]
        edge = Pin(id=new_id("pin", clip.pins), n=cut.n, cue=cut.cue)
        index = inside[-1] if at_end else inside[0] - 1
        span, mean = clip.spans[index], curve.segments[index].mean
        plain = Steady(speed=mean) if isinstance(span, Rewind) else with_(span, speed=mean, frames=None)
        pins = [*clip.pins[: index + 1], edge] if at_end else [edge, *clip.pins[index + 1 :]]
        spans = [*clip.spans[:index], plain] if at_end else [plain, *clip.spans[index + 1 :]]
    if not any(pin.is_fixed for pin in pins):
        raise Refusal(
            "no-tie-left",
            "Between its cuts the clip has nothing that holds its pictures in place.",
            where=Place.of(clip.id),
            remedy="Tie a moment that is seen, or join what was split.",
        )
    return with_clip(edit, clip, pins=pins, spans=spans, **window)
