"""What all commands are made of: copies with a change, new ids, and finding parts."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Iterator, Sequence
from functools import partial
from itertools import count
from typing import Annotated, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from izmet.core.document.accents import Accent, OnCues, OnFrame, OnRange, TieOf, staying
from izmet.core.document.edit import (
    Alternation,
    AnyPass,
    Bends,
    Black,
    Clip,
    Cue,
    Edit,
    Jumps,
    Moment,
    Pulse,
    Select,
    Song,
    Take,
)
from izmet.core.document.framing import FramingKey, Track
from izmet.core.document.limits import MOST_FRAMES
from izmet.core.document.notes import Note
from izmet.core.document.places import Pin, Stretch
from izmet.core.document.rates import nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.sounds import LevelKey, Sound
from izmet.core.document.titles import Lettering
from izmet.core.document.values import Id
from izmet.core.music.selection import cues_of
from izmet.core.retime.pins import Fixed

Frame = Annotated[int, Field(ge=0, le=MOST_FRAMES)]
LONGEST_NUMBER = 12
"""Digits of the number of an id: an id of a document from outside may be all digits."""
M = TypeVar("M", bound=BaseModel)
S = TypeVar("S", bound=Stretch)
Anchored = TypeVar("Anchored", Accent, Sound)
Named = TypeVar("Named", Take, Cue, Moment, Pin, Select)
Identified = (
    Take
    | Clip
    | Cue
    | Moment
    | Pin
    | Select
    | Black
    | Accent
    | Jumps
    | Alternation
    | Bends
    | Pulse
    | FramingKey
    | Track
    | Sound
    | Lettering
    | Note
    | LevelKey
)


class EditCommand(BaseModel):
    """Base of all commands: immutable, and a field that is not known is an error."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    said: ClassVar[str]
    """What it is called in the list of all that was done."""
    keeps: ClassVar[bool] = False
    """Whether it changes how clips run: those that lie in slots keep them."""

    def asks_first(self, edit: Edit) -> bool:
        """Whether it is refused at first where it would hide, bury or open something."""
        return False


class Asking(EditCommand):
    """Base of commands that ask before they crowd."""

    def asks_first(self, edit: Edit) -> bool:
        return True


class AskingIfCut(EditCommand):
    """Base of commands about one clip, which ask where it was cut for its slot."""

    clip: Id

    def asks_first(self, edit: Edit) -> bool:
        return is_cut(edit, self.clip)


def is_cut(edit: Edit, clip: str) -> bool:
    """Whether a clip was cut at a side, for its slot. Raises Refusal when there is none."""
    found = edit.clip(clip)
    return found.since is not None or found.until is not None


def with_(model: M, **changes: object) -> M:
    """A validated copy with some fields changed; parts that stay are not validated again."""
    fields = {name: getattr(model, name) for name in type(model).model_fields}
    return type(model).model_validate(fields | changes)


def changed(parts: Iterable[Named], id: str, changes: dict[str, object]) -> list[Named]:
    """The parts, with some fields of one of them changed."""
    return [with_(part, **changes) if part.id == id else part for part in parts]


def new_ids(prefix: str, parts: Iterable[Identified]) -> Iterator[str]:
    """Ids with the numbers after the greatest in use; one too long to count on does not count."""
    tails = (part.id.rpartition("-")[2] for part in parts)
    numbers = (int(tail) for tail in tails if tail.isdecimal() and len(tail) <= LONGEST_NUMBER)
    return (f"{prefix}-{number}" for number in count(max(numbers, default=0) + 1))


def new_id(prefix: str, parts: Iterable[Identified]) -> str:
    """The first of ``new_ids``."""
    return next(new_ids(prefix, parts))


def placed(id: str, at: int | str) -> Pin:
    """A pin on an output frame, or on a cue that it follows."""
    return Pin(id=id, n=at) if isinstance(at, int) else Pin(id=id, cue=at)


def song_of(edit: Edit) -> Song:
    """The edit's song. Raises Refusal when there is none."""
    if edit.song is None:
        raise Refusal("no-song", "The edit has no song yet.", remedy="Choose the music first.")
    return edit.song


def with_cues(edit: Edit, cues: Iterable[Cue]) -> Edit:
    """The edit with these cues, put in order. Raises Refusal when one lies after the song's end."""
    song = song_of(edit)
    ordered = sorted(cues, key=lambda cue: cue.time)
    if ordered and ordered[-1].time > song.duration:
        raise after_end(ordered[-1].time, song.duration, ordered[-1].id)
    return with_(edit, song=with_(song, cues=ordered))


