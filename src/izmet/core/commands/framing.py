"""Commands about how a clip's picture lies in the frame, and about points that are tracked in takes."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from izmet.core.commands.common import Asking, EditCommand, new_id, with_, with_clip, with_clips
from izmet.core.document.edit import Clip, Edit, Take
from izmet.core.document.framing import (
    Across,
    Bend,
    Framing,
    FramingKey,
    Inset,
    KeptPoint,
    Keying,
    Part,
    Scale,
    SourceFrame,
    Track,
    TrackPoint,
    Turn,
    Within,
)
from izmet.core.document.limits import LONGEST_TRACK, MOST_FRAMES, MOST_PINS
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Colour, Easing, EffectFrames, Id, Name, Share
from izmet.core.retime.solve import solve
from izmet.core.shown.framing import key_frame, keys_along
from izmet.core.shown.light import chroma

LEAST_CHROMA = 0.05
"""Of a background: a grey one cannot be told from what stands before it."""


class KeyCommand(EditCommand):
    """Base of commands that say where a key of a clip's framing stands, and what it says."""

    clip: Id
    n: Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)] | None = None
    cue: Id | None = None
    moment: Id | None = None
    x: Across | None = None
    y: Across | None = None
    scale: Scale | None = None
    turn: Turn | None = None
    ease: Easing | Bend | None = None

    def place(self, edit: Edit, clip: Clip) -> Pin | None:
        """Where it stands, None where that is not said. Raises Refusal for what is not there."""
        said = self.model_dump(include={"n", "cue", "moment"}, exclude_none=True)
        if self.cue is not None:
            edit.cue(self.cue)
        if self.moment is not None:
            edit.moment(clip.take, self.moment)
        return Pin(id="at", **said) if said else None

    @property
    def values(self) -> dict[str, object]:
        """What it says of the picture."""
        return self.model_dump(include={"x", "y", "scale", "turn", "ease"}, exclude_none=True)


class AddFramingKey(KeyCommand):
    """Say how a clip's picture lies at one place of it; what is not said is as it is there now.

    A key that stands there already is changed.
    """

    do: Literal["add-framing-key"] = "add-framing-key"
    said: ClassVar[str] = "Add a framing key"

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        at = self.place(edit, clip)
        if at is None:
            raise Refusal("bad-command", "Say where the key goes.", where=Place.of(clip.id))
        framing = clip.framing or Framing()
        curve = solve(edit, clip)
        n = key_frame(edit, clip, curve, FramingKey(id="new", at=at))
        if n is None or not curve.first <= n <= curve.last:
            raise Refusal(
                "not-seen",
                "The clip is not seen there.",
                where=Place.of(clip.id),
                remedy="Set the key where the clip is.",
            )
        there = {key_frame(edit, clip, curve, key): key for key in framing.keys}
        if (key := there.get(n)) is not None:
            keys = [with_(each, **self.values) if each is key else each for each in framing.keys]
        else:
            x, y, scale, turn = (float(each[0]) for each in keys_along(edit, clip, curve, np.array([n])))
            now = {"x": x, "y": y, "scale": scale, "turn": turn} | self.values
            keys = [*framing.keys, FramingKey(id=new_id("key", framing.keys), at=at, **now)]
        return with_clip(edit, clip, framing=with_(framing, keys=keys))


class ChangeFramingKey(KeyCommand):
    """Move a key of a clip's framing to another place, or change what it says."""

    do: Literal["change-framing-key"] = "change-framing-key"
    said: ClassVar[str] = "Change framing"
    key: Id

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        framing, key = _key_of(clip, self.key)
        at = self.place(edit, clip)
        changed = with_(key, **self.values, **({} if at is None else {"at": at}))
        keys = [changed if each is key else each for each in framing.keys]
        return with_clip(edit, clip, framing=with_(framing, keys=keys))


class RemoveFramingKey(EditCommand):
    """Take away a key of a clip's framing, or all of them."""

    do: Literal["remove-framing-key"] = "remove-framing-key"
    said: ClassVar[str] = "Remove a framing key"
    clip: Id
    key: Id | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        framing = clip.framing or Framing()
        if self.key is not None:
            _key_of(clip, self.key)
        keys = [each for each in framing.keys if self.key not in (None, each.id)]
        return with_clip(edit, clip, framing=_unless_plain(with_(framing, keys=keys)))


