"""Commands about whole clips: laying takes on the music, turning, stretching, conforming."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import ClassVar, Literal

from izmet.core.commands.common import (
    AskingIfCut,
    EditCommand,
    moved,
    new_id,
    settled,
    unclear,
    with_,
    with_clip,
)
from izmet.core.document.edit import (
    Brake,
    Build,
    Clip,
    Custom,
    Edit,
    Knot,
    Moment,
    Rewind,
    Shape,
    Steady,
    Take,
    moment_name,
)
from izmet.core.document.places import Pin
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.sounds import Seconds
from izmet.core.document.values import Id, Level, Share
from izmet.core.music.lengths import Length, frames_of
from izmet.core.retime.floor import smooth_floor
from izmet.core.retime.solve import solve


class LayTake(EditCommand):
    """Lay a take on the music so that a moment lands on a cue; it runs at real time from start to end.

    It begins and ends where that is marked nearest to the moment: by a start and an end, or by a
    select that holds it. Without, it is laid whole, but not on beyond the end of the music.
    """

    do: Literal["lay-take"] = "lay-take"
    said: ClassVar[str] = "Lay a take on the music"
    take: Id
    moment: Id
    cue: Id

    def on(self, edit: Edit) -> Edit:
        take, moment = edit.take(self.take), edit.moment(self.take, self.moment)
        edit.cue(self.cue)
        within = [each for each in take.selects if each.begin <= moment.frame <= each.end]
        starts = [m.frame for m in take.moments if m.kind == "start" and m.frame < moment.frame]
        ends = [m.frame for m in take.moments if m.kind == "end" and m.frame > moment.frame]
        first = max([*starts, *(each.begin for each in within)], default=0)
        last = min([*ends, *(each.end for each in within)], default=self._last(edit, take, moment))
        pins = (
            *([Pin(id="pin-1", p=first)] if first < moment.frame else []),
            Pin(id="pin-2", cue=self.cue, moment=self.moment),
            *([Pin(id="pin-3", p=last)] if last > moment.frame else []),
        )
        spans = (Steady(speed=1),) * (len(pins) - 1)
        clip = Clip(id=new_id("clip", edit.clips), take=self.take, pins=pins, spans=spans)
        return with_(edit, clips=[*edit.clips, clip])

    def _last(self, edit: Edit, take: Take, moment: Moment) -> int:
        """The source frame that is shown when the music ends, or the take's last."""
        last = take.frames - 1
        if edit.song is None:
            return last
        left = edit.song.start + edit.song.duration - edit.instant(self.cue)
        return min(last, moment.frame + max(1, math.ceil(left * take.rate)))


class RemoveClip(EditCommand):
    """Take a clip out of the edit."""

    do: Literal["remove-clip"] = "remove-clip"
    said: ClassVar[str] = "Remove a clip"
    clip: Id

    def on(self, edit: Edit) -> Edit:
        edit.clip(self.clip)
        return with_(edit, clips=[clip for clip in edit.clips if clip.id != self.clip])


class SetLevel(EditCommand):
    """Set how loud a clip's own sound is, 0 mute, whether it is heard under other clips and keeps its pitch,
    and how many seconds before and after its picture."""

    do: Literal["set-level"] = "set-level"
    said: ClassVar[str] = "Set a clip's own sound"
    clip: Id
    level: Level | None = None
    under: bool | None = None
    pitch_kept: bool | None = None
    before: Seconds | None = None
    after: Seconds | None = None

    def on(self, edit: Edit) -> Edit:
        said = {"level": self.level, "under": self.under, "pitch_kept": self.pitch_kept}
        said |= {"heard_before": self.before, "heard_after": self.after}
        changes = {name: value for name, value in said.items() if value is not None}
        return with_clip(edit, edit.clip(self.clip), **changes)


class FrameClip(EditCommand):
    """Fill the edit's picture with a clip's, or fit it in; which part of it stays."""

    do: Literal["frame-clip"] = "frame-clip"
    said: ClassVar[str] = "Frame a clip's picture"
    clip: Id
    fit: Literal["fill", "fit"] | None = None
    across: Share | None = None
    down: Share | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(include={"fit", "across", "down"}, exclude_none=True)
        return with_clip(edit, edit.clip(self.clip), **changes)