def unclear(what: str) -> Refusal:
    """The refusal of a command that says too little or too much."""
    return Refusal("bad-command", what)


def after_end(time: float, duration: float, where: str) -> Refusal:
    """The refusal of a cue after the song's end; times in seconds of the song."""
    return Refusal(
        "cue-outside-song",
        f"A cue at {time:.3f} s lies after the song's end at {duration:.3f} s.",
        where=where,
        remedy="Set it inside the song.",
        nearest=duration,
    )


def with_clip(edit: Edit, clip: Clip, **changes: object) -> Edit:
    """The edit with some fields of a clip changed."""
    changed = with_(clip, **changes)
    return with_clips(edit, (changed if other.id == clip.id else other for other in edit.clips))


def with_clips(edit: Edit, clips: Iterable[Clip]) -> Edit:
    """The edit with other clips. They are valid by themselves; pydantic would look at each of them again."""
    return edit.model_copy(update={"clips": tuple(clips)})


def with_places(clip: Clip, change: Callable[[Pin], Pin]) -> Clip:
    """The clip with every pin, where it is cut, and where its framing has keys passed through a function.

    One that keeps them all stays.
    """
    framing = clip.framing
    if framing is not None and framing.keys:
        keys = [(key, change(key.at)) for key in framing.keys]
        if any(at is not key.at for key, at in keys):
            framing = with_(framing, keys=[with_(key, at=at) for key, at in keys])
    pins = [change(pin) for pin in clip.pins]
    since, until = (edge and change(edge) for edge in (clip.since, clip.until))
    old, new = [*clip.pins, clip.since, clip.until, clip.framing], [*pins, since, until, framing]
    if all(now is before for now, before in zip(new, old, strict=True)):
        return clip
    return with_(clip, pins=pins, since=since, until=until, framing=framing)


def map_pins(edit: Edit, change: Callable[[Clip, Pin], Pin]) -> Edit:
    """The edit with every place of every clip passed through a function. A clip that keeps them all stays."""
    return with_clips(edit, (with_places(clip, partial(change, clip)) for clip in edit.clips))


def map_pass_cues(edit: Edit, change: Callable[[str], str | None]) -> Edit:
    """The edit with the cues that passes name passed through a function; None lets one go.

    Cues of a kept selection follow that.
    """

    def mapped(each: AnyPass) -> AnyPass:
        cues = tuple(dict.fromkeys(now for cue in each.cues if (now := change(cue)) is not None))
        new = each if cues == each.cues else with_(each, cues=cues)
        if not isinstance(new, Pulse) or not (new.silent or new.own):
            return new
        silent = [now for cue in new.silent if (now := change(cue)) is not None]
        own = [with_(tooth, cue=now) for tooth in new.own if (now := change(tooth.cue)) is not None]
        return with_(new, silent=silent, own=own)

    def with_mapped(clip: Clip) -> Clip:
        passes = tuple(map(mapped, clip.passes))
        kept = all(new is old for new, old in zip(passes, clip.passes, strict=True))
        return clip if kept else with_(clip, passes=passes)

    return with_clips(edit, map(with_mapped, edit.clips))


def named_cues(edit: Edit, kept: Container[str] = ()) -> Edit:
    """The edit with passes, accents and sounds that take their cues from a selection naming them themselves,
    but for the ``kept`` selections; an accent or a sound on no cue goes."""

    def follows(choice: AnyPass | OnCues) -> bool:
        return choice.selection is not None and choice.selection not in kept

    def named(clip: Clip) -> Clip:
        passes = [
            with_(each, cues=cues_of(edit, each), selection=None) if follows(each) else each
            for each in clip.passes
        ]
        return with_(clip, passes=passes) if any(map(follows, clip.passes)) else clip

    def still_laid(parts: Iterable[Anchored]) -> Iterator[Anchored]:
        for part in parts:
            if not isinstance(part.at, OnCues) or not follows(part.at):
                yield part
            elif cues := cues_of(edit, part.at):
                yield with_(part, at=OnCues(cues=cues))

    laid = {"accents": tuple(still_laid(edit.accents)), "sounds": tuple(still_laid(edit.sounds))}
    return with_clips(edit, map(named, edit.clips)).model_copy(update=laid)


