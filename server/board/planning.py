"""The board: every photo of a tray by every lit recipe, as planned, with what was made of it so far."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from django.db import connection
from django.db.models import QuerySet

from server.board.names import OfPhoto, with_names
from server.board.plans import ROW, Asked, Known, Planned, plan, plan_alone
from server.board.states import Wish, cell_state, needed
from server.framings.choices import framings_of, strengths_of
from server.photos.models import Photo
from server.recipes.models import Recipe, counted
from server.runs.models import Rendition
from server.trays.models import Tray
from tray_core import Plan
from tray_core import Recipe as CoreRecipe
from tray_core.plan import Names, Number
from tray_core.plan.weight import Forecast

Lit = list[tuple[Recipe, CoreRecipe]]


@dataclass(frozen=True, slots=True)
class Cell:
    """One photo by one recipe: its renditions as planned, and the newest that were made of each, in step.

    state: planned, outline, eye, word, asking, excluded, done, kept, outdated, failed, waiting or making. asked:
    whether an unfinished run waits for somebody to answer. prints, forecasts: the renditions' fingerprints, and what
    they will weigh, in step with the plans.
    """

    photo: Photo
    recipe: Recipe
    plans: list[Plan]
    prints: list[str]
    forecasts: list[Forecast]
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


_PLAIN = "row_number() OVER (ORDER BY place.position, place.id) AS n"
_COUNTED = (
    *("place.photo_id", _PLAIN),
    *(
        f"count(*) FILTER (WHERE photo.state = 'ready') OVER ({kind} ORDER BY place.position, place.id)"
        for kind in ("PARTITION BY photo.folder", "PARTITION BY sign(photo.width - photo.height)", "")
    ),
)


def numbers(tray: Tray, recipes: Lit, photos: list[int] | None) -> dict[int, Number]:
    """The photos of a tray, or some of them, with their numbers in it, in order.

    Those of its folder, its shape and its recipe are counted only where a recipe's names tell them.
    """
    plain = all(core.name.count == "run" for _, core in recipes)
    columns = ("place.photo_id", _PLAIN) if plain else _COUNTED
    joined = "" if plain else "JOIN photos_photo AS photo ON photo.id = place.photo_id"
    with connection.cursor() as cursor:
        # Numbered first and picked from then, which Django's own window functions do the other way round.
        cursor.execute(
            f"""
            SELECT * FROM (
                SELECT {", ".join(columns)} FROM trays_trayphoto AS place {joined} WHERE place.tray_id = %s
            ) AS numbered WHERE %s OR photo_id = ANY(%s) ORDER BY n
            """,
            [tray.pk, photos is None, photos or []],
        )
        rows = cursor.fetchall()
    return {photo: Number(n, *(rest or (n, n, n))) for photo, n, *rest in rows}


def newest(rows: QuerySet[Rendition]) -> QuerySet[Rendition]:
    """Of some renditions those that were made last of each part."""
    return rows.order_by("photo_id", "recipe_id", "part", "-id").distinct("photo_id", "recipe_id", "part")


def planned(
    tray: Tray,
    recipes: Lit,
    photos: list[int] | None = None,
    number: dict[int, Number] | None = None,
    names: Mapping[int, OfPhoto] | None = None,
) -> Iterator[Row]:
    """Plan a tray; names are unique over all of it, as they will be when it is made.

    photos: only these of it, by number and in that order; each cell is named as if it were alone. number: the photos'
    places, where they are known. names: what renditions of `photos` are called in the whole tray, instead; without a
    name are those of which it is not told.
    """
    number = numbers(tray, recipes, photos) if number is None else number
    wanted = [photo for photo in (number if photos is None else photos) if photo in number]
    found = Photo.objects.filter(places__tray=tray).select_related("root").annotate(row=ROW)
    rows = Rendition.objects.filter(run__tray=tray)
    exclusions = tray.exclusions.all()
    if photos is not None:
        found, rows = found.filter(pk__in=wanted), rows.filter(photo_id__in=wanted)
        exclusions = exclusions.filter(photo_id__in=wanted)
    by_number = {photo.pk: photo for photo in found}
    latest: dict[tuple[int, int], dict[int, Rendition]] = defaultdict(dict)
    for rendition in newest(rows).defer("layout"):
        latest[rendition.photo_id, rendition.recipe_id][rendition.part] = rendition
    excluded = set(exclusions.values_list("photo_id", "recipe_id"))
    framings = framings_of(None if photos is None else wanted, tray)
    strengths = strengths_of(None if photos is None else wanted, tray)
    together = Names() if photos is None else None
    for photo_id in wanted:
        if photo_id not in by_number:
            continue  # taken out this moment
        photo = by_number[photo_id]
        cells: list[Cell] = []
        if photo.state == Photo.State.READY:
            known = Known(photo, photo.row)
            for recipe, core in recipes:
                strength = strengths.get((photo_id, recipe.pk))
                asked = Asked(recipe, core, number[photo_id], tray.name, tuple(framings.get(photo_id, ())), strength)
                meant = plan_alone(known, asked) if together is None else plan(known, asked, together)
                if names is not None:
                    plans = with_names(meant.plans, recipe.pk, names.get(photo_id, {}))
                    meant = meant._replace(plans=plans)
                made = latest.get((photo_id, recipe.pk), {})
                cells.append(_cell(photo, recipe, meant, made, (photo_id, recipe.pk) in excluded))
        yield Row(photo, cells)


def renamed(row: Row, names: OfPhoto) -> Row:
    """A row that was planned alone with the names that its renditions got in the whole tray; without the others'."""
    cells = [replace(cell, plans=with_names(cell.plans, cell.recipe.pk, names)) for cell in row.cells]
    return stated(Row(row.photo, cells))


def stated(row: Row) -> Row:
    """A row with the states that its cells are in by their plans and renditions, as these are now."""
    return Row(
        row.photo, [replace(cell, state=_state(cell, cell.renditions, cell.state == "excluded")) for cell in row.cells]
    )


def _cell(photo: Photo, recipe: Recipe, meant: Planned, made: dict[int, Rendition], excluded: bool) -> Cell:
    renditions = [made[plan.part] for plan in meant.plans if plan.part in made]
    asked = any(rendition.state == Rendition.State.ASKING for rendition in renditions)
    return Cell(photo, recipe, *meant, _state(meant, renditions, excluded), renditions, asked)


def _state(meant: Planned | Cell, renditions: list[Rendition], excluded: bool) -> str:
    made = {rendition.part: rendition for rendition in renditions}
    wishes = [Wish(each, plan.name, plan.folder) for each, plan in zip(meant.prints, meant.plans, strict=True)]
    return cell_state(wishes, needed(meant.plans), excluded, made)
