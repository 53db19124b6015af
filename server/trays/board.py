"""The board: every photo of a tray by every lit recipe, as planned, with what was made of it so far."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from server.recipes.models import Recipe
from server.runs.models import Rendition
from server.trays.models import Photo, Tray
from tray_core import Plan, plan_all
from tray_core import Recipe as CoreRecipe
from tray_core.fingerprint import fingerprint


@dataclass(frozen=True, slots=True)
class Cell:
    """One photo by one recipe. state: planned, excluded, done, outdated, or an open or failed rendition's."""

    photo: Photo
    recipe: Recipe
    plan: Plan
    state: str
    rendition: Rendition | None


@dataclass(frozen=True, slots=True)
class Row:
    """A photo with its cells; none while it is not read or cannot be."""

    photo: Photo
    cells: list[Cell]


def lit(tray: Tray) -> list[tuple[Recipe, CoreRecipe]]:
    """The recipes lit for a tray, in their order, each with what it says now."""
    recipes = tray.recipes.filter(archived=False).select_related("current")
    return [(recipe, recipe.current.core()) for recipe in recipes if recipe.current is not None]


def board(tray: Tray, recipes: list[tuple[Recipe, CoreRecipe]]) -> Iterator[Row]:
    """Plan the whole tray; names are unique over all of it, as they will be when it is made."""
    photos = [place.photo for place in tray.places.select_related("photo", "photo__root")]
    excluded = set(tray.exclusions.values_list("photo_id", "recipe_id"))
    latest = {
        (rendition.photo_id, rendition.recipe_id): rendition
        for rendition in Rendition.objects.filter(run__tray=tray)
        .order_by("photo_id", "recipe_id", "-id")
        .distinct("photo_id", "recipe_id")
    }
    facts = [photo.facts() if photo.state == Photo.State.READY else None for photo in photos]
    plans = plan_all(facts, [core for _, core in recipes], tray.name)
    for photo, row in zip(photos, plans, strict=True):
        cells = []
        for (recipe, _), plan in zip(recipes, row, strict=False):
            rendition = latest.get((photo.pk, recipe.pk))
            state = "excluded" if (photo.pk, recipe.pk) in excluded else state_of(photo, plan, rendition)
            cells.append(Cell(photo, recipe, plan, state, rendition))
        yield Row(photo, cells)


def state_of(photo: Photo, plan: Plan, rendition: Rendition | None) -> str:
    """planned, waiting, making, done, outdated, failed or kept."""
    if rendition is None or rendition.state == Rendition.State.STOPPED:
        return "planned"
    if rendition.state in (*Rendition.OPEN, Rendition.State.FAILED):
        return rendition.state
    same = rendition.fingerprint == fingerprint(photo.digest, plan.recipe)
    where = (rendition.name, rendition.folder) == (plan.name, plan.folder)
    if not (same and where):
        return "outdated"
    return "done" if rendition.state == Rendition.State.MADE else "kept"
