"""What is proposed: working backwards, recipes, repairs, the song's shift, what is told of a change."""

import math
from fractions import Fraction
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from izmet.core import commands as do
from izmet.core.arrange.backwards import BEND, work_backwards
from izmet.core.arrange.recipes import SHIPPED, made, recipe_of
from izmet.core.arrange.shift import least_shift
from izmet.core.commands.repairs import MORE_REPEATS, repairs
from izmet.core.document.edit import (
    Brake,
    Clip,
    Cue,
    Custom,
    Dip,
    Edit,
    Hold,
    Knot,
    Leg,
    Moment,
    Recipe,
    Rewind,
    Steady,
)
from izmet.core.document.places import Pin
from izmet.core.document.rates import frame_at
from izmet.core.document.refusal import Refusal
from izmet.core.following.consequences import consequences
from izmet.core.following.workings import derive
from izmet.core.retime.solve import solve
from izmet.core.solved import solved
from tests.core.examples import anyway, tied_edit


def hit_edit(moments: list[tuple[int, float]], cues: list[tuple[float, float]]) -> Edit:
    """One tie of frame 900 on a cue at 20 s; earlier moments (frame, weight) and cues (time, strength)."""
    edit = tied_edit([(20.0, 900)], frames=2000)
    take = edit.takes[0]
    found = [Moment(id=f"m-{i}", frame=frame, weight=weight) for i, (frame, weight) in enumerate(moments)]
    take = take.model_copy(update={"moments": (*found, *take.moments)})
    marks = [Cue(id=f"c-{i}", time=time, kind="kick", strength=s) for i, (time, s) in enumerate(cues)]
    song = edit.song.model_copy(
        update={"cues": tuple(sorted([*marks, *edit.song.cues], key=lambda cue: cue.time))}
    )
    edit = edit.model_copy(update={"takes": (take,), "song": song})
    return do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))


def brute_force(moments, cues, limits, all_cues):
    """Scores of all ways to pair some moments with as many cues, in order, and the hit with its cue."""
    scores = []
    for count in range(1, min(len(moments), len(cues)) + 1):
        if all_cues and count != len(cues):
            continue
        for picked in combinations(moments, count):
            for on in combinations(cues, count):
                chain = [*zip(picked, on, strict=True), ((900, 0), (20.0, 0))]
                score = 0.0
                for ((f, w), (t, s)), ((f2, _), (t2, _)) in pairwise(chain):
                    length = frame_at(t2, 60) - frame_at(t, 60)
                    speed = (f2 - f) / length if length > 0 else math.inf
                    if not limits[0] <= speed <= limits[1]:
                        score = -math.inf
                        break
                    score += w * s - BEND * math.log2(speed) ** 2
                scores.append(score)
    return sorted((score for score in scores if score > -math.inf), reverse=True)


weights = st.floats(0.05, 1)


@settings(max_examples=60)
@given(
    st.dictionaries(st.integers(300, 890), weights, min_size=1, max_size=4),
    st.dictionaries(st.integers(10, 199).map(lambda tenth: tenth / 10), weights, min_size=1, max_size=5),
    st.booleans(),
)
def test_working_backwards_finds_what_trying_everything_finds(moments, cues, all_cues):
    moments, cues = sorted(moments.items()), sorted(cues.items())
    edit = hit_edit(moments, cues)
    chosen = [f"c-{i}" for i in range(len(cues))] if all_cues else []
    expected = brute_force(moments, cues, (0.25, 4), all_cues)
    if not expected:
        with pytest.raises(Refusal, match="No order"):
            work_backwards(edit, "clip-1", "pin-2", chosen)
        return
    found = work_backwards(edit, "clip-1", "pin-2", chosen)
    assert [each.score for each in found] == pytest.approx(expected[: len(found)])
    assert len(found) == min(3, len(expected))
    best = [{"moment": tie.moment, "cue": tie.cue} for tie in found[0].ties]
    tied = do.apply(edit, do.TieMoments(clip="clip-1", ties=[*best, {"moment": "moment-0", "cue": "cue-0"}]))
    assert all(landing.exact for landing in derive(tied).landings)
    assert len(derive(tied).landings) == len(best) + 1
    assert found[0].why


