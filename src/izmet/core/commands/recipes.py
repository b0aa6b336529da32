"""Commands about recipes: keeping, changing and applying them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from izmet.core.arrange.accents import kept_of, laid_on, without_ties
from izmet.core.arrange.recipes import SHIPPED, made, recipe_of
from izmet.core.commands.common import EditCommand, is_cut, new_ids, with_, with_clips
from izmet.core.commands.keeping import in_slots
from izmet.core.document.accents import TieOf
from izmet.core.document.edit import Clip, Edit, Recipe
from izmet.core.document.limits import MOST_CLIPS
from izmet.core.document.refusal import Place, Refusal
from izmet.core.document.values import Id, Name
from izmet.core.document.words import counted

NAME_TAKEN = "name-taken"
CHANGED_BY_HAND = "changed-by-hand"
"""Codes of refusals that a person can overrule."""


class KeepRecipe(EditCommand):
    """Keep a recipe in the edit, or keep it anew under its id. Clips made by it stay as they are."""

    do: Literal["keep-recipe"] = "keep-recipe"
    said: ClassVar[str] = "Keep a recipe"
    recipe: Recipe

    def on(self, edit: Edit) -> Edit:
        ids = [recipe.id for recipe in edit.recipes]
        if self.recipe.id not in ids:
            return with_(edit, recipes=[*edit.recipes, self.recipe])
        return with_(
            edit,
            recipes=[
                self.recipe if id == self.recipe.id else old
                for id, old in zip(ids, edit.recipes, strict=True)
            ],
        )


class MakeRecipe(EditCommand):
    """Make a recipe of a clip's retiming around one of its ties."""

    do: Literal["make-recipe"] = "make-recipe"
    said: ClassVar[str] = "Make a recipe"
    clip: Id
    pin: Id
    name: Name
    unit: Literal["frames", "seconds", "beats"] = "seconds"
    replace: bool = False

    def on(self, edit: Edit) -> Edit:
        name = self.name.strip()
        old = next((each for each in edit.recipes if _alike(each.name, name)), None)
        if old is not None and not self.replace:
            raise Refusal(
                NAME_TAKEN,
                f"There is a recipe {old.name} already; {counted(_made_by(edit, old), 'clip')} made by it.",
                where=old.name,
                remedy="Replace it, or give this one another name.",
            )
        if any(_alike(each.name, name) for each in SHIPPED):
            raise Refusal(
                NAME_TAKEN,
                f"{name} is the name of a recipe that comes along.",
                where=name,
                remedy="Give yours another name.",
            )
        taken = {recipe.id for recipe in (*edit.recipes, *SHIPPED)}
        free = next(each for i in range(1, len(taken) + 2) if (each := f"recipe-{i}") not in taken)
        id = old.id if old else free
        clip = edit.clip(self.clip)
        recipe = recipe_of(edit, clip, self.pin, id, name, self.unit)
        recipe = with_(recipe, accents=tuple(kept_of(edit, clip, self.pin)))
        return KeepRecipe(recipe=recipe).on(edit)


class RemoveRecipe(EditCommand):
    """Delete a recipe. Clips made by it stay as they are."""

    do: Literal["remove-recipe"] = "remove-recipe"
    said: ClassVar[str] = "Delete a recipe"
    recipe: Id

    def on(self, edit: Edit) -> Edit:
        if all(recipe.id != self.recipe for recipe in edit.recipes):
            raise _none(self.recipe)
        clips = [clip if clip.recipe != self.recipe else with_(clip, recipe=None) for clip in edit.clips]
        left = [recipe for recipe in edit.recipes if recipe.id != self.recipe]
        return with_(edit, recipes=left, clips=clips)


class ApplyRecipe(EditCommand):
    """Retime clips by a recipe: those named, or all that were made by it.

    It is laid around the tie ``pin``, in clips that have none of that name around their first tie.
    What was changed by hand since the recipe made a clip is done away with only to ``overwrite`` it.
    """

    do: Literal["apply-recipe"] = "apply-recipe"
    said: ClassVar[str] = "Retime by a recipe"
    recipe: Id
    clips: Annotated[tuple[Id, ...], Field(max_length=MOST_CLIPS)] = ()
    pin: Id | None = None
    overwrite: bool = False

    def asks_first(self, edit: Edit) -> bool:
        return len(self.clips) != 1 or is_cut(edit, self.clips[0])

    def on(self, edit: Edit) -> Edit:
        recipe = found(edit, self.recipe)
        named = set(self.clips) or {clip.id for clip in edit.clips if clip.recipe == recipe.id}
        for id in self.clips:
            edit.clip(id)
        if not named:
            raise Refusal("no-clips", "No clip was made by this recipe.", recipe.name, "Choose clips first.")

        changed = [clip for clip in edit.clips if clip.id in named and changed_by_hand(clip, recipe)]
        if changed and not self.overwrite:
            those = "was" if len(changed) == 1 else "were"
            raise Refusal(
                CHANGED_BY_HAND,
                f"{counted(len(changed), 'clip')} {those} changed by hand since {recipe.name} made "
                f"{'it' if len(changed) == 1 else 'them'}.",
                where=Place.of(changed[0].id),
                remedy="Leave them out, or do away with what was changed.",
            )

        def middle(clip: Clip) -> str:
            ties = [pin.id for pin in clip.pins if pin.is_tie]
            chosen = self.pin if self.pin in ties else next(iter(ties), None)
            return chosen or next(pin.id for pin in clip.pins if pin.is_fixed)

        around = {clip.id: middle(clip) for clip in edit.clips if clip.id in named}
        retimed = (
            made(edit, clip, around[clip.id], recipe) if clip.id in around else clip for clip in edit.clips
        )
        laid = in_slots(edit, with_clips(edit, retimed))
        if recipe.accents:
            ties = tuple(TieOf(clip=clip, pin=pin) for clip, pin in around.items())
            bare = without_ties(laid.accents, ties)
            laid = laid.model_copy(
                update={"accents": laid_on(bare, ties, recipe.accents, new_ids("accent", bare))}
            )
        # Only now it is known how each runs, made longer for its slot where that was needed.
        return with_clips(
            laid, (with_(clip, made=clip.run) if clip.id in named else clip for clip in laid.clips)
        )


def changed_by_hand(clip: Clip, recipe: Recipe) -> bool:
    """Whether this recipe made a clip, and it runs otherwise by now."""
    return clip.recipe == recipe.id and clip.changed_by_hand


def _alike(one: str, other: str) -> bool:
    return one.strip().casefold() == other.strip().casefold()


def _made_by(edit: Edit, recipe: Recipe) -> int:
    return sum(1 for clip in edit.clips if clip.recipe == recipe.id)


def found(edit: Edit, id: str) -> Recipe:
    """The recipe of the edit, or of those that come with the app. Raises Refusal when there is none."""
    for recipe in (*edit.recipes, *SHIPPED):
        if recipe.id == id:
            return recipe
    raise _none(id)


def _none(id: str) -> Refusal:
    return Refusal("no-such-recipe", f"There is no recipe {id}.", where=id, remedy="Reload the edit.")
