"""All shapes, open pins, turns, holds and skips: met exactly, or refused with the figure."""

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st
from scipy.integrate import quad

from izmet.core import commands as do
from izmet.core.commands.repairs import repairs
from izmet.core.document.edit import (
    Brake,
    Build,
    Clip,
    Custom,
    Dip,
    Hold,
    Knot,
    Moment,
    Rewind,
    Steady,
    Swell,
)
from izmet.core.document.limits import LEAST_SPEED, MOST_SPEED
from izmet.core.document.places import Pin
from izmet.core.document.rates import FRAME_TOLERANCE
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.music.lengths import Length, frames_of
from izmet.core.retime.shapes import profile_of, strongest_smooth, with_strength
from izmet.core.retime.solve import solve
from tests.core.examples import tied_edit

RATES = [Fraction(text) for text in ("24000/1001", "24", "25", "30", "50", "60", "120")]
shares, reaches = st.floats(0, 1), st.floats(0.05, 0.95)
bent = [st.builds(kind, strength=shares, reach=reaches, softness=shares) for kind in (Dip, Swell)]
changes = st.floats(0.05, 0.95)
joins = st.sampled_from(["hard", "straight", "soft"])
knots = st.lists(st.builds(Knot, at=shares, speed=st.floats(0.05, 8), join=joins), min_size=1, max_size=7)
customs = knots.map(lambda found: Custom(knots=sorted(found, key=lambda knot: knot.at)))


@st.composite
def turned(draw, mean=1.0):
    slow, change, softness = mean * draw(st.floats(0, 1)), draw(changes), draw(shares)
    if draw(st.booleans()):
        return Build(start=slow, change=change, softness=softness)
    return Brake(end=slow, change=change, softness=softness)


any_shape = st.one_of(*bent, turned(), customs)


def clip_of(edit, pins, spans, **more):
    """The edit with one clip of these pins and spans."""
    clip = Clip(id="clip-1", take="gannet", pins=tuple(pins), spans=tuple(spans), **more)
    return edit.model_copy(update={"clips": (clip,)})


def curve_of(edit):
    return solve(edit, edit.clips[0])


@given(any_shape)
def test_every_shape_has_the_area_that_is_asked_for_and_runs_forward(shape):
    """scipy.integrate.quad, told where the knots are, is the reference."""
    profile = profile_of(shape, 1.0)
    knots = sorted({float(u) for u in profile.u if 0 < u < 1})
    area, _ = quad(lambda u: profile.speed(np.array([u]))[0], 0, 1, points=knots or None, limit=400)
    assert area == pytest.approx(1, abs=1e-5)
    assert profile.advance(np.array([1.0]))[0] == pytest.approx(1, abs=1e-9)
    assert (profile.speed(np.linspace(0, 1, 101)) >= -1e-12).all()


@given(st.one_of(*bent, turned()), st.floats(0.3, 6), st.floats(0.1, 1))
def test_the_strongest_smooth_strength_touches_the_floor(shape, mean, floor):
    shape = with_strength(profile_safe(shape, mean), mean, 0.5)
    slowest = profile_of(with_strength(shape, mean, strongest_smooth(shape, mean, floor)), mean).v.min()
    assert slowest == pytest.approx(min(mean, floor))


def profile_safe(shape, mean):
    """The shape with the speeds that it gives scaled to another mean."""
    if isinstance(shape, Build):
        return shape.model_copy(update={"start": shape.start * mean})
    if isinstance(shape, Brake):
        return shape.model_copy(update={"end": shape.end * mean})
    return shape


@given(st.sampled_from(RATES), st.sampled_from(RATES), st.floats(1, 8), any_shape)
def test_every_shape_hits_its_pins_at_any_rates(rate, take_rate, length, shape):
    edit = tied_edit([(1.0, 50), (1.0 + length, 650)], rate=rate, take_rate=take_rate)
    mean = curve_of(edit).segments[0].mean
    edit = tied_edit([(1.0, 50), (1.0 + length, 650)], [profile_safe(shape, mean)], rate, take_rate)
    curve, (first, last) = curve_of(edit), derive(edit).landings
    assert (curve.source[0], curve.source[-1]) == (50, 650)
    assert (np.diff(curve.shown) >= 0).all()
    assert first.exact
    assert last.exact


