"""What follows from an edit document, for programs: frame maps, speeds, repeats, landings, refusals."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from pydantic import BaseModel

from izmet.core.commands import check_parts
from izmet.core.commands.repairs import Repair, clip_repairs
from izmet.core.document.cuekinds import CUE_KINDS
from izmet.core.document.edit import Clip, Edit
from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.following.derived import DerivedClip, DerivedMix, DerivedPin, DerivedPulses
from izmet.core.following.workings import derive
from izmet.core.retime.solve import solve
from izmet.core.shown.framemap import HOWS, How
from izmet.core.shown.landing import Landing
from izmet.core.shown.pictures import spread


class SolvedSpan(BaseModel):
    """One span: its shape, its pins, its speeds (1 is real time; ``way`` −1 backwards, 0 held)."""

    shape: str
    start: DerivedPin
    end: DerivedPin
    mean: float
    lowest: float
    highest: float
    way: int
    repeats: int


class SolvedMix(BaseModel):
    """An output frame on which a clip shows several source frames together: with what weights, 1 in all, and
    how: ``draft`` and ``fine`` are optical flow."""

    n: int
    frames: list[int]
    weights: list[float]
    how: How


class SolvedClip(BaseModel):
    """A clip, frame by frame from output frame ``first``.

    ``frames`` are the source frames shown, ``positions`` where in the take the curve stands
    (floats), ``speeds`` relative to real time, below 0 backwards. ``mixes`` are the output frames
    that show several source frames, in the order of travel. ``repeats`` are the output
    frames that show the picture of the frame before, ``skips`` those before which one or more
    distinct pictures are passed over.
    """

    id: str
    take: str
    first: int
    last: int
    frames: list[int]
    positions: list[float]
    speeds: list[float]
    mixes: list[SolvedMix]
    floor: float
    pins: list[DerivedPin]
    spans: list[SolvedSpan]
    repeats: list[int]
    skips: list[int]
    pulses: DerivedPulses | None
    landings: list[Landing]


class SolvedRefusal(BaseModel):
    """A clip that cannot be, and what would make it possible."""

    clip: str
    code: str
    what: str
    where: str
    remedy: str
    nearest: float | None
    repairs: list[Repair]


class Solved(BaseModel):
    """All that follows from an edit. Clips that are refused are left out of what the others show."""

    title: str
    rate: str
    clips: list[SolvedClip]
    refusals: list[SolvedRefusal]

    def lines(self) -> Iterator[str]:
        """What it says, for a person."""
        for clip in self.clips:
            yield f"{clip.id}: frames {clip.first} to {clip.last}, {counted(len(clip.repeats), 'repeat')}"
            for span in clip.spans:
                yield f"    {span.shape:<7} {span.lowest:.1%} to {span.highest:.1%}, mean {span.mean:.1%}"
            for landing in clip.landings:
                verdict = "lands" if landing.exact else "MISSES"
                tie = f"{landing.label} on {CUE_KINDS[landing.cue_kind].name}"
                yield f"    {verdict}  {tie}, frame {landing.landed_frame}"
        for refusal in self.refusals:
            yield f"{refusal.where}: {refusal.what} {refusal.remedy}"
            for repair in refusal.repairs:
                yield f"    or: {repair.label}"


def solved(edit: Edit) -> Solved:
    """What follows from an edit. Raises Refusal when its parts are not there or have one id."""
    check_parts(edit)
    good, refused = [], []
    for clip in edit.clips:
        try:
            solve(edit, clip)
            good.append(clip)
        except Refusal as refusal:
            found = {**refusal.as_dict(), "clip": clip.id, "repairs": clip_repairs(edit, clip)}
            refused.append(SolvedRefusal.model_validate(found))
    kept = edit.model_copy(update={"clips": tuple(good)})
    derived = derive(kept, {take.id: spread(take) for take in edit.takes if take.distinct != take.rate})
    return Solved(
        title=edit.title,
        rate=str(edit.rate),
        clips=[_clip(kept, clip, each) for clip, each in zip(good, derived.clips, strict=True)],
        refusals=refused,
    )


def _clip(edit: Edit, clip: Clip, derived: DerivedClip) -> SolvedClip:
    curve = solve(edit, clip)
    steps = np.asarray(derived.steps)
    spans = [
        SolvedSpan(
            shape=shape.shape,
            start=start,
            end=end,
            **span.model_dump(include={"mean", "lowest", "highest", "way", "repeats"}),
        )
        for shape, span, start, end in zip(
            clip.spans, derived.spans, derived.pins[:-1], derived.pins[1:], strict=True
        )
    ]
    return SolvedClip(
        id=clip.id,
        take=clip.take,
        first=curve.first,
        last=curve.last,
        frames=curve.shown.tolist(),
        positions=curve.source.tolist(),
        speeds=curve.speed.tolist(),
        mixes=[]
        if derived.mix is None
        else [each for each in _mixes(derived.mix) if each.n in curve.covered],
        floor=derived.floor,
        pins=derived.pins,
        spans=spans,
        repeats=(np.flatnonzero(steps == 0) + curve.first).tolist(),
        skips=(np.flatnonzero(steps > 1) + curve.first).tolist(),
        pulses=derived.pulses,
        landings=derived.landings,
    )


def _mixes(mix: DerivedMix) -> Iterator[SolvedMix]:
    columns = np.stack(mix.sources, axis=1).tolist(), np.stack(mix.weights, axis=1).tolist()
    for n, (frames, weights, how) in enumerate(zip(*columns, mix.how.tolist(), strict=True), mix.first):
        seen = [(frame, weight) for frame, weight in zip(frames, weights, strict=True) if weight > 0]
        if len(seen) > 1:
            together, parts = zip(*seen, strict=True)
            yield SolvedMix(n=n, frames=together, weights=parts, how=HOWS[how])
