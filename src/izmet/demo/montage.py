"""The demo's montage: the whole race on one song, with all that a cut can do."""

from __future__ import annotations

from pathlib import Path
from uuid import uuid4

from izmet.core.commands import Command, Configure, apply
from izmet.core.commands.accents import AddAccent
from izmet.core.commands.cuts import RunThrough
from izmet.core.commands.overlaps import OverlapClips
from izmet.core.commands.pins import HoldPicture, TurnBack
from izmet.core.commands.slots import FillSlots, Shot
from izmet.core.commands.sounds import AddSound
from izmet.core.commands.titles import AddTitle, EndEdit
from izmet.core.document.accents import Flash, OnCues, OnCuts
from izmet.core.document.edit import Edit
from izmet.core.document.sounds import Made
from izmet.core.document.titles import Entrance
from izmet.core.music.lengths import Length
from izmet.demo.library import Progress
from izmet.jobs.bundling import make_bundle
from izmet.jobs.kinds import MakeBundle
from izmet.store.assets import Assets
from izmet.store.edits import Stored

TITLE = "The whole race"
SAID_AT_THE_END = "Skerry Run\nheat three"
BEFORE, SLOTS = 12, 20
"""How many bars before the drop it begins, and how many bars it lasts."""
RUN_THROUGH, REVERSED, HELD, OVERLAPPED = (3, 7, 13), 5, 9, (1, 15)
"""Which clips are run into, run back from their hit, frozen on it, faded into; counted from 0."""
BUNDLED = (16, 17)
RISING = Entrance(frames=16, y=0.08, ease="ease-out")


def race(edit: Edit, drop: float) -> Edit:
    """The edit, which has a song and takes with their moments, filled with shots from bar to bar.

    Args:
        drop: where the song's drop is, in seconds of the edit.
    """
    assert edit.song is not None
    bars = [cue for cue in edit.song.cues if cue.kind == "downbeat"]
    middle = min(range(len(bars)), key=lambda index: abs(bars[index].time - drop))
    begin = max(0, middle - BEFORE)
    cues = [cue.id for cue in bars[begin : begin + SLOTS + 1]]
    shots = tuple(
        Shot(take=take.id, moment=moment.id)
        for take in edit.takes
        for moment in take.moments
        if moment.kind in ("impact", "action")
    )
    edit = apply(edit, Configure(title=TITLE))
    edit = apply(edit, FillSlots(cues=tuple(cues), shots=shots, order="random", seed=7))
    clips = [clip.id for clip in edit.clips]
    wishes: list[Command] = [
        RunThrough(
            cuts=tuple((clips[index - 1], clips[index]) for index in RUN_THROUGH),
            length=Length(count=10),
            speed=2,
        ),
        TurnBack(clip=clips[REVERSED], pin="tie", back=24, frames=30),
        HoldPicture(clip=clips[HELD], pin="tie", frames=20),
        *(OverlapClips(clip=clips[index], frames=8) for index in OVERLAPPED),
        AddAccent(at=OnCues(cues=(bars[middle].id,)), what=Flash(), lead=1, tail=10),
        AddSound(at=OnCues(cues=(bars[middle].id,)), what=Made(name="boom", length=2.0), level=-6),
        AddSound(
            at=OnCues(cues=(bars[middle].id,)), what=Made(name="riser", length=4, unit="beats"), level=-14
        ),
        AddSound(
            at=OnCuts(clips=tuple(clips[index] for index in RUN_THROUGH)),
            what=Made(name="whoosh", length=0.8),
            level=-12,
        ),
        AddTitle(text=TITLE, since=cues[1], until=cues[3], comes=RISING),
        EndEdit(at=cues[-1], tail=2.0, title=SAID_AT_THE_END),
    ]
    for wish in wishes:
        edit = apply(edit, wish)
    return edit


def bundle_some(assets: Assets, kept: Path, stored: Stored, progress: Progress) -> None:
    """Make one take of two of its clips, which can be opened as an edit of its own."""
    clips = tuple(stored.edit.clips[index].id for index in BUNDLED)
    work = MakeBundle(of=uuid4().hex, into=stored.id, clips=clips, base=stored.revision, name="The finish")
    make_bundle(assets, kept, work, lambda done, total: progress("the montage", done, total))