@given(st.sampled_from(RATES), st.floats(0.3, 0.9), st.floats(1.5, 6), st.integers(5, 60))
def test_a_chain_of_speeds_before_the_hit_settles_where_it_starts(rate, slow, fast, run):
    """Common practice, no source: half speed, then 400 % into the shot, half speed after."""
    edit = tied_edit([(20.0, 500)], rate=rate)
    pins = [
        Pin(id="a", p=400),
        Pin(id="b", p=500 - run),
        Pin(id="hit", cue="cue-0", moment="moment-0"),
        Pin(id="c", p=560),
    ]
    curve = curve_of(clip_of(edit, pins, [Steady(speed=slow), Steady(speed=fast), Steady(speed=slow)]))
    step = float(Fraction(60) / rate)
    start, middle, hit, _ = curve.pins
    assert [segment.mean for segment in curve.segments] == pytest.approx([slow, fast, slow])
    assert hit.n - middle.n == pytest.approx(run / (step * fast))
    assert middle.n - start.n == pytest.approx((500 - run - start.p) / (step * slow))
    assert 400 <= start.p < 400 + step * slow
    assert curve.shown[int(hit.n) - curve.first] == 500
    assert (curve.shown[: int(hit.n) - curve.first] < 500).all()


@given(st.floats(0.2, 0.9), st.floats(1.5, 5), st.floats(0.1, 0.9))
def test_a_change_between_two_given_speeds_is_placed_where_both_ends_land(slow, fast, part):
    length = 240
    passed = length * (slow * part + fast * (1 - part))
    edit = tied_edit([(1.0, 10), (5.0, 10 + int(passed))], frames=3000)
    pins = [edit.clips[0].pins[0], Pin(id="change"), edit.clips[0].pins[1]]
    curve = curve_of(clip_of(edit, pins, [Steady(speed=slow), Steady(speed=fast)]))
    assert [segment.mean for segment in curve.segments] == pytest.approx([slow, fast])
    assert curve.source[-1] == 10 + int(passed)
    same = clip_of(edit, pins, [Steady(speed=slow), Steady(speed=slow)])
    with pytest.raises(Refusal) as refused:
        curve_of(same)
    assert refused.value.code == "left-open"


def test_what_nothing_settles_and_what_two_things_settle_is_refused():
    edit = tied_edit([(1.0, 10), (5.0, 200)])
    first, last = edit.clips[0].pins
    for pins, spans, code in (
        ([first, last], [Steady(speed=1)], "settled-twice"),
        ([first, Pin(id="x", p=50), last], [Steady(), Steady()], "left-open"),
        ([first, Pin(id="x", p=50), last], [Steady(speed=1), Steady(speed=2)], "settled-twice"),
        ([first, Pin(id="x", n=90)], [Steady(frames=12, speed=1)], "settled-twice"),
        ([first, last], [Hold()], "hold-moves"),
    ):
        with pytest.raises(Refusal) as refused:
            curve_of(clip_of(edit, pins, spans))
        assert refused.value.code == code
        assert refused.value.where.startswith("clip clip-1")
        assert refused.value.remedy


@given(st.integers(1, 90), st.sampled_from(RATES))
def test_a_held_picture_stands_for_its_frames_and_what_follows_still_lands(frames, rate):
    edit = tied_edit([(1.0, 100), (6.0, 400)], rate=rate)
    assume(frames < 4.8 * rate)
    held = do.apply(edit, do.HoldPicture(clip="clip-1", pin="pin-0", frames=frames))
    curve = curve_of(held)
    begin = int(curve.pins[0].n) - curve.first
    assert set(curve.shown[begin : begin + frames + 1].tolist()) == {100}
    assert curve.shown[begin + frames + 1 : begin + frames + 40].max() > 100
    assert all(landing.exact for landing in derive(held).landings)
    assert derive(held).clips[0].spans[0].repeats == 0, "a hold is meant, it is no stutter"


def test_a_clip_ends_held_or_settling():
    edit = tied_edit([(1.0, 100), (3.0, 260)])
    held = do.apply(edit, do.HoldPicture(clip="clip-1", pin="pin-1", frames=24))
    assert curve_of(held).last == 180 + 24
    assert set(curve_of(held).shown[-25:].tolist()) == {260}
    settling = do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=Brake(end=0, change=0.6, softness=1)))
    assert curve_of(settling).segments[0].speed_out == 0
    assert derive(settling).landings[1].exact


