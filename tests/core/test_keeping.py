"""Clips that lie in slots keep them; what would be hidden, buried or opened is said before it is done."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.arrange.recipes import SHIPPED
from izmet.core.commands.common import with_, with_clips
from izmet.core.commands.repairs import repairs
from izmet.core.commands.slots import Shot
from izmet.core.document.edit import Clip, Edit, Steady
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.document.words import counted
from izmet.core.following.montage import montage
from izmet.core.following.workings import derive
from izmet.core.music.lengths import Length
from izmet.core.retime.solve import solve
from izmet.core.shown.stack import frames_shown
from tests.core.examples import anyway, tied_edit
from tests.core.test_montage import filled


def in_a_row(how: str = "cut") -> Edit:
    """Four clips that fill four slots, their cuts taken away: each just touches the next."""
    edit = filled(how=how)
    plain = []
    for clip in edit.clips:
        curve = solve(edit, clip)
        pins = [Pin(id="a", n=curve.first, p=200), Pin(id="b", n=curve.last, p=200 + len(curve.frames) - 1)]
        plain.append(Clip(id=clip.id, take=clip.take, pins=pins, spans=[Steady()]))
    return edit.model_copy(update={"clips": tuple(plain)})


def places(edit: Edit) -> list[tuple[str | None, int, int]]:
    shown = frames_shown(edit)
    return [(id, shown.first + frames.start, len(frames)) for id, frames in shown.stretches()]


@settings(max_examples=30, deadline=None)
@given(
    st.sampled_from([recipe.id for recipe in SHIPPED]),
    st.sampled_from(["cut", "inside", "row"]),
    st.sets(st.integers(1, 4), min_size=1),
)
def test_clips_that_are_retimed_keep_the_slots_in_which_they_lie(recipe, how, numbers):
    edit = in_a_row() if how == "row" else filled(how=how)
    before = places(edit)
    command = do.ApplyRecipe(recipe=recipe, clips=[f"clip-{i}" for i in sorted(numbers)])
    after = anyway(edit, command)
    if opened := sum(count for id, _, count in places(after) if id is None):
        # What the take has no pictures for leaves a hole: said with its number, and not done.
        said = refusal_of(edit, command)
        assert (said.code, said.what) == (
            "would-crowd",
            f"This would leave {counted(opened, 'frame')} without a picture.",
        )
    else:
        assert do.apply(edit, command) == after
        # Its outer sides are free, where there is nothing beside them.
        cuts = [(id, n) for id, n, _ in places(after)][1:]
        assert cuts == [(id, n) for id, n, _ in before][1:]


def test_what_would_be_hidden_buried_or_opened_is_said_and_done_only_when_asked_again():
    edit = filled()
    over = do.FillSlots(cues=["b-14", "b-22"], shots=[{"take": "take-1"}], how="begin")
    with pytest.raises(Refusal, match="hide 1 clip and bury 120 frames under other clips"):
        do.apply(edit, over)
    offered = repairs(edit, over, refusal_of(edit, over))
    assert [repair.label for repair in offered] == [
        "Do it anyway, and hide 1 clip and bury 120 frames under other clips"
    ]
    assert do.apply(edit, offered[0].commands[0]) == anyway(edit, over)

    every = do.FillSlots(cues=["b-8", "b-12", "b-16", "b-20", "b-24", "b-28"], shots=[{"take": "take-1"}])
    empty, *_ = repairs(edit, every, refusal_of(edit, every))
    assert empty.label == "Fill the empty slots alone"
    filled_up = do.apply(edit, empty.commands[0])
    assert places(filled_up)[: len(edit.clips)] == places(edit)
    assert len(filled_up.clips) == len(edit.clips) + 1


def refusal_of(edit: Edit, command) -> Refusal:
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    return refused.value


def test_a_run_through_a_cut_covers_nothing_opens_nothing_and_offers_what_fits():
    """Also where the clip before it stands later in the document, and where that ends on the cut's frame."""
    row = in_a_row()
    cut = next(n for id, n, _ in places(row) if id == "clip-2")
    one = row.clip("clip-1")
    longer = [one.pins[0], one.pins[1].model_copy(update={"n": cut})]
    touching = row.model_copy(
        update={"clips": (*row.clips[1:], one.model_copy(update={"pins": tuple(longer)}))}
    )
    tied = filled(how="inside")
    later = tied.model_copy(update={"clips": (*tied.clips[1:], tied.clips[0])})
    for edit in (row, touching, tied, later):
        run = do.apply(edit, do.RunThrough(cuts=[("clip-1", "clip-2")], length=Length(count=12), speed=3))
        shown = frames_shown(run)
        begin = next(n for id, n, _ in places(run) if id == "clip-2") - shown.first
        assert shown.speed[begin - 12 : begin + 12] == pytest.approx(3.0)
        assert [count for _, _, count in places(run)] == [count for _, _, count in places(edit)]
        assert all(landing.exact for landing in derive(run).landings)
        assert not any(trouble.kind == "overlap" for trouble in montage(run, derive(run)).troubles)

    # Four times as fast for 40 frames takes 160 of its frames, and before the first there are 200.
    far = row.clip("clip-2").pins
    near = [far[0].model_copy(update={"p": None}), far[1].model_copy(update={"p": 130.0})]
    short = row.model_copy(
        update={
            "clips": tuple(
                clip.model_copy(update={"pins": tuple(near), "spans": (Steady(speed=1),)})
                if clip.id == "clip-2"
                else clip
                for clip in row.clips
            )
        }
    )
    wide = do.RunThrough(cuts=[("clip-1", "clip-2")], length=Length(count=40), speed=4, side="in")
    refusal = refusal_of(short, wide)
    offer, *_ = repairs(short, wide, refusal)
    assert offer.label == f"Run fast for {refusal.nearest:.0f} frames"
    done = do.apply(short, offer.commands[0])
    assert frames_shown(done).picture.min() >= 0
    with pytest.raises(Refusal):
        do.apply(short, do.with_(wide, length=Length(count=refusal.nearest + 1)))


