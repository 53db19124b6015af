"""Parts over the API: what several recipes share."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status

from server.http.problems import Problem
from server.recipes import flows
from server.recipes.models import Part, Recipe
from server.studios.visitors import studio_of
from tray_core.plan.naming import safe_text

router = Router(tags=["recipes"])


class PartUserOut(Schema):
    id: int
    title: str


class SavedPartOut(Schema):
    id: int
    station: str
    name: str
    setting: dict[str, Any]
    used: list[PartUserOut]


class SavedPartIn(Schema):
    recipe: int
    station: str
    name: str


class PartChangeIn(Schema):
    """What is to change: the setting, the name, or both."""

    setting: dict[str, Any] | None = None
    name: str | None = None


def _out(part: Part, recipes: list[Recipe]) -> SavedPartOut:
    used = [
        PartUserOut(id=recipe.pk, title=recipe.title)
        for recipe in recipes
        if recipe.current is not None and recipe.current.content.get("parts", {}).get(part.station) == part.name
    ]
    return SavedPartOut(id=part.pk, station=part.station, name=part.name, setting=part.setting, used=used)


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
    return [_out(part, recipes) for part in studio.parts.all()]


@router.post("", response=SavedPartOut)
def save_part(request: HttpRequest, body: SavedPartIn) -> SavedPartOut:
    """Save a station of a recipe as a part, which the recipe follows from now on."""
    recipe = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=body.recipe)
    part = flows.save_part(recipe, request.user, body.station, _named(body.name))  # type: ignore[arg-type]
    recipe.refresh_from_db()
    return _out(part, [recipe])


@router.put("/{number}", response=list[SavedPartOut])
def change_part(request: HttpRequest, number: int, body: PartChangeIn) -> list[SavedPartOut]:
    """Give a part another setting or name; all recipes that follow it change with it."""
    part = _find(request, number)
    if body.name is not None and (name := _named(body.name)) != part.name:
        flows.rename_part(part, request.user, name)  # type: ignore[arg-type]
    if body.setting is not None:
        flows.set_part(part, body.setting, request.user)  # type: ignore[arg-type]
    return list_parts(request)


@router.delete("/{number}", response={204: None})
def remove_part(request: HttpRequest, number: int) -> Status[None]:
    """Take a part away; recipes that followed it keep its setting as their own."""
    flows.remove_part(_find(request, number), request.user)  # type: ignore[arg-type]
    return Status(204, None)
