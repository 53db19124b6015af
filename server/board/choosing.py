"""What is chosen on a board: told by areas of what is shown, found and counted here, whatever a page has loaded."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ninja import Schema
from pydantic import Field

from server.board.ledger import ledger
from server.board.planning import Lit
from server.board.showing import BoardIn, shown_now
from server.board.sums import TO_MAKE, learned_weights
from server.runs.models import Rendition
from server.trays.models import Tray

Pair = tuple[int, int]
"""A photo and a recipe."""


class AreaIn(Schema):
    """Cells of some photos by some recipes.

    first, last: the corners, by photo, of a rectangle in the order shown; or photos: one by one; or neither, for all
    that are shown. recipes: None for all that are lit. out: take these away from what the areas before choose.
    """

    first: int | None = None
    last: int | None = None
    photos: list[int] | None = None
    recipes: list[int] | None = None
    out: bool = False


class ChosenIn(Schema):
    """how: what is shown; nothing else is chosen by areas. cells: (photo, recipe) each, named one by one.

    Neither areas nor cells: everything.
    """

    how: BoardIn = Field(default_factory=BoardIn)
    areas: list[AreaIn] | None = None
    cells: list[Pair] | None = None


def pairs(tray: Tray, recipes: Lit, chosen: ChosenIn) -> set[Pair] | None:
    """The cells that are chosen and shown; None where that is everything."""
    if chosen.cells is not None:
        return set(chosen.cells)
    if chosen.areas is None:
        return None
    photos = shown_now(tray, recipes, chosen.how).photos
    return _of_areas(photos, [recipe.pk for recipe, _ in recipes], chosen.areas)


def _of_areas(photos: list[int], recipes: list[int], areas: Iterable[AreaIn]) -> set[Pair]:
    place = {photo: i for i, photo in enumerate(photos)}
    found: set[Pair] = set()
    for area in areas:
        columns = recipes if area.recipes is None else [each for each in area.recipes if each in recipes]
        if area.photos is not None:
            rows = [photo for photo in area.photos if photo in place]
        elif area.first is None or area.last is None:
            rows = photos
        elif area.first in place and area.last in place:
            start, stop = sorted((place[area.first], place[area.last]))
            rows = photos[start : stop + 1]
        else:
            continue  # a corner is gone: nobody knows what was meant
        cells = {(photo, recipe) for photo in rows for recipe in columns}
        found = found - cells if area.out else found | cells
    return found


def count(tray: Tray, recipes: Lit, chosen: ChosenIn) -> dict[str, Any]:
    """A ChosenOut as plain values."""
    wanted = pairs(tray, recipes, chosen)
    with ledger(tray, recipes) as known:
        if wanted is None:
            wanted = {(photo, recipe.pk) for photo in known.number for recipe, _ in recipes}
        hidden = 0
        if chosen.how != BoardIn() and chosen.areas:
            named = [area for area in chosen.areas if area.photos is not None]
            hidden = len(_of_areas(list(known.number), [recipe.pk for recipe, _ in recipes], named) - wanted)
        photos = {photo for photo, _ in wanted}
        found = dict.fromkeys(("renditions", "to_make", "open", "made", "excluded", "eye"), 0)
        weights, about = learned_weights(recipes), 0.0
        for photo in photos:
            for cell in known.cells(photo):
                if (photo, cell.recipe) not in wanted:
                    continue
                size = len(cell.wishes)
                found["renditions"] += size * (cell.state != "excluded")
                found["to_make"] += size * (cell.state in TO_MAKE)
                found["open"] += size * (cell.state in Rendition.OPEN)
                found["made"] += size * (cell.state in ("done", "kept"))
                found["excluded"] += cell.state == "excluded"
                found["eye"] += cell.state == "eye"
                if cell.state in TO_MAKE:
                    about += sum(each.bytes(weights.get(cell.recipe, 1)) for each in cell.forecasts)
        unread = sum(not known.cells(photo) for photo in photos)
    return {
        **found,
        "cells": len(wanted),
        "hidden": hidden,
        "photos": len(photos),
        "whole": bool(wanted) and len(wanted) == len(photos) * len(recipes),
        "unread": unread,
        "about": round(about),
    }


def to_include(tray: Tray, recipes: Lit, chosen: ChosenIn, included: bool | None) -> tuple[bool, int, list[Pair]]:
    """(taken in or left out, renditions, cells that change), for `trays.flows.include`.

    included: None to take in where all of them are left out, and to leave out otherwise.
    """
    wanted = pairs(tray, recipes, chosen)
    with ledger(tray, recipes) as known:
        cells = [
            (photo, cell)
            for photo in ({photo for photo, _ in wanted} if wanted is not None else known.number)
            for cell in known.cells(photo)
            if wanted is None or (photo, cell.recipe) in wanted
        ]
    if included is None:
        included = bool(cells) and all(cell.state == "excluded" for _, cell in cells)
    changed = [(photo, cell) for photo, cell in cells if (cell.state == "excluded") == included]
    return included, sum(len(cell.wishes) for _, cell in changed), [(photo, cell.recipe) for photo, cell in changed]
