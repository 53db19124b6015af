"""A whole tray in numbers: what there is to make, how heavy, what needs an eye."""

from __future__ import annotations

import threading
from collections import defaultdict
from dataclasses import dataclass, field

from django.db.models import Count, Max, Sum

from server.connections import let_go
from server.recipes.models import RecipeVersion
from server.runs.models import Rendition
from server.trays.board import Cell, Lit, board
from server.trays.kept import Kept
from server.trays.models import Photo, Tray
from server.trays.names import stamp
from tray_core.plan.weight import about_bytes

TO_MAKE = ("planned", "outdated", "failed")


@dataclass
class Overview:
    """renditions: included ones; a cell with panels counts for each. about: bytes of all that is included, made or
    not. eye: (photo, recipe) of cells that wait for one. photos: those that have a cell of a state, or are
    themselves in it.
    """

    renditions: int = 0
    made: int = 0
    made_bytes: int = 0
    about: float = 0
    to_make: int = 0
    open: int = 0
    eye: list[tuple[int, int]] = field(default_factory=list)
    photos: dict[str, list[int]] = field(default_factory=dict)
    same_names: int = 0


def learned_weights(recipes: Lit) -> dict[int, float]:
    """What was made by a recipe against what was forecast, by recipe; 1 where nothing was made yet."""
    # Read anew: recipes may have been kept since before something was made of them.
    versions = RecipeVersion.objects.filter(pk__in=[recipe.current_id for recipe, _ in recipes], weighed__gt=0)
    learned = {row.recipe_id: row.weighed / row.forecast for row in versions}
    return {recipe.pk: learned.get(recipe.pk, 1.0) for recipe, _ in recipes}


def cell_bytes(cell: Cell, weights: dict[int, float]) -> tuple[int, bool]:
    """(bytes, whether that is only a guess) of all renditions of a cell."""
    if cell.state == "done":
        return sum((rendition.receipt or {}).get("bytes", 0) for rendition in cell.renditions), False
    detail = cell.photo.weighed()
    return sum(about_bytes(plan, detail, weights[cell.recipe.pk]) for plan in cell.plans), True


_locks: dict[int, threading.Lock] = defaultdict(threading.Lock)
_counted: Kept[Overview] = Kept()


def overview(tray: Tray, recipes: Lit) -> Overview:
    """Count the whole board; one count at a time for a tray, and none where nothing changed since the last."""
    let_go()
    with _locks[tray.pk]:
        made = (
            Rendition.objects.filter(run__tray=tray)
            .values("state", "lost")
            .annotate(Count("id"), Max("id"), Max("finished"))
        )
        excluded = tray.exclusions.aggregate(Count("id"), Max("id"))
        order = tray.places.aggregate(Count("id"), Max("id"), Sum("position"))
        mark = (
            stamp(tray, [recipe.current_id for recipe, _ in recipes]),
            sorted(map(str, made)),
            tuple(excluded.values()),
            tuple(order.values()),
        )
        found = _counted.get(tray.pk, mark)
        if found is None:
            found = _count(tray, recipes)
            _counted.keep(tray.pk, mark, found)
        return found


def _count(tray: Tray, recipes: Lit) -> Overview:
    found = Overview()
    weights = learned_weights(recipes)
    for row in board(tray, recipes):
        if row.photo.state != Photo.State.READY:
            # A cell may wait as well: photos that wait are being read.
            state = "reading" if row.photo.state == Photo.State.WAITING else row.photo.state
            found.photos.setdefault(state, []).append(row.photo.pk)
        seen = set()
        for cell in row.cells:
            seen.add(cell.state)
            if cell.state == "excluded":
                continue
            count = len(cell.plans)
            found.renditions += count
            weight, guess = cell_bytes(cell, weights)
            found.about += weight
            if not guess:
                found.made_bytes += weight
            found.made += count * (cell.state in ("done", "kept"))
            found.to_make += count * (cell.state in TO_MAKE)
            found.open += count * (cell.state in Rendition.OPEN)
            found.same_names += any(w.code == "same-name" for plan in cell.plans for w in plan.warnings)
            if cell.state == "eye":
                found.eye.append((row.photo.pk, cell.recipe.pk))
        for state in seen:
            found.photos.setdefault(state, []).append(row.photo.pk)
    return found
