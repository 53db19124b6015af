"""A photo's outline over the API: looked at, found, kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.framings import outlines
from server.framings.keeping import Edit
from server.http.connections import let_go
from server.http.problems import Problem
from server.photos.hands import hands
from server.photos.models import Photo
from server.photos.outlines import curves_of
from server.photos.reading import limits_of
from server.photos.types import PhotoOut
from server.trays.finding import find_tray
from tray_core import TrayError
from tray_core.looks import outline_in, picture_of
from tray_core.tracing import Found

router = Router(tags=["looks"])


class OutlineOut(Schema):
    """outline: nothing where there is none. why: sentences on what is doubtful of it. next: the photo of the tray that
    follows among those whose outline is missing or not certain; waiting: how many these are, with this one.
    """

    photo: PhotoOut
    outline: dict[str, Any]
    version: int
    why: list[str]
    next: int | None
    waiting: int


class FoundOut(Schema):
    outline: dict[str, Any]
    why: list[str]


class OutlineEditIn(Schema):
    photo: int
    outline: dict[str, Any]
    version: int | None = None


class OutlineEditsIn(Schema):
    edits: list[OutlineEditIn]


def _photo(request: HttpRequest, number: int, photo: int) -> Photo:
    found = Photo.objects.select_related("root").filter(places__tray=find_tray(request, number))
    return get_object_or_404(found.filter(state=Photo.State.READY), pk=photo)


def _looked(photo: Photo, what: Callable[..., Any]) -> Any:
    file, limits = photo.file, limits_of(photo)
    let_go()
    try:
        return hands.do(photo.name, what, file, limits)
    except TrayError as error:
        raise Problem(409, "The photo cannot be read", f"{photo.name}: found {error.found}. {error.remedy}") from error


@router.get("/{number}/outline/{photo}", response=OutlineOut)
def get_outline(request: HttpRequest, number: int, photo: int) -> dict[str, Any]:
    """A photo's outline as it is kept, and what follows."""
    found = _photo(request, number, photo)
    tray = find_tray(request, number)
    waiting = tray.places.filter(Q(photo__traced={}) | Q(photo__traced__sure=False), photo__state=Photo.State.READY)
    place = tray.places.get(photo=found).position
    ahead = waiting.exclude(photo=found).order_by("position", "id")
    after = ahead.filter(position__gt=place).values_list("photo_id", flat=True).first()
    return {
        "photo": found,
        "outline": curves_of(found),
        "version": found.outline_version,
        "why": found.traced.get("why", []),
        "next": after or ahead.values_list("photo_id", flat=True).first(),
        "waiting": waiting.count(),
    }


@router.post("/{number}/outline/{photo}/found", response=FoundOut)
def find_outline(request: HttpRequest, number: int, photo: int) -> dict[str, Any]:
    """Look for the outline in the photo anew; nothing is kept."""
    found = _photo(request, number, photo)
    there: Found = _looked(found, outline_in)
    return {"outline": there.outline.to_json(), "why": list(there.why)}


@router.get("/{number}/outline/{photo}/picture", response={200: None})
def get_picture(request: HttpRequest, number: int, photo: int) -> HttpResponse:
    """The photo in as many pixels as outlines are looked for in. Its address changes with the photo."""
    found = _photo(request, number, photo)
    data = _looked(found, picture_of)
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.put("/{number}/outlines", response=OutlineEditsIn)
def keep_outlines(request: HttpRequest, number: int, body: OutlineEditsIn) -> dict[str, Any]:
    """Keep outlines of photos: all of them, or, where somebody changed one meanwhile, none. Answers what undoes it."""
    edits = [Edit(edit.photo, edit.outline, edit.version) for edit in body.edits]
    before = outlines.keep(find_tray(request, number), edits)
    return {"edits": [{"photo": each.photo, "outline": each.values, "version": each.version} for each in before]}
