"""What is done with recipes."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from typing import Any, TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Max

from server.http.problems import Problem
from server.live.hub import hint
from server.recipes.models import Part, PartVersion, Recipe, RecipeVersion, with_files_of
from server.studios.models import Studio
from server.studios.names import unused
from tray_core import Recipe as CoreRecipe
from tray_core import check_recipe
from tray_core.marks.checking import check_marks
from tray_core.recipe import RecipeProblems, check_profile, starters


def checked(content: dict[str, Any], studio: int) -> CoreRecipe:
    """The recipe that `content` describes, for a studio to keep; Problem (422) names every wrong field."""
    try:
        recipe = check_recipe(content)
        whole = with_files_of(recipe, studio)
        check_profile(whole)
        check_marks(whole)
    except RecipeProblems as error:
        fields = [
            {"field": each.subject, "expected": each.expected, "found": each.found, "remedy": each.remedy}
            for each in error.problems
        ]
        raise Problem(422, "The recipe is not right", "; ".join(map(str, error.problems)), fields) from error
    if not recipe.title.strip():
        wrong = {"field": "title", "expected": "a title", "found": "nothing", "remedy": "Give the recipe a title."}
        raise Problem(422, "The recipe is not right", "title: expected a title, found nothing.", [wrong])
    return recipe


def drafted(content: dict[str, Any], studio: int) -> CoreRecipe:
    """The recipe that `content` describes, to be computed with at once; Problem as for `checked`."""
    return with_files_of(checked(content, studio), studio)


V = TypeVar("V", RecipeVersion, PartVersion)

SITTING = dt.timedelta(minutes=30)
"""Changes by one person that are no further apart belong to one sitting."""


def _lock(studio: int) -> None:
    """One change of a studio's recipes and parts at a time: a recipe changes its parts, these change other recipes."""
    Studio.objects.select_for_update(no_key=True).get(pk=studio)


@transaction.atomic
def create(studio: Studio, user: AbstractBaseUser | None, content: dict[str, Any]) -> Recipe:
    """A new recipe with its first version."""
    core = checked(content, studio.pk)
    _lock(studio.pk)
    core = core.model_copy(update={"title": unused(core.title, studio.recipes.values_list("title", flat=True), 80)})
    follow_parts(studio, core)
    last = studio.recipes.aggregate(last=Max("position"))["last"]
    recipe = Recipe.objects.create(studio=studio, title=core.title, position=0 if last is None else last + 1)
    _add_version(recipe, user, core)
    return recipe


@transaction.atomic
def change(
    recipe: Recipe, user: AbstractBaseUser | None, content: dict[str, Any], version: int | None = None
) -> Recipe:
    """A new version of a recipe, where anything differs from the newest one.

    version: the number that the change began from; Problem (409) when there is a newer one, which differs.
    """
    core = checked(content, recipe.studio_id)
    _lock(recipe.studio_id)
    recipe = Recipe.objects.select_related("current").get(pk=recipe.pk)
    if recipe.current is None or recipe.current.content != core.to_json():
        if version is not None and recipe.current is not None and recipe.current.number != version:
            raise Problem(
                409,
                "The recipe was changed meanwhile",
                f"Expected version {version} of {recipe.title}, found version {recipe.current.number}. "
                "Look at both, then keep one.",
            )
        _add_version(recipe, user, core)
        follow_parts(recipe.studio, core, user)
    return recipe


def sittings(versions: Iterable[V]) -> list[V]:
    """The last version of every sitting, of versions newest first: changes by one person, one soon after another."""
    found: list[V] = []
    after: V | None = None
    for version in versions:
        if after is None or version.made_by_id != after.made_by_id or after.made - version.made > SITTING:
            found.append(version)
        after = version
    return found


def follow_parts(studio: Studio, core: CoreRecipe, user: AbstractBaseUser | None = None) -> None:
    """Keep the parts that a recipe follows as it says them now: a part that differs is changed, and with it all that
    follow it; one that is not there yet, as in a recipe from elsewhere, is made.
    """
    content = core.to_json()
    for station, name in core.parts.items():
        setting = content[station]
        part, made = Part.objects.get_or_create(
            studio=studio, station=station, name=name, defaults={"setting": setting}
        )
        if made:
            _note(part, user)
        elif part.setting != setting:
            set_part(part, setting, user)


def with_part(part: Part, setting: dict[str, Any]) -> CoreRecipe:
    """A recipe with a setting of a part, to be computed with; Problem (422) where the setting is not right."""
    return drafted({**starters()[0].to_json(), part.station: setting}, part.studio_id)


def _whole(part: Part, setting: dict[str, Any]) -> dict[str, Any]:
    """A setting as recipes that follow the part say it; Problem (422) where it is not right."""
    found: dict[str, Any] = checked({**starters()[0].to_json(), part.station: setting}, part.studio_id).to_json()
    return dict(found.get(part.station, {}))


@transaction.atomic
def set_part(part: Part, setting: dict[str, Any], user: AbstractBaseUser | None, version: int | None = None) -> None:
    """Give a part another setting; every recipe that follows it gets a new version.

    version: the number that the change began from; Problem (409) when there is a newer one.
    """
    setting = _whole(part, setting)
    _lock(part.studio_id)
    part = Part.objects.get(pk=part.pk)
    if part.setting == setting:
        return
    if version is not None and version != (newest := part.newest):
        raise Problem(
            409,
            "The part was changed meanwhile",
            f"Expected version {version} of {part.name}, found version {newest}. Look at it, then change it again.",
        )
    part.setting = setting
    part.save(update_fields=["setting"])
    _note(part, user)
    for recipe in followers(part):
        assert recipe.current is not None
        content = {**recipe.current.content, part.station: setting}
        if recipe.current.content != content:
            _add_version(recipe, user, checked(content, part.studio_id))