@pytest.mark.parametrize("side", ["both", "out", "in"])
def test_a_clip_whose_take_is_used_up_runs_slower_elsewhere_for_a_run_through(side):
    """Each take ends with its slot: what runs fast takes frames that the rest of the clip gives up."""
    takes = [do.with_(take, frames=201 + 120) for take in filled().takes]
    cues = ["b-8", "b-12", "b-16"]
    base = do.with_(filled(), takes=takes, clips=[])
    edit = do.apply(base, do.FillSlots(cues=cues, shots=[{"take": "take-0"}, {"take": "take-1"}]))
    run = do.apply(edit, do.RunThrough(cuts=[("clip-1", "clip-2")], length=Length(count=12), side=side))
    assert places(run) == places(edit)
    assert all(landing.exact for landing in derive(run).landings)
    shown, cut = frames_shown(run), edit.frame_of("b-12") - frames_shown(run).first
    fast = shown.speed[cut - 12 : cut], shown.speed[cut : cut + 12]
    assert fast[0] == pytest.approx(1.0 if side == "in" else 3.0)
    assert fast[1] == pytest.approx(1.0 if side == "out" else 3.0)
    assert shown.speed[cut - 20] == pytest.approx(1.0 if side == "in" else 84 / 108, abs=0.01)

    # What would leave less than half of its speed to the rest is refused, and what fits is offered.
    wide = do.RunThrough(cuts=[("clip-1", "clip-2")], length=Length(count=40), side="out")
    refusal = refusal_of(edit, wide)
    assert refusal.code == "no-room"
    slow = frames_shown(do.apply(edit, do.with_(wide, length=Length(count=refusal.nearest)))).speed
    assert 0.5 <= slow[cut - 100] < 0.53


def test_a_last_tie_under_a_new_clip_is_asked_about_and_a_plain_last_frame_is_a_cut():
    edit = tied_edit([(1.0, 100), (2.0, 160), (3.0, 400)])
    (clip,) = edit.clips
    laid = with_clips(edit, [with_(clip, pins=clip.pins[:2], spans=clip.spans[:1])])
    after_it = do.FillSlots(cues=("cue-1", "cue-2"), shots=(Shot(take="gannet"),), only_empty=True)
    refusal = refusal_of(laid, after_it)
    assert (refusal.code, "1 frame" in refusal.what) == (do.WOULD_CROWD, True)
    plain = with_(clip.pins[1], cue=None, moment=None, n=120, p=160)
    open_ended = with_clips(edit, [with_(clip, pins=(clip.pins[0], plain), spans=clip.spans[:1])])
    assert len(do.apply(open_ended, after_it).clips) == 2
