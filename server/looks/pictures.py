"""Pictures for screens: photos small, and cells as their recipes will make them."""

from __future__ import annotations

import contextlib
import functools
import json
import os
import struct
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.framings.choices import chosen_for
from server.http.connections import let_go
from server.http.problems import Problem
from server.looks.hands import hands
from server.photos.flows import have_read
from server.photos.models import Photo
from server.photos.reading import LIMITS, check_place, copy_path, keep_copies
from server.recipes.flows import checked
from server.recipes.models import RecipeVersion
from server.studios.visitors import studio_of
from tray_core import Recipe, TrayError
from tray_core.line.preview import WORKING_EDGES, copy_wanted, preview
from tray_core.looks import copies_of
from tray_core.photo.sniff import HEAD, sniff
from tray_core.plan import Framing, plan_renditions

router = Router(tags=["pictures"])
MOST_CELLS = 60
_drawing = ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="cells")
_cores = threading.BoundedSemaphore(os.cpu_count() or 1)
_FOREVER = "private, max-age=31536000, immutable"
_NEVER = "no-store"
_A_MOMENT = "private, max-age=4"
"""Long enough for a page that loads a picture first and shows it then."""


def _photo(request: HttpRequest, number: int) -> Photo:
    photos = studio_of(request).photos.select_related("root")
    return get_object_or_404(photos, pk=number, state=Photo.State.READY)


def _copy(photo: Photo, edge: int) -> bytes:
    """The photo's working copy of `edge` pixels; made anew where the cache lost it."""
    with contextlib.suppress(OSError):
        return copy_path(photo.digest, edge).read_bytes()
    file = photo.file
    let_go()
    try:
        check_place(photo)
        digest, copies = hands.do(photo.name, copies_of, file, LIMITS)
    except TrayError as error:
        raise Problem(404, "No picture", f"{photo.name}: found {error.found}. {error.remedy}") from error
    if digest != photo.digest:
        with transaction.atomic():
            have_read([photo.pk])
        raise Problem(404, "No picture", f"{photo.name}: it was changed, and is being read again.")
    keep_copies(digest, copies)
    return copies[WORKING_EDGES.index(edge)]


def _picture(data: bytes, cached: str) -> HttpResponse:
    kind = f"image/{sniff(data[:HEAD]).lower()}"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": cached})


def _shown(photo: Photo, recipe: Recipe, chosen: dict[str, Any], edge: int) -> bytes:
    """What a recipe makes of a photo; of a responsive set, the largest. chosen: for the photo, by a person."""
    plan = plan_renditions(photo.facts(), recipe, 1, None, **chosen)[-1]
    edge = max(1, min(edge, WORKING_EDGES[0]))
    copy = _copy(photo, copy_wanted(plan.layout, edge))
    let_go()
    with _cores:  # more at once than there are cores would only be slower for all
        return preview(copy, plan, edge)


@functools.lru_cache(maxsize=500)
def _version(number: int, studio: int) -> RecipeVersion:
    """A version of a recipe of the studio, or 404. Versions never change, and their recipes stay where they are."""
    return get_object_or_404(RecipeVersion, pk=number, recipe__studio_id=studio)


@router.get("/photos/{number}")
def photo_picture(request: HttpRequest, number: int, edge: int = WORKING_EDGES[0], d: str = "") -> HttpResponse:
    """The photo's working copy, the smallest of at least `edge` pixels. d: its digest, so that the address changes
    with the content.
    """
    photo = _photo(request, number)
    wanted = next((size for size in sorted(WORKING_EDGES) if size >= edge), WORKING_EDGES[0])
    return _picture(_copy(photo, wanted), cached=_FOREVER if d == photo.digest else _NEVER)


@router.get("/cells/{number}/{version}")
def cell_picture(request: HttpRequest, number: int, version: int, edge: int = 320, k: str = "") -> HttpResponse:
    """What a version of a recipe makes of a photo, `edge` pixels long.

    k: a key of the cell as the board gave it, so that the address changes with the picture.
    """
    photo = _photo(request, number)
    found = _version(version, studio_of(request).pk)
    made = _shown(photo, found.core(), chosen_for(photo, found.recipe_id), edge)
    return _picture(made, cached=_FOREVER if k else _NEVER)


class CellIn(Schema):
    photo: int
    version: int


class CellsIn(Schema):
    cells: list[CellIn]
    edge: int = 320


@router.post("/cells", response={200: None})
def cell_pictures(request: HttpRequest, body: CellsIn) -> HttpResponse:
    """Several cells' pictures in one answer, for each its length in four bytes (big-endian) and then itself.

    A board shows dozens at once, and asking costs more than drawing. A length of 0 stands for what cannot be shown.
    """
    studio = studio_of(request)
    cells = body.cells[:MOST_CELLS]
    found = studio.photos.filter(pk__in={cell.photo for cell in cells}, state=Photo.State.READY)
    photos = {photo.pk: photo for photo in found.select_related("root").prefetch_related("framings", "sharpnesses")}
    recipes = {cell.version: _version(cell.version, studio.pk) for cell in cells}

    def draw(cell: CellIn) -> bytes:
        photo, version = photos.get(cell.photo), recipes[cell.version]
        if photo is None:
            return b""
        try:
            return _shown(photo, version.core(), chosen_for(photo, version.recipe_id), body.edge)
        except (Problem, TrayError, OSError):
            return b""
        finally:
            let_go()  # a lost copy is made anew in this thread, which no request ends for

    for cell in cells:  # what is looked up in the database is looked up in this thread
        recipes[cell.version].core()
        if cell.photo in photos:
            chosen_for(photos[cell.photo], None)
    let_go()
    pictures = list(_drawing.map(draw, cells))
    pieces = b"".join(struct.pack(">I", len(picture)) + picture for picture in pictures)
    return HttpResponse(pieces, content_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/drafts/{number}")
def draft_picture(
    request: HttpRequest, number: int, recipe: str, edge: int = 640, of: int = 0, framing: str = ""
) -> HttpResponse:
    """What a recipe (JSON) makes of a photo before it is kept. of: the recipe's number, for framings tied to it.

    framing: one (JSON) that is not kept yet either, followed in place of all kept ones.
    """
    photo = _photo(request, number)
    chosen = chosen_for(photo, of or None)
    if framing:
        chosen["framings"] = [_framing(framing, of)]
    return _picture(_shown(photo, _draft(recipe), chosen, edge), cached=_A_MOMENT)


def _draft(text: str) -> Recipe:
    try:
        return checked(json.loads(text))
    except ValueError as error:
        raise Problem(422, "The recipe is not right", f"Expected JSON: {error}") from error


def _framing(text: str, recipe: int) -> Framing:
    try:
        return replace(Framing(**json.loads(text)), recipe=recipe or None)
    except (ValueError, TypeError) as error:
        raise Problem(422, "The framing is not right", str(error)) from error
