"""The board: every photo of a tray by every lit recipe, as planned, with what was made of it so far."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from django.db import connection

from server.recipes.models import Recipe, counted
from server.runs.models import Rendition
from server.trays.models import Framing, Photo, Sharpness, Tray
from server.trays.names import Given, kept_names, stamp, with_name
from tray_core import Plan, plan_renditions
from tray_core import Recipe as CoreRecipe
from tray_core.fingerprint import fingerprint
from tray_core.plan import Framing as CoreFraming
from tray_core.plan import Names

SMALL = 1000
"""Photos of a tray that is planned whole even for one row of it."""

Lit = list[tuple[Recipe, CoreRecipe]]


@dataclass(frozen=True, slots=True)
class Cell:
    """One photo by one recipe: its renditions as planned, and the newest that were made of each, in step.

    state: planned, eye, excluded, done, kept, outdated, failed, waiting or making. asked: whether an
    unfinished run waits for somebody to place the crop.
    """

    photo: Photo
    recipe: Recipe
    plans: list[Plan]
    state: str
    renditions: list[Rendition]
    asked: bool = False


@dataclass(frozen=True, slots=True)
class Row:
    """A photo with its cells; none while it is not read or cannot be."""

    photo: Photo
    cells: list[Cell]


def lit(tray: Tray) -> Lit:
    """The recipes lit for a tray, in the tray's own order, each with what it says now."""
    recipes = list(counted(tray.recipes.filter(archived=False)))
    place = {number: i for i, number in enumerate(tray.order)}
    recipes.sort(key=lambda recipe: place.get(recipe.pk, len(place)))
    return [(recipe, recipe.current.core()) for recipe in recipes if recipe.current is not None]


def numbers(tray: Tray, photos: list[int] | None) -> dict[int, int]:
    """The photos of a tray, or some of them, with their places in it, from 1: a photo's number in a run."""
    if photos is None:
        return {photo: n for n, photo in enumerate(tray.places.values_list("photo_id", flat=True), 1)}
    with connection.cursor() as cursor:
        # Numbered first and picked from then, which Django's own window functions do the other way round.
        cursor.execute(
            """
            SELECT photo_id, n FROM (
                SELECT photo_id, row_number() OVER (ORDER BY position, id) AS n FROM trays_trayphoto WHERE tray_id = %s
            ) AS numbered WHERE photo_id = ANY(%s)
            """,
            [tray.pk, photos],
        )
        return dict(cursor.fetchall())


def _names_known(tray: Tray, recipes: Lit, whole: bool) -> tuple[object, Given | None]:
    """What the tray's names depend on, and the names if they are known; those of a small tray are made known."""
    small = not whole and tray.places.count() <= SMALL
    if not (whole or small or kept_names.has(tray.pk)):
        return None, None
    mark = stamp(tray, [recipe.current_id for recipe, _ in recipes])
    given = kept_names.get(tray.pk, mark)
    if given is None and small:
        for _ in board(tray, recipes):
            pass
        given = kept_names.get(tray.pk, mark)
    return mark, given


def framings_of(photos: Iterable[int] | None, tray: Tray) -> dict[int, list[CoreFraming]]:
    """The framings of some photos, or of all of a tray, those chosen last first."""
    found = Framing.objects.filter(photo__places__tray=tray)
    if photos is not None:
        found = found.filter(photo_id__in=photos)
    made: dict[int, list[CoreFraming]] = defaultdict(list)
    for framing in found:
        made[framing.photo_id].append(framing.core())
    return made


def strengths_of(photos: Iterable[int] | None, tray: Tray) -> dict[tuple[int, int], int]:
    """How strongly some photos of a tray, or all, are sharpened on their own: by photo and recipe."""
    found = Sharpness.objects.filter(photo__places__tray=tray)
    if photos is not None:
        found = found.filter(photo_id__in=photos)
    return {(photo, recipe): strength for photo, recipe, strength in found.values_list("photo", "recipe", "strength")}


