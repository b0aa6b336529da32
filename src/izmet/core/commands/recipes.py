"""Commands about recipes: keeping, changing and applying them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.arrange.recipes import SHIPPED, made, recipe_of
from izmet.core.commands.parts import Step, with_, with_clips
from izmet.core.edit import Clip, Edit, Id, Recipe
from izmet.core.limits import MOST_CLIPS
from izmet.core.refusal import Refusal


class KeepRecipe(Step):
    """Keep a recipe in the edit, or keep it anew under its id. Clips made by it stay as they are."""

    do: Literal["keep-recipe"] = "keep-recipe"
    recipe: Recipe

    def on(self, edit: Edit) -> Edit:
        others = [recipe for recipe in edit.recipes if recipe.id != self.recipe.id]
        return with_(edit, recipes=[*others, self.recipe])


class MakeRecipe(Step):
    """Make a recipe of a clip's retiming around one of its ties."""

    do: Literal["make-recipe"] = "make-recipe"
    clip: Id
    pin: Id
    name: Annotated[str, Field(min_length=1, max_length=60)]
    unit: Literal["frames", "seconds", "beats"] = "seconds"

    def on(self, edit: Edit) -> Edit:
        taken = {recipe.id for recipe in (*edit.recipes, *SHIPPED)}
        id = next(name for i in range(1, len(taken) + 2) if (name := f"recipe-{i}") not in taken)
        recipe = recipe_of(edit, edit.clip(self.clip), self.pin, id, self.name, self.unit)
        return with_(edit, recipes=[*edit.recipes, recipe])


class RemoveRecipe(Step):
    """Delete a recipe. Clips made by it stay as they are."""

    do: Literal["remove-recipe"] = "remove-recipe"
    recipe: Id

    def on(self, edit: Edit) -> Edit:
        if all(recipe.id != self.recipe for recipe in edit.recipes):
            raise _none(self.recipe)
        clips = [clip if clip.recipe != self.recipe else with_(clip, recipe=None) for clip in edit.clips]
        left = [recipe for recipe in edit.recipes if recipe.id != self.recipe]
        return with_(edit, recipes=left, clips=clips)


class ApplyRecipe(Step):
    """Retime clips by a recipe: those named, or all that were made by it.

    It is laid around the tie ``pin``, in clips that have none of that name around their first tie.
    """

    do: Literal["apply-recipe"] = "apply-recipe"
    keeps: ClassVar[bool] = True
    asks: ClassVar[bool] = True
    recipe: Id
    clips: Annotated[tuple[Id, ...], Field(max_length=MOST_CLIPS)] = ()
    pin: Id | None = None

    def on(self, edit: Edit) -> Edit:
        recipe = found(edit, self.recipe)
        named = set(self.clips) or {clip.id for clip in edit.clips if clip.recipe == recipe.id}
        for id in self.clips:
            edit.clip(id)
        if not named:
            raise Refusal("no-clips", "No clip was made by this recipe.", recipe.name, "Choose clips first.")

        def retimed(clip: Clip) -> Clip:
            if clip.id not in named:
                return clip
            ties = [pin.id for pin in clip.pins if pin.is_tie]
            middle = self.pin if self.pin in ties else next(iter(ties), None)
            return made(edit, clip, middle or next(pin.id for pin in clip.pins if pin.is_fixed), recipe)

        return with_clips(edit, map(retimed, edit.clips))


def found(edit: Edit, id: str) -> Recipe:
    """The recipe of the edit, or of those that come with the app. Raises Refusal when there is none."""
    for recipe in (*edit.recipes, *SHIPPED):
        if recipe.id == id:
            return recipe
    raise _none(id)


def _none(id: str) -> Refusal:
    return Refusal("no-such-recipe", f"There is no recipe {id}.", where=id, remedy="Reload the edit.")
