"""Pictures for screens: photos small, and cells as their recipes will make them."""

from __future__ import annotations

import functools
import json
import struct
from dataclasses import replace

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.framings.choices import WITH_CHOICES, chosen_for
from server.http.connections import let_go
from server.http.problems import Problem
from server.looks.drawing import Wanted, draw, draw_all, working_copy
from server.photos.hands import hands
from server.photos.models import Photo
from server.photos.reading import check_place, limits_of
from server.recipes.flows import drafted
from server.recipes.models import RecipeVersion
from server.studios.visitors import studio_of
from tray_core import Recipe, TrayError
from tray_core.line.preview import WORKING_EDGES
from tray_core.looks import first_look
from tray_core.photo.sniff import HEAD, sniff
from tray_core.plan import Framing

router = Router(tags=["pictures"])
MOST_CELLS = 60
_FOREVER = "private, max-age=31536000, immutable"
_NEVER = "no-store"
_A_MOMENT = "private, max-age=4"
"""Long enough for a page that loads a picture first and shows it then."""


def _photo(request: HttpRequest, number: int) -> Photo:
    photos = studio_of(request).photos.select_related("root")
    return get_object_or_404(photos, pk=number, state=Photo.State.READY)


def _picture(data: bytes, cached: str) -> HttpResponse:
    kind = f"image/{sniff(data[:HEAD]).lower()}"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": cached})


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
    return _picture(working_copy(photo, wanted), cached=_FOREVER if d == photo.digest else _NEVER)


@router.get("/photos/{number}/first")
def first_picture(request: HttpRequest, number: int, edge: int = WORKING_EDGES[1]) -> HttpResponse:
    """What the camera made of a raw photo, for as long as it is not developed."""
    photo = get_object_or_404(studio_of(request).photos.select_related("root"), pk=number)
    file, limits = photo.file, limits_of(photo)
    let_go()
    try:
        check_place(photo)
        made = hands.do(photo.name, first_look, file, min(edge, WORKING_EDGES[0]), limits)
    except TrayError as error:
        raise Problem(404, "No picture", f"{photo.name}: found {error.found}. {error.remedy}") from error
    if made is None:
        raise Problem(404, "No picture", f"{photo.name}: its camera put no picture into it.")
    return _picture(made, cached=_A_MOMENT)


@router.get("/cells/{number}/{version}")
def cell_picture(request: HttpRequest, number: int, version: int, edge: int = 320, k: str = "") -> HttpResponse:
    """What a version of a recipe makes of a photo, `edge` pixels long.

    k: a key of the cell as the board gave it, so that the address changes with the picture.
    """
    photo = _photo(request, number)
    found = _version(version, studio_of(request).pk)
    made = draw(Wanted(photo, found.core(), chosen_for(photo, found.recipe_id)), edge)
    return _picture(made, cached=_FOREVER if k else _NEVER)


def _wanted(photo: Photo | None, version: RecipeVersion) -> Wanted | None:
    return Wanted(photo, version.core(), chosen_for(photo, version.recipe_id)) if photo else None


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
    photos = {photo.pk: photo for photo in found.select_related("root").prefetch_related(*WITH_CHOICES)}
    recipes = {cell.version: _version(cell.version, studio.pk) for cell in cells}

    pictures = draw_all([_wanted(photos.get(cell.photo), recipes[cell.version]) for cell in cells], body.edge)
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
    return _picture(draw(Wanted(photo, _draft(recipe, photo.studio_id), chosen), edge), cached=_A_MOMENT)


def _draft(text: str, studio: int) -> Recipe:
    try:
        return drafted(json.loads(text), studio)
    except ValueError as error:
        raise Problem(422, "The recipe is not right", f"Expected JSON: {error}") from error


def _framing(text: str, recipe: int) -> Framing:
    try:
        return replace(Framing(**json.loads(text)), recipe=recipe or None)
    except (ValueError, TypeError) as error:
        raise Problem(422, "The framing is not right", str(error)) from error