def board(tray: Tray, recipes: Lit, photos: list[int] | None = None) -> Iterator[Row]:
    """Plan a tray; names are unique over all of it, as they will be when it is made.

    photos: only these of it, by number and in that order. In a large tray they go without names until somebody
    planned the whole.
    """
    mark, given = _names_known(tray, recipes, whole=photos is None)
    number = numbers(tray, photos)
    wanted = [photo for photo in (number if photos is None else photos) if photo in number]
    found = Photo.objects.filter(places__tray=tray).select_related("root")
    rows = Rendition.objects.filter(run__tray=tray)
    exclusions = tray.exclusions.all()
    if photos is not None:
        found, rows = found.filter(pk__in=wanted), rows.filter(photo_id__in=wanted)
        exclusions = exclusions.filter(photo_id__in=wanted)
    by_number = {photo.pk: photo for photo in found}
    latest: dict[tuple[int, int], dict[int, Rendition]] = defaultdict(dict)
    newest = rows.order_by("photo_id", "recipe_id", "part", "-id").distinct("photo_id", "recipe_id", "part")
    for rendition in newest:
        latest[rendition.photo_id, rendition.recipe_id][rendition.part] = rendition
    excluded = set(exclusions.values_list("photo_id", "recipe_id"))
    framings = framings_of(None if photos is None else wanted, tray)
    strengths = strengths_of(None if photos is None else wanted, tray)
    names = Names() if photos is None else None
    named: Given = {}
    for photo_id in wanted:
        photo = by_number[photo_id]
        cells: list[Cell] = []
        if photo.state == Photo.State.READY:
            facts, chosen = photo.facts(), framings.get(photo_id, ())
            for recipe, core in recipes:
                strength = strengths.get((photo_id, recipe.pk))
                plans = plan_renditions(facts, core, number[photo_id], names, tray.name, chosen, recipe.pk, strength)
                if names is not None:
                    for plan in plans:
                        numbered = any(warning.code == "same-name" for warning in plan.warnings)
                        named[photo_id, recipe.pk, plan.part] = plan.folder, plan.name, numbered
                elif given is not None:
                    plans = [with_name(plan, given.get((photo_id, recipe.pk, plan.part))) for plan in plans]
                made = latest.get((photo_id, recipe.pk), {})
                cells.append(_cell(photo, recipe, plans, made, (photo_id, recipe.pk) in excluded))
        yield Row(photo, cells)
    if names is not None:
        kept_names.keep(tray.pk, mark, named)


def _cell(photo: Photo, recipe: Recipe, plans: list[Plan], made: dict[int, Rendition], excluded: bool) -> Cell:
    renditions = [made[plan.part] for plan in plans if plan.part in made]
    asked = any(rendition.state == Rendition.State.ASKING for rendition in renditions)
    states = {state_of(photo, plan, made.get(plan.part)) for plan in plans}
    # The one that most needs to be known speaks for all parts.
    state = next(each for each in _LOUDEST if each in states)
    if excluded:
        state = "excluded"
    elif plans[0].layout.asks and state in ("planned", "outdated"):
        state = "eye"
    return Cell(photo, recipe, plans, state, renditions, asked)


_LOUDEST = ("failed", "making", "waiting", "outdated", "planned", "kept", "done")


def state_of(photo: Photo, plan: Plan, rendition: Rendition | None) -> str:
    """planned, waiting, making, done, outdated, failed or kept. Without names, places are not compared."""
    if rendition is None or rendition.state in (Rendition.State.STOPPED, Rendition.State.ASKING):
        return "planned"
    if rendition.state in (*Rendition.OPEN, Rendition.State.FAILED):
        return rendition.state
    if rendition.lost:
        return "outdated"
    same = rendition.fingerprint == fingerprint(photo.digest, plan)
    where = not plan.name or (rendition.name, rendition.folder) == (plan.name, plan.folder)
    if not (same and where):
        return "outdated"
    return "done" if rendition.state == Rendition.State.MADE else "kept"
