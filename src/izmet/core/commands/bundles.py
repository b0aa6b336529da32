"""Commands about bundles: takes that are the picture of another edit."""

from __future__ import annotations

from collections.abc import Iterable, Set
from hashlib import sha256
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.commands.common import Asking, EditCommand, map_pins, new_id, with_, with_clips
from izmet.core.commands.takes import RelinkTake, UseTake
from izmet.core.document.edit import Bundle, Clip, Edit, Moment, Steady, Take
from izmet.core.document.limits import LONGEST_ID, MOST_CLIPS
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.values import Id
from izmet.core.document.words import counted
from izmet.core.following.workings import derive
from izmet.core.memo import Memo
from izmet.core.music.lengths import Length, frames_of
from izmet.core.retime.solve import solve
from izmet.core.shown.mix import RING, SONG, Voice, voices
from izmet.core.shown.plan import render_plan
from izmet.core.shown.stack import frames_shown


class UseBundle(EditCommand):
    """Bring in another edit's picture as a take, or the picture that it has become.

    The take's moments are the edit's landings. Of ``clips`` that are named, the take takes the
    place: laid at real time, with its first landing tied to the cue that it had. What a person
    marked in it stays. Where a moment is no more, what was tied to it is held in place.
    """

    do: Literal["use-bundle"] = "use-bundle"
    said: ClassVar[str] = "Bring in a bundle"
    take: Take
    clips: Annotated[tuple[Id, ...], Field(max_length=MOST_CLIPS)] = ()

    def on(self, edit: Edit) -> Edit:
        assert self.take.bundle is not None
        mine = self.take.bundle.edit
        old = next((take for take in edit.takes if take.bundle and take.bundle.edit == mine), None)
        if old is None:
            edit = UseTake(take=self.take).on(edit)
            return _in_place(edit, self.take, self.clips) if self.clips else edit
        kept = {moment.id: moment for moment in (*_own(old, self.take.frames), *self.take.moments)}
        edit = _let_go(edit, old, old.by_id.keys() - kept.keys(), self.take.frames - 1)
        renewed = with_(old, moments=_ordered(kept.values()))
        edit = with_(edit, takes=[renewed if take is old else take for take in edit.takes])
        fresh = with_(self.take, id=old.id, moments=())
        return _to_the_end(RelinkTake(take=fresh, keep="frame").on(edit), old, fresh)


class Recap(Asking):
    """Flash past a whole take: so long, its last picture just before a cue. It follows the cue."""

    do: Literal["recap"] = "recap"
    said: ClassVar[str] = "Recap a take"
    take: Id
    cue: Id
    length: Length

    def on(self, edit: Edit) -> Edit:
        take, end = edit.take(self.take), edit.frame_of(self.cue)
        frames = frames_of(edit, self.length, end, back=True)
        if frames > end:
            raise Refusal(
                "no-room",
                f"It would begin {counted(frames - end, 'frame')} before the music does.",
                remedy="Choose a later cue, or a shorter recap.",
                nearest=end,
            )
        pins = (Pin(id="pin-1", p=0), Pin(id="pin-2", cue=self.cue, p=take.frames - 1))
        clip = Clip(
            id=new_id("clip", edit.clips),
            take=take.id,
            pins=pins,
            spans=(Steady(frames=frames),),
            until=Pin(id="until", cue=self.cue),
        )
        return with_clips(edit, [*edit.clips, clip])


def bundle_of(edit: Edit, clips: tuple[str, ...], title: str) -> Edit:
    """An edit of some clips alone, as they are laid: what becomes a bundle.

    Raises:
        Refusal: no clip, or one that is not there.
    """
    chosen = [edit.clip(id) for id in clips]
    if not chosen:
        raise Refusal("nothing-chosen", "No clip is chosen.", remedy="Choose the clips to bundle.")
    used = {clip.take for clip in chosen}
    return with_(
        edit,
        title=title,
        takes=[take for take in edit.takes if take.id in used],
        clips=[clip for clip in edit.clips if clip in chosen],
        blacks=(),
        accents=(),
        sounds=(),
        titles=(),
        ending=None,
        notes=(),
        range=None,
    )


def landing_moments(edit: Edit, first: int) -> tuple[Moment, ...]:
    """The landings of an edit as moments of its picture, of which ``first`` is the first output frame."""
    found = [
        Moment(id=_landing_id(each.clip, each.pin), frame=each.wanted_frame - first, label=each.label)
        for each in derive(edit).landings
        if each.exact and each.wanted_frame >= first
    ]
    return tuple(_ordered(found))


