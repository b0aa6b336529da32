"""What is repeated at cues: no pin moves, ties land, and what is taken away leaves the clip as it was."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands.repairs import repairs
from izmet.core.document.edit import Build, CueSelection, Dip, Edit, Hold, Steady, Swell
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.retime.shapes import profile_of
from izmet.core.retime.solve import Curve, solve
from tests.core.examples import tied_edit

HITS = (2.0, 2.25, 2.5, 2.75)
FIRST, LAST, BEGIN, END = 60, 240, 10, 500


def struck(shape=None, reverse: bool = False) -> Edit:
    """One clip from frame FIRST to LAST with snares on HITS between its two ties."""
    ends = (END, BEGIN) if reverse else (BEGIN, END)
    edit = tied_edit([(1.0, ends[0]), (4.0, ends[1])], [shape or Steady()])
    edit = edit.model_copy(update={"clips": (do.with_(edit.clips[0], reversed=reverse),)})
    for time in HITS:
        edit = do.apply(edit, do.AddCue(time=time, kind="snare"))
    return edit


def snares(edit: Edit) -> tuple[str, ...]:
    return tuple(cue.id for cue in edit.song.cues if cue.kind == "snare")


def curve_of(edit: Edit) -> Curve:
    return solve(edit, edit.clips[0])


def jumped(edit: Edit, leave: int, more: int = 0) -> Edit:
    return do.apply(edit, do.JumpCuts(clip="clip-1", cues=snares(edit), leave=leave, more=more))


def alternated(edit: Edit, **values) -> Edit:
    return do.apply(edit, do.Alternate(clip="clip-1", cues=snares(edit), **values))


@given(st.integers(-20, 60), st.integers(-3, 10))
def test_jumps_are_the_run_made_shorter_and_what_is_left_out_before(leave, more):
    edit = jumped(struck(), leave, more)
    curve = curve_of(edit)
    way = 1 if leave >= 0 else -1
    jumps = [way * max(0, way * (leave + more * index)) for index in range(len(HITS))]
    n = np.arange(FIRST, LAST + 1)
    run = (END - BEGIN - sum(jumps)) * (n - FIRST) / (LAST - FIRST)
    passed = sum(jump * (n >= 60 * time) for jump, time in zip(jumps, HITS, strict=True))
    np.testing.assert_allclose(curve.source, BEGIN + run + passed, atol=1e-6)
    assert all(landing.exact for landing in derive(edit).landings)
    assert (curve.way == 1).all(), "a jump back is no travel"


def test_a_jump_is_seen_on_the_frame_of_its_cue_however_slow_the_clip_runs():
    edit = tied_edit([(1.0, 10), (4.0, 100)])
    edit = do.apply(edit, do.AddCue(time=2.5, kind="snare"))
    curve = curve_of(jumped(edit, 30))
    steps = np.diff(curve.shown)
    assert np.flatnonzero(steps >= 30).tolist() == [150 - FIRST - 1]


@given(st.sampled_from(["dip", "swell"]), st.floats(0, 1), st.integers(2, 60), st.booleans())
def test_a_jump_stays_on_its_cue_under_any_bend(shape, strength, leave, bend_first):
    edit = do.apply(struck(), do.AddCue(time=2.1, kind="kick"))
    edit = do.apply(edit, do.AddCue(time=3.3, kind="kick"))
    kicks = tuple(cue.id for cue in edit.song.cues if cue.kind == "kick" and cue.time in (2.1, 3.3))
    bend = do.BendBetween(clip="clip-1", cues=kicks, shape=shape, strength=strength)
    jump = do.JumpCuts(clip="clip-1", cues=snares(edit), leave=leave)
    for command in (bend, jump) if bend_first else (jump, bend):
        edit = do.apply(edit, command)
    curve = curve_of(edit)
    moved = np.diff(curve.source)
    # No frame passes more than the speeds on both sides of it say, but those on which it jumps.
    most = np.maximum(curve.speed[1:], curve.speed[:-1]) + 0.2
    assert {FIRST + 1 + int(at) for at in np.flatnonzero(moved > most)} == {round(60 * t) for t in HITS}


@given(st.floats(0.3, 8), st.integers(0, 10), st.sampled_from(["slow", "fast"]))
def test_a_clip_alternates_from_cue_to_cue_and_keeps_its_length(ratio, early, first):
    curve = curve_of(alternated(struck(), ratio=ratio, early=early, first=first))
    edges = [FIRST, *(round(60 * time) - early for time in HITS), LAST]
    fast = [(index % 2 == 1) == (first == "slow") for index in range(len(edges) - 1)]
    weights = np.array([ratio if is_fast else 1 for is_fast in fast]) * np.diff(edges)
    marks = BEGIN + (END - BEGIN) * np.concatenate([[0], np.cumsum(weights)]) / weights.sum()
    n = np.arange(FIRST, LAST + 1)
    np.testing.assert_allclose(curve.source, np.interp(n, edges, marks), atol=1e-6)
    assert (curve.source[0], curve.source[-1]) == (BEGIN, END)


@given(
    st.sampled_from([Steady(), Dip(strength=0.6), Build(start=0.5, change=0.4)]),
    st.sampled_from([Dip, Swell]),
    st.floats(0, 1),
    st.floats(0.1, 0.9),
    st.booleans(),
)
def test_bends_lie_between_cues_and_show_on_each_what_was_seen_there(shape, kind, strength, reach, reverse):
    edit = struck(shape, reverse)
    name = kind.model_fields["shape"].default
    command = do.BendBetween(
        clip="clip-1", cues=snares(edit), shape=name, strength=strength, reach=reach, softness=0.7
    )
    bent, plain = curve_of(do.apply(edit, command)), curve_of(edit)
    edges = np.array([FIRST, *(round(60 * time) for time in HITS), LAST])
    np.testing.assert_allclose(bent.source[edges - FIRST], plain.source[edges - FIRST], atol=1e-6)
    if isinstance(shape, Steady):
        # Each stretch alone is that shape between two pins.
        way, per_frame = (-1 if reverse else 1), (END - BEGIN) / (LAST - FIRST)
        profile = profile_of(kind(strength=strength, reach=reach, softness=0.7), per_frame)
        for begin, end in pairwise(edges):
            u = np.arange(end - begin) / (end - begin)
            wanted = plain.source[begin - FIRST] + way * profile.advance(u) * (end - begin)
            # A cue counts from a millionth of a frame before it on: so much of its speed.
            atol = 1e-6 * (1 + np.abs(np.diff(plain.source)).max())
            np.testing.assert_allclose(bent.source[begin - FIRST : end - FIRST], wanted, atol=atol)


shapes = st.sampled_from([Steady(), Dip(strength=0.6), Swell(), Build(start=0.5, change=0.4)])
kinds = st.lists(
    st.one_of(
        st.builds(do.JumpCuts, clip=st.just("clip-1"), leave=st.integers(-15, 15), more=st.integers(-2, 2)),
        st.builds(do.Alternate, clip=st.just("clip-1"), ratio=st.floats(0.5, 4), early=st.integers(0, 5)),
        st.builds(
            do.BendBetween,
            clip=st.just("clip-1"),
            shape=st.sampled_from(["dip", "swell"]),
            strength=st.floats(0, 1),
            reach=st.floats(0.1, 0.9),
        ),
    ),
    min_size=1,
    max_size=4,
)


@given(shapes, kinds, st.data())
def test_passes_on_passes_move_no_pin_and_leave_no_trace_when_they_go(shape, commands, data):
    edit = before = struck(shape)
    for command in commands:
        cues = data.draw(st.lists(st.sampled_from(snares(edit)), min_size=1, max_size=4, unique=True))
        edit = do.apply(edit, do.with_(command, cues=tuple(cues)))
    curve = curve_of(edit)
    assert curve.pins == curve_of(before).pins
    assert all(landing.exact for landing in derive(edit).landings)
    # What the curve says of its speeds holds on every frame.
    segment = curve.segments[0]
    assert curve.speed.min() >= segment.runs.min() - 1e-9
    assert curve.speed.max() <= segment.runs.max() + 1e-9
    off = edit
    for each in edit.clips[0].passes:
        off = do.apply(off, do.ChangePass(clip="clip-1", id=each.id, works=False))
    np.testing.assert_array_equal(curve_of(off).source, curve_of(before).source)
    for each in edit.clips[0].passes:
        edit = do.apply(edit, do.RemovePass(clip="clip-1", id=each.id))
    assert edit == before


@given(kinds, st.booleans())
def test_fixed_passes_are_pins_that_run_as_the_passes_did(commands, reverse):
    edit = struck(reverse=reverse)
    for command in commands:
        edit = do.apply(edit, do.with_(command, cues=snares(edit)))
    fixed = do.apply(edit, do.FixPasses(clip="clip-1"))
    assert not fixed.clips[0].passes
    # Bends are followed by lines from knot to knot.
    near = 0.3 if any(command.do == "bend-between" for command in commands) else 2e-3
    np.testing.assert_allclose(curve_of(fixed).source, curve_of(edit).source, atol=near)
    moved = do.apply(fixed, do.ChangeCue(cue=snares(edit)[0], time=2.1))
    np.testing.assert_array_equal(curve_of(moved).source, curve_of(fixed).source)


def test_a_pass_that_is_off_stays_when_the_others_become_pins():
    edit = alternated(jumped(struck(), 20), ratio=2)
    off = do.apply(edit, do.ChangePass(clip="clip-1", id="pass-2", works=False))
    fixed = do.apply(off, do.FixPasses(clip="clip-1"))
    assert [(each.id, each.on) for each in fixed.clips[0].passes] == [("pass-2", False)]
    np.testing.assert_array_equal(curve_of(fixed).shown, curve_of(off).shown)
    with pytest.raises(Refusal, match="No pass"):
        do.apply(fixed, do.FixPasses(clip="clip-1"))


def test_passes_follow_their_cues_and_selections():
    edit = jumped(struck(), 20)
    moved = do.apply(edit, do.ChangeCue(cue=snares(edit)[0], time=1.8))
    steps = np.diff(curve_of(moved).shown)
    assert 108 - FIRST - 1 in np.flatnonzero(steps >= 20)
    fewer = do.apply(edit, do.RemoveCues(cues=snares(edit)[:1]))
    assert fewer.clips[0].passes[0].cues == snares(edit)[1:]
    assert (np.diff(curve_of(fewer).shown) >= 20).sum() == 3

    selection = CueSelection(id="sel-1", name="snares", kinds=("snare",))
    kept = do.apply(edit, do.SaveSelection(selection=selection))
    followed = do.apply(kept, do.ChangePass(clip="clip-1", id="pass-1", selection="sel-1"))
    more = do.apply(followed, do.AddCue(time=3.0, kind="snare"))
    assert (np.diff(curve_of(more).shown) >= 20).sum() == 5
    forgotten = do.apply(more, do.RemoveSelection(selection="sel-1"))
    assert forgotten.clips[0].passes[0].cues == snares(more)
    np.testing.assert_array_equal(curve_of(forgotten).source, curve_of(more).source)


def test_what_a_pass_cannot_do_is_refused_with_what_it_can():
    edit = struck()
    command = do.JumpCuts(clip="clip-1", cues=snares(edit), leave=400)
    with pytest.raises(Refusal, match="skipped of") as refused:
        do.apply(edit, command)
    (offer, *_) = repairs(edit, command, refused.value)
    assert offer.label == "As far as it goes: 122 skipped frames"
    with pytest.raises(Refusal, match="outside the take"):
        do.apply(edit, do.JumpCuts(clip="clip-1", cues=snares(edit), leave=-400))
    for wrong in (
        do.JumpCuts(clip="clip-1", cues=("cue-0",)),
        do.ChangePass(clip="clip-1", id="pass-9", works=False),
        do.RemovePass(clip="clip-1", id="pass-9"),
        do.FixPasses(clip="clip-1"),
        do.JumpCuts(clip="clip-1", selection="none"),
    ):
        with pytest.raises(Refusal):
            do.apply(edit, wrong)
    with pytest.raises(Refusal, match="Say what"):
        do.apply(jumped(edit, 5), do.ChangePass(clip="clip-1", id="pass-1", ratio=2))


def test_what_stands_is_left_alone():
    edit = do.apply(struck(), do.HoldPicture(clip="clip-1", pin="pin-0", frames=100))
    held = next(i for i, shape in enumerate(edit.clips[0].spans) if isinstance(shape, Hold))
    curve = curve_of(jumped(edit, 20))
    assert not curve.segments[held].passes
    assert all(landing.exact for landing in derive(jumped(edit, 20)).landings)
