"""What a person can do to an edit: pure functions ``edit -> edit``, one class each.

``apply`` runs a command and checks the result, so every edit that leaves this
module can be solved. Undo is not here: the store keeps every revision.
"""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from typing import Annotated, ClassVar, Literal, get_args

from pydantic import Field, ValidationError

from izmet.core.commands.accents import (
    AddAccent,
    AddAccentSet,
    ChangeAccent,
    CopyAccent,
    RemoveAccent,
    SoftenFlashes,
)
from izmet.core.commands.bundles import Recap, UseBundle
from izmet.core.commands.clips import (
    Borrow,
    ConformClip,
    EndClip,
    FrameClip,
    LayTake,
    RemoveClip,
    ReverseClip,
    SetLevel,
)
from izmet.core.commands.common import EditCommand, Identified, map_places, with_, without_strays
from izmet.core.commands.cuts import (
    AlternateMoments,
    ContinueCut,
    JoinClips,
    MoveCut,
    RunThrough,
    SlideClip,
    SlipClip,
    SplitClip,
)
from izmet.core.commands.framing import (
    AddFramingKey,
    ChangeFramingKey,
    CopyFraming,
    FillFrame,
    InsetClip,
    KeepPoint,
    KeyOut,
    RemoveFramingKey,
    RemoveTrack,
    SaveTrack,
    SetTrackPoint,
    without_lost_tracks,
)
from izmet.core.commands.keeping import in_slots
from izmet.core.commands.motions import SetBreak, SetMotion
from izmet.core.commands.music import (
    AddCue,
    AddCues,
    AnalyseAgain,
    ChangeCue,
    ChangeCues,
    ChangeSong,
    CountBeats,
    JoinSong,
    MergeCues,
    PinBeat,
    PlaceSong,
    RemoveCues,
    RemoveSelection,
    SaveSelection,
    SetDownbeat,
    SetTempo,
    UseBeats,
    UseSong,
)
from izmet.core.commands.notes import AddNotes, RemoveNote
from izmet.core.commands.overlaps import OverlapClips
from izmet.core.commands.passes import (
    AddPulse,
    Alternate,
    BendBetween,
    ChangePass,
    CopyPass,
    FixPasses,
    JumpCuts,
    RemovePass,
)
from izmet.core.commands.pins import (
    AddTie,
    ChangeEdge,
    ChangeTie,
    HoldPicture,
    RemovePin,
    SetPin,
    TieLoose,
    TieMoments,
    TurnBack,
)
from izmet.core.commands.recipes import ApplyRecipe, KeepRecipe, MakeRecipe, RemoveRecipe
from izmet.core.commands.slots import CloseGaps, FillSlots, RepeatSection, ReverseOrder, SwapClips
from izmet.core.commands.sounds import (
    AddSound,
    ChangeSound,
    CopySound,
    FadeSong,
    MuteClips,
    RemoveLevelKey,
    RemoveSound,
    SetLevelKey,
)
from izmet.core.commands.spans import AddKnot, BeginShape, Nudge, SetSpan, SetValue, ShapeSpan, Strengthen
from izmet.core.commands.stretches import AddBlack, ChangeBlack, ClearRange, RemoveBlack, SetRange
from izmet.core.commands.takes import (
    AddMoment,
    AddSelect,
    ChangeMoment,
    ChangeSelect,
    ChangeTake,
    DismissProposal,
    LaySelect,
    RelinkSong,
    RelinkTake,
    RemoveMoment,
    RemoveSelect,
    RemoveTake,
    UseTake,
)
from izmet.core.commands.titles import AddTitle, ChangeTitle, CopyTitle, EndEdit, OpenEnd, RemoveTitle
from izmet.core.document.accents import Accent, Anchor, OnCues, OnRange, Strobe, Trail
from izmet.core.document.edit import Clip, Edit, Recipe
from izmet.core.document.limits import LONGEST_EFFECT, LONGEST_TURN, MOST_CLIPS, WIDEST_SPACING
from izmet.core.document.rates import LandingRule, Rate, nearest_frame
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Side, Title
from izmet.core.following.crowding import crowding
from izmet.core.music.selection import cues_of
from izmet.core.retime.solve import solve

WOULD_CROWD = "would-crowd"
"""The code of a refusal that can be overruled."""


class Configure(EditCommand):
    """Change the edit's own settings. A new rate keeps pinned instants, not pinned frame numbers."""

    do: Literal["configure"] = "configure"
    said: ClassVar[str] = "Change the edit's settings"
    title: Title | None = None
    rate: Rate | None = None
    width: Side | None = None
    height: Side | None = None
    landing: LandingRule | None = None

    def on(self, edit: Edit) -> Edit:
        changes = self.model_dump(exclude={"do"}, exclude_none=True)
        if self.rate is not None:
            scale = self.rate / edit.rate
            changes["rate"] = self.rate
            edit = map_places(
                edit, lambda pin: pin if pin.n is None else with_(pin, n=nearest_frame(pin.n * scale))
            )
            changes["clips"] = [_with_lengths(clip, scale) for clip in edit.clips]
            changes["accents"] = [_with_lengths_of(each, scale) for each in edit.accents]
        return with_(edit, **changes)


