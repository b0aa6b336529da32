"""Edits to test with: one boat, one song, ties as a test wants them."""

from __future__ import annotations

from fractions import Fraction

from izmet.core.commands import Anyway, Command, apply
from izmet.core.document.edit import Clip, Cue, Edit, Moment, Shape, Song, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.values import Media

MEDIA = Media(name="any", sha256="0" * 64)


def tied_edit(
    ties: list[tuple[float, int]],
    shapes: list[Shape] | None = None,
    rate: Fraction = Fraction(60),
    take_rate: Fraction = Fraction(60),
    frames: int = 1000,
) -> Edit:
    """An edit with one clip whose pins are the given ties (cue time, source frame) and nothing else."""
    cues = tuple(Cue(id=f"cue-{i}", time=time, kind="kick") for i, (time, _) in enumerate(ties))
    moments = tuple(Moment(id=f"moment-{i}", frame=frame) for i, (_, frame) in enumerate(ties))
    pins = tuple(Pin(id=f"pin-{i}", cue=f"cue-{i}", moment=f"moment-{i}") for i in range(len(ties)))
    spans = tuple(shapes or [Steady()] * (len(ties) - 1))
    take = Take(
        id="gannet",
        media=MEDIA,
        rate=take_rate,
        frames=frames,
        distinct=take_rate,
        width=64,
        height=36,
        moments=moments,
    )
    return Edit(
        rate=rate,
        song=Song(media=MEDIA, duration=600, sample_rate=48000, cues=cues),
        takes=(take,),
        clips=(Clip(id="clip-1", take="gannet", pins=pins, spans=spans),) if len(ties) > 1 else (),
    )


def edit_of(cues: list[Cue], duration: float = 30) -> Edit:
    """An edit with these cues and a take with two moments that is not laid yet."""
    take = Take(
        id="take-1",
        media=MEDIA,
        rate="60",
        distinct="60",
        frames=1200,
        width=64,
        height=36,
        moments=(Moment(id="moment-1", frame=300), Moment(id="moment-2", frame=500)),
    )
    song = Song(media=MEDIA, duration=duration, sample_rate=44100, cues=cues)
    return Edit(rate="60", song=song, takes=(take,))


def anyway(edit: Edit, command: Command) -> Edit:
    """The edit after a command, whatever that hides, buries or opens."""
    return apply(edit, Anyway(command=command))
