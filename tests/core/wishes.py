"""Edits of one clip and what may or may not be done with them, for properties."""

from __future__ import annotations

from hypothesis import assume
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.common import with_
from izmet.core.document.edit import Brake, Build, Dip, Moment, Steady, Swell
from izmet.core.document.refusal import Refusal
from izmet.core.retime.solve import solve
from tests.core.examples import tied_edit

shapes = st.sampled_from([Steady(), Dip(), Swell(), Build(start=0.5, change=0.5), Brake(end=0.5, change=0.5)])
speeds = st.floats(0.01, 30)
counts = st.integers(1, 900)


@st.composite
def laid(draw):
    """An edit of one clip whose ties lie anywhere that its shapes allow; cues and moments besides."""
    times = sorted(draw(st.lists(st.integers(10, 90), min_size=3, max_size=6, unique=True)))
    frames = sorted(draw(st.lists(st.integers(0, 999), min_size=6, max_size=6, unique=True)))
    used = draw(st.integers(2, min(4, len(times))))
    bent = [draw(shapes) for _ in range(used - 1)]
    edit = tied_edit([(time / 10, frame) for time, frame in zip(times[:used], frames, strict=False)], bent)
    assume(solves(edit))
    for time in times[used:]:
        edit = do.apply(edit, do.AddCue(time=time / 10, kind="snare"))
    more = tuple(Moment(id=f"more-{k}", frame=frame) for k, frame in enumerate(frames[used:]))
    take = edit.takes[0]
    return with_(edit, takes=(with_(take, moments=take.moments + more),))


def solves(edit) -> bool:
    try:
        for clip in edit.clips:
            solve(edit, clip)
    except Refusal:
        return False
    return True


@st.composite
def wished(draw):
    """An edit, and something that may or may not be done with it."""
    edit = draw(laid())
    (clip,) = edit.clips
    cue = st.sampled_from([each.id for each in edit.song.cues])
    moment = st.sampled_from([each.id for each in edit.takes[0].moments])
    pin = st.sampled_from([each.id for each in clip.pins])
    at = {"clip": st.just(clip.id)}
    span = {**at, "span": st.integers(0, len(clip.spans) - 1)}
    wish = st.one_of(
        st.builds(do.AddTie, **at, moment=moment, cue=cue),
        st.builds(do.ChangeTie, **at, pin=pin, cue=cue),
        st.builds(do.ChangeTie, **at, pin=pin, moment=moment),
        st.builds(do.HoldPicture, **at, pin=pin, frames=counts),
        st.builds(do.HoldPicture, **at, pin=pin, cue=cue),
        st.builds(do.TurnBack, **at, pin=pin, back=counts),
        st.builds(do.SetPin, **at, pin=pin, skip=st.integers(-999, 999)),
        st.builds(do.ChangeEdge, **at, pin=pin, speed=speeds),
        st.builds(do.SetSpan, **span, speed=speeds),
        st.builds(do.BeginShape, **span, shape=st.sampled_from(["dip", "build", "brake", "rewind", "hold"])),
        st.builds(do.SetValue, **span, name=st.sampled_from(["strength", "start", "end"]), value=speeds),
        st.builds(do.Strengthen, **span, top=st.floats(0.1, 5)),
        st.builds(do.Strengthen, **span),
    )  # fmt: skip
    return edit, draw(wish)