def _note(part: Part, user: AbstractBaseUser | None) -> None:
    by = user if user is not None and user.pk else None
    PartVersion.objects.create(part=part, number=part.newest + 1, setting=part.setting, made_by=by)  # type: ignore[misc]


@transaction.atomic
def put_back_part(
    studio: Studio, user: AbstractBaseUser | None, station: str, name: str, setting: dict[str, Any], recipes: list[int]
) -> Part:
    """A part that was deleted, followed again by those of these recipes that still say what it says."""
    part = Part(studio=studio, station=station, name=name, setting=setting)
    part.setting = _whole(part, setting)
    _lock(studio.pk)
    if Part.objects.filter(studio=studio, station=station, name=name).exists():
        raise Problem(409, "The name is taken", f"A part of this station is named {name} by now. Rename that first.")
    part.save()
    _note(part, user)
    for recipe in studio.recipes.select_related("current").filter(pk__in=recipes):
        content = recipe.current.content if recipe.current is not None else {}
        if content.get(station) == part.setting and station not in content.get("parts", {}):
            parts = {**content.get("parts", {}), station: name}
            _add_version(recipe, user, checked({**content, "parts": parts}, studio.pk))
    return part


def followers(part: Part) -> list[Recipe]:
    """The recipes that follow a part, archived ones too."""
    found = part.studio.recipes.select_related("current")
    return list(found.filter(current__content__parts__contains={part.station: part.name}))


@transaction.atomic
def save_part(recipe: Recipe, user: AbstractBaseUser | None, station: str, name: str) -> Part:
    """Save a station's setting of `recipe` under a name, which the recipe follows from now on."""
    _lock(recipe.studio_id)
    recipe = Recipe.objects.select_related("current").get(pk=recipe.pk)
    assert recipe.current is not None
    content = recipe.current.content
    if station not in content or station in ("format", "version", "title", "shelf", "note", "parts"):
        raise Problem(422, "Nothing to save", f"{station}: expected a station that does something, found none.")
    if Part.objects.filter(studio=recipe.studio_id, station=station, name=name).exists():
        wrong = {"field": "name", "expected": "a new name", "found": repr(name), "remedy": "Choose another."}
        raise Problem(422, "The name is taken", f"A part of this station is named {name} already.", [wrong])
    change(recipe, user, {**content, "parts": {**content.get("parts", {}), station: name}})
    return Part.objects.get(studio=recipe.studio_id, station=station, name=name)


@transaction.atomic
def rename_part(part: Part, user: AbstractBaseUser | None, name: str) -> None:
    """Give a part another name; the recipes that follow it go on following it."""
    _lock(part.studio_id)
    if Part.objects.filter(studio=part.studio_id, station=part.station, name=name).exclude(pk=part.pk).exists():
        wrong = {"field": "name", "expected": "a new name", "found": repr(name), "remedy": "Choose another."}
        raise Problem(422, "The name is taken", f"A part of this station is named {name} already.", [wrong])
    recipes = followers(part)
    part.name = name
    part.save(update_fields=["name"])
    for recipe in recipes:
        assert recipe.current is not None
        content = recipe.current.content
        parts = {**content["parts"], part.station: name}
        _add_version(recipe, user, checked({**content, "parts": parts}, part.studio_id))


@transaction.atomic
def remove_part(part: Part, user: AbstractBaseUser | None) -> None:
    """Take a part away; recipes that followed it keep its setting as their own."""
    _lock(part.studio_id)
    for recipe in followers(part):
        assert recipe.current is not None
        parts = {station: name for station, name in recipe.current.content["parts"].items() if station != part.station}
        content = {key: value for key, value in recipe.current.content.items() if key != "parts"}
        kept = {**content, "parts": parts} if parts else content
        _add_version(recipe, user, checked(kept, part.studio_id))
    part.delete()


@transaction.atomic
def archive(recipe: Recipe, archived: bool) -> None:
    """Archive a recipe, or restore it; its versions and what was made by it stay."""
    _lock(recipe.studio_id)
    recipe.archived = archived
    recipe.save(update_fields=["archived"])
    hint(recipe.studio_id, "recipe", recipe.pk)


@transaction.atomic
def order(studio: Studio, numbers: list[int]) -> None:
    """Put a studio's recipes into an order; those not named follow as they were."""
    _lock(studio.pk)
    recipes = {recipe.pk: recipe for recipe in studio.recipes.all()}
    wanted = [number for number in dict.fromkeys(numbers) if number in recipes]
    wanted += [number for number in recipes if number not in set(wanted)]
    for place, number in enumerate(wanted):
        recipes[number].position = place
    Recipe.objects.bulk_update(recipes.values(), ["position"])
    hint(studio.pk, "recipe", 0)


def _add_version(recipe: Recipe, user: AbstractBaseUser | None, core: CoreRecipe) -> None:
    last = recipe.versions.aggregate(last=Max("number"))["last"] or 0
    by = user if user is not None and user.pk else None
    recipe.current = RecipeVersion.objects.create(
        recipe=recipe,
        studio_id=recipe.studio_id,
        number=last + 1,
        content=core.to_json(),
        made_by=by,  # type: ignore[misc]
    )
    recipe.title = core.title
    recipe.save(update_fields=["current", "title"])
    hint(recipe.studio_id, "recipe", recipe.pk)
