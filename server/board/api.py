"""The board over the API: its order, then windows of its rows, then its sums.

A large board is never sent whole: the order is a list of numbers, rows come as they are looked at.
"""

from __future__ import annotations

import datetime as dt
import threading
from contextlib import AbstractContextManager, nullcontext
from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, JsonResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Schema, Status

from server.board import choosing, starting, weighing
from server.board.choosing import ChosenIn
from server.board.ledger import ledger, ledger_at_hand
from server.board.names import OfPhoto
from server.board.planning import Cell, Lit, lit, planned, stated
from server.board.showing import BoardIn, shown_now
from server.board.sums import TO_MAKE, cell_bytes, learned_weights
from server.http.connections import let_go
from server.http.types import SizeOut
from server.live.hub import hint
from server.photos.types import PhotoOut
from server.recipes.api import RecipeOut, recipe_out
from server.runs import ahead, files
from server.runs.api import RunOut, run_out
from server.runs.models import Rendition
from server.trays import flows
from server.trays.finding import find_tray
from server.trays.models import Tray
from tray_core.line.line import NOT_REACHED
from tray_core.plan import Number
from tray_core.plan.cautions import Caution
from tray_core.plan.weight import may_exceed, may_fall_short

router = Router(tags=["board"])
WINDOW = 200
"""Most rows of one answer."""
FIRST = 8
"""Rows that come with the order."""
_SEEN = dt.timedelta(seconds=30)
"""How long ago it may be noted that somebody looked at a tray: its folders are looked at again for minutes."""


class WarningOut(Schema):
    code: str
    label: str
    text: str


class SpotOut(Schema):
    photo: int
    recipe: int


class CellOut(Schema):
    """width, height: of one rendition; of a responsive set, the largest. key: changes with the picture.

    narrowest: width of the smallest. name, folder: of the largest; empty in a large tray that was not yet planned
    whole. strength: of the sharpening, in per cent, where the photo has one of its own.
    """

    recipe: int
    version: int
    key: str
    width: int
    height: int
    name: str
    folder: str
    canvas: SizeOut
    columns: int
    rows: int
    parts: int
    narrowest: int
    warnings: list[WarningOut]
    state: str
    renditions: list[int]
    bytes: int
    about: bool
    framing: str | None
    strength: int | None
    error: str


class RowOut(Schema):
    photo: PhotoOut
    cells: list[CellOut]


class GroupOut(Schema):
    folder: str
    start: int
    count: int


class BoardOut(Schema):
    """photos: the numbers of those shown, in order. total: of all in the tray. groups: folders in that order.

    rows: the first few, so that nobody waits for a second answer to see anything.
    """

    id: int
    name: str
    recipes: list[RecipeOut]
    photos: list[int]
    total: int
    groups: list[GroupOut]
    formats: list[str]
    rows: list[RowOut]


class RowsIn(Schema):
    photos: list[int]


class WeighIn(Schema):
    """cells: (photo, recipe) each."""

    cells: list[tuple[int, int]]


class RunIn(ChosenIn):
    """again: also what is made already."""

    again: bool = False


class OverviewOut(Schema):
    renditions: int
    made: int
    made_bytes: int
    about: int
    originals: int
    to_make: int
    open: int
    eye: int
    states: dict[str, int]
    same_names: int


class NameOut(Schema):
    name: str
    folder: str


class IncludeIn(ChosenIn):
    """included: None to take them in where all are left out, and to leave them out otherwise."""

    included: bool | None = None


class IncludedOut(Schema):
    """What was done. changed: photos by recipe, of cells that were not so before."""

    included: bool
    renditions: int
    changed: dict[int, list[int]]


class ChosenOut(Schema):
    """What is chosen, of what is shown. hidden: cells that a filter hides. whole: every cell of its photos.

    unread: photos that cannot be read, or were not yet. to_make, open, made: renditions; the rest: cells.
    """

    cells: int
    hidden: int
    photos: int
    whole: bool
    unread: int
    renditions: int
    to_make: int
    open: int
    made: int
    excluded: int
    eye: int
    about: int


_PHOTO = tuple(PhotoOut.model_fields)


def _looks_short(cell: Cell) -> Caution | None:
    """Where a cell could not look as its recipe asks, by its receipts; or where it is likely not to."""
    if cell.state != "done" and may_fall_short(cell.plans[0], cell.photo.weighed()):
        text = "This photo may not look as the recipe asks in this format; its color is fine. AVIF or JPEG can."
        return Caution("looks", "look in doubt", text)
    for rendition in cell.renditions if cell.state == "done" else []:
        for note in (rendition.receipt or {}).get("notes", ()):
            if NOT_REACHED in note:
                return Caution("looks", "look not reached", f"{note} AVIF, JPEG or a lower score can.")
    return None