def map_places(edit: Edit, change: Callable[[Pin], Pin]) -> Edit:
    """The edit with all that has a place passed through a function: pins, cuts, black, accents, sounds,
    levels, titles, its end, its range."""
    edit = map_pins(edit, lambda _, pin: change(pin))

    def moved(stretch: S) -> S:
        return with_(stretch, since=change(stretch.since), until=change(stretch.until))

    return edit.model_copy(
        update={
            "blacks": tuple(map(moved, edit.blacks)),
            "titles": tuple(map(moved, edit.titles)),
            "ending": edit.ending and with_(edit.ending, at=change(edit.ending.at)),
            "accents": tuple(_at_moved(edit, each, change) for each in edit.accents),
            "sounds": tuple(_at_moved(edit, each, change) for each in edit.sounds),
            "range": edit.range and moved(edit.range),
            "song": edit.song and _song_moved(edit.song, change),
            "own_levels": _levels_moved(edit.own_levels, change),
        }
    )


def _song_moved(song: Song, change: Callable[[Pin], Pin]) -> Song:
    """A song with the keys of its level passed through a function; itself where they stay."""
    keys = _levels_moved(song.levels, change)
    return song if keys == song.levels else song.model_copy(update={"levels": keys})


def _levels_moved(keys: Sequence[LevelKey], change: Callable[[Pin], Pin]) -> tuple[LevelKey, ...]:
    """Keys of a level with their places passed through a function."""
    return tuple(with_(key, at=change(key.at)) for key in keys)


def _at_moved(edit: Edit, part: Anchored, change: Callable[[Pin], Pin]) -> Anchored:
    """An accent or a sound with its place passed through a function; without any cue left it stays on a
    frame."""
    at = part.at
    if isinstance(at, OnFrame):
        return with_(part, at=OnFrame(n=edit.place_of(change(Pin(id="at", n=at.n)))))
    if isinstance(at, OnRange):
        ends = (change(at.stretch.since), change(at.stretch.until))
        return with_(part, at=OnRange(stretch=Stretch(since=ends[0], until=ends[1])))
    if not isinstance(at, OnCues) or not at.cues:
        return part
    pins = [change(Pin(id="at", cue=cue)) for cue in at.cues]
    cues = tuple(dict.fromkeys(pin.cue for pin in pins if pin.cue is not None))
    if cues == at.cues:
        return part
    return with_(part, at=OnCues(cues=cues) if cues else OnFrame(n=pins[0].n))


def without_strays(before: Edit, edit: Edit) -> Edit:
    """The edit with accents and sounds that let go of clips and pins that went; what stood on these alone
    goes too."""
    if edit.clips is before.clips or not (edit.accents or edit.sounds):
        return edit
    pins = {clip.id: {pin.id for pin in clip.pins} for clip in edit.clips}

    def stays(tie: TieOf) -> bool:
        return tie.pin in pins.get(tie.clip, ())

    def left(parts: Iterable[Anchored]) -> Iterator[Anchored]:
        for part in parts:
            at = staying(part.at, stays, pins.__contains__)
            if at is not None:
                yield part if at is part.at else part.model_copy(update={"at": at})

    accents, sounds = tuple(left(edit.accents)), tuple(left(edit.sounds))
    if (accents, sounds) == (edit.accents, edit.sounds):
        return edit
    return edit.model_copy(update={"accents": accents, "sounds": sounds})


def settled(pin: Pin, fixed: Fixed) -> Pin:
    """A pin that stands where it was solved to stand: an end of a clip where it was drawn in."""
    n = {"n": nearest_frame(fixed.n)} if pin.open_n else {}
    p = {"p": fixed.p} if pin.moment is None and (pin.open_n or pin.open_p) else {}
    return with_(pin, **n, **p)


def moved(clip: Clip, by: int) -> Clip:
    """The clip with all of it that stands on an output frame, its cuts too, moved by some frames."""

    def on(pin: Pin) -> Pin:
        return pin if pin.n is None else with_(pin, n=pin.n + by)

    return with_places(clip, on)


def pin_of(clip: Clip, id: str) -> Pin:
    """The pin of a clip with this id. Raises Refusal when there is none."""
    for pin in clip.pins:
        if pin.id == id:
            return pin
    raise Refusal(
        "no-such-pin", f"The clip has no pin {id}.", where=Place.of(clip.id), remedy="Reload the edit."
    )


def source_of(edit: Edit, clip: Clip, pin: Pin) -> float | None:
    """The source frame of a pin, None while it is open."""
    return pin.p if pin.moment is None else float(edit.moment(clip.take, pin.moment).frame)
