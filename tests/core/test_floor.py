"""The smooth floor is what is counted: at it no picture repeats, whatever frame a take begins on."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.edit import Clip, Dip, Edit, Steady, Take
from izmet.core.document.places import Pin
from izmet.core.document.refusal import Refusal
from izmet.core.following.derived import Derived
from izmet.core.following.workings import workings_of
from izmet.core.retime.floor import held_frames, most_held, smooth_floor
from izmet.core.shown.pictures import TakePictures, counted_pictures, spread
from tests.core.examples import MEDIA

RATES = [Fraction(24), Fraction(25), Fraction(30), Fraction(50), Fraction(60), Fraction(120)]


def at_speed(take: Take, rate: Fraction, speed: float, begin: float, pictures) -> Derived:
    """What follows from a steady clip of a take, with the pictures that it holds."""
    frames = int((take.frames - 1 - begin) / (float(take.rate / rate) * speed))
    pins = [Pin(id="a", n=0, p=begin), Pin(id="b", n=frames)]
    clip = Clip(id="clip-1", take=take.id, pins=pins, spans=[Steady(speed=speed)])
    edit = Edit(rate=rate, takes=(take,), clips=(clip,))
    return workings_of(edit, {take.id: TakePictures(pictures)}).derived


def take_of(rate: Fraction, distinct: Fraction, held: int | None = None, frames: int = 600) -> Take:
    return Take(
        id="take-1", media=MEDIA, rate=rate, distinct=distinct, held=held, frames=frames, width=64, height=36
    )


@given(
    st.sampled_from(RATES),
    st.sampled_from(RATES),
    st.sampled_from(RATES),
    st.floats(0, 20),
    st.integers(0, 4),
)
def test_at_the_floor_no_picture_repeats_and_a_tenth_below_some_do(rate, distinct, output, begin, shift):
    """Also where the rate is no multiple of the distinct rate, such as 24 pictures in 60 frames."""
    take = take_of(rate, min(rate, distinct))
    pictures = spread(take.model_copy(update={"frames": take.frames + shift})).distinct[shift:]
    floor = smooth_floor(Edit(rate=output, takes=(take,)), take)
    (clip,) = at_speed(take, output, floor, begin, pictures).clips
    assert clip.floor == floor
    assert clip.smoothness.repeats == 0
    below = at_speed(take, output, floor * 0.9 / max(1, held_frames(take)), begin, pictures)
    assert below.clips[0].smoothness.repeats > 0


def test_an_uneven_take_says_for_how_long_it_holds_its_pictures():
    """Half of a capture's frames repeat the one before, at random: no speed near real time is smooth."""
    draw = np.random.default_rng(5)
    pictures = np.cumsum(draw.random(600) < 0.5)
    held = most_held(pictures)
    assert held >= 3
    take = take_of(Fraction(60), Fraction(30), held)
    floor = smooth_floor(Edit(rate="60", takes=(take,)), take)
    assert floor == held
    at_floor, real = (at_speed(take, Fraction(60), speed, 0, pictures).clips[0] for speed in (floor, 1.0))
    assert real.smoothness.repeats == int(np.count_nonzero(np.diff(pictures) == 0))
    assert at_floor.smoothness.repeats <= 0.05 * len(at_floor.steps)


@pytest.mark.parametrize(
    ("runs", "held"),
    [([1] * 50, 1), ([2] * 50, 2), ([3, 2] * 30, 3), ([1] * 99 + [40], 1), ([7], 7)],
    ids=["each new", "doubled", "24 in 60", "one freeze", "a still"],
)
def test_what_is_usual_counts_not_a_single_freeze(runs, held):
    assert most_held(np.repeat(np.arange(len(runs)), runs)) == held


@given(
    st.sampled_from([(60, 24, 24), (60, 30, 60), (30, 24, 25)]), st.integers(0, 20), st.booleans(), st.data()
)
@example((60, 24, 24), 3, False, None)
def test_a_span_is_bent_by_the_repeats_that_are_told_of_it(rates, repeats, uneven, data):
    """What strengthens a span, the strip and the report count the same pictures, uneven ones too."""
    rate, distinct, output = map(Fraction, rates)
    pictures = spread(take_of(rate, distinct)).distinct
    if uneven:
        draw = np.random.default_rng(data.draw(st.integers(0, 99)))
        pictures = np.cumsum(draw.random(600) < float(distinct / rate))
    take = take_of(rate, distinct, most_held(pictures))
    mean = max(1.0, 1.3 * smooth_floor(Edit(rate=output, takes=(take,)), take))
    frames = int(500 / (float(rate / output) * mean))
    pins = [Pin(id="a", n=0, p=20), Pin(id="b", n=frames, p=520)]
    clip = Clip(id="clip-1", take=take.id, pins=pins, spans=[Dip(strength=0.1, reach=0.4)])
    edit = Edit(rate=output, takes=(take,), clips=(clip,))
    with counted_pictures({take.id: TakePictures(pictures)}):
        try:
            strong = do.apply(edit, do.Strengthen(clip="clip-1", span=0, repeats=repeats))
        except Refusal as refusal:
            assume(refusal.code != "at-the-floor")
            raise

    def told(edit: Edit) -> int:
        return workings_of(edit, {take.id: TakePictures(pictures)}).derived.clips[0].spans[0].repeats

    assert told(strong) <= repeats
    strength = strong.clips[0].spans[0].strength
    if repeats and strength < 0.9:
        more = do.SetValue(clip="clip-1", span=0, name="strength", value=strength + 0.1)
        assert told(do.apply(strong, more)) > repeats - 3