def _with_lengths(clip: Clip, scale: Fraction) -> Clip:
    """The clip with the lengths that its spans, overlap and inset say of themselves at another rate."""
    if clip.overlap is None and clip.inset is None and all(shape.frames is None for shape in clip.spans):
        return clip
    spans = [
        shape if shape.frames is None else with_(shape, frames=max(1, nearest_frame(shape.frames * scale)))
        for shape in clip.spans
    ]
    overlap = clip.overlap and with_(clip.overlap, frames=max(1, _scaled(clip.overlap.frames, scale)))
    inset = clip.inset and with_(clip.inset, fade=_scaled(clip.inset.fade, scale))
    return with_(clip, spans=spans, overlap=overlap, inset=inset)


def _with_lengths_of(accent: Accent, scale: Fraction) -> Accent:
    """The accent with all that it counts in frames at another rate."""
    what = accent.what
    if isinstance(what, Strobe):
        what = with_(what, frames=_at_least_one(what.frames, scale, LONGEST_TURN))
    elif isinstance(what, Trail):
        what = with_(what, spacing=_at_least_one(what.spacing, scale, WIDEST_SPACING))
    changes: dict[str, object] = {"what": what}
    if accent.unit == "frames":
        for name in ("lead", "hold", "tail"):
            changes[name] = min(getattr(accent, name) * float(scale), LONGEST_EFFECT)
    return with_(accent, **changes)


def _at_least_one(frames: int, scale: Fraction, most: int) -> int:
    return min(max(1, nearest_frame(frames * scale)), most)


def _scaled(frames: int, scale: Fraction) -> int:
    return min(nearest_frame(frames * scale), LONGEST_EFFECT)


class Anyway(EditCommand):
    """Do what was refused because it would hide, bury or open something."""

    do: Literal["anyway"] = "anyway"
    said: ClassVar[str] = "Do it anyway"
    command: Command

    def on(self, edit: Edit) -> Edit:
        return attempt(edit, self.command)


class Batch(EditCommand):
    """Several commands as one: all of them, each on what the one before it made, or none."""

    do: Literal["batch"] = "batch"
    said: ClassVar[str] = "Several steps"
    commands: Annotated[tuple[Command, ...], Field(min_length=1, max_length=MOST_CLIPS)]

    def asks_first(self, edit: Edit) -> bool:
        for command in self.commands:
            if command.asks_first(edit):
                return True
            edit = attempt(edit, command)
        return False

    def on(self, edit: Edit) -> Edit:
        for command in self.commands:
            edit = attempt(edit, command)
        return edit


Command = Annotated[
    Configure
    | UseSong
    | AnalyseAgain
    | PlaceSong
    | AddCue
    | AddCues
    | ChangeCue
    | ChangeCues
    | RemoveCues
    | MergeCues
    | SetDownbeat
    | CountBeats
    | UseBeats
    | PinBeat
    | SetTempo
    | SaveSelection
    | RemoveSelection
    | UseTake
    | ChangeTake
    | RemoveTake
    | LaySelect
    | RelinkSong
    | RelinkTake
    | AddMoment
    | ChangeMoment
    | RemoveMoment
    | AddSelect
    | ChangeSelect
    | RemoveSelect
    | DismissProposal
    | LayTake
    | RemoveClip
    | SetLevel
    | SetMotion
    | SetBreak
    | FrameClip
    | AddFramingKey
    | ChangeFramingKey
    | RemoveFramingKey
    | CopyFraming
    | KeepPoint
    | InsetClip
    | FillFrame
    | KeyOut
    | SaveTrack
    | SetTrackPoint
    | RemoveTrack
    | ReverseClip
    | EndClip
    | ConformClip
    | Borrow
    | AddTie
    | ChangeTie
    | TieLoose
    | TieMoments
    | ChangeEdge
    | RemovePin
    | HoldPicture
    | TurnBack
    | SetPin
    | ShapeSpan
    | AddKnot
    | BeginShape
    | SetValue
    | SetSpan
    | Strengthen
    | Nudge
    | SplitClip
    | JoinClips
    | MoveCut
    | SlipClip
    | SlideClip
    | ContinueCut
    | RunThrough
    | JumpCuts
    | Alternate
    | BendBetween
    | AddPulse
    | CopyPass
    | ChangePass
    | RemovePass
    | FixPasses
    | AlternateMoments
    | FillSlots
    | SwapClips
    | CloseGaps
    | ReverseOrder
    | RepeatSection
    | SetRange
    | ClearRange
    | AddBlack
    | ChangeBlack
    | RemoveBlack
    | OverlapClips
    | AddAccent
    | AddAccentSet
    | SoftenFlashes
    | ChangeAccent
    | CopyAccent
    | RemoveAccent
    | AddSound
    | ChangeSound
    | CopySound
    | RemoveSound
    | MuteClips
    | FadeSong
    | SetLevelKey
    | RemoveLevelKey
    | AddTitle
    | ChangeTitle
    | CopyTitle
    | RemoveTitle
    | EndEdit
    | OpenEnd
    | AddNotes
    | RemoveNote
    | UseBundle
    | Recap
    | ChangeSong
    | JoinSong
    | KeepRecipe
    | MakeRecipe
    | RemoveRecipe
    | ApplyRecipe
    | Anyway
    | Batch,
    Field(discriminator="do"),
]
KINDS: tuple[type[EditCommand], ...] = get_args(get_args(Command)[0])
"""All commands there are."""

