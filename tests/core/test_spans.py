"""Bending by little steps, turning hand-set curves round, holding, framing: every landing stays exact."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Brake, Build, Custom, Dip, Edit, Hold, Knot, Shape, Steady, Swell
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.retime.solve import solve
from tests.core.examples import tied_edit

MEAN = 2.0
TIED = [(1.0, 100), (4.0, 460)]
strengths = st.floats(0.1, 0.8)
knots = st.lists(
    st.tuples(st.floats(0.05, 0.95), st.floats(0.3, 4), st.sampled_from(["hard", "straight", "soft"])),
    min_size=1,
    max_size=4,
    unique_by=lambda knot: round(knot[0], 2),
).map(
    lambda found: Custom(
        knots=[
            Knot(at=0, speed=1),
            *(Knot(at=at, speed=v, join=join) for at, v, join in sorted(found)),
            Knot(at=1, speed=1),
        ]
    )
)
builds = st.floats(0.1, 0.9).map(lambda part: Build(start=MEAN * part, change=0.5))
brakes = st.floats(0.1, 0.9).map(lambda part: Brake(end=MEAN * part, change=0.5))


@pytest.fixture
def laid() -> Edit:
    """A take on the music by one moment, both ends open."""
    return do.apply(tied_edit([(4.0, 300)]), do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))


def speeds(edit: Edit, span: int = 0) -> np.ndarray:
    return solve(edit, edit.clip("clip-1")).segments[span].profile.v


def all_exact(edit: Edit) -> bool:
    return all(landing.exact for landing in derive(edit).landings)


def refusal(edit: Edit, command: do.Command) -> Refusal:
    with pytest.raises(Refusal) as refused:
        do.apply(edit, command)
    return refused.value


@given(
    st.one_of(
        strengths.map(lambda g: Dip(strength=g)), strengths.map(lambda g: Swell(strength=g)), builds, brakes
    ),
    st.sampled_from(["slower", "faster"]),
    st.integers(1, 30),
)
def test_a_nudge_makes_what_is_slow_a_little_slower_or_faster_and_all_goes_on_landing(shape, way, times):
    edit = tied_edit(TIED, [shape])
    for _ in range(times):
        nudged = do.apply(edit, do.Nudge(clip="clip-1", span=0, way=way))
        before, after = speeds(edit).min(), speeds(nudged).min()
        assert after <= before + 1e-9 if way == "slower" else after >= before - 1e-9
        assert abs(after - before) <= 0.05 * MEAN + 1e-9
        assert all_exact(nudged)
        edit = nudged
    assert 0 <= speeds(edit).min() <= MEAN + 1e-9


def test_what_is_not_bent_is_bent_by_a_nudge_or_told_why_it_is_not():
    steady = tied_edit(TIED)
    assert do.apply(steady, do.Nudge(clip="clip-1", span=0, way="slower")).clips[0].spans[0].strength == 0.05
    assert refusal(steady, do.Nudge(clip="clip-1", span=0, way="faster")).code == "pins-say"
    assert refusal(steady, do.Nudge(clip="clip-1", span=3, way="faster")).code == "no-such-span"
    assert refusal(steady, do.Strengthen(clip="clip-1")).code == "no-strength"


@pytest.mark.parametrize("span", [0, 1])
@pytest.mark.parametrize("way", ["slower", "faster"])
def test_an_open_end_is_nudged_in_its_mean_speed(laid, way, span):
    before = solve(laid, laid.clips[0]).segments[span].mean
    nudged = do.apply(laid, do.Nudge(clip=laid.clips[0].id, span=span, way=way))
    after = solve(nudged, nudged.clips[0]).segments[span].mean
    assert after / before == pytest.approx(1.05 if way == "faster" else 0.95)
    assert all_exact(nudged)


@given(st.one_of(knots, builds, brakes), st.integers(0, 1))
def test_a_curve_set_by_hand_is_turned_round_to_its_mirror_image(shape: Shape, kept):
    edit = tied_edit([(9.0, 100), (12.0, 460)], [shape])
    turned = do.apply(edit, do.ReverseClip(clip="clip-1", pin=f"pin-{kept}"))
    there, back = (solve(each, each.clip("clip-1")) for each in (edit, turned))
    assert back.source[::-1] == pytest.approx(there.source, abs=1e-6)
    assert {back.source[0], back.source[-1]} == {100, 460}
    assert (np.diff(back.shown) <= 0).all()
    assert all_exact(turned)
    again = do.apply(turned, do.ReverseClip(clip="clip-1", pin=f"pin-{kept}"))
    assert solve(again, again.clip("clip-1")).source == pytest.approx(there.source, abs=1e-6)


def test_a_span_to_a_moment_cannot_hold_and_one_to_the_end_can_and_runs_again(laid):
    assert refusal(tied_edit(TIED), do.BeginShape(clip="clip-1", span=0, shape="hold")).code == "hold-moves"
    held = do.apply(laid, do.BeginShape(clip="clip-1", span=1, shape="hold"))
    curve = solve(held, held.clips[0])
    assert isinstance(held.clips[0].spans[1], Hold)
    assert set(curve.shown[240 - curve.first :].tolist()) == {300}
    let_go = do.apply(held, do.BeginShape(clip="clip-1", span=1, shape="dip"))
    assert isinstance(let_go.clips[0].spans[1], Dip)
    assert (np.diff(solve(let_go, let_go.clips[0]).shown) >= 0).all()
    assert all_exact(held)
    assert all_exact(let_go)


def test_a_picture_held_for_a_while_runs_again_for_as_long():
    held = do.apply(tied_edit(TIED), do.HoldPicture(clip="clip-1", pin="pin-0", frames=30))
    let_go = do.apply(held, do.BeginShape(clip="clip-1", span=0, shape="steady"))
    curve = solve(let_go, let_go.clips[0])
    assert [(pin.n, pin.p) for pin in curve.pins] == [(60, 100), (90, 130), (240, 460)]
    assert all_exact(let_go)


def test_the_pin_that_nothing_settles_is_named(laid):
    spans = list(laid.clips[0].spans)
    pins = list(laid.clips[0].pins)
    spans[1] = Dip()
    pins[2] = pins[2].model_copy(update={"p": None, "n": 900})
    open_end = laid.clips[0].model_copy(update={"spans": tuple(spans), "pins": tuple(pins)})
    with pytest.raises(Refusal, match="pin-3: Nothing settles where this pin stands"):
        solve(laid.model_copy(update={"clips": (open_end,)}), open_end)


@given(st.sampled_from(["fill", "fit"]), st.floats(0, 1), st.floats(0, 1))
def test_a_clip_is_framed_without_touching_its_time(fit, across, down):
    edit = tied_edit(TIED, [Dip(strength=0.4)])
    framed = do.apply(edit, do.FrameClip(clip="clip-1", fit=fit, across=across, down=down))
    clip = framed.clips[0]
    assert (clip.fit, clip.across, clip.down) == (fit, across, down)
    assert solve(framed, clip).shown.tolist() == solve(edit, edit.clips[0]).shown.tolist()
    once_more = do.apply(framed, do.FrameClip(clip="clip-1", down=0.5))
    assert (once_more.clips[0].fit, once_more.clips[0].across) == (fit, across)


def test_what_needs_an_open_end_or_a_slow_one_says_so():
    edit = tied_edit(TIED, [Steady()], rate=Fraction(30))
    assert refusal(edit, do.ConformClip(clip="clip-1")).code == "nothing-open"
    assert refusal(edit, do.Borrow(clip="clip-1")).code == "smooth-already"
    top = do.Strengthen(clip="clip-1", span=0, top=1.0)
    over = refusal(do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=Dip())), top)
    assert (over.code, over.nearest) == ("over-top", pytest.approx(MEAN))