@given(st.one_of(*bent, turned(1.25)), st.integers(60, 240))
def test_a_mirrored_way_back_runs_in_step_with_the_way_there(shape, length):
    edit = tied_edit([(1.0, 100), (1.0 + length / 60, 100 + round(length * 1.25))])
    mean = curve_of(edit).segments[0].mean
    assume(not isinstance(shape, Build | Brake) or abs(mean - 1.25) < 1e-9)
    edit = do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=shape))
    back = do.apply(edit, do.TurnBack(clip="clip-1", pin="pin-1"))
    curve = curve_of(back)
    turn = int(curve.pins[1].n) - curve.first
    assert curve.source[turn - np.arange(turn + 1)] == pytest.approx(
        curve.source[turn + np.arange(turn + 1)], abs=1e-5
    )
    assert curve.last - curve.first == 2 * turn
    assert curve.shown.max() == curve.shown[turn] == 100 + round(length * 1.25)
    assert derive(back).landings[1].exact
    assert derive(back).clips[0].spans[1].way == -1


def test_the_turning_picture_is_shown_once_where_each_frame_is_a_picture():
    back = do.apply(tied_edit([(1.0, 100), (2.0, 160)]), do.TurnBack(clip="clip-1", pin="pin-1"))
    assert curve_of(back).shown[58:63].tolist() == [158, 159, 160, 159, 158]


def test_back_to_an_earlier_picture_and_on_again():
    edit = tied_edit([(1.0, 100), (4.0, 300)])
    wound = do.apply(edit, do.TurnBack(clip="clip-1", pin="pin-0", back=40, frames=30))
    curve = curve_of(wound)
    assert [(pin.n, pin.p) for pin in curve.pins] == [(60, 100), (90, 60), (240, 300)]
    assert (np.diff(curve.shown[:31]) <= 0).all()
    assert (np.diff(curve.shown[30:]) >= 0).all()
    assert [landing.exact for landing in derive(wound).landings] == [True, True]
    with pytest.raises(Refusal, match="before"):
        do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=Rewind()))


def test_what_rests_at_its_ends_is_turned_round():
    edit = tied_edit([(9.0, 20), (10.0, 40)], [Swell(strength=1.0, softness=0.0)])
    turned_ = do.apply(edit, do.ReverseClip(clip="clip-1", pin="pin-0"))
    np.testing.assert_allclose(
        curve_of(turned_).source[::-1], curve_of(edit).source, atol=3 * FRAME_TOLERANCE
    )
    assert [landing.exact for landing in derive(turned_).landings] == [True]


@given(st.lists(st.integers(20, 120), min_size=2, max_size=4), st.integers(0, 3), st.data())
def test_a_clip_turned_round_shows_its_pictures_the_other_way_and_turned_again_is_as_before(
    jumps, which, data
):
    ties = [(9.0 + index, int(frame)) for index, frame in enumerate(np.cumsum(jumps))]
    shapes = [data.draw(st.one_of(st.just(Steady()), *bent)) for _ in ties[1:]]
    edit = tied_edit(ties, shapes)
    kept = f"pin-{which % len(ties)}"
    turned_ = do.apply(edit, do.ReverseClip(clip="clip-1", pin=kept))
    there, back = curve_of(edit), curve_of(turned_)
    # What rests at a hit before its frame is held two tolerances short of it, from either side.
    assert back.source[::-1] == pytest.approx(there.source, abs=3 * FRAME_TOLERANCE)
    (landing,) = derive(turned_).landings
    assert (landing.pin, landing.exact) == (kept, True)
    assert (np.diff(back.shown) <= 0).all()
    again = curve_of(do.apply(turned_, do.ReverseClip(clip="clip-1", pin=kept)))
    assert again.source == pytest.approx(there.source, abs=1e-6)
    assert again.first == there.first


@given(st.integers(1, 90))
def test_frames_left_out_after_a_hit_are_never_seen_and_both_sides_land(skip):
    edit = do.apply(tied_edit([(1.0, 100), (4.0, 300)]), do.SetPin(clip="clip-1", pin="pin-0", skip=skip))
    shown = curve_of(edit).shown
    assert shown[0] == 100
    assert not ((shown > 100) & (shown <= 100 + skip)).any()
    assert [landing.exact for landing in derive(edit).landings] == [True, True]
    with pytest.raises(Refusal, match="skipped"):
        do.apply(edit, do.SetPin(clip="clip-1", pin="pin-0", skip=200))


