"""What is offered instead of a refused wish works, and so does what is offered for a broken clip."""

from __future__ import annotations

from hypothesis import assume, given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.common import with_, with_clips
from izmet.core.commands.repairs import MOST, clip_repairs, repairs
from izmet.core.document.edit import Steady
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from tests.core.examples import tied_edit
from tests.core.wishes import shapes, solves, wished


def done(edit, steps):
    for step in steps:
        edit = do.apply(edit, step)
    return edit


@given(wished())
def test_what_is_offered_instead_of_a_refused_wish_works(case):
    edit, wish = case
    try:
        after = do.apply(edit, wish)
    except Refusal as refusal:
        found = repairs(edit, wish, refusal)
    else:
        assume(False)
    assert len(found) <= MOST
    assert len({repair.label for repair in found}) == len(found)
    for repair in found:
        after = done(edit, repair.commands)
        assert after != edit, repair.label
        assert solves(after)


@st.composite
def broken(draw):
    """A document whose clip cannot be solved: ties in any order, shapes that do not fit, frames left out."""
    count = draw(st.integers(2, 4))
    times = draw(st.lists(st.integers(10, 90), min_size=count, max_size=count, unique=True))
    frames = draw(st.lists(st.integers(0, 999), min_size=count, max_size=count, unique=True))
    ties = [(time / 10, frame) for time, frame in zip(times, frames, strict=True)]
    edit = tied_edit(ties, [draw(shapes) for _ in range(count - 1)])
    (clip,) = edit.clips
    first = with_(clip.pins[0], skip=draw(st.sampled_from([0, 5, 400])))
    edit = with_clips(edit, [with_(clip, pins=(first, *clip.pins[1:]))])
    assume(not solves(edit))
    return edit


@given(broken())
def test_what_is_offered_for_a_broken_clip_mends_it(edit):
    (clip,) = edit.clips
    found = clip_repairs(edit, clip)
    assert 1 <= len(found) <= MOST, "there is always a way"
    for repair in found:
        mended = done(edit, repair.commands)
        assert solves(mended), repair.label
        if do.RemoveClip(clip=clip.id) not in repair.commands:
            (left,) = mended.clips
            assert len(left.pins) >= len(clip.pins) - 1  # No more is given up than it says.


def test_a_clip_that_no_step_can_mend_is_laid_anew_or_goes():
    """Every span leaves the take, and so does each pin's way out."""
    pins = (Pin(id="a", p=900), Pin(id="b", cue="cue-0", p=950), Pin(id="c", n=5000))
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    lost = with_(edit.clips[0], pins=pins, spans=(Steady(speed=1), Steady(speed=50)), reversed=True)
    offered = [repair.label for repair in clip_repairs(with_clips(edit, [lost]), lost)]
    assert offered[-1] == "Remove the clip"
