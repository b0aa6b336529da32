"""Recipes that are changed: what was made by them, and what was changed by hand since."""

import pytest

from izmet.core import commands as do
from izmet.core.commands.recipes import changed_by_hand, found
from izmet.core.commands.repairs import repairs
from izmet.core.document.edit import Build, Custom, Knot, Leg, Recipe, Steady
from izmet.core.document.refusal import Refusal
from tests.core.examples import tied_edit
from tests.core.test_montage import filled


def slow(speed: float) -> Recipe:
    return Recipe(
        id="recipe-1",
        name="Swell of spray",
        before=[Leg(shape=Steady(speed=1))],
        after=[Leg(length=0.4, shape=Steady(speed=speed)), Leg(shape=Steady(speed=1))],
    )


def made_by():
    edit = do.apply(filled(how="inside"), do.KeepRecipe(recipe=slow(0.5)))
    return do.apply(edit, do.ApplyRecipe(recipe="recipe-1", clips=["clip-1", "clip-2", "clip-3"]))


def test_a_name_that_is_there_is_replaced_only_when_asked():
    edit = made_by()
    make = do.MakeRecipe(clip="clip-4", pin="tie", name="swell of Spray ")
    with pytest.raises(Refusal, match="There is a recipe Swell of spray already; 3 clips made by it") as said:
        do.apply(edit, make)
    (repair,) = repairs(edit, make, said.value)
    assert repair.label == "Replace Swell of spray"
    replaced = do.apply(edit, repair.commands[0])
    assert [(each.id, each.name) for each in replaced.recipes] == [("recipe-1", "swell of Spray")]
    assert replaced.recipes[0].after != edit.recipes[0].after
    assert replaced.clips == edit.clips, "clips made by it stay as they are"
    with pytest.raises(Refusal, match="comes along"):
        do.apply(edit, do.MakeRecipe(clip="clip-4", pin="tie", name="Burst out"))


def test_a_changed_recipe_is_applied_again_and_asks_before_it_wipes_what_was_changed_by_hand():
    edit = made_by()
    recipe = found(edit, "recipe-1")
    assert not any(changed_by_hand(clip, recipe) for clip in edit.clips)
    edit = do.apply(edit, do.ChangeTie(clip="clip-1", pin="tie", cue="b-10"))
    assert not changed_by_hand(edit.clip("clip-1"), recipe), "where its tie lands is no change of how it runs"
    index = next(i for i, span in enumerate(edit.clip("clip-2").spans) if span.speed == 0.5)
    edit = do.apply(edit, do.SetSpan(clip="clip-2", span=index, speed=0.25))
    assert changed_by_hand(edit.clip("clip-2"), recipe)

    edit = do.apply(edit, do.KeepRecipe(recipe=slow(0.75)))
    again = do.ApplyRecipe(recipe="recipe-1")
    with pytest.raises(Refusal, match="1 clip was changed by hand since Swell of spray made it") as said:
        do.apply(edit, again)
    some, every = repairs(edit, again, said.value)
    assert (some.label, every.label) == (
        "Only the 2 clips not changed by hand",
        "All 3 clips; what was changed is gone",
    )

    def speeds(after):
        return [{span.speed for span in clip.spans} & {0.25, 0.5, 0.75} for clip in after.clips[:3]]

    assert speeds(do.apply(edit, some.commands[0])) == [{0.75}, {0.25}, {0.75}]
    assert speeds(do.apply(edit, every.commands[0])) == [{0.75}] * 3


@pytest.mark.parametrize(
    "shape",
    [
        Steady(speed=80),
        Build(speed=1, start=0.5, end=80),
        Custom(speed=1, knots=[Knot(at=0, speed=1), Knot(at=1, speed=80)]),
    ],
)
def test_a_recipe_that_would_run_too_fast_for_a_take_is_refused_in_words(shape):
    """Measured from the smooth floor, which is 200 % for half as many distinct pictures."""
    edit = tied_edit([(1.0, 100), (4.0, 400)])
    edit = do.with_(edit, takes=[do.with_(edit.takes[0], distinct="30")])
    recipe = Recipe(id="fast", name="Fast", after=[Leg(length=0.5, of="floor", shape=shape)])
    with pytest.raises(Refusal, match="At 8000% of this take's smooth floor the recipe would run at 16000%"):
        do.apply(do.with_(edit, recipes=[recipe]), do.ApplyRecipe(recipe="fast", clips=["clip-1"]))