@given(st.lists(st.integers(30, 300), min_size=2, max_size=5), st.data())
def test_a_bend_that_passes_through_a_pin_keeps_it_exact_and_its_middles_smooth(jumps, data):
    ties = [(1.0, 10), *((2.0 + index, 10 + int(frame)) for index, frame in enumerate(np.cumsum(jumps)))]
    pushed = [
        st.builds(Build, start=st.floats(0.1, 0.5), change=changes, softness=shares),
        st.builds(Brake, end=st.floats(0.1, 0.5), change=changes, softness=shares),
    ]
    shapes = [data.draw(st.one_of(st.just(Steady()), *bent, *pushed)) for _ in jumps]
    edit = tied_edit(ties, shapes, frames=2000)
    through = edit
    for index in range(1, len(jumps)):
        through = do.apply(through, do.SetPin(clip="clip-1", pin=f"pin-{index}", through=True))
    plain, curve = curve_of(edit), curve_of(through)
    for index in range(1, len(jumps)):
        into, out = curve.speeds_beside(index)
        assert into == pytest.approx(out)
    assert curve.source[[int(pin.n) - curve.first for pin in curve.pins]].tolist() == [
        pin.p for pin in curve.pins
    ]
    assert (np.diff(curve.shown) >= 0).all()
    for shape, before, after in zip(shapes, plain.segments, curve.segments, strict=True):
        middle = after.profile.speed(np.array([0.5]))[0]
        assert isinstance(shape, Build | Brake) or middle >= min(1.0, before.profile.v.min()) - 1e-6
        assert after.profile.v.min() >= 0
        assert after.profile.advance(np.array([1.0]))[0] == pytest.approx(before.mean)


@given(st.floats(1.2, 4), reaches, st.integers(0, 12))
def test_a_span_is_bent_as_far_as_it_may_and_no_further(mean, reach, repeats):
    edit = tied_edit([(1.0, 10), (5.0, 10 + int(240 * mean))], [Dip(reach=reach, softness=0.2)])
    strong = do.apply(edit, do.Strengthen(clip="clip-1", repeats=repeats))
    assert derive(strong).clips[0].spans[0].repeats <= repeats
    top = mean * 1.2
    under = do.apply(edit, do.Strengthen(clip="clip-1", top=top))
    assert curve_of(under).segments[0].profile.v.max() <= top + 1e-9
    past = strong.clips[0].spans[0].strength + 0.2
    if past <= 1 and repeats == 0 and reach < 0.8:
        stronger = do.apply(edit, do.SetValue(clip="clip-1", span=0, name="strength", value=past))
        assert derive(stronger).clips[0].spans[0].repeats > 0


@given(
    st.one_of(
        st.builds(Dip, reach=reaches, softness=shares),
        st.builds(Swell, reach=reaches, softness=shares),
        st.builds(Build, start=st.just(0.9), change=changes, softness=shares),
        st.builds(Brake, end=st.just(0.9), change=changes, softness=shares),
    ),
    st.floats(1.2, 4),
    st.floats(1.02, 3),
)
def test_a_span_is_bent_up_to_its_limit_or_down_to_where_pictures_would_repeat(shape, mean, over):
    edit = tied_edit([(1.0, 10), (5.0, 10 + int(240 * mean))], [shape])
    mean = curve_of(edit).segments[0].mean
    bent_so = do.apply(edit, do.Strengthen(clip="clip-1", top=mean * over))
    speeds = curve_of(bent_so).segments[0].profile.v
    assert speeds.max() <= mean * over + 1e-9
    assert speeds.max() == pytest.approx(mean * over) or speeds.min() <= 1 + 1e-6
    assert derive(bent_so).clips[0].spans[0].repeats == 0


turning = st.lists(
    st.builds(Knot, at=shares, speed=st.floats(-4, 4), join=joins, locked=st.booleans()),
    min_size=2,
    max_size=5,
).map(lambda found: Custom(knots=sorted(found, key=lambda knot: knot.at), turns=True))