def _limit_in_doubt(cell: Cell) -> Caution | None:
    """Where a limit of bytes is likely to be out of reach, so that nothing would be made."""
    over = next((each for each in cell.forecasts if may_exceed(each)), None) if cell.state in TO_MAKE else None
    if over is None:
        return None
    least, limit = (f"{round(size / 1000)} kB" for size in (over.bytes(), over.limit))
    text = f"At its lowest quality this photo may weigh {least}, and the limit is {limit}: nothing would be made of it."
    return Caution("limit", "limit in doubt", f"{text} Raise the limit, make it smaller, or choose a lighter format.")


def _lost(cell: Cell) -> Caution | None:
    """Where a file that was made is not there any more, or another one is."""
    for rendition in cell.renditions:
        if rendition.lost:
            return Caution("lost", f"file {rendition.lost}", files.TEXTS[Rendition.Lost(rendition.lost)])
    return None


def _cell_out(cell: Cell, weights: dict[int, float], weighed: dict[str, int]) -> dict[str, Any]:
    """A CellOut as plain values: building models of thousands takes seconds."""
    plan = cell.plans[-1]
    layout = plan.layout
    weight, about = cell_bytes(cell, weights)
    if about and all(each in weighed for each in cell.prints):
        weight, about = sum(weighed[each] for each in cell.prints), False
    found: dict[object, Caution] = {
        (warning.code, warning.label): warning for each in cell.plans for warning in each.warnings
    }
    for more in (_looks_short(cell), _limit_in_doubt(cell), _lost(cell)):
        if more is not None:
            found[more.code] = more
    return {
        "recipe": cell.recipe.pk,
        "version": cell.recipe.current_id,
        "key": cell.prints[-1],
        "width": plan.width,
        "height": plan.height,
        "name": plan.name,
        "folder": plan.folder,
        "canvas": {"width": layout.outer[0], "height": layout.outer[1]},
        "columns": layout.columns,
        "rows": layout.rows,
        "parts": len(cell.plans),
        "narrowest": min(each.width for each in cell.plans),
        "warnings": [{"code": each.code, "label": each.label, "text": each.text} for each in found.values()],
        "state": cell.state,
        "renditions": [each.pk for each in cell.renditions] if cell.state == "done" else [],
        "bytes": weight,
        "about": about,
        "framing": layout.framing,
        "strength": plan.strength if plan.recipe.sharpen is not None else None,
        "error": next((each.error for each in cell.renditions if each.error), ""),
    }


_turns = threading.BoundedSemaphore(2)
"""For windows of rows: more of them at once would only take the interpreter's lock from each other, dozens of times."""


def _rows_out(
    tray: Tray, recipes: Lit, photos: list[int], turn: AbstractContextManager[Any] = _turns
) -> list[dict[str, Any]]:
    let_go()
    with turn:
        weights = learned_weights(recipes)
        number: dict[int, Number] | None = None
        names: dict[int, OfPhoto] = {}
        with ledger_at_hand(tray, recipes) as known:
            if known is not None:
                number = {photo: known.number[photo] for photo in photos if photo in known.number}
                names = {photo: known.names.of(photo) for photo in number}
        rows = list(planned(tray, recipes, photos, number, names))
    # A drive that does not answer keeps nobody else from a turn, or from the database.
    let_go()
    if files.look_at(each for row in rows for cell in row.cells for each in cell.renditions):
        rows = [stated(row) for row in rows]
        hint(tray.studio_id, "tray", tray.pk)
    prints = (each for row in rows for cell in row.cells for each in cell.prints)
    weighed = ahead.known_bytes(tray.studio_id, prints)
    let_go()
    with turn:
        return [
            {
                "photo": {name: getattr(row.photo, name) for name in _PHOTO},
                "cells": [_cell_out(cell, weights, weighed) for cell in row.cells],
            }
            for row in rows
        ]


@router.post("/{number}/runs", response=RunOut)
def start_run(request: HttpRequest, number: int, body: RunIn) -> dict[str, Any]:
    """Make what is included, or some cells of it."""
    tray = find_tray(request, number)
    return run_out(starting.start_run(tray, choosing.pairs(tray, lit(tray), body), body.again))