class ReverseClip(AskingIfCut):
    """Turn a clip round: it runs from its last picture to its first, with its curve mirrored.

    One tie goes on landing on its cue: ``pin``, or else the first. The other moments keep
    their distance in time from it, and are tied no longer. Without a tie, or with
    ``in_place``, the clip stays where it is, and is tied no longer.
    """

    do: Literal["reverse-clip"] = "reverse-clip"
    said: ClassVar[str] = "Reverse a clip"
    pin: Id | None = None
    in_place: bool = False

    def on(self, edit: Edit) -> Edit:
        clip = _as_seen(edit, edit.clip(self.clip))
        pins = solve(edit, clip).pins
        ties = [] if self.in_place else [pin.id for pin in clip.pins if pin.is_tie]
        kept = next((id for id in ties if self.pin in (None, id)), None)
        spans = [
            _mirrored(shape, nearest_frame(right.n - left.n))
            for shape, left, right in zip(clip.spans, pins[:-1], pins[1:], strict=True)
        ]
        skips = [pin.skip for pin in clip.pins[:-1]]
        turned = [
            with_(
                pin,
                skip=skip,
                **({} if pin.id == kept else {"n": None, "cue": None, "loose": None}),
                **({"p": fixed.p} if pin.open_p else {}),
            )
            for pin, fixed, skip in zip(
                reversed(clip.pins), reversed(pins), [*reversed(skips), 0], strict=True
            )
        ]
        if kept is None:
            turned[0] = with_(turned[0], n=int(pins[0].n))
        for index, open_end in ((0, clip.pins[0].open_n), (-1, clip.pins[-1].open_n)):
            # An open end reaches on as far as the take allows; it keeps its speed, not its length.
            if open_end and clip.spans[index].speed is not None:
                spans[index] = with_(spans[index], frames=None, speed=clip.spans[index].speed)
        return with_clip(edit, clip, pins=turned, spans=spans[::-1], reversed=not clip.reversed)


class EndClip(AskingIfCut):
    """Stretch or shorten a clip until it ends on a cue, or after so long; what it shows stays.

    It goes on following the cue. One that ends with a tie is stretched only to ``untie`` it.
    Clips that begin where it ended or later, and are tied to no cue, follow when ``close`` is asked for.
    """

    do: Literal["end-clip"] = "end-clip"
    said: ClassVar[str] = "End a clip on a cue"
    cue: Id | None = None
    length: Length | None = None
    close: bool = False
    untie: bool = False

    def on(self, edit: Edit) -> Edit:
        if (self.cue is None) == (self.length is None):
            raise unclear("Say on which cue the clip ends, or how long it is.")
        clip = _as_seen(edit, edit.clip(self.clip))
        curve = solve(edit, clip)
        last = clip.pins[-1]
        if last.is_tie and not self.untie:
            label = moment_name(edit.moment(clip.take, last.moment or ""))
            raise Refusal(
                "ends-on-a-tie",
                f"The clip ends with {label}, which is tied to a cue.",
                where=Place.of(clip.id, pin=last.id),
                remedy="Tie it to another cue, or give it up.",
            )
        before, shown = curve.pins[-2:]
        if self.cue is not None:
            # The clip is cut on the cue and follows it: its own last picture is seen just before.
            end = edit.frame_of(self.cue) - 1
            onward = shown.p + (shown.p - before.p) / max(1, end - before.n)
            inside = min(max(onward, 0.0), edit.take(clip.take).frames - 1.0)
            place: dict[str, object] = {"cue": self.cue, "n": None, "p": inside}
            until = Pin(id="until", cue=self.cue)
        else:
            assert self.length is not None
            end = curve.first + frames_of(edit, self.length, curve.first, len(curve.frames)) - 1
            place, until = {"cue": None, "n": end, "p": shown.p}, None
        pins = [*clip.pins[:-1], with_(last, moment=None, loose=None, **place)]
        if _is_open(clip.spans[-1]):
            pins[-2] = settled(pins[-2], before)
        spans = [*clip.spans[:-1], with_(clip.spans[-1], speed=None, frames=None)]
        changed = with_clip(edit, clip, pins=pins, spans=spans, until=until)
        return _closed(changed, clip.id, curve.last, end - curve.last) if self.close else changed


class ConformClip(AskingIfCut):
    """Show each source frame of a clip once: its open spans run at edit rate ÷ take rate."""

    do: Literal["conform-clip"] = "conform-clip"
    said: ClassVar[str] = "Show each source frame once"
    keeps: ClassVar[bool] = True

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        once = float(edit.rate / edit.take(clip.take).rate)
        if all(shape.speed is None for shape in clip.spans):
            raise Refusal(
                "nothing-open",
                "The pins of this clip say how fast every span runs.",
                where=Place.of(clip.id),
                remedy="Open one of its ends first.",
            )
        spans = [shape if shape.speed is None else with_(shape, speed=once) for shape in clip.spans]
        return with_clip(edit, clip, spans=spans)


