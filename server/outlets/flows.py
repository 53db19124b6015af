"""What is done with outlets, and with the recipes that are for them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.outlets.models import Outlet
from server.recipes import flows as recipes
from server.recipes.models import Recipe
from server.studios.models import Studio
from server.studios.names import unused
from tray_core import RecipeError
from tray_core.outlets import Outlet as CoreOutlet
from tray_core.outlets import Use, check_outlet, propose_recipe
from tray_core.recipe.outlet import ForOutlet

MOST = 200
"""Outlets of a studio."""


@dataclass(frozen=True, slots=True)
class Follower:
    """A recipe that is for an outlet. use: which. changed: the sheet has other rules now than the recipe took over.
    gone: the sheet has no such use any more.
    """

    recipe: Recipe
    use: str
    changed: bool
    gone: bool


def checked(content: Any) -> CoreOutlet:
    """The sheet that `content` describes; Problem (422) names the wrong field."""
    try:
        return check_outlet(content)
    except RecipeError as error:
        field = {"field": error.subject, "expected": error.expected, "found": error.found, "remedy": error.remedy}
        raise Problem(422, "The sheet is not right", str(error), [field]) from error


@transaction.atomic
def create(studio: Studio, content: Any) -> Outlet:
    """Keep a new sheet; its name gets a number where it is taken."""
    core = checked(content)
    Studio.objects.select_for_update(no_key=True).get(pk=studio.pk)
    names = list(studio.outlets.values_list("name", flat=True))
    if len(names) >= MOST:
        raise Problem(409, "Too many outlets", f"Expected {MOST} at most. Delete one that nobody uses.")
    core = core.model_copy(update={"name": unused(core.name, names, 60)})
    made = Outlet.objects.create(studio=studio, name=core.name, content=core.to_json())
    hint(studio.pk, "outlet", made.pk)
    return made


@transaction.atomic
def change(
    outlet: Outlet, user: AbstractBaseUser | None, content: Any, version: int | None = None, was: Any = None
) -> Outlet:
    """Change a sheet; Problem (409) where it was changed meanwhile. Recipes that are for it follow its name.

    version: of the sheet that the change began from; or was: what it said then, as undoing knows it.
    """
    core = checked(content)
    before = checked(was).to_json() if was is not None else None
    outlet = Outlet.objects.select_for_update().get(pk=outlet.pk)
    if outlet.content == core.to_json():
        return outlet
    if outlet.content != before if before is not None else outlet.version != version:
        detail = f"Expected {outlet.name} as you saw it, found version {outlet.version}. Look at both, keep one."
        raise Problem(409, "The sheet was changed meanwhile", detail)
    if Outlet.objects.filter(studio=outlet.studio_id, name=core.name).exclude(pk=outlet.pk).exists():
        wrong = {"field": "name", "expected": "a new name", "found": repr(core.name), "remedy": "Choose another."}
        raise Problem(422, "The name is taken", f"Another outlet is named {core.name} already.", [wrong])
    followers = followers_of(outlet) if core.name != outlet.name else []
    outlet.name, outlet.content, outlet.version = core.name, core.to_json(), outlet.version + 1
    outlet.save()
    for each in followers:
        assert each.recipe.current is not None
        content = each.recipe.current.content
        recipes.change(each.recipe, user, {**content, "outlet": {**content["outlet"], "outlet": core.name}})
    hint(outlet.studio_id, "outlet", outlet.pk)
    return outlet


@transaction.atomic
def delete(outlet: Outlet) -> None:
    """Delete a sheet; recipes keep the rules that they took over."""
    hint(outlet.studio_id, "outlet", outlet.pk)
    outlet.delete()


def followers_of(outlet: Outlet) -> list[Follower]:
    """The recipes that are for an outlet, archived ones left out."""
    core = outlet.core()
    found = Recipe.objects.filter(studio=outlet.studio_id, archived=False).select_related("current")
    made = []
    for recipe in found.filter(current__content__outlet__outlet=outlet.name):
        assert recipe.current is not None
        target = ForOutlet.model_validate(recipe.current.content["outlet"])
        use = core.use(target.use)
        made.append(Follower(recipe, target.use, use is not None and use.rules != target.rules, use is None))
    return made


def use_of(outlet: Outlet, name: str) -> Use:
    """A use by its name; Problem (404) where the sheet has none."""
    use = outlet.core().use(name)
    if use is None:
        raise Problem(404, "Use not found", f"{outlet.name} has no use named {name} any more. Look at its sheet.")
    return use


def propose(outlet: Outlet, user: AbstractBaseUser | None, use: str) -> Recipe:
    """Make a recipe with every station as the sheet's rules want it."""
    return recipes.create(outlet.studio, user, propose_recipe(outlet.core(), use_of(outlet, use)).to_json())


def aim(outlet: Outlet, recipe: Recipe, user: AbstractBaseUser | None, use: str | None, version: int) -> Recipe:
    """Let a recipe be for a use, with its rules as they are now, or for no outlet (None). version: of the recipe."""
    assert recipe.current is not None
    content = {key: value for key, value in recipe.current.content.items() if key != "outlet"}
    if use is not None:
        target = ForOutlet(outlet=outlet.name, use=use, rules=use_of(outlet, use).rules)
        content["outlet"] = target.model_dump(mode="json", exclude_defaults=True)
    changed = recipes.change(recipe, user, content, version)
    hint(outlet.studio_id, "outlet", outlet.pk)
    return changed