@router.post("/{number}/runs/{run}/for-new", response=RunOut)
def start_for_new(request: HttpRequest, number: int, run: int) -> dict[str, Any]:
    """Make what came since an earlier run, by its recipes."""
    tray = find_tray(request, number)
    return run_out(starting.start_for_new(tray, get_object_or_404(tray.runs, pk=run)))


@router.post("/{number}/chosen", response=ChosenOut)
def count_chosen(request: HttpRequest, number: int, body: ChosenIn) -> dict[str, Any]:
    """What making, leaving out or taking out the chosen would do."""
    tray = find_tray(request, number)
    return choosing.count(tray, lit(tray), body)


@router.post("/{number}/weigh", response={204: None})
def weigh_cells(request: HttpRequest, number: int, body: WeighIn) -> Status[None]:
    """Have cells that somebody looks at weighed exactly when no worker has anything else to do."""
    weighing.ask(find_tray(request, number), body.cells)
    return Status(204, None)


@router.get("/{number}/board", response=BoardOut)
def get_board(request: HttpRequest, number: int, how: Query[BoardIn]) -> JsonResponse:
    """The board's heads and the order of its photos."""
    tray = find_tray(request, number)
    if timezone.now() - tray.seen > _SEEN:
        Tray.objects.filter(pk=tray.pk).update(seen=timezone.now())
    recipes = lit(tray)
    shown = shown_now(tray, recipes, how)
    return JsonResponse(
        {
            "id": tray.pk,
            "name": tray.name,
            "recipes": [recipe_out(recipe) for recipe, _ in recipes],
            "photos": shown.photos,
            "total": shown.total,
            "groups": [asdict(group) for group in shown.groups] if how.sort == "folder" else [],
            "formats": shown.formats,
            "rows": _rows_out(tray, recipes, shown.photos[:FIRST], nullcontext()),
        }
    )


@router.post("/{number}/rows", response=list[RowOut])
def get_rows(request: HttpRequest, number: int, body: RowsIn) -> JsonResponse:
    """Rows of the board, by their photos. That this is a list of RowOut is held by a test, not checked each time."""
    tray = find_tray(request, number)
    return JsonResponse(_rows_out(tray, lit(tray), body.photos[:WINDOW]), safe=False)


@router.get("/{number}/overview", response=OverviewOut)
def get_overview(request: HttpRequest, number: int) -> dict[str, Any]:
    """The board's sums."""
    tray = find_tray(request, number)
    recipes = lit(tray)
    weights = learned_weights(recipes)
    with ledger(tray, recipes) as found:
        sums = found.sums
        return {
            **{name: getattr(sums, name) for name in ("renditions", "made", "made_bytes", "to_make", "open")},
            "about": sums.about(weights),
            "originals": sums.originals,
            "eye": len(sums.eye),
            "states": {state: len(photos) for state, photos in sums.photos.items() if photos},
            "same_names": sums.same_names,
        }


@router.get("/{number}/eye", response=list[SpotOut])
def get_eye(request: HttpRequest, number: int) -> list[dict[str, int]]:
    """The cells that need a crop, in the tray's order."""
    tray = find_tray(request, number)
    recipes = lit(tray)
    place = {recipe.pk: i for i, (recipe, _) in enumerate(recipes)}
    with ledger(tray, recipes) as found:
        spots = sorted(found.sums.eye, key=lambda spot: (found.number[spot[0]], place[spot[1]]))
    return [{"photo": photo, "recipe": recipe} for photo, recipe in spots]


@router.get("/{number}/names/{photo}/{recipe}", response=list[NameOut])
def get_names(request: HttpRequest, number: int, photo: int, recipe: int) -> list[dict[str, str]]:
    """Where the renditions of one cell go; names are unique over the whole tray, so all of it has to be known."""
    tray = find_tray(request, number)
    with ledger(tray, lit(tray)) as found:
        names = found.names.of(photo)
    wanted = [names[place] for place in sorted(names) if place[0] == recipe]
    return [{"name": name, "folder": folder} for folder, name, _ in wanted]


@router.post("/{number}/include", response=IncludedOut)
def include_cells(request: HttpRequest, number: int, body: IncludeIn) -> dict[str, Any]:
    """Leave cells out of what is made, or take them in again."""
    tray = find_tray(request, number)
    included, renditions, cells = choosing.to_include(tray, lit(tray), body, body.included)
    flows.include(tray, cells, included)
    changed: dict[int, list[int]] = {}
    for photo, recipe in cells:
        changed.setdefault(recipe, []).append(photo)
    return {"included": included, "renditions": renditions, "changed": changed}