def bundled(of: str, shows: str, take: Take, moments: tuple[Moment, ...]) -> Take:
    """A take as the picture of an edit (by its identity) in a state."""
    inside = tuple(moment for moment in moments if moment.frame < take.frames)
    landings = tuple(moment.id for moment in inside)
    return with_(take, bundle=Bundle(edit=of, shows=shows, landings=landings), moments=inside)


def own_voices(edit: Edit) -> list[Voice]:
    """What is heard of a bundle: the clips' own sound and what is laid, without the song."""
    return [voice for voice in voices(edit) if voice.source not in (SONG, RING)]


def bundle_state(edit: Edit) -> str:
    """A hash of all that the bundle of an edit is made of: what is seen, what is heard, where it lands."""
    return _STATES.recall((edit,), (), lambda: _state_of(edit))


_STATES: Memo[str] = Memo(64)


def _state_of(edit: Edit) -> str:
    edit = with_(edit, range=None)
    shown = frames_shown(edit)
    told = [part.key for part in render_plan(edit, shown, "bundle")]
    files = {take.id: take.media.sha256 for take in edit.takes}
    told += [f"{voice.told} {files.get(voice.source)}" for voice in own_voices(edit)]
    told += [moment.model_dump_json() for moment in landing_moments(edit, shown.first)]
    return sha256("\n".join(told).encode()).hexdigest()


def _landing_id(clip: str, pin: str) -> str:
    """Of a landing's moment: the same for the same tie, however long the ids are."""
    id = f"{clip}-{pin}"
    return id if len(id) <= LONGEST_ID else sha256(id.encode()).hexdigest()[:LONGEST_ID]


def _own(take: Take, frames: int) -> list[Moment]:
    """The moments that a person marked in a bundle, of those that are still inside it."""
    assert take.bundle is not None
    landings = take.bundle.landings
    return [each for each in take.moments if each.id not in landings and each.frame < frames]


def _let_go(edit: Edit, take: Take, gone: Set[str], last: int) -> Edit:
    """The edit with what was tied to these moments of a take held where it is."""

    def held(clip: Clip, pin: Pin) -> Pin:
        if clip.take != take.id or pin.moment is None or pin.moment not in gone:
            return pin
        n = pin.n if pin.cue is None else edit.frame_of(pin.cue)
        p = float(min(take.by_id[pin.moment].frame, last))
        return with_(pin, n=n, p=p, cue=None, moment=None, loose=None)

    return map_pins(edit, held)


def _to_the_end(edit: Edit, old: Take, new: Take) -> Edit:
    """The edit with what showed a bundle up to its last picture showing it so again."""

    def reaching(clip: Clip, pin: Pin) -> Pin:
        reached = clip.take == new.id and pin.open_n and pin.p == old.frames - 1
        return with_(pin, p=float(new.frames - 1)) if reached else pin

    return map_pins(edit, reaching)


def _ordered(moments: Iterable[Moment]) -> list[Moment]:
    return sorted(moments, key=lambda moment: moment.frame)


def _in_place(edit: Edit, take: Take, clips: tuple[str, ...]) -> Edit:
    """The edit with a clip of the take where some clips were; it lies where the topmost of them lay."""
    gone = [edit.clip(id) for id in clips]
    begin = min(solve(edit, clip).first for clip in gone)
    ties = {f"{clip.id}-{pin.id}": pin.cue for clip in gone for pin in clip.pins if pin.is_tie}
    moment = next((each for each in take.moments if each.id in ties), None)
    middle = (
        Pin(id="tie", n=begin, p=0)
        if moment is None
        else Pin(id="tie", cue=ties[moment.id], moment=moment.id)
    )
    end = Pin(id="end", p=take.frames - 1)
    pins = (middle, end) if moment is None else (Pin(id="begin", p=0), middle, end)
    clip = Clip(
        id=new_id("clip", edit.clips),
        take=take.id,
        pins=pins,
        spans=tuple([Steady(speed=1)] * (len(pins) - 1)),
    )
    at = max(edit.clips.index(each) for each in gone)
    laid = [*edit.clips[: at + 1], clip, *edit.clips[at + 1 :]]
    return with_clips(edit, (each for each in laid if each not in gone))
