"""The heart: a tied moment is first seen on its cue's frame, at every rate pair and strength."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from izmet.core.document.edit import Build, Clip, Dip, Steady
from izmet.core.document.places import Pin
from izmet.core.document.rates import frame_at
from izmet.core.document.refusal import Refusal
from izmet.core.following.workings import derive
from izmet.core.retime.solve import solve
from izmet.core.shown.pictures import TakePictures
from izmet.core.shown.smoothness import smoothness
from tests.core.examples import tied_edit

RATES = [Fraction(text) for text in ("24000/1001", "24", "25", "30000/1001", "30", "50", "60", "120")]


@st.composite
def tied(draw):
    rate, take_rate = draw(st.sampled_from(RATES)), draw(st.sampled_from(RATES))
    count = draw(st.integers(2, 5))
    gaps = draw(st.lists(st.floats(0.08, 5), min_size=count, max_size=count))
    jumps = draw(st.lists(st.integers(1, 400), min_size=count, max_size=count))
    ties = list(zip(np.cumsum(gaps).tolist(), np.cumsum(jumps).tolist(), strict=True))
    dip = st.builds(Dip, strength=st.floats(0, 1), reach=st.floats(0.05, 0.95), softness=st.floats(0, 1))
    edit = tied_edit(ties, rate=rate, take_rate=take_rate, frames=2200)
    means = [segment.mean for segment in solve(edit, edit.clips[0]).segments]
    shapes = []
    for mean in means:
        build = st.builds(
            lambda slow, change, softness, mean=mean: Build(
                start=min(mean * slow, 100), change=change, softness=softness
            ),
            st.floats(0.01, 1),
            st.floats(0.05, 0.95),
            st.floats(0, 1),
        )
        shapes.append(draw(st.one_of(st.just(Steady()), dip, build)))
    return tied_edit(ties, shapes, rate, take_rate, frames=2200)


@settings(max_examples=150)
@given(tied())
def test_every_tie_lands_on_its_frame_and_nothing_is_seen_early(edit):
    curve = solve(edit, edit.clips[0])
    shown = curve.shown
    assert (np.diff(shown) >= 0).all()
    found = derive(edit).landings
    assert len(found) == len(curve.pins)
    for landing in found:
        wanted = frame_at(landing.cue_time, edit.rate)
        assert landing.landed_frame == wanted
        assert shown[wanted - curve.pins[0].n] == landing.source_frame
        assert landing.exact
        assert abs(landing.residual_ms) <= 500 / edit.rate + 1e-9


@given(tied())
def test_pins_are_hit_exactly_and_positions_follow_speeds(edit):
    curve = solve(edit, edit.clips[0])
    at_pins = curve.source[[pin.n - curve.pins[0].n for pin in curve.pins]]
    assert at_pins.tolist() == [pin.p for pin in curve.pins]


def test_a_span_at_or_above_the_floor_repeats_nothing():
    edit = tied_edit(
        [(1.0, 100), (3.0, 400)], [Dip(strength=1 / 3)], rate=Fraction(60), take_rate=Fraction(60)
    )
    span = derive(edit).clips[0].spans[0]
    assert span.smooth_strength == pytest.approx(1 - 1 / 2.5)
    strongest = tied_edit([(1.0, 100), (3.0, 400)], [Dip(strength=span.smooth_strength, softness=0.2)])
    assert derive(strongest).clips[0].spans[0].repeats == 0
    stronger = tied_edit([(1.0, 100), (3.0, 400)], [Dip(strength=0.9, softness=0.2)])
    assert derive(stronger).clips[0].spans[0].repeats > 0


def test_repeats_count_pictures_not_frames():
    """A 60 fps take that holds 30 pictures a second repeats every other frame at real time."""
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    pictures = {"gannet": TakePictures(np.arange(1000) // 2)}
    assert derive(edit).clips[0].spans[0].repeats == 0
    assert derive(edit, pictures).clips[0].spans[0].repeats == 30


@pytest.mark.parametrize(
    ("steps", "told"),
    [
        ([1, 1, 1, 1], (0, 0, 0, None, None)),
        ([1, 0, 1, 1, 0, 0, 0, 2], (4, 1, 3, 14, None)),
        ([0, 0, 1, 0], (3, 0, 2, 10, None)),
        ([1, 0] * 8, (8, 0, 1, 11, 2.0)),
        ([0, 1] * 8, (8, 0, 1, 10, 2.0)),
        ([1, 0, 0, 1, 0] * 6, (18, 0, 2, 11, 28 / 11)),
        ([1, 0] * 5, (5, 0, 1, 11, None)),  # too few to call it even
        ([2, 0] * 8, (8, 8, 1, 11, None)),  # pictures are skipped besides
        ([1, 0] * 4 + [1, 0, 0, 0] * 4, (16, 0, 3, 19, None)),
    ],
)
def test_how_pictures_repeat_and_are_skipped_is_told(steps, told):
    found = smoothness(np.array(steps), 10)
    even = None if told[-1] is None else pytest.approx(told[-1])
    assert (found.repeats, found.skips, found.longest, found.worst, found.even) == (*told[:-1], even)


@given(
    st.sampled_from(RATES), st.sampled_from(RATES), st.floats(0.2, 4), st.floats(0, 12), st.integers(0, 999)
)
def test_open_edges_reach_as_far_as_the_take_allows_at_their_speed(rate, take_rate, speed, time, frame):
    edit = tied_edit([(time, frame)], rate=rate, take_rate=take_rate)
    pins = (
        Pin(id="a", p=0),
        Pin(id="b", cue="cue-0", moment="moment-0"),
        Pin(id="c", p=999),
    )
    clip = {"id": "clip-1", "take": "gannet", "pins": pins, "spans": (Steady(speed=speed),) * 2}
    edit = type(edit).model_validate({**dict(edit), "clips": [clip]})
    curve = solve(edit, edit.clips[0])
    step = float(take_rate / rate) * speed
    start, tie, end = curve.pins
    assert tie == (frame_at(time, rate), frame)
    assert start.n >= 0
    assert end.p <= 999 < end.p + step * (1 + 1e-6)
    assert start.n == 0 or 0 <= start.p < step * (1 + 1e-6)
    assert curve.shown[tie.n - start.n] == frame


@pytest.mark.parametrize(
    ("ties", "code"),
    [
        ([(2.0, 10), (1.0, 20)], "pins-out-of-order"),
        ([(1.0, 20), (2.0, 10)], "pins-out-of-order"),
        ([(1.0, 20), (1.001, 30)], "pins-out-of-order"),
    ],
)
def test_pins_out_of_order_are_refused(ties, code):
    edit = tied_edit(ties)
    with pytest.raises(Refusal) as refused:
        solve(edit, edit.clips[0])
    assert refused.value.code == code
    assert "clip-1" in refused.value.where
    assert refused.value.remedy


@pytest.mark.parametrize(("speed", "at", "nearest"), [(4.0, 3.0, 999), (2.0, -3.0, 0)])
def test_a_pin_outside_the_take_is_refused_with_the_frame_it_could_be_on(speed, at, nearest):
    """A clip that begins or ends seconds from its tie at this speed needs frames that are not there."""
    edit = tied_edit([(5.0, 300)])
    tie = Pin(id="tie", cue="cue-0", moment="moment-0")
    far = Pin(id="far", n=round((5 + at) * 60))
    pins = (tie, far) if at > 0 else (far, tie)
    clip = Clip(id="clip-1", take="gannet", pins=pins, spans=(Steady(speed=speed),))
    with pytest.raises(Refusal) as refused:
        solve(edit.model_copy(update={"clips": (clip,)}), clip)
    assert (refused.value.code, refused.value.nearest) == ("pin-outside-take", nearest)


@given(st.floats(0, 1), st.floats(1, 3))
def test_speed_read_from_the_curve_is_how_fast_frames_pass(strength, mean):
    edit = tied_edit([(0.0, 0), (4.0, int(240 * mean))], [Dip(strength=strength)])
    curve = solve(edit, edit.clips[0])
    assume(strength < 1)
    passed = curve.source[61:181] - curve.source[59:179]
    assert curve.speed[60:180] == pytest.approx(passed / 2, rel=0.02, abs=0.01)
