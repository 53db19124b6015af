"""What is done with trays and photos."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.studios.models import Studio
from server.studios.names import unused
from server.trays.models import Exclusion, TakenOut, Tray, TrayPhoto


@transaction.atomic
def create_tray(studio: Studio, name: str) -> Tray:
    """An empty tray; the recipes that were lit last are lit again, or all where there was no tray yet."""
    name = name.strip()[:120]
    if not name:
        raise Problem(422, "The tray has no name", "name: expected a name, found nothing. Type one.")
    name = unused(name, studio.trays.values_list("name", flat=True), 120)
    last = studio.trays.order_by("-seen").first()
    recipes = last.recipes.filter(archived=False) if last else studio.recipes.filter(archived=False)
    tray = Tray.objects.create(studio=studio, name=name, order=last.order if last else [])
    tray.recipes.set(recipes)
    hint(studio.pk, "tray", tray.pk)
    return tray


@transaction.atomic
def include(tray: Tray, cells: Iterable[tuple[int, int]], included: bool) -> None:
    """Take cells (photo, recipe) into what is made, or leave them out."""
    photos = set(tray.places.values_list("photo_id", flat=True))
    recipes = set(tray.recipes.values_list("pk", flat=True))
    wanted = [(photo, recipe) for photo, recipe in cells if photo in photos and recipe in recipes]
    if included:
        by_recipe: dict[int, list[int]] = {}
        for photo, recipe in wanted:
            by_recipe.setdefault(recipe, []).append(photo)
        for recipe, found in by_recipe.items():
            tray.exclusions.filter(recipe_id=recipe, photo_id__in=found).delete()
    else:
        rows = (Exclusion(tray=tray, photo_id=photo, recipe_id=recipe) for photo, recipe in wanted)
        Exclusion.objects.bulk_create(rows, ignore_conflicts=True, batch_size=2000)
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def light(tray: Tray, recipes: Iterable[int]) -> None:
    """Light exactly these recipes for the tray, in this order."""
    order = list(dict.fromkeys(recipes))
    tray.recipes.set(tray.studio.recipes.filter(pk__in=order, archived=False))
    tray.order = order
    tray.save(update_fields=["order"])
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def change_tray(tray: Tray, name: str | None = None, archived: bool | None = None) -> None:
    """Rename a tray, archive it or restore it; nothing that was made of it is touched."""
    if name is not None:
        if not name.strip():
            raise Problem(422, "The tray has no name", "name: expected a name, found nothing. Type one.")
        others = tray.studio.trays.exclude(pk=tray.pk).values_list("name", flat=True)
        tray.name = unused(name.strip(), others, 120)
    if archived is not None:
        tray.archived = archived
    tray.save(update_fields=["name", "archived"])
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def take_out(tray: Tray, photos: Iterable[int]) -> list[tuple[int, int]]:
    """Take photos out of a tray; their files and what was made of them stay. Returns (photo, place) to put back."""
    places = tray.places.filter(photo_id__in=list(photos))
    found = list(places.values_list("photo_id", "position"))
    places.delete()
    TakenOut.objects.bulk_create(
        (TakenOut(tray=tray, photo_id=photo) for photo, _ in found), ignore_conflicts=True, batch_size=1000
    )
    hint(tray.studio_id, "tray", tray.pk)
    return found


@transaction.atomic
def put_back(tray: Tray, places: list[tuple[int, int]]) -> None:
    """Undo `take_out`."""
    known = set(tray.studio.photos.filter(pk__in=[photo for photo, _ in places]).values_list("pk", flat=True))
    rows = (TrayPhoto(tray=tray, photo_id=photo, position=place) for photo, place in places if photo in known)
    TrayPhoto.objects.bulk_create(rows, ignore_conflicts=True, batch_size=1000)
    tray.taken_out.filter(photo_id__in=known).delete()
    hint(tray.studio_id, "tray", tray.pk)


@transaction.atomic
def put_in_order(tray: Tray, photos: list[int]) -> list[int]:
    """Give some photos of a tray this order among themselves, in the places that they have together.

    Returns the order that they had, to go back to.
    """
    Tray.objects.select_for_update(no_key=True).get(pk=tray.pk)
    rows = list(tray.places.filter(photo_id__in=photos))
    by_photo = {row.photo_id: row for row in rows}
    wanted = [by_photo[photo] for photo in dict.fromkeys(photos) if photo in by_photo]
    if len(wanted) < len(photos):
        raise Problem(409, "A photo is gone", "A photo was taken out of the tray meanwhile. Look at the board again.")
    before = [row.photo_id for row in rows]
    moved = []
    for row, position in zip(wanted, _apart(tray, [row.position for row in rows]), strict=True):
        if row.position != position:
            row.position = position
            moved.append(row)
    TrayPhoto.objects.bulk_update(moved, ["position"], batch_size=1000)
    hint(tray.studio_id, "tray", tray.pk)
    return before


def _apart(tray: Tray, positions: list[int]) -> list[int]:
    """The same positions; where two photos share one, their order cannot be told by it: all of the tray is numbered."""
    if len(set(positions)) == len(positions):
        return positions
    rows = list(tray.places.all())
    places = {row.position: [] for row in rows}  # type: dict[int, list[int]]
    for place, row in enumerate(rows):
        places[row.position].append(place)
        row.position = place
    TrayPhoto.objects.bulk_update(rows, ["position"], batch_size=1000)
    Tray.objects.filter(pk=tray.pk).update(end=max(tray.end, len(rows)))
    return [places[position].pop(0) for position in positions]