class CopyFraming(EditCommand):
    """Frame other clips as one is: their keys are as far from their first frames."""

    do: Literal["copy-framing"] = "copy-framing"
    said: ClassVar[str] = "Copy framing"
    clip: Id
    to: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_PINS)]

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        curve = solve(edit, clip)
        framing = clip.framing or Framing()
        placed = [(key_frame(edit, clip, curve, key), key) for key in framing.keys]
        changed = {}
        for other in map(edit.clip, self.to):
            begin, last = (getattr(solve(edit, other), name) for name in ("first", "last"))
            keys = [
                with_(key, at=Pin(id="at", n=min(n - curve.first + begin, last)))
                for n, key in placed
                if n is not None
            ]
            kept = framing.kept if other.take == clip.take else None
            changed[other.id] = with_(other, framing=_unless_plain(Framing(keys=tuple(keys), kept=kept)))
        return with_clips(edit, (changed.get(each.id, each) for each in edit.clips))


class KeepPoint(EditCommand):
    """Keep a tracked point in one place of the frame; without a track let it go.

    ``from_before`` keeps it where the point of the clip before it is last seen.
    """

    do: Literal["keep-point"] = "keep-point"
    said: ClassVar[str] = "Keep a point in its place"
    clip: Id
    track: Id | None = None
    x: Share | None = None
    y: Share | None = None
    from_before: bool = False
    through: bool | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        framing = clip.framing or Framing()
        if self.track is None:
            return with_clip(edit, clip, framing=_unless_plain(with_(framing, kept=None)))
        edit.track(clip.take, self.track)
        old = framing.kept or KeptPoint(track=self.track, x=0.5, y=0.5)
        place: dict[str, object] = {"x": None, "y": None} if self.from_before else {}
        if self.x is not None or self.y is not None:
            place = {"x": self.x, "y": self.y}
        through = old.through if self.through is None else self.through
        kept = with_(old, track=self.track, through=through, **place)
        return with_clip(edit, clip, framing=with_(framing, kept=kept))


class SaveTrack(EditCommand):
    """Keep the way of a point through a take, or change it.

    New ``points`` take the place of all that there are, or of those from one frame to another, ``over`` which
    they were looked for.
    """

    do: Literal["save-track"] = "save-track"
    said: ClassVar[str] = "Track a point"
    take: Id
    track: Id | None = None
    name: Name | None = None
    points: Annotated[tuple[TrackPoint, ...], Field(min_length=1, max_length=LONGEST_TRACK)] | None = None
    over: tuple[SourceFrame, SourceFrame] | None = None

    def on(self, edit: Edit) -> Edit:
        take = edit.take(self.take)
        points = None if self.points is None else _in_order(self.points)
        if points is not None and self.track is not None and self.over is not None:
            first, last = self.over
            old = edit.track(take.id, self.track).points
            points = _in_order((*points, *(each for each in old if not first <= each.frame <= last)))
        if points is not None:
            check_inside(take, points[-1].frame)
        if self.track is None:
            if points is None:
                raise Refusal("bad-command", "Say where the point is.", where=Place(take=take.id))
            every = [track for other in edit.takes for track in other.tracks]
            id = new_id("track", every)
            track = Track(id=id, name=self.name or f"point {id.rpartition('-')[2]}", points=points)
            return _with_tracks(edit, take, [*take.tracks, track])
        track = edit.track(take.id, self.track)
        said = {"name": self.name, "points": points}
        new = with_(track, **{name: value for name, value in said.items() if value is not None})
        return _with_tracks(edit, take, [new if each is track else each for each in take.tracks])


class SetTrackPoint(EditCommand):
    """Say where a tracked point is in one picture."""

    do: Literal["set-track-point"] = "set-track-point"
    said: ClassVar[str] = "Place a tracked point"
    take: Id
    track: Id
    frame: SourceFrame
    x: Within
    y: Within

    def on(self, edit: Edit) -> Edit:
        old = edit.track(self.take, self.track)
        others = (each for each in old.points if each.frame != self.frame)
        points = (*others, TrackPoint(frame=self.frame, x=self.x, y=self.y))
        return SaveTrack(take=self.take, track=self.track, points=points).on(edit)


class RemoveTrack(EditCommand):
    """Forget a tracked point. What it kept in place goes free."""

    do: Literal["remove-track"] = "remove-track"
    said: ClassVar[str] = "Remove a tracked point"
    take: Id
    track: Id

    def on(self, edit: Edit) -> Edit:
        edit.track(self.take, self.track)
        take = edit.take(self.take)
        return _with_tracks(edit, take, [track for track in take.tracks if track.id != self.track])