@given(turning, st.integers(0, 50), st.integers(60, 119), st.booleans())
@example(
    Custom(
        turns=True,
        knots=[
            Knot(at=0, speed=-2, locked=True),
            Knot(at=0.3, speed=-2, locked=True),
            Knot(at=0.6, speed=3),
            Knot(at=1, speed=3),
        ],
    ),
    10,
    70,
    False,
)
def test_a_curve_that_turns_stays_in_its_take_or_is_refused_with_the_nearest_that_does(
    shape, low, high, reverse
):
    edit = tied_edit([(1.0, low), (2.0, high)], frames=120)
    if reverse:
        edit = do.apply(edit, do.ReverseClip(clip="clip-1", pin="pin-0"))
    command = do.ShapeSpan(clip="clip-1", span=0, shape=shape)
    done, refusal = edit, None
    try:
        done = do.apply(edit, command)
    except Refusal as found:
        refusal = found
    if refusal is not None:
        assume(refusal.code == "curve-outside-take")
        offer = next(each for each in repairs(edit, command, refusal) if "take goes" in each.label)
        done = do.apply(edit, offer.commands[0])
        speeds = [knot.speed for knot in offer.commands[0].shape.knots]
        assert any(speed == pytest.approx(refusal.nearest) for speed in speeds)
        source = curve_of(done).source
        assert min(source.min(), 119 - source.max()) == pytest.approx(0, abs=0.01), "as far as it goes"
    shown = curve_of(done).shown
    assert shown.min() >= 0
    assert shown.max() <= 119


def test_a_knot_that_is_set_leaves_the_locks_of_others_until_all_are_locked():
    knots = [Knot(at=at, speed=1) for at in (0, 0.5, 1)]
    edit = tied_edit([(1.0, 100), (3.0, 340)], [Custom(knots=knots)])

    def locked_after(*steps):
        now = edit
        for name, value in steps:
            now = do.apply(now, do.SetValue(clip="clip-1", span=0, name=name, value=value))
        return [knot.locked for knot in now.clips[0].spans[0].knots]

    assert locked_after(("knot-0-speed", 0.5), ("knot-1-speed", 3)) == [True, True, False]
    assert locked_after(("knot-0-speed", 0.5), ("knot-1-at", 0.6)) == [True, False, False]
    every = [(f"knot-{i}-speed", 1.5) for i in (0, 1, 2)]
    assert locked_after(*every) == [False, False, True]


def test_custom_knots_scale_unless_they_are_locked():
    edit = tied_edit([(1.0, 100), (3.0, 340)])
    begun = do.apply(edit, do.BeginShape(clip="clip-1", span=0, shape="custom"))
    locked = do.apply(begun, do.SetValue(clip="clip-1", span=0, name="knot-1-speed", value=0.8))
    values = {value.name: value for value in derive(locked).clips[0].spans[0].values}
    assert values["knot-1-speed"].value == 0.8
    assert not values["knot-1-speed"].solved
    assert values["knot-2-speed"].solved
    assert curve_of(locked).segments[0].mean == 2
    assert derive(locked).landings[1].exact
    shape = Custom(knots=[Knot(at=0, speed=9, locked=True), Knot(at=1, speed=1)])
    with pytest.raises(Refusal, match="locked"):
        do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=shape))
    with pytest.raises(ValueError, match="turns"):
        Custom(knots=[Knot(at=0, speed=-1)])