def test_one_works_backwards_from_a_tie_of_a_clip_that_runs_forward():
    edit = hit_edit([(600, 1.0)], [(15.0, 1.0)])
    turned = do.apply(edit, do.ReverseClip(clip="clip-1"))
    for each, pin in ((edit, "pin-1"), (edit, "pin-9"), (turned, "pin-2")):
        with pytest.raises(Refusal, match="runs forward"):
            work_backwards(each, "clip-1", pin)


@given(st.lists(st.floats(0.2, 40), min_size=1, max_size=6), st.sampled_from(["24", "30", "60"]))
def test_the_shift_of_the_song_is_the_best_there_is(times, rate):
    """scipy.optimize.minimize_scalar, begun in many places, finds nothing better."""
    ties = [(time, 10 * (index + 1)) for index, time in enumerate(sorted(times))]
    base = tied_edit(ties[:1], frames=9000)
    cues = tuple(Cue(id=f"cue-{i}", time=time, kind="kick") for i, (time, _) in enumerate(ties))
    clips = [
        Clip(
            id=f"clip-{i}", take="gannet", spans=(Steady(speed=1), Steady(speed=1)),
            pins=(Pin(id="a", p=0), Pin(id="b", cue=f"cue-{i}", moment="moment-0"), Pin(id="c", p=900)),
        )
        for i in range(len(ties))
    ]  # fmt: skip
    song = base.song.model_copy(update={"cues": cues})
    edit = Edit.model_validate({**dict(base), "rate": rate, "song": song, "clips": clips})
    found, frames = least_shift(edit), float(edit.rate)

    def off(shift: float) -> float:
        return 1000 * math.sqrt(
            np.mean([(frame_at(t + shift, edit.rate) / frames - t - shift) ** 2 for t, _ in ties])
        )

    assert abs(found.by) <= 0.5 / frames
    assert found.after_ms == pytest.approx(off(found.by), abs=1e-6)
    assert found.after_ms <= found.before_ms + 1e-9
    for begin in np.linspace(-0.5, 0.5, 9)[:-1] / frames:
        tried = minimize_scalar(off, bounds=(begin, begin + 0.125 / frames), method="bounded")
        assert found.after_ms <= tried.fun + 1e-3
    moved = do.apply(edit, do.PlaceSong(start=found.start))
    assert least_shift(moved).before_ms == pytest.approx(found.after_ms, abs=1e-6)


@pytest.mark.parametrize("recipe", SHIPPED, ids=lambda recipe: recipe.id)
@pytest.mark.parametrize(
    ("rate", "take_rate", "frame"), [("60", 60, 500), ("24", 120, 700), ("30000/1001", 30, 40)]
)
def test_the_recipes_that_come_along_fit_any_clip_and_keep_its_landing(recipe, rate, take_rate, frame):
    edit = tied_edit([(12.0, frame)], rate=Fraction(rate), take_rate=Fraction(take_rate))
    edit = do.apply(edit, do.AddCues(cues=tuple((t / 2, "beat", 1.0) for t in range(40) if t != 24)))
    edit = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    applied = do.apply(edit, do.ApplyRecipe(recipe=recipe.id, clips=["clip-1"]))
    (landing,) = derive(applied).landings
    assert landing.exact
    assert applied.clips[0].recipe == recipe.id
    again = do.apply(applied, do.ApplyRecipe(recipe=recipe.id))
    assert again == applied, "all that were made by it, and nothing changes the second time"


