"""Values of a span: each can be set anywhere within its limits, and what it leaves is solved."""

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Brake, Build, Dip, Rewind, Steady, Swell
from izmet.core.document.refusal import Refusal
from izmet.core.retime.handles import new_shape, span_values, with_value
from izmet.core.retime.shapes import profile_of
from izmet.core.retime.solve import solve
from tests.core.examples import tied_edit

means = st.floats(0.1, 8)
bent = st.sampled_from([Dip, Swell, Rewind]).flatmap(
    lambda kind: st.builds(
        kind, strength=st.floats(0, 1), reach=st.floats(0.05, 0.95), softness=st.floats(0, 1)
    )
)


@st.composite
def builds(draw):
    """A build or a brake that can be, and its mean; any of its three values may be the solved one."""
    mean, slow, change = draw(means), draw(st.floats(0.05, 0.95)), draw(st.floats(0.05, 0.95))
    start = mean * slow
    end = (mean - start * change) / (1 - change)
    assume(end < 90)
    left = draw(st.sampled_from(["start", "end", "change"]))
    given_values = {"start": start, "end": end, "change": change} | {left: None}
    if draw(st.booleans()):
        return Build(**given_values), mean
    mirrored = {"start": "end", "end": "start"}
    late = {mirrored.get(name, name): value for name, value in given_values.items()}
    return Brake(**late | {"change": None if late["change"] is None else 1 - change}), mean


@example((Build(start=0.9, end=1.02), 1.0), 0, 0.0)  # The mean is near the fast end: a near limit.
@example((Build(end=3.478515625, change=0.75), 1.0), 1, 0.0)  # A limit that rounding passes by.
@given(st.one_of(st.tuples(bent, means), builds()), st.integers(0, 4), st.floats(0, 1))
def test_any_value_within_its_limits_can_be_set_and_is_what_it_was_set_to(shaped, which, part):
    shape, mean = shaped
    values = span_values(shape, mean)
    chosen = values[which % len(values)]
    if not chosen.solved:  # a solved start may be slower than one that can be set
        assert chosen.least - 1e-9 <= chosen.value <= chosen.most + 1e-9
    wanted = chosen.least + part * (chosen.most - chosen.least)
    assume(wanted <= 100)
    again = with_value(shape, mean, chosen.name, wanted)
    found = {value.name: value.value for value in span_values(again, mean)}
    assert found[chosen.name] == pytest.approx(wanted, abs=1e-6)
    assert profile_of(again, mean).advance(profile_of(again, mean).u[-1:])[0] == pytest.approx(mean)


@given(builds(), st.sampled_from(["start", "end", "change"]))
def test_setting_a_value_leaves_another_one_to_be_solved(shaped, name):
    build, mean = shaped
    again = with_value(build, mean, name, next(v.value for v in span_values(build, mean) if v.name == name))
    assert getattr(again, name) is not None
    solved = [value.name for value in span_values(again, mean) if value.solved]
    assert len(solved) == 1
    assert solved != [name]


@given(builds())
def test_a_handle_lies_where_its_value_is(shaped):
    build, mean = shaped
    for value in span_values(build, mean):
        if value.handle and value.handle.along == "speed":
            assert value.handle.speed == value.value
        elif value.handle:
            assert value.handle.part * value.handle.per_part == pytest.approx(value.value)


@pytest.mark.parametrize("name", ["steady", "dip", "build"])
def test_a_new_shape_works_on_any_mean(name):
    for mean in (0.05, 1.0, 40.0):
        assert profile_of(new_shape(name, mean), mean).u[-1] == 1


def test_commands_set_values_and_refuse_what_is_not_there():
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    begun = do.apply(edit, do.BeginShape(clip="clip-1", span=0, shape="build"))
    assert begun.clips[0].spans[0].start == pytest.approx(0.5)
    set_end = do.apply(begun, do.SetValue(clip="clip-1", span=0, name="end", value=1.2))
    assert set_end.clips[0].spans[0].end == 1.2
    assert set_end.clips[0].spans[0].start is None
    with pytest.raises(Refusal) as refused:
        do.apply(begun, do.SetValue(clip="clip-1", span=0, name="end", value=0.4))
    assert refused.value.nearest == pytest.approx(1)
    for command in (
        do.SetValue(clip="clip-1", span=0, name="reach", value=0.4),
        do.SetValue(clip="clip-1", span=3, name="end", value=0.4),
        do.BeginShape(clip="clip-9", span=0, shape="dip"),
    ):
        with pytest.raises(Refusal):
            do.apply(begun, command)
    assert do.apply(begun, do.BeginShape(clip="clip-1", span=0, shape="steady")).clips[0].spans == (Steady(),)


@pytest.mark.parametrize("shape", ["steady", "dip", "build", "custom"])
def test_a_knot_is_added_in_one_step_at_its_speed_or_at_the_one_that_runs_there(shape):
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    edit = do.apply(edit, do.BeginShape(clip="clip-1", span=0, shape=shape))

    def speed_at(edit, n):
        (segment,) = solve(edit, edit.clips[0]).segments
        return float(segment.at(np.array([n]))[1][0])

    kept = do.apply(edit, do.AddKnot(clip="clip-1", span=0, at=0.4))
    knot = next(knot for knot in kept.clips[0].spans[0].knots if knot.at == 0.4)
    assert (knot.speed, knot.locked) == (pytest.approx(speed_at(edit, 84.0)), True)
    bent = do.apply(edit, do.AddKnot(clip="clip-1", span=0, at=0.4, speed=1.5))
    assert speed_at(bent, 84.0) == pytest.approx(1.5)
    begin, end = (solve(bent, bent.clips[0]).segments[0].at(np.array([n]))[0][0] for n in (60.0, 120.0))
    assert (begin, end) == (pytest.approx(100), pytest.approx(160))
    for refused in ({"span": 3}, {"speed": -1.0}):
        with pytest.raises(Refusal):
            do.apply(edit, do.AddKnot(**{"clip": "clip-1", "span": 0, "at": 0.4, **refused}))
