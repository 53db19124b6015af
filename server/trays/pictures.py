"""Pictures for screens: photos small, and cells as their recipes will make them."""

from __future__ import annotations

import json
import os
import threading

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router

from server.problems import Problem
from server.recipes.flows import checked
from server.recipes.models import RecipeVersion
from server.trays.models import Photo
from server.trays.reading import copy_path
from server.visitors import studio_of
from tray_core import Recipe
from tray_core.line.preview import preview
from tray_core.photo.sniff import HEAD, sniff
from tray_core.plan import Names, Plan, plan_rendition

router = Router(tags=["pictures"])
_cores = threading.BoundedSemaphore(os.cpu_count() or 1)
MAX_EDGE = 960
_FOREVER = "private, max-age=31536000, immutable"


def _copy(request: HttpRequest, number: int) -> tuple[Photo, bytes]:
    photo = get_object_or_404(studio_of(request).photos.select_related("root"), pk=number, state=Photo.State.READY)
    try:
        return photo, copy_path(photo.digest).read_bytes()
    except OSError as error:
        raise Problem(404, "No picture yet", f"{photo.name}: its small copy is gone; read its folder again.") from error


def _picture(data: bytes, cached: bool) -> HttpResponse:
    kind = f"image/{sniff(data[:HEAD]).lower()}"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": _FOREVER if cached else "no-store"})


def _shown(photo: Photo, copy: bytes, plan: Plan, edge: int) -> bytes:
    with _cores:  # more at once than there are cores would only be slower for all
        return preview(copy, plan, min(edge, MAX_EDGE))


def _planned(photo: Photo, recipe: Recipe) -> Plan:
    return plan_rendition(photo.facts(), recipe, 1, Names())


@router.get("/photos/{number}")
def photo_picture(request: HttpRequest, number: int, d: str = "") -> HttpResponse:
    """The photo's working copy. d: its digest, so that the address changes with the content."""
    photo, copy = _copy(request, number)
    return _picture(copy, cached=d == photo.digest)


@router.get("/cells/{number}/{version}")
def cell_picture(request: HttpRequest, number: int, version: int, edge: int = 320, d: str = "") -> HttpResponse:
    """What a version of a recipe makes of a photo, `edge` pixels long."""
    photo, copy = _copy(request, number)
    found = get_object_or_404(RecipeVersion, pk=version, recipe__studio=studio_of(request))
    return _picture(_shown(photo, copy, _planned(photo, found.core()), edge), cached=d == photo.digest)


@router.get("/drafts/{number}")
def draft_picture(request: HttpRequest, number: int, recipe: str, edge: int = 640) -> HttpResponse:
    """What a recipe that is not kept yet (JSON) makes of a photo."""
    photo, copy = _copy(request, number)
    return _picture(_shown(photo, copy, _planned(photo, _draft(recipe)), edge), cached=False)


def _draft(text: str) -> Recipe:
    try:
        return checked(json.loads(text))
    except ValueError as error:
        raise Problem(422, "The recipe is not right", f"Expected JSON: {error}") from error