class InsetClip(Asking):
    """Lay a clip in a part of the frame, over what lies beneath it; what is not said stays as it is."""

    do: Literal["inset-clip"] = "inset-clip"
    said: ClassVar[str] = "Make a clip an inset"
    clip: Id
    x: Share | None = None
    y: Share | None = None
    width: Part | None = None
    height: Part | None = None
    shape: Literal["box", "ellipse"] | None = None
    border: Annotated[float, Field(ge=0, le=0.1)] | None = None
    border_colour: Colour | None = None
    fade: EffectFrames | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        said = self.model_dump(exclude={"do", "clip"}, exclude_none=True)
        return with_clip(edit, clip, inset=with_(clip.inset or Inset(), **said), overlap=None)


class FillFrame(Asking):
    """Have a clip that was an inset fill the frame."""

    do: Literal["fill-frame"] = "fill-frame"
    said: ClassVar[str] = "Fill the frame with a clip"
    clip: Id

    def on(self, edit: Edit) -> Edit:
        return with_clip(edit, edit.clip(self.clip), inset=None)


class KeyOut(EditCommand):
    """Have the background of an inset not seen, by its colour; without one all is seen."""

    do: Literal["key-out"] = "key-out"
    said: ClassVar[str] = "Key out a background"
    clip: Id
    colour: Colour | None = None
    near: Annotated[float, Field(ge=0, le=1)] | None = None
    soft: Annotated[float, Field(ge=0.01, le=1)] | None = None
    spill: Share | None = None

    def on(self, edit: Edit) -> Edit:
        clip = edit.clip(self.clip)
        if clip.inset is None:
            raise Refusal(
                "no-inset",
                "Only an inset can have its background keyed out.",
                where=Place.of(clip.id),
                remedy="Make the clip an inset first; it may be as large as the frame.",
            )
        said = self.model_dump(include={"colour", "near", "soft", "spill"}, exclude_none=True)
        if not said:
            return with_clip(edit, clip, inset=with_(clip.inset, keying=None))
        old = clip.inset.keying
        keying = Keying.model_validate(said) if old is None else with_(old, **said)
        if chroma(keying.colour) < LEAST_CHROMA:
            raise Refusal(
                "no-colour",
                f"{keying.colour} is too grey to key out.",
                where=Place.of(clip.id),
                remedy="Pick a strongly coloured background.",
            )
        return with_clip(edit, clip, inset=with_(clip.inset, keying=keying))


def without_lost_tracks(edit: Edit) -> Edit:
    """The edit with nothing kept at, or revealed along, a track that is not there any more."""
    known = {take.id: {track.id for track in take.tracks} for take in edit.takes}
    every = set().union(*known.values()) if known else set()

    def kept(clip: Clip) -> Clip:
        framing, overlap = clip.framing, clip.overlap
        if framing is not None and framing.kept and framing.kept.track not in known[clip.take]:
            clip = with_(clip, framing=_unless_plain(with_(framing, kept=None)))
        if overlap is not None and overlap.reveal.track not in (None, *every):
            clip = with_(clip, overlap=with_(overlap, reveal=with_(overlap.reveal, track=None)))
        return clip

    clips = tuple(map(kept, edit.clips))
    same = all(one is other for one, other in zip(clips, edit.clips, strict=True))
    return edit if same else with_clips(edit, clips)


def check_inside(take: Take, frame: int) -> None:
    """Refuse to track on a frame that the take does not have."""
    if frame >= take.frames:
        raise Refusal(
            "track-outside-take",
            f"Frame {frame} is outside the take, which has frames 0 to {take.frames - 1}.",
            where=Place(take=take.id),
            remedy="Track inside the take.",
        )


def _in_order(points: Iterable[TrackPoint]) -> tuple[TrackPoint, ...]:
    return tuple(sorted(points, key=lambda point: point.frame))


def _unless_plain(framing: Framing) -> Framing | None:
    return framing if framing.keys or framing.kept else None


def _key_of(clip: Clip, id: str) -> tuple[Framing, FramingKey]:
    for key in clip.framing.keys if clip.framing else ():
        if key.id == id:
            assert clip.framing is not None
            return clip.framing, key
    raise Refusal(
        "no-such-key", f"The clip has no key {id}.", where=Place.of(clip.id), remedy="Reload the edit."
    )


def _with_tracks(edit: Edit, take: Take, tracks: list[Track]) -> Edit:
    changed = with_(take, tracks=tracks)
    return with_(edit, takes=[changed if other is take else other for other in edit.takes])
