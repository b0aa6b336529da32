"""Several commands as one: what comes of it is what comes of them one after another, or nothing does."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.common import with_clips
from izmet.core.commands.repairs import repairs
from izmet.core.commands.slots import Shot
from izmet.core.commands.words import in_words
from izmet.core.document.edit import Clip, Edit, Steady
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from tests.core.examples import tied_edit
from tests.core.wishes import wished


@given(wished(), st.data())
def test_a_batch_does_what_its_commands_do_one_after_another(case, data):
    edit, wish = case
    title = do.Configure(title=data.draw(st.text("abc", min_size=1, max_size=3)))
    batch = do.Batch(commands=data.draw(st.permutations([wish, title])))
    refused = refused_as(edit, wish)
    assert refused_as(edit, batch) == refused
    if refused is None:
        assert do.apply(edit, batch) == do.apply(do.apply(edit, wish), title)


def refused_as(edit: Edit, command: do.Command) -> str | None:
    """The code with which a command is refused; None when it is not."""
    try:
        do.apply(edit, command)
    except Refusal as refusal:
        return refusal.code
    return None


def test_what_a_batch_makes_it_can_work_on_and_what_it_would_hide_it_asks_about():
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    laid = do.LayTake(take="gannet", moment="moment-0", cue="cue-1")
    batch = do.Batch(commands=(laid, do.ReverseClip(clip="clip-2"), do.SetLevel(clip="clip-2", level=1)))
    assert do.apply(edit, batch).clip("clip-2").reversed
    assert in_words(edit, batch) == "Lay a take on the music: impact at frame 100, kick at 2.00 s, and 2 more"

    pins = (Pin(id="a", n=70, p=0), Pin(id="b", n=90, p=20))
    under = with_clips(
        edit, [Clip(id="clip-9", take="gannet", pins=pins, spans=(Steady(),)), *edit.clips[1:]]
    )
    over = do.FillSlots(cues=("cue-0", "cue-1"), shots=(Shot(take="gannet"),))
    both = do.Batch(commands=(do.Configure(title="full"), over))
    with pytest.raises(Refusal) as refused:
        do.apply(under, both)
    assert refused.value.code == do.WOULD_CROWD
    (anyway,) = repairs(under, both, refused.value)
    done = do.apply(under, *anyway.commands)
    assert (done.title, len(done.clips)) == ("full", 2)
    assert under.title != "full"
