"""How the front end shows numbers, speeds, cues and files: what people read is what is there."""

import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.document.cuekinds import CUE_KINDS

OFFERED = 60
speeds = st.floats(0.02, 16)


@settings(max_examples=80)
@given(st.floats(-600, 20_000))
def test_a_time_reads_back_as_itself_to_the_thousandth(helpers, value):
    shown = helpers.call("format.seconds", value)
    minutes, rest = shown.removeprefix("−").split(":")
    assert len(rest) == 6
    assert float(rest) < 60
    read = 60 * int(minutes) + float(rest)
    assert (-read if shown.startswith("−") else read) == pytest.approx(value, abs=0.00051)


@pytest.mark.parametrize(
    ("value", "shown"),
    [(59.9996, "1:00.000"), (0, "0:00.000"), (-0.0001, "0:00.000"), (-0.5, "−0:00.500"), (61.25, "1:01.250")],
)
def test_times_at_the_edges(helpers, value, shown):
    assert helpers.call("format.seconds", value) == shown


@pytest.mark.parametrize(
    ("how", "value", "shown"),
    [
        ("percent", 0.333, "33.3 %"),
        ("percent", -2, "−200 %"),
        ("percent", None, "–"),
        ("signedMs", 1.26, "+1.3 ms"),
        ("signedMs", -0.04, "0.0 ms"),
        ("rate", "30000/1001", "29.97 fps"),
        ("rate", "60", "60 fps"),
        ("size", 1, "1 kB"),
        ("size", 2_340_000, "2.3 MB"),
        ("about", 4, "a few seconds"),
        ("about", 75, "about 80 s"),
        ("about", 600, "about 10 min"),
        ("about", 5400, "about 1.5 h"),
    ],
)
def test_numbers_are_said_as_people_say_them(helpers, how, value, shown):
    assert helpers.call(f"format.{how}", value) == shown


@pytest.mark.parametrize(
    ("before", "shown"), [(20, "just now"), (90, "1 min ago"), (7300, "2 h ago"), (-30, "just now")]
)
def test_how_long_ago_something_was(helpers, before, shown):
    assert helpers.call("format.ago", time.time() - before) == shown


def test_what_was_days_ago_is_said_by_its_day(helpers):
    assert helpers.call("format.ago", time.time() - 3 * 86_400).startswith("on ")


@settings(max_examples=80)
@given(speeds, speeds, st.booleans(), st.integers(60, 500))
def test_a_hand_on_the_speed_axis_holds_the_speed_that_is_drawn_there(
    helpers, speed, other, backward, height
):
    """The axis is logarithmic: equal ratios are equally far apart, both ways from the line of rest."""
    low, high = 0.02, 16
    helpers.call("speedAxis.speedAxis", low, high, height, backward, keep="axis")
    y, rest = helpers.call("axis.y", speed), helpers.call("axis.rest", how="get")
    assert helpers.call("axis.at", y, 1) == pytest.approx(speed, rel=1e-6)
    assert 0 <= y <= rest <= height
    double, once, half = (helpers.call("axis.y", each) for each in (4, 2, 1))
    assert double - once == pytest.approx(once - half)
    if other > speed:
        assert helpers.call("axis.y", other) <= y
    if backward:
        below = helpers.call("axis.y", -speed)
        assert rest <= below <= height
        assert helpers.call("axis.at", below, -1) == pytest.approx(speed, rel=1e-6)


cues = st.lists(
    st.builds(lambda kind, at: {"kind": kind, "at": at}, st.sampled_from(list(CUE_KINDS)), st.floats(0, 300)),
    max_size=90,
).map(lambda found: [{**cue, "id": f"c{number}", "frame": number} for number, cue in enumerate(found)])


@settings(max_examples=60)
@given(cues, st.floats(-5, 305), st.integers(0, 89))
def test_the_cues_to_pick_from_are_the_nearest_ones_in_order_and_the_chosen_one(
    helpers, cues, instant, number
):
    chosen = f"c{number}"
    offered = [each["value"] for each in helpers.call("cues.cueOptions", cues, instant, chosen)]
    known = {cue["id"]: cue["at"] for cue in cues}
    assert [known[each] for each in offered] == sorted(known[each] for each in offered)
    assert (chosen in offered) == (chosen in known)
    nearest = sorted(abs(at - instant) for at in known.values())[:OFFERED]
    told = sorted(abs(known[each] - instant) for each in offered)
    assert told[: len(nearest)] == nearest
    found = helpers.call("cues.nearestCue", cues, instant)
    assert found is None if not cues else abs(found["at"] - instant) == nearest[0]


def test_every_kind_of_cue_has_a_shape_and_a_colour_of_its_own_name(helpers):
    shapes = helpers.call("cues.CUE_SHAPES", how="get")
    assert set(shapes) == set(CUE_KINDS) == set(helpers.call("cues.CUE_TOKENS", how="get"))
    assert len(set(shapes.values())) == len(shapes)


@pytest.mark.parametrize(
    ("name", "song", "media"),
    [
        ("Harbour Drums.FLAC", True, True),
        ("run.v2.mkv", False, True),
        ("take", False, False),
        ("notes.txt", False, False),
    ],
)
def test_files_are_told_by_their_endings(helpers, name, song, media):
    assert (helpers.call("media.isSong", name), helpers.call("media.isMedia", name)) == (song, media)
