"""What would make a refused wish possible?

A repair is one or more commands, tried before it is offered: what is offered works. The
cheapest come first: the same wish with the nearest value, another cue, another moment,
another speed; then what gives something up, such as a tie that stands in the way.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import islice

import numpy as np
from pydantic import BaseModel

from izmet.core.commands import WOULD_CROWD, Anyway, Batch, Command, apply
from izmet.core.commands.clips import Borrow, EndClip, LayTake, RemoveClip, ReverseClip
from izmet.core.commands.common import with_
from izmet.core.commands.cuts import RunThrough, SlideClip, SlipClip
from izmet.core.commands.overlaps import OverlapClips
from izmet.core.commands.passes import AddPulse, ChangePass, JumpCuts, PulseChange
from izmet.core.commands.pins import AddTie, ChangeEdge, ChangeTie, HoldPicture, RemovePin, SetPin, TurnBack
from izmet.core.commands.recipes import (
    CHANGED_BY_HAND,
    NAME_TAKEN,
    ApplyRecipe,
    MakeRecipe,
    changed_by_hand,
    found,
)
from izmet.core.commands.slots import FillSlots
from izmet.core.commands.spans import (
    BeginShape,
    SetSpan,
    SetValue,
    ShapeSpan,
    Strengthen,
    repeats_in,
    saying,
    shaped,
)
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import AnyPass, Clip, Cue, Custom, Edit, Pulse, PulseUnit, Steady, moment_name
from izmet.core.document.limits import MOST_PINS
from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.music.lengths import Length
from izmet.core.retime.inside import drawn_in
from izmet.core.retime.loose import landed_on
from izmet.core.retime.pins import pin_name
from izmet.core.retime.pulses import pulses_on
from izmet.core.retime.room import OUTSIDE_TAKE, RUNS_BACK, Room, room_of
from izmet.core.retime.shapes import profile_of, with_strength
from izmet.core.retime.solve import Curve, solve

MOST = 4
CUES_TRIED = 24
DRAWS = 60
"""That are looked through for one that stays inside."""
PULSE_UNITS: dict[PulseUnit, str] = {"frames": "frames", "seconds": "s", "share": "of the room"}
HALVINGS = 24
MORE_REPEATS = (2, 6)
"""What is offered beyond the repeats that a span has when it is not bent."""


class Repair(BaseModel):
    """What can be done instead, in words, and the commands that do it."""

    label: str
    commands: list[Command]


def repairs(edit: Edit, command: Command, refusal: Refusal) -> list[Repair]:
    """What could be done instead of a refused command, the cheapest first; at most MOST."""
    return _that_help(edit, _candidates(edit, command, refusal))


def clip_repairs(edit: Edit, clip: Clip) -> list[Repair]:
    """What makes a clip of a document solvable, the cheapest first. Only this clip is looked at."""
    alone = edit.model_copy(update={"clips": (clip,)})
    return _that_help(alone, _of_clip(alone, clip))


def _that_help(edit: Edit, candidates: Iterator[Repair]) -> list[Repair]:
    """The first repairs that work and change something."""
    found = (repair for repair in candidates if _after(edit, repair.commands) not in (None, edit))
    return list(islice(found, MOST))


def _candidates(edit: Edit, command: Command, refusal: Refusal) -> Iterator[Repair]:
    if isinstance(command, SetValue) and refusal.nearest is not None:
        nearest = with_(command, value=refusal.nearest)
        yield Repair(label=f"Set it to {refusal.nearest:.1%}", commands=[nearest])
    for name, good, unit in _numbers(command):
        value = _farthest(edit, command, name, good)
        if value is not None:
            said = f"{value:.1%}" if unit == "%" else counted(int(value), unit)
            yield Repair(label=f"As far as it goes: {said}", commands=[with_(command, **{name: value})])
    if isinstance(command, RunThrough) and refusal.nearest is not None:
        frames = int(refusal.nearest)
        shorter = with_(command, length=Length(count=frames))
        yield Repair(label=f"Run fast for {counted(frames, 'frame')}", commands=[shorter])
    if isinstance(command, ShapeSpan) and refusal.code == "curve-outside-take":
        yield Repair(label="Bend it as far as the take goes", commands=[_drawn_in(edit, command)])
    if isinstance(command, MakeRecipe) and refusal.code == NAME_TAKEN:
        yield Repair(label=f"Replace {refusal.where}", commands=[with_(command, replace=True)])
    if isinstance(command, SlipClip) and refusal.code == "bends-anew" and refusal.nearest is not None:
        if refusal.nearest:
            by = int(refusal.nearest)
            yield Repair(label=f"Slip it by {counted(abs(by), 'frame')}", commands=[with_(command, by=by)])
        yield Repair(label="Slip it, and let its curve change", commands=[with_(command, bend=True)])
    if isinstance(command, SlideClip) and refusal.code == "cut-on-a-cue":
        yield from _slid_to_cues(edit, command)
    if isinstance(command, EndClip) and refusal.code == "ends-on-a-tie":
        clip = edit.clip(command.clip)
        label = f"Give up the tie of {pin_name(edit, clip, clip.pins[-1])}"
        yield Repair(label=label, commands=[with_(command, untie=True)])
    if isinstance(command, ApplyRecipe) and refusal.code == CHANGED_BY_HAND:
        yield from _changed_by_hand(edit, command)
    if isinstance(command, AddPulse | ChangePass) and refusal.code in (OUTSIDE_TAKE, RUNS_BACK):
        yield from _pulsing(edit, command)
    if refusal.code == WOULD_CROWD:
        yield from _less_crowded(edit, command, refusal)
    if isinstance(command, Strengthen):
        yield from _less_smooth(edit, command)
    cue = getattr(command, "cue", None)
    if cue is not None and isinstance(command, AddTie | ChangeTie | LayTake | EndClip | HoldPicture):
        for other in _near(edit, cue):
            yield Repair(label=_on(edit, cue, other), commands=[with_(command, cue=other.id)])
    if isinstance(command, ChangeTie) and command.moment is not None:
        yield from _other_moments(edit, command)
    if isinstance(command, BeginShape | SetValue):
        yield Repair(
            label="Make the span steady",
            commands=[BeginShape(clip=command.clip, span=command.span, shape="steady")],
        )
    if isinstance(command, AddTie | ChangeTie):
        clip = edit.clip(command.clip)
        mine = command.pin if isinstance(command, ChangeTie) else None
        for pin in clip.pins:
            if pin.is_fixed and pin.id != mine:
                gone = RemovePin(clip=clip.id, pin=pin.id)
                label = f"Give up the tie of {pin_name(edit, clip, pin)}"
                yield Repair(label=label, commands=[gone, command])


def _drawn_in(edit: Edit, command: ShapeSpan) -> ShapeSpan:
    """The same shape, its knots drawn in until it stays inside the take."""
    assert isinstance(command.shape, Custom)
    clip = edit.clip(command.clip)
    steady = shaped(edit, clip, command.span, saying(Steady(), clip.spans[command.span]))
    segment = solve(steady, steady.clip(clip.id)).segments[command.span]
    bent = replace(segment, profile=profile_of(command.shape, segment.mean))
    return with_(command, shape=drawn_in(command.shape, bent, edit.take(clip.take).frames))


def _pulsing(edit: Edit, command: AddPulse | ChangePass) -> Iterator[Repair]:
    """The largest amount that fits, another draw, a way back at the end, fewer cues, an earlier beginning."""
    clip = edit.clip(command.clip)
    wanted, passes = command.asked(clip)
    room = _room(edit, clip, passes)
    mine = next((each for each in room.pulses if each.pulse == wanted.id), None)
    if mine is None or not isinstance(wanted, Pulse):
        return

    def saying(**values: object) -> Command:
        if isinstance(command, AddPulse):
            return with_(command, values=with_(command.values, **values))
        return with_(command, pulse=with_(command.pulse or PulseChange(), **values))

    amounts = [mine.times * each for each in wanted.amounts]
    label = f"As far as it goes: {amounts[0]:.3g} {PULSE_UNITS[wanted.unit]}"
    yield Repair(label=label, commands=[saying(amounts=amounts)])
    if wanted.pattern == "wander":
        draws = (saying(seed=(wanted.seed + k) % 2**31) for k in range(1, DRAWS))
        inside = next((draw for draw in draws if _after(edit, [draw]) is not None), None)
        if inside is not None:
            yield Repair(label="Another draw, one that stays inside", commands=[inside])
    yield Repair(label="Reverse at the ends of the take", commands=[saying(at_end="turn")])
    fits = bisect_left(range(1, MOST_PINS), True, key=lambda last: _after(edit, [saying(last=last)]) is None)
    if 0 < fits < MOST_PINS - 1:
        label = f"Only on the first {counted(fits, 'cue')}"
        yield Repair(label=label, commands=[saying(last=fits)])
    beyond = math.ceil(-room.after)
    if beyond > 0:
        label = f"Start {counted(beyond, 'frame')} earlier in the take"
        yield Repair(label=label, commands=[SlipClip(clip=clip.id, by=-beyond), command])


def _room(edit: Edit, clip: Clip, passes: Sequence[AnyPass]) -> Room:
    """The room of a clip with these passes, below 0 where its pulses do not fit."""
    plain = solve(edit, with_(clip, passes=[each for each in passes if not isinstance(each, Pulse)]))
    pulses = pulses_on(edit, with_(clip, passes=passes), Curve(plain.segments))
    return Room(0, 0, ()) if pulses is None else room_of(pulses, plain.frames.astype(np.float64))


def _slid_to_cues(edit: Edit, command: SlideClip) -> Iterator[Repair]:
    """The nearest way to slide on which its cuts meet cues again, or off them."""
    clip = edit.clip(command.clip)
    edge = next(pin for pin in (clip.since, clip.until) if pin is not None and pin.cue is not None)
    here = edit.place_of(edge)
    ways = (edit.frame_of(cue.id) - here for cue in landed_on(edit))
    nearest = sorted({way for way in ways if way}, key=lambda way: abs(way - command.by))
    for by in nearest[:CUES_TRIED]:
        there = with_(command, by=by)
        if _after(edit, [there]) is not None:
            yield Repair(
                label=f"Slide it {counted(abs(by), 'frame')} {_later(by)}, to a cue", commands=[there]
            )
            break
    yield Repair(label="Detach its cuts from their cues", commands=[with_(command, let_go=True)])


def _later(frames: int) -> str:
    return "later" if frames > 0 else "earlier"


def _changed_by_hand(edit: Edit, command: ApplyRecipe) -> Iterator[Repair]:
    """The clips that were not changed alone, or all of them."""
    recipe = found(edit, command.recipe)
    named = command.clips or tuple(clip.id for clip in edit.clips if clip.recipe == recipe.id)
    plain = [id for id in named if not changed_by_hand(edit.clip(id), recipe)]
    if plain:
        label = f"Only the {counted(len(plain), 'clip')} not changed by hand"
        yield Repair(label=label, commands=[with_(command, clips=plain)])
    again = with_(command, overwrite=True)
    yield Repair(label=f"All {counted(len(named), 'clip')}; what was changed is gone", commands=[again])


def _less_crowded(edit: Edit, command: Command, refusal: Refusal) -> Iterator[Repair]:
    """The same for those clips or slots where nothing is in the way, or all of it all the same."""
    if isinstance(command, FillSlots):
        yield Repair(label="Fill the empty slots alone", commands=[with_(command, only_empty=True)])
    if isinstance(command, ApplyRecipe):
        named = command.clips or tuple(clip.id for clip in edit.clips if clip.recipe == command.recipe)
        fit = [id for id in named if _after(edit, [with_(command, clips=(id,))]) is not None]
        if fit:
            label = f"Retime the {counted(len(fit), 'clip')} that fit{'s' if len(fit) == 1 else ''}"
            yield Repair(label=label, commands=[with_(command, clips=fit)])
    if isinstance(command, ReverseClip):
        yield Repair(
            label="Reverse it in its place, without its ties", commands=[with_(command, in_place=True)]
        )
    label = f"Do it anyway, and {refusal.what.removeprefix('This would ').rstrip('.')}"
    yield Repair(label=label, commands=[Anyway(command=command)])


def _numbers(command: Command) -> list[tuple[str, float, str]]:
    """Numbers of a command that could be smaller: their names, a value that usually works, their unit."""
    match command:
        case HoldPicture() if command.frames is not None:
            return [("frames", 1, "frame")]
        case TurnBack() if command.back is not None:
            return [("back", 1, "source frame")]
        case SetPin() if command.skip:
            return [("skip", 0, "skipped frame")]
        case ChangeEdge() if command.speed is not None:
            return [("speed", 0.001, "%")]
        case SetSpan() if command.speed is not None:
            return [("speed", 0.001, "%")]
        case JumpCuts() if command.leave > 1:
            return [("leave", 1, "skipped frame")]
        case OverlapClips() if command.frames:
            return [("frames", 1, "frame")]
    return []


def _farthest(edit: Edit, command: Command, name: str, good: float) -> float | None:
    """The value nearest to the one asked for that works, by halving between it and one that should."""
    asked = getattr(command, name)
    whole = isinstance(asked, int)
    if _after(edit, [with_(command, **{name: good})]) is None:
        return None
    works, fails = float(good), float(asked)
    for _ in range(HALVINGS):
        middle = (works + fails) / 2
        value = int(middle) if whole else middle
        if _after(edit, [with_(command, **{name: value})]) is None:
            fails = middle
        else:
            works = middle
    return float(int(works)) if whole else works


def _near(edit: Edit, cue: str) -> list[Cue]:
    """Cues on other frames that something lands on, the nearest to a cue first."""
    here, frame = edit.instant(cue), edit.frame_of(cue)
    cues = [each for each in landed_on(edit) if edit.frame_of(each.id) != frame]
    return sorted(cues, key=lambda each: abs(edit.instant(each.id) - here))[:CUES_TRIED]


def _on(edit: Edit, asked: str, other: Cue) -> str:
    apart = edit.frame_of(other.id) - edit.frame_of(asked)
    name, away = CUE_KINDS[other.kind].name, counted(abs(apart), "frame")
    return f"Use the {name} at {edit.instant(other.id):.3f} s, {away} {_later(apart)}"


def _other_moments(edit: Edit, command: ChangeTie) -> Iterator[Repair]:
    take = edit.take(edit.clip(command.clip).take)
    assert command.moment is not None
    here = edit.moment(take.id, command.moment).frame
    for moment in sorted(take.moments, key=lambda each: abs(each.frame - here)):
        if moment.id != command.moment:
            again = with_(command, moment=moment.id)
            yield Repair(label=f"Tie {moment_name(moment)} instead", commands=[again])


def _less_smooth(edit: Edit, command: Strengthen) -> Iterator[Repair]:
    """A limit lifted, frames left out, repeats allowed, or more of the take shown."""
    if command.span is None:
        return
    clip, span = edit.clip(command.clip), command.span
    segment = solve(edit, clip).segments[span]
    if command.top is not None and segment.mean > command.top:
        top = math.ceil(segment.mean * 100 + 1) / 100
        yield Repair(label=f"Lift the limit to {top:.0%}", commands=[with_(command, top=top)])
        pin = clip.pins[span]
        excess = abs(segment.displacement) - command.top * segment.per_frame * segment.length
        skip = pin.skip + math.ceil(excess)
        yield Repair(
            label=f"Skip {counted(skip, 'source frame')} after {pin_name(edit, clip, pin)}",
            commands=[SetPin(clip=clip.id, pin=pin.id, skip=skip), command],
        )
        return
    for end, beside in (("start", 0), ("end", len(clip.spans) - 1)):
        if span == beside:
            borrow = Borrow.model_validate({"clip": clip.id, "end": end})
            yield Repair(
                label=f"{'Begin earlier' if end == 'start' else 'End later'} in the take", commands=[borrow]
            )
    straight = with_strength(clip.spans[span], segment.mean, 0)
    least = repeats_in(shaped(edit, clip, span, straight), clip.id, span)
    for more in MORE_REPEATS:
        repeats = least + more
        yield Repair(label=f"Allow {counted(repeats, 'repeat')}", commands=[with_(command, repeats=repeats)])


def _of_clip(edit: Edit, clip: Clip) -> Iterator[Repair]:
    for pin in clip.pins:
        if pin.cue is not None:
            for other in _near(edit, pin.cue)[:8]:
                label = f"{pin_name(edit, clip, pin)}: {_on(edit, pin.cue, other)}"
                yield Repair(label=label, commands=[ChangeTie(clip=clip.id, pin=pin.id, cue=other.id)])
    for pin in clip.pins:
        if pin.skip:
            yield Repair(
                label=f"Skip nothing after {pin_name(edit, clip, pin)}",
                commands=[SetPin(clip=clip.id, pin=pin.id, skip=0)],
            )
    for index, shape in enumerate(clip.spans):
        if shape.shape != "steady":
            yield Repair(
                label=f"Make span {index + 1} steady",
                commands=[ShapeSpan(clip=clip.id, span=index, shape=Steady())],
            )
    for pin in clip.pins:
        yield Repair(
            label=f"Give up {pin_name(edit, clip, pin)}", commands=[RemovePin(clip=clip.id, pin=pin.id)]
        )
    # Where no single step helps: the plainest clip, and at last what always works.
    gone = RemoveClip(clip=clip.id)
    for pin in clip.pins:
        if pin.cue is not None and pin.moment is not None:
            anew = LayTake(take=clip.take, moment=pin.moment, cue=pin.cue)
            yield Repair(
                label=f"Lay it again at real time, tied only at {pin_name(edit, clip, pin)}",
                commands=[gone, anew],
            )
    yield Repair(label="Remove the clip", commands=[gone])


def _after(edit: Edit, commands: Sequence[Command]) -> Edit | None:
    """The edit when commands are done, None where they cannot be."""
    first, *more = commands
    try:
        edit = apply(edit, Batch(commands=(first, *more)) if more else first)
        for clip in edit.clips:
            solve(edit, clip)
    except Refusal:
        return None
    return edit