class Borrow(AskingIfCut):
    """Begin a clip earlier in its take, or end it later, so that the span there runs at the smooth floor."""

    do: Literal["borrow"] = "borrow"
    said: ClassVar[str] = "Borrow frames from the take"
    keeps: ClassVar[bool] = True
    end: Literal["start", "end"] = "start"

    def on(self, edit: Edit) -> Edit:
        clip = _as_seen(edit, edit.clip(self.clip))
        index, side = (0, 0) if self.end == "start" else (-1, -1)
        curve, floor = solve(edit, clip), smooth_floor(edit, edit.take(clip.take))
        mean = curve.segments[side].mean
        if mean >= floor:
            raise Refusal(
                "smooth-already",
                f"This span runs at {mean:.1%}, at or above the smooth floor of {floor:.1%}.",
                where=Place.of(clip.id),
                remedy="Nothing needs to be borrowed.",
            )
        pins, spans = list(clip.pins), list(clip.spans)
        here = curve.pins[side]
        n = {"n": int(here.n)} if pins[index].open_n else {}
        pins[index] = with_(pins[index], moment=None, p=None, loose=None, **n)
        spans[side] = with_(spans[side], speed=floor)
        return with_clip(edit, clip, pins=pins, spans=spans)


def _mirrored(shape: Shape, frames: int) -> Shape:
    """A shape from its end to its start, of a length of its own."""
    said: dict[str, object] = {"speed": None, "frames": frames or None}
    match shape:
        case Build():
            kept = None if shape.change is None else 1 - shape.change
            return Brake(start=shape.end, end=shape.start, change=kept, softness=shape.softness, **said)
        case Brake():
            kept = None if shape.change is None else 1 - shape.change
            return Build(start=shape.end, end=shape.start, change=kept, softness=shape.softness, **said)
        case Custom():
            return with_(shape, knots=_mirrored_knots(shape.knots), **said)
    return with_(shape, **said)


def _mirrored_knots(knots: Sequence[Knot]) -> list[Knot]:
    """The knots of a curve seen from its end.

    After a hard join a speed holds until the next knot, so its mirror image begins at that one's
    place; where the curve comes to that place at another speed, two knots stand there.
    """
    last = len(knots) - 1
    found = []
    for index in range(last, -1, -1):
        knot, before = knots[index], knots[index - 1]
        holds = index > 0 and before.join == "hard"
        is_met = knot.at < 1 if index == last else knot.join != "hard"
        if not holds or (is_met and knot.speed != before.speed):
            found.append(with_(knot, at=1 - knot.at, join=before.join))
        if holds:
            found.append(with_(before, at=1 - knot.at))
    return found


def _closed(edit: Edit, without: str, after: int, by: int) -> Edit:
    """The edit with untied clips that begin after a frame moved by some frames."""

    def follows(clip: Clip) -> bool:
        return clip.id != without and not clip.cue_ids and solve(edit, clip).first > after

    return with_(edit, clips=[moved(clip, by) if follows(clip) else clip for clip in edit.clips])


def _is_open(span: Shape) -> bool:
    """Whether a span says its own speed or length, by which a pin beside it stands."""
    return span.speed is not None or span.frames is not None


def _as_seen(edit: Edit, clip: Clip) -> Clip:
    """The clip with nothing laid out beyond its cuts: pins there hold what is seen last, and first.

    A span that was cut through keeps its shape; of one that runs there and back, a steady one is left.
    """
    curve = solve(edit, clip)
    places = [pin.n for pin in curve.pins]
    pins, spans = list(clip.pins), list(clip.spans)

    def cut_through(index: int, beside: int) -> None:
        span = spans[index]
        if _is_open(span):
            pins[beside] = settled(pins[beside], curve.pins[beside])
        spans[index] = Steady() if isinstance(span, Rewind) else with_(span, speed=None, frames=None)

    def edge(n: int, p: float) -> Pin:
        return Pin(id=new_id("pin", pins), n=n, p=p)

    first, last = 0, len(pins) - 1
    if clip.until is not None:
        last = next(index for index, n in enumerate(places) if n >= curve.last)
        if places[last] > curve.last or not pins[last].is_fixed:
            pins[last] = edge(curve.last, float(curve.source[-1]))
            cut_through(last - 1, beside=last - 1)
    if clip.since is not None:
        first = max(index for index, n in enumerate(places) if n <= curve.first)
        if places[first] < curve.first or not pins[first].is_fixed:
            pins[first] = edge(curve.first, float(curve.source[0]))
            cut_through(first, beside=first + 1)
    return with_(clip, pins=pins[first : last + 1], spans=spans[first:last], since=None, until=None)