def test_a_recipe_is_laid_around_the_tie_that_is_named_or_each_clips_first_one():
    edit = tied_edit([(4.0, 300), (6.0, 500)])
    other = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    assert [pin.is_tie for pin in other.clips[1].pins] == [False, True, False]
    every = {"recipe": "burst-out", "clips": ["clip-1", "clip-2"]}

    def held(edit):
        return [{pin.moment for pin in clip.pins if pin.is_tie} for clip in edit.clips]

    assert held(anyway(other, do.ApplyRecipe(**every))) == [{"moment-0"}, {"moment-0"}]
    assert held(anyway(other, do.ApplyRecipe(**every, pin="pin-1"))) == [{"moment-1"}, {"moment-0"}]


def test_a_recipe_is_made_of_a_clip_and_makes_the_same_clip_again():
    edit = tied_edit([(12.0, 500)])
    edit = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    pin = edit.clips[0].pins[1].id
    for command in (
        do.HoldPicture(clip="clip-1", pin=pin, frames=12),
        do.ShapeSpan(clip="clip-1", span=0, shape=Steady(speed=0.5)),
    ):
        edit = do.apply(edit, command)
    for unit in ("frames", "seconds"):
        recipe = recipe_of(edit, edit.clips[0], pin, "recipe-1", "mine", unit)
        assert Recipe.model_validate_json(recipe.model_dump_json()) == recipe
        assert (
            solve(edit, made(edit, edit.clips[0], pin, recipe)).source.tolist()
            == solve(edit, edit.clips[0]).source.tolist()
        )
    kept = do.apply(edit, do.MakeRecipe(clip="clip-1", pin=pin, name="mine"))
    assert [leg.shape.shape for leg in kept.recipes[0].after] == ["hold", "steady"]
    applied = do.apply(kept, do.ApplyRecipe(recipe="recipe-1", clips=["clip-1"]))
    changed = kept.recipes[0].model_copy(
        update={
            "after": (kept.recipes[0].after[0].model_copy(update={"length": 1.0}), kept.recipes[0].after[1])
        }
    )
    followed = do.apply(do.apply(applied, do.KeepRecipe(recipe=changed)), do.ApplyRecipe(recipe="recipe-1"))
    assert followed.clips[0].spans[1] == Hold(frames=60)
    gone = do.apply(followed, do.RemoveRecipe(recipe="recipe-1"))
    assert gone.clips[0].recipe is None
    for wrong in (
        do.ApplyRecipe(recipe="none"),
        do.ApplyRecipe(recipe="burst-out"),
        do.RemoveRecipe(recipe="none"),
    ):
        with pytest.raises(Refusal):
            do.apply(edit, wrong)


@pytest.mark.parametrize(
    ("shape", "speeds"),
    [
        (Steady(speed=2), [1, 1]),
        (Brake(end=1, change=0.5, speed=2), [1.5, 0.5]),
        (Custom(knots=[Knot(at=0, speed=2, locked=True), Knot(at=1, speed=4)], speed=3), [1, 2]),
    ],
)
def test_a_recipe_measured_from_the_floor_runs_as_much_slower_as_a_take_has_more_pictures(shape, speeds):
    """A take of 120 pictures a second is smooth down to half speed at 60."""
    edit = tied_edit([(6.0, 600)], take_rate=Fraction(120), frames=2000)
    edit = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    legs = [Leg(length=1, of=of, shape=shape) for of in ("floor", "real-time")]
    recipe = Recipe(id="mine", name="mine", before=[legs[1]], after=[legs[0]])
    before, after = solve(edit, made(edit, edit.clips[0], "pin-2", recipe)).segments
    assert [after.speed_in, after.speed_out] == pytest.approx(speeds)
    assert [before.speed_in, before.speed_out] == pytest.approx([2 * speed for speed in speeds])


def test_a_recipe_ends_where_the_take_does():
    edit = tied_edit([(12.0, 20)], frames=100)
    edit = do.apply(edit, do.LayTake(take="gannet", moment="moment-0", cue="cue-0"))
    clip = made(edit, edit.clips[0], "pin-2", SHIPPED[2])
    assert [type(shape) for shape in clip.spans] == [Steady, Rewind, Steady]
    assert clip.spans[0].frames == 20, "of the second before the hit that it asks for"
    assert solve(edit, clip).shown.max() == 99