def test_a_clip_ends_on_a_cue_conforms_and_borrows():
    edit = tied_edit([(1.0, 100), (9.0, 300)], take_rate=Fraction(30), frames=320)
    edit = do.apply(edit, do.AddCue(time=4.0, kind="hand"))
    cue = next(cue.id for cue in edit.song.cues if cue.time == 4.0)
    tie_kept = do.EndClip(clip="clip-1", cue=cue)
    with pytest.raises(Refusal, match="ends with impact at frame 300, which is tied") as refused:
        do.apply(edit, tie_kept)
    (give_up,) = repairs(edit, tie_kept, refused.value)[-1].commands
    ended = do.apply(edit, give_up)
    assert curve_of(ended).last + 1 == 240
    assert curve_of(ended).source[-1] == pytest.approx(300)
    later = do.apply(ended, do.ChangeCue(cue=cue, time=5.0))
    assert curve_of(later).last + 1 == 300, "it goes on following the cue"
    assert curve_of(later).source[-1] == pytest.approx(300, abs=0.5)
    long = do.EndClip(clip="clip-1", length=Length(count=100), untie=True)
    assert curve_of(do.apply(edit, long)).last == 159
    with pytest.raises(Refusal) as refused:
        do.apply(edit, do.Borrow(clip="clip-1"))
    assert refused.value.code == "pin-outside-take", (
        "8 s at the floor need more than the take has before the hit"
    )
    near = tied_edit([(1.0, 300), (2.0, 340)])
    borrowed = curve_of(do.apply(near, do.Borrow(clip="clip-1")))
    assert (borrowed.pins[0].p, borrowed.segments[0].mean) == (280, 1)
    laid = do.apply(tied_edit([(4.0, 100)]), do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    conformed = do.apply(do.apply(laid, do.Configure(rate="24")), do.ConformClip(clip="clip-1"))
    assert (np.diff(curve_of(conformed).shown) == 1).all()


def test_a_length_is_said_in_frames_seconds_beats_or_percent():
    edit = tied_edit([(1.0, 100), (9.0, 300)])
    with pytest.raises(Refusal, match="no beats"):
        frames_of(edit, Length(count=2, unit="beats"), 60)
    for beat in (1.0, 1.5, 2.0, 3.0):  # the tempo halves at 2 s
        edit = do.apply(edit, do.AddCue(time=beat, kind="beat"))
    for count, at, back, frames in (
        (1, 60, False, 30), (3, 60, False, 120), (2.5, 60, False, 90), (4, 60, False, 180),
        (1, 120, True, 30), (1, 30, False, 30), (3, 90, True, 90),
    ):  # fmt: skip
        assert frames_of(edit, Length(count=count, unit="beats"), at, back=back) == frames, (count, at)
    assert frames_of(edit, Length(count=0.51, unit="seconds"), 60) == 31
    assert frames_of(edit, Length(count=50, unit="percent"), 60, now=481) == 241
    four = Length(count=4, unit="beats")
    short = do.apply(edit, do.EndClip(clip="clip-1", length=four, untie=True))
    assert (curve_of(short).first, curve_of(short).last) == (60, 239)


def test_what_cannot_be_smooth_says_what_can():
    """At the floor any bend repeats; over a speed limit the limit is lifted or frames are left out."""
    slow = tied_edit([(1.0, 100), (2.0, 130)], [Dip()])
    bend = do.Strengthen(clip="clip-1", span=0)
    with pytest.raises(Refusal) as refused:
        do.apply(slow, bend)
    found = repairs(slow, bend, refused.value)
    assert [repair.label for repair in found][-1] == "Allow 36 repeats"
    allowed = do.apply(slow, found[-1].commands[0])
    assert allowed.clips[0].spans[0].strength > 0
    fast = tied_edit([(1.0, 100), (2.0, 400)], [Dip()])
    limited = do.Strengthen(clip="clip-1", span=0, top=3)
    with pytest.raises(Refusal) as refused:
        do.apply(fast, limited)
    lifted, skipped = repairs(fast, limited, refused.value)[:2]
    assert curve_of(do.apply(fast, lifted.commands[0])).segments[0].profile.v.max() <= 5.01 + 1e-9
    done = fast
    for command in skipped.commands:
        done = do.apply(done, command)
    assert done.clips[0].pins[0].skip == 120
    assert curve_of(done).segments[0].profile.v.max() <= 3 + 1e-9
    assert [landing.exact for landing in derive(done).landings] == [True, True]


def test_ties_in_any_order_come_to_the_same():
    edit = tied_edit([(1.0, 100)])
    for time, frame in ((2.0, 160), (3.5, 300)):
        edit = do.apply(edit, do.AddCue(time=time, kind="kick"))
        edit = do.apply(edit, do.AddMoment(take="gannet", frame=frame))
    edit = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    one, two = (cue.id for cue in edit.song.cues[1:])
    ties = [
        do.AddTie(clip="clip-1", moment="moment-1", cue=one),
        do.AddTie(clip="clip-1", moment="moment-2", cue=two),
    ]
    orders = [do.apply(do.apply(edit, first), second) for first, second in (ties, ties[::-1])]
    assert curve_of(orders[0]).source.tolist() == curve_of(orders[1]).source.tolist()
    pairs = [
        {"moment": "moment-2", "cue": two},
        {"moment": "moment-0", "cue": "cue-0"},
        {"moment": "moment-1", "cue": one},
    ]
    at_once = do.apply(edit, do.TieMoments(clip="clip-1", ties=pairs))
    assert curve_of(at_once).source.tolist() == curve_of(orders[0]).source.tolist()


@given(
    st.integers(0, 400),
    st.sampled_from(RATES),
    st.sampled_from(RATES),
    st.integers(1, 80),
    st.integers(1, 300),
)
@example(7, Fraction(50), Fraction(30), 32, 96)
def test_a_moment_that_an_exact_speed_brings_to_a_whole_frame_is_seen_on_it(p, rate, take_rate, tenths, away):
    """Reference: the frame counted in fractions, from a pin to a moment at a typed speed."""
    speed = tenths / 10
    begin, moment = Pin(id="a", n=40, p=p), Moment(id="hit", frame=p + away)
    edit = tied_edit([(0, 0), (1, 1)], rate=rate, take_rate=take_rate, frames=1000)
    take = do.with_(edit.takes[0], moments=[moment])
    pins = [begin, Pin(id="b", moment="hit"), Pin(id="c", p=999)]
    clip = do.with_(edit.clips[0], pins=pins, spans=[Steady(speed=speed), Steady(speed=1)])
    curve = solve(do.with_(edit, takes=[take], clips=[clip]), clip)
    exact = 40 + Fraction(away) / (Fraction(tenths, 10) * take_rate / rate)
    first = curve.first + int(np.flatnonzero(curve.shown >= p + away)[0])
    assert first == math.ceil(exact)


@pytest.mark.parametrize("reverse", [False, True])
@given(skip=st.integers(-20, 20), length=st.integers(30, 120))
def test_what_is_skipped_is_skipped_along_the_way_of_travel(reverse, skip, length):
    """A mirrored way back ends where the pictures after the skip began, and a hold on the one after it."""
    far = 100 if reverse else 300
    for shape, end in ((Rewind(mirror=True), 200), (Hold(frames=10), far)):
        edit = tied_edit([(0, 0), (1, 1)], frames=500)
        held = skip if isinstance(shape, Hold) else 0
        pins = [
            Pin(id="a", n=100, p=200, skip=skip),
            Pin(id="b", n=100 + length, p=far, skip=held),
            Pin(id="c"),
        ]
        clip = do.with_(edit.clips[0], reversed=reverse, pins=pins, spans=[Steady(), shape])
        curve = solve(do.with_(edit, clips=[clip]), clip)
        assert curve.pins[-1].p == end + (-skip if reverse else skip)


@given(
    st.lists(st.integers(0, 300), min_size=2, max_size=4, unique=True),
    st.sampled_from(RATES),
    st.sampled_from(RATES),
)
@example([3, 5], Fraction(60), Fraction(30))
def test_at_another_rate_pins_go_to_the_nearest_frame_and_moments_never_before_their_picture(
    frames, old, new
):
    frames = sorted(frames)
    edit = tied_edit([(0, 0), (1, 100)], rate=old, take_rate=old, frames=500)
    pins = [Pin(id=f"p{n}", n=n, p=n) for n in frames]
    clip = do.with_(edit.clips[0], pins=pins, spans=[Steady()] * (len(pins) - 1))
    edit = do.with_(edit, clips=[clip])
    places = [math.floor(Fraction(n) * new / old + Fraction(1, 2)) for n in frames]
    if len(set(places)) == len(places):
        there = do.apply(edit, do.Configure(rate=new))
        assert [pin.n for pin in there.clips[0].pins] == places
    moments = [Moment(id=f"m{n}", frame=n) for n in frames]
    take = do.with_(edit.takes[0], moments=moments)
    other = do.with_(take, rate=new, distinct=new, frames=20_000, moments=[])
    linked = do.apply(do.with_(edit, takes=[take], clips=[]), do.RelinkTake(take=other, keep="instant"))
    for moment, n in zip(linked.takes[0].moments, frames, strict=True):
        assert 0 <= Fraction(moment.frame) / new - Fraction(n) / old < 1 / new


@given(
    st.sampled_from([Build, Brake]),
    st.floats(0.05, 8),
    st.floats(0.05, 8),
    st.sampled_from(["start", "end"]),
    st.floats(0.3, 4),
    changes,
    st.booleans(),
)
@example(Brake, 1.5, 2.0, "start", 100 / 36, 0.5, False)
def test_the_nearest_value_that_a_refusal_names_works(kind, start, end, name, mean, change, solved):
    """Of a build and a brake, with the place of their change given or solved."""
    values = {"start": start, "end": end} if not solved else {name: start, "change": change}
    refusal = None
    try:
        profile_of(kind(**values), mean)
    except Refusal as found:
        refusal = found
    assume(refusal is not None)
    both_wrong = (start > mean > end) if kind is Build else (end > mean > start)
    assert (refusal.nearest is None) == (both_wrong and not solved)
    assume(refusal.nearest is not None and LEAST_SPEED <= refusal.nearest <= MOST_SPEED)
    named = next(each for each in ("start", "end") if f"nearest {each} speed" in refusal.remedy)
    nearer = profile_of(kind(**(values | {named: refusal.nearest})), mean)
    assert nearer.advance(np.array([1.0]))[0] == pytest.approx(mean)


@pytest.mark.parametrize("reverse", [False, True])
@given(st.one_of(*bent), st.integers(1, 40), st.booleans())
@example(Dip(strength=0.8, reach=0.4), 30, False)
def test_a_roll_leaves_what_was_seen_and_adds_at_the_speed_of_the_end(reverse, shape, more, at_start):
    """Reference: the frames that were seen before, and a straight line beyond them."""
    edit = tied_edit([(0, 0), (1, 1)], frames=900)
    pins = [Pin(id="a", n=60, p=400), Pin(id="b", n=120, p=460)]
    pins = [pins[0], pins[1].model_copy(update={"p": 340.0})] if reverse else pins
    one = do.with_(edit.clips[0], pins=pins, spans=[shape], reversed=reverse)
    beside = [Pin(id="a", n=0 if at_start else 121, p=400), Pin(id="b", n=59 if at_start else 200, p=459)]
    two = Clip(id="clip-2", take="gannet", pins=beside, spans=[Steady()])
    edit = do.with_(edit, clips=[one, two])
    was = curve_of(edit)
    segment = was.segments[0]
    speed = segment.speed_in if at_start else segment.speed_out
    assume(0 <= (400 - speed * more if at_start else pins[1].p + speed * more) <= 899)
    pair = ("clip-2", "clip-1") if at_start else ("clip-1", "clip-2")
    n = 60 - more if at_start else 121 + more
    now = curve_of(do.apply(edit, do.MoveCut(clip=pair[0], other=pair[1], n=n)))
    same = slice(60 - now.first, 121 - now.first)
    assert now.source[same] == pytest.approx(was.source, abs=1e-6)
    added = now.source[: 60 - now.first] if at_start else now.source[121 - now.first :]
    steps = np.arange(-more, 0) if at_start else np.arange(1, more + 1)
    slow = abs(speed) < LEAST_SPEED
    assert added == pytest.approx((400 if at_start else pins[1].p) + (0 if slow else speed) * steps, abs=1e-6)


@pytest.mark.parametrize(
    "command",
    [
        do.JumpCuts(clip="clip-1", cues=["cue-2", "cue-3"], leave=2),
        do.Alternate(clip="clip-1", cues=["cue-2", "cue-3"], ratio=2),
    ],
)
def test_an_open_start_that_the_first_frame_cuts_shows_first_what_it_showed(command):
    edit = tied_edit([(4.0, 300), (9.0, 600)])
    for time in (1.0, 2.0):
        edit = do.apply(edit, do.AddCue(time=time, kind="hand"))
    pins = [Pin(id="begin", p=0), *edit.clips[0].pins]
    clip = do.with_(edit.clips[0], pins=pins, spans=[Steady(speed=1), Steady()])
    edit = do.with_(edit, clips=[clip])
    names = {cue.time: cue.id for cue in edit.song.cues}
    after = do.apply(edit, do.with_(command, cues=[names[1.0], names[2.0]]))
    assert curve_of(edit).shown[0] == 60
    assert curve_of(after).shown[0] == 60


def test_a_speed_that_never_runs_is_not_told():
    """A hard change on the last knot: the landing's speed in is the one before it."""
    knots = [Knot(at=0, speed=1), Knot(at=0.5, speed=2, join="hard"), Knot(at=1, speed=8, locked=True)]
    edit = do.apply(
        tied_edit([(1.0, 100), (4.0, 400)]), do.ShapeSpan(clip="clip-1", span=0, shape=Custom(knots=knots))
    )
    curve, (span,) = curve_of(edit), derive(edit).clips[0].spans
    assert span.highest == pytest.approx(curve.speed[:-1].max())
    assert curve.speeds_beside(1)[0] == pytest.approx(curve.speed[-2])
    assert derive(edit).landings[1].speed_in == pytest.approx(curve.speed[-2])
