"""Forward, rest and backward are one arithmetic, and the picture shown follows the direction of travel."""

from fractions import Fraction
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from izmet.core.document.edit import Dip, Steady
from izmet.core.retime.pins import Fixed
from izmet.core.retime.profile import Profile
from izmet.core.retime.sampling import directions, pictures_shown
from izmet.core.retime.segment import Segment
from izmet.core.retime.shapes import profile_of, strongest_smooth
from izmet.core.retime.solve import Curve

means = st.floats(-6, 6)
dips = st.builds(Dip, strength=st.floats(0, 1), reach=st.floats(0.05, 0.95), softness=st.floats(0, 1))
shapes = st.one_of(st.just(Steady()), dips)


def segment(start: Fixed, end: Fixed, shape, per_frame=1.0) -> Segment:
    mean = (end.p - start.p) / (per_frame * (end.n - start.n))
    return Segment(start, end, per_frame, mean, profile_of(shape, mean))


@st.composite
def journeys(draw):
    """Pins anywhere in a take, one after another in time: the way goes on, rests, turns."""
    gaps = draw(st.lists(st.integers(1, 60), min_size=1, max_size=5))
    places = draw(st.lists(st.integers(0, 300), min_size=len(gaps) + 1, max_size=len(gaps) + 1))
    pins = [Fixed(int(n), float(p)) for n, p in zip(np.cumsum([0, *gaps]), places, strict=True)]
    per_frame = draw(st.sampled_from([0.4, 1.0, 2.5]))
    return Curve(tuple(segment(left, right, draw(shapes), per_frame) for left, right in pairwise(pins)))


@given(means, shapes)
def test_the_area_of_a_profile_is_its_mean_whatever_its_sign(mean, shape):
    """scipy.integrate.quad, told where the knots are, is the reference."""
    profile = profile_of(shape, mean)
    knots = sorted({float(u) for u in profile.u if 0 < u < 1})
    area, _ = quad(lambda u: profile.speed(np.array([u]))[0], 0, 1, points=knots or None, limit=200)
    assert abs(area - mean) < 1e-6
    assert abs(profile.advance(np.array([1.0]))[0] - mean) < 1e-9
    assert (np.sign(profile.v) * np.sign(mean) >= 0).all()


@given(journeys())
def test_every_pin_is_hit_exactly_on_any_way(curve):
    at_pins = curve.source[[pin.n - curve.first for pin in curve.pins]]
    assert at_pins.tolist() == [pin.p for pin in curve.pins]
    assert np.isfinite(curve.source).all()
    assert np.isfinite(curve.speed).all()
    for each in curve.segments:
        assert each.travel == {1: "forward", 0: "rest", -1: "backward"}[int(np.sign(each.displacement))]


@given(journeys())
def test_the_way_back_mirrors_the_way_there(curve):
    """Time turned round: positions come in the opposite order, so does what is shown of whole frames."""
    last = curve.pins[-1].n
    turned = Curve(
        tuple(
            Segment(
                Fixed(last - each.end.n, each.end.p),
                Fixed(last - each.start.n, each.start.p),
                each.per_frame,
                -each.mean,
                Profile(1 - each.profile.u[::-1], -each.profile.v[::-1]),
            )
            for each in reversed(curve.segments)
        )
    )
    np.testing.assert_allclose(turned.source, curve.source[::-1], atol=1e-6)


@given(journeys())
def test_no_picture_is_seen_early_and_none_that_was_not_reached(curve):
    source, way, shown = curve.source, curve.way, curve.shown
    ahead = (shown - source) * way  # how far the picture is ahead of the position, in the way of travel
    turn = np.maximum.accumulate(np.where(np.diff(way, prepend=way[0]) != 0, np.arange(len(way)), 0))
    straight = turn == 0
    assert (ahead[straight] <= 1e-6).all()
    assert (np.abs(shown - source) < 1 + 1e-6).all()
    assert shown.min() >= np.floor(source.min() + 1e-6)
    assert shown.max() <= np.ceil(source.max() - 1e-6)
    for begin, end in pairwise([0, *(np.flatnonzero(np.diff(way)) + 1), len(way)]):
        run = shown[max(0, begin - 1) : end]
        assert (np.diff(run) * way[begin] >= 0).all()


def test_a_moment_reached_backwards_is_first_seen_on_its_pin():
    back = Curve((segment(Fixed(0, 30.0), Fixed(40, 10.0), Steady()),))
    assert back.way.tolist() == [-1] * 41
    assert back.shown[40] == 10
    assert (back.shown[:40] > 10).all()
    assert back.shown.tolist() == np.ceil(back.source - 1e-6).astype(int).tolist()


def test_a_rest_goes_on_showing_what_it_came_to():
    curve = Curve(
        (
            segment(Fixed(0, 20.0), Fixed(8, 10.5), Steady()),
            segment(Fixed(8, 10.5), Fixed(14, 10.5), Steady()),
            segment(Fixed(14, 10.5), Fixed(20, 18.0), Steady()),
        )
    )
    assert curve.segments[1].travel == "rest"
    assert set(curve.shown[8:15].tolist()) == {11}
    assert curve.shown[15] == 11, "the way back out shows nothing that was not reached"
    assert (curve.speed[8:14] == 0).all()


def test_the_turning_picture_is_not_passed():
    source = np.array([8.0, 9.2, 10.4, 9.8, 8.6])
    still = np.zeros(len(source), bool)
    way = directions(source, still)
    assert way.tolist() == [1, 1, 1, -1, -1]
    assert pictures_shown(source, way, still).tolist() == [8, 9, 10, 10, 9]


@given(st.floats(0.1, 1), st.floats(-6, 6))
def test_the_strongest_smooth_holds_backwards_too(floor, mean):
    strength = strongest_smooth(Dip(), mean, floor)
    slowest = np.abs(profile_of(Dip(strength=strength), mean).v).min()
    assert slowest >= min(abs(mean), floor) - 1e-9


def test_rates_may_be_any_fraction():
    ratio = float(Fraction(24000, 1001) / Fraction(60))
    forward = Curve((segment(Fixed(0, 0.0), Fixed(100, 250.0), Dip(strength=0.5), ratio),))
    assert forward.source[-1] == 250.0
    assert (np.diff(forward.source) > 0).all()