Anyway.model_rebuild()
Batch.model_rebuild()


def apply(edit: Edit, command: Command) -> Edit:
    """The edit after a command.

    Raises:
        Refusal: the command names something that is not there, what it asks for cannot be
            solved, or it would hide, bury or open something and nobody said to do so anyway.
    """
    changed = attempt(edit, command)
    check(changed)
    if command.asks_first(edit) and any(crowd := crowding(edit, changed)):
        raise Refusal(WOULD_CROWD, f"This would {crowd}.", remedy="Do it anyway, or do it to fewer clips.")
    return changed


def attempt(edit: Edit, command: Command) -> Edit:
    """The edit after a command, not yet solved: for a dry run, whose derivation solves it next.

    Raises:
        Refusal: the command names something that is not there.
    """
    try:
        changed = without_lost_tracks(without_strays(edit, command.on(edit)))
        return in_slots(edit, changed) if command.keeps else changed
    except ValidationError as error:  # a value out of its bounds; any other error is a fault of ours
        raise _as_refusal(error) from None


def check(edit: Edit) -> None:
    """Refuse an edit whose parts do not fit together. A document from outside passes here first."""
    check_parts(edit)
    for clip in edit.clips:
        solve(edit, clip)


def check_parts(edit: Edit) -> None:
    """Refuse an edit in which two parts have one id, or one names what is not there."""
    for parts, kind in (
        (edit.takes, "take"),
        (edit.clips, "clip"),
        (edit.song.cues if edit.song else (), "cue"),
        (edit.blacks, "black stretch"),
        (edit.accents, "accent"),
        (edit.sounds, "sound"),
        (edit.titles, "title"),
        (edit.notes, "note"),
        (edit.levels, "level"),
        (edit.recipes, "recipe"),
    ):
        _check_unique(parts, kind, kind)
    for stretch, _ in edit.stretches:
        edit.frames_in(stretch)
    for at in (*(accent.at for accent in edit.accents), *(sound.at for sound in edit.sounds)):
        _check_anchor(edit, at)
    if edit.ending is not None:
        edit.place_of(edit.ending.at)
    for level in edit.levels:
        edit.place_of(level.at)
    for take in edit.takes:
        _check_unique(take.moments, "moment", Place(take=take.id))
        _check_unique(take.selects, "select", Place(take=take.id))
        _check_unique(take.tracks, "track", Place(take=take.id))
        for kind, id, frame in (
            *(("moment", moment.id, moment.frame) for moment in take.moments),
            *(("select", select.id, select.end) for select in take.selects),
        ):
            if frame >= take.frames:
                raise Refusal(
                    f"{kind}-outside-take",
                    f"Frame {frame} is outside the take, which has frames 0 to {take.frames - 1}.",
                    where=Place(take=take.id, **{kind: id}),
                    remedy="Mark a frame inside the take.",
                    nearest=take.frames - 1,
                )
    for clip in edit.clips:
        _check_unique(clip.pins, "pin", Place.of(clip.id))
        _check_unique(clip.passes, "pass", Place.of(clip.id))
        if clip.framing is not None:
            _check_unique(clip.framing.keys, "key", Place.of(clip.id))
            for key in clip.framing.keys:
                if key.at.moment is not None:
                    edit.moment(clip.take, key.at.moment)
            if clip.framing.kept is not None:
                edit.track(clip.take, clip.framing.kept.track)


def _check_anchor(edit: Edit, at: Anchor) -> None:
    """Refuse what stands on a cue, or on a selection, that is not there."""
    if isinstance(at, OnCues):
        for cue in cues_of(edit, at):
            edit.cue(cue)
    elif isinstance(at, OnRange):
        edit.frames_in(at.stretch)


def _as_refusal(error: ValidationError) -> Refusal:
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    return Refusal("bad-command", f"{first['msg'].removeprefix('Value error, ')}.", where=where)


def _check_unique(parts: Iterable[Identified | Recipe], kind: str, where: str | Place) -> None:
    seen: set[str] = set()
    for part in parts:
        if part.id in seen:
            raise Refusal(
                "id-twice",
                f"Two parts have the id {part.id}.",
                where=where,
                remedy=f"Give each {kind} its own.",
            )
        seen.add(part.id)
