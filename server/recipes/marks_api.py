"""Fonts and mark pictures over the API."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from server.recipes import marks
from server.studios.models import Studio
from server.studios.visitors import studio_of
from tray_core.line.mark_pictures import shown_mark

router = Router(tags=["recipes"])


class MarkFileOut(Schema):
    """name: of the file, as recipes say it. kind: font or picture. used: titles of the recipes that name it."""

    name: str
    kind: str
    bytes: int
    used: list[str]


def _listed(studio: Studio) -> list[MarkFileOut]:
    return [
        MarkFileOut(
            name=each.name,
            kind=each.kind,
            bytes=each.bytes,
            used=[recipe.title for recipe in marks.using(studio, each.name)],
        )
        for each in marks.known(studio)
    ]


@router.get("", response=list[MarkFileOut])
def list_marks(request: HttpRequest) -> list[MarkFileOut]:
    """The fonts and mark pictures that the studio added."""
    return _listed(studio_of(request))


@router.post("", response=MarkFileOut)
def add_mark(request: HttpRequest, file: File[UploadedFile]) -> MarkFileOut:
    """Add a font or a mark picture."""
    studio = studio_of(request)
    name = marks.add(studio, file)
    return next(each for each in _listed(studio) if each.name == name)


@router.get("/{name}/picture", response={200: None})
def mark_picture(request: HttpRequest, name: str) -> HttpResponse:
    """A mark picture as a small PNG: drawings are never served as they are."""
    return HttpResponse(shown_mark(marks.path_of(studio_of(request), name)), content_type="image/png")


@router.delete("/{name}", response={204: None})
def delete_mark(request: HttpRequest, name: str) -> Status[None]:
    """Delete a font or mark picture, unless a recipe names it."""
    marks.delete(studio_of(request), name)
    return Status(204, None)
