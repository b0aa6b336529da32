"""Profiles against reference implementations: scipy's PCHIP and quadrature, and CSS easing curves."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.interpolate import PchipInterpolator

from izmet.core.document.edit import Build, Dip, Steady
from izmet.core.document.refusal import Refusal
from izmet.core.retime.profile import Profile
from izmet.core.retime.shapes import profile_of, solve_turned, strongest_smooth

shares = st.floats(0, 1)
dips = st.builds(Dip, strength=st.floats(0, 1), reach=st.floats(0.05, 0.95), softness=shares)


@st.composite
def builds(draw):
    start, change = draw(st.floats(0.05, 1)), draw(st.floats(0.05, 0.95))
    return Build(start=start, change=change, softness=draw(shares))


shapes = st.one_of(st.just(Steady()), dips, builds())
AT = np.linspace(0, 1, 97)


@given(shapes)
def test_area_is_one_and_nothing_runs_backwards(shape):
    profile = profile_of(shape, mean=1.0)
    assert profile.advance(np.array([0.0, 1.0])) == pytest.approx([0, 1], abs=1e-12)
    assert (profile.speed(AT) >= 0).all()
    assert (np.diff(profile.advance(AT)) >= 0).all()


@given(shapes)
def test_advance_is_the_integral_of_speed(shape):
    """scipy.integrate.quad, told where the knots are, is the reference."""
    profile = profile_of(shape, mean=1.0)
    for end in (0.3, 0.5, 0.8):
        knots = profile.u[(profile.u > 0) & (profile.u < end)]
        area, _ = quad(
            lambda u: profile.speed(np.array([u]))[0], 0, end, points=knots if len(knots) else None, limit=200
        )
        assert profile.advance(np.array([end]))[0] == pytest.approx(area, abs=1e-6)


@given(st.floats(0.01, 0.99), st.floats(0.1, 0.9), st.floats(0.2, 0.9))
def test_transitions_are_the_monotone_cubic_of_scipy(strength, reach, softness):
    """Between plateaus PCHIP has zero slopes (Fritsch & Carlson 1980), so the two must be one curve."""
    profile = profile_of(Dip(strength=strength, reach=reach, softness=softness), mean=1.0)
    assume(np.diff(profile.u).min() > 1e-4)
    reference = PchipInterpolator(profile.u, profile.v)
    assert profile.speed(AT) == pytest.approx(reference(AT), abs=1e-9)
    assert profile.advance(AT) == pytest.approx(reference.antiderivative()(AT), abs=1e-9)


def test_transition_is_the_css_easing_curve():
    """CSS Easing Functions Level 1, cubic-bezier(1/3, 0, 2/3, 1), by its parametric definition."""
    profile = Profile(np.array([0.0, 1.0]), np.array([0.0, 2.0]))
    t = AT
    x = 3 * (1 - t) ** 2 * t / 3 + 3 * (1 - t) * t**2 * 2 / 3 + t**3
    y = 3 * (1 - t) * t**2 + t**3
    assert profile.speed(x) == pytest.approx(2 * y, abs=1e-12)


@given(dips, st.floats(0.1, 8))
def test_dip_has_the_middle_and_the_ends_it_names(dip, mean):
    speed = profile_of(dip, mean).speed(np.array([0.0, 0.5, 1.0]))
    ends = mean * (1 + dip.strength * (1 - dip.reach) / dip.reach)
    assert speed == pytest.approx([ends, mean * (1 - dip.strength), ends], rel=1e-9, abs=1e-9)


@given(st.floats(0.5, 6), st.floats(0.1, 1))
def test_strongest_smooth_touches_the_floor(mean, floor):
    strength = strongest_smooth(Dip(), mean, floor)
    lowest = profile_of(Dip(strength=strength), mean).v.min()
    assert lowest == pytest.approx(min(mean, floor))


@given(st.floats(0.1, 4), st.floats(0.05, 1), st.floats(0.1, 0.9))
def test_any_two_values_of_a_build_give_the_third(mean, slow, change):
    start = mean * slow
    _, end, _ = solve_turned(Build(start=start, change=change), mean)
    assert mean == pytest.approx(start * change + end * (1 - change))
    assert solve_turned(Build(end=end, change=change), mean) == pytest.approx((start, end, change), abs=1e-6)
    if slow < 0.99:
        assert solve_turned(Build(start=start, end=end), mean) == pytest.approx(
            (start, end, change), abs=1e-6
        )


@pytest.mark.parametrize(
    "build",
    [
        Build(start=1.5, change=0.5),
        Build(end=0.5, change=0.5),
        Build(end=3.0, change=0.5),
        Build(start=0.5, end=1.001),
        Build(start=0.5, end=40),
    ],
)
def test_impossible_build_names_the_nearest_that_works(build):
    with pytest.raises(Refusal, match="build") as refused:
        solve_turned(build, mean=1.0)
    nearest = refused.value.nearest
    name = "end" if build.end is not None else "start"
    solve_turned(build.model_copy(update={name: nearest}), mean=1.0)
