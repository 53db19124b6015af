"""Parts over the API: what several recipes share."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db.models import Max
from django.db.models.functions import Coalesce
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status

from server.http.problems import Problem
from server.recipes import flows
from server.recipes.models import Part, PartVersion, Recipe
from server.studios.visitors import studio_of
from tray_core.looks.marks import Ground, on_ground
from tray_core.plan.naming import safe_text

router = Router(tags=["recipes"])
_MOST_VERSIONS = 200


class PartUserOut(Schema):
    id: int
    title: str


class SavedPartOut(Schema):
    id: int
    station: str
    name: str
    setting: dict[str, Any]
    version: int
    used: list[PartUserOut]


class SavedPartIn(Schema):
    recipe: int
    station: str
    name: str


class PartChangeIn(Schema):
    """What is to change: the setting, the name, or both. version: the one that a new setting began from."""

    setting: dict[str, Any] | None = None
    name: str | None = None
    version: int | None = None


class PartAgainIn(Schema):
    """A part that was deleted, and the recipes that followed it."""

    station: str
    name: str
    setting: dict[str, Any]
    recipes: list[int]


class PartVersionOut(Schema):
    number: int
    made: dt.datetime
    setting: dict[str, Any]


def _out(part: Part, recipes: list[Recipe], version: int) -> SavedPartOut:
    used = [
        PartUserOut(id=recipe.pk, title=recipe.title)
        for recipe in recipes
        if recipe.current is not None and recipe.current.content.get("parts", {}).get(part.station) == part.name
    ]
    about = {"station": part.station, "name": part.name, "setting": part.setting}
    return SavedPartOut(id=part.pk, **about, version=version, used=used)


def _find(request: HttpRequest, number: int) -> Part:
    return get_object_or_404(studio_of(request).parts, pk=number)


def _named(text: str) -> str:
    name = safe_text(text).strip()[:60]
    if not name:
        raise Problem(422, "A part needs a name", "name: expected a name, found nothing. Type one.")
    return name


@router.get("", response=list[SavedPartOut])
def list_parts(request: HttpRequest) -> list[SavedPartOut]:
    """The parts of the studio, each with the recipes that follow it."""
    studio = studio_of(request)
    recipes = list(studio.recipes.filter(archived=False).select_related("current"))
    return [_out(part, recipes, part.last) for part in studio.parts.annotate(last=Coalesce(Max("versions__number"), 0))]


@router.post("", response=SavedPartOut)
def save_part(request: HttpRequest, body: SavedPartIn) -> SavedPartOut:
    """Save a station of a recipe as a part, which the recipe follows from now on."""
    recipe = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=body.recipe)
    part = flows.save_part(recipe, request.user, body.station, _named(body.name))  # type: ignore[arg-type]
    recipe.refresh_from_db()
    return _out(part, [recipe], part.newest)


@router.post("/again", response=list[SavedPartOut])
def put_part_back(request: HttpRequest, body: PartAgainIn) -> list[SavedPartOut]:
    """Undo a deletion."""
    name = _named(body.name)
    flows.put_back_part(studio_of(request), request.user, body.station, name, body.setting, body.recipes)  # type: ignore[arg-type]
    return list_parts(request)


@router.get("/{number}/versions", response=list[PartVersionOut])
def list_part_versions(request: HttpRequest, number: int) -> list[PartVersion]:
    """What a part said before, the newest first; the changes of one sitting are one version."""
    return flows.sittings(_find(request, number).versions.all()[:_MOST_VERSIONS])


@router.get("/{number}/on/{ground}", response={200: None})
def part_on_ground(request: HttpRequest, number: int, ground: Ground, version: int | None = None) -> HttpResponse:
    """What a finish, now or as it was, makes of a light, dark or busy picture."""
    part = get_object_or_404(studio_of(request).parts, pk=number, station="finish")
    setting = get_object_or_404(part.versions, number=version).setting if version is not None else part.setting
    cached = "private, max-age=31536000, immutable" if version is not None else "no-store"
    made = on_ground(flows.with_part(part, setting), ground)
    return HttpResponse(made, content_type="image/jpeg", headers={"Cache-Control": cached})


@router.put("/{number}", response=list[SavedPartOut])
def change_part(request: HttpRequest, number: int, body: PartChangeIn) -> list[SavedPartOut]:
    """Give a part another setting or name; all recipes that follow it change with it."""
    part = _find(request, number)
    if body.name is not None and (name := _named(body.name)) != part.name:
        flows.rename_part(part, request.user, name)  # type: ignore[arg-type]
    if body.setting is not None:
        flows.set_part(part, body.setting, request.user, body.version)  # type: ignore[arg-type]
    return list_parts(request)


@router.delete("/{number}", response={204: None})
def remove_part(request: HttpRequest, number: int) -> Status[None]:
    """Take a part away; recipes that followed it keep its setting as their own."""
    flows.remove_part(_find(request, number), request.user)  # type: ignore[arg-type]
    return Status(204, None)