def test_what_is_refused_comes_with_what_works():
    edit = tied_edit([(1.0, 100), (4.0, 400)])
    for time in (2.0, 3.5, 5.0):
        edit = do.apply(edit, do.AddCue(time=time, kind="kick"))
    early = do.ChangeTie(clip="clip-1", pin="pin-1", cue="cue-0")
    hold = do.HoldPicture(clip="clip-1", pin="pin-0", frames=500)
    skip = do.SetPin(clip="clip-1", pin="pin-0", skip=900)
    bent = do.apply(edit, do.ShapeSpan(clip="clip-1", span=0, shape=Dip()))
    build = do.BeginShape(clip="clip-1", span=0, shape="build")
    value = do.SetValue(clip="clip-1", span=0, name="end", value=0.4)
    for before, command in ((edit, early), (edit, hold), (edit, skip), (do.apply(bent, build), value)):
        with pytest.raises(Refusal) as refused:
            do.apply(before, command)
        offered = repairs(before, command, refused.value)
        assert offered
        for repair in offered:
            after = before
            for each in repair.commands:
                after = do.apply(after, each)
            assert derive(after)
    assert repairs(edit, hold, refused.value)[0].label == "As far as it goes: 179 frames"
    assert repairs(edit, skip, refused.value)[0].label == "As far as it goes: 299 skipped frames"


def test_the_fewest_repeats_that_are_offered_are_the_fewest_there_are():
    """A slow span repeats pictures however straight it is."""
    edit = tied_edit([(1.0, 100), (4.0, 190)], [Dip()])
    wish = do.Strengthen(clip="clip-1", span=0)
    with pytest.raises(Refusal) as refused:
        do.apply(edit, wish)
    offered = [repair.label for repair in repairs(edit, wish, refused.value) if "repeats" in repair.label]
    assert offered == [f"Allow {90 + more} repeats" for more in MORE_REPEATS]
    with pytest.raises(Refusal):
        do.apply(edit, do.Strengthen(clip="clip-1", span=0, repeats=89))


def test_what_hangs_on_a_change_is_told():
    edit = tied_edit([(1.0, 100), (4.0, 400)])
    moved = do.apply(edit, do.ChangeCue(cue="cue-1", time=9.0))
    there, back = consequences(derive(edit), derive(moved)), consequences(derive(moved), derive(edit))
    assert [each.text for each in there] == ["1 tie moved", "180 more repeats"]
    assert [each.text for each in back] == ["1 tie moved", "180 fewer repeats"]
    assert [(each.code, each.count) for each in back] == [("ties-moved", 1), ("repeats", -180)]
    assert consequences(derive(edit), derive(edit)) == []


def test_a_document_is_solved_clip_by_clip_and_what_cannot_be_is_said_with_repairs():
    edit = tied_edit([(1.0, 100), (4.0, 400)], [Dip(strength=0.9)])
    edit = do.apply(edit, do.AddCue(time=5.0, kind="kick"))
    good = edit.clips[0]
    pins = [
        pin if index == 0 else pin.model_copy(update={"cue": "cue-0"}) for index, pin in enumerate(good.pins)
    ]
    bad = good.model_copy(update={"id": "clip-2", "pins": tuple(pins)})
    found = solved(edit.model_copy(update={"clips": (good, bad)}))
    (clip,) = found.clips
    assert (clip.first, clip.last, len(clip.frames)) == (60, 240, 181)
    assert clip.frames == solve(edit, good).shown.tolist()
    steps = np.diff(clip.frames, prepend=clip.frames[0] - 1)
    assert clip.repeats == [n for n, step in enumerate(steps, 60) if step == 0] != []
    assert clip.skips == [n for n, step in enumerate(steps, 60) if step > 1] != []
    assert [span.shape for span in clip.spans] == ["dip"]
    (refusal,) = found.refusals
    assert (refusal.clip, refusal.code) == ("clip-2", "pins-out-of-order")
    assert refusal.repairs
    assert list(found.lines())
