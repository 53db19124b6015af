"""Recipes over the API."""

from __future__ import annotations

import datetime as dt
import functools
import json
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Router, Schema

from server.recipes import flows
from server.recipes.models import Recipe, RecipeVersion, counted
from server.studios.visitors import studio_of
from tray_core import Recipe as CoreRecipe
from tray_core.plan import layouts
from tray_core.plan.naming import safe_text
from tray_core.recipe import describe, headline, starters
from tray_core.recipe.changes import changes

router = Router(tags=["recipes"])
_MOST_VERSIONS = 400


class PhraseOut(Schema):
    text: str
    station: str | None


class DrawingOut(Schema):
    """What a recipe's small drawing shows. ratio: width over height, None where the photo keeps its shape."""

    way: str
    by: str
    ratio: float | None
    columns: int
    rows: int


class RecipeOut(Schema):
    id: int
    title: str
    shelf: str
    note: str
    drawing: DrawingOut
    archived: bool
    version: int
    version_id: int
    content: dict[str, Any]
    size_line: str
    file_line: str
    sentence: list[PhraseOut]
    trays: int


class VersionOut(Schema):
    """What a recipe said at the end of one sitting. changed: since the sitting before, in words."""

    number: int
    made: dt.datetime
    content: dict[str, Any]
    sentence: str
    changed: list[str]


class RecipeIn(Schema):
    content: dict[str, Any]


class ChangeIn(RecipeIn):
    """version: the number that the change began from."""

    version: int


class ArchiveIn(Schema):
    archived: bool


class OrderIn(Schema):
    recipes: list[int]


class StarterOut(Schema):
    title: str
    note: str
    content: dict[str, Any]
    size_line: str
    file_line: str
    sentence: list[PhraseOut]
    drawing: DrawingOut


@functools.lru_cache(maxsize=500)
def words(core: CoreRecipe) -> dict[str, Any]:
    """What a recipe says of itself: its head's two lines, its sentence, its drawing. Not to be changed."""
    size_line, file_line = headline(core)
    sentence = [{"text": phrase.text, "station": phrase.station} for phrase in describe(core)]
    return {"size_line": size_line, "file_line": file_line, "sentence": sentence, "drawing": drawing(core)}


def drawing(core: CoreRecipe) -> dict[str, Any]:
    """The drawing of a recipe, from what it does to a photo of 3:2."""
    frame = core.frame
    layout = layouts((3000, 2000), frame, core.size)[-1]
    keeps = frame is None or frame.way in ("keep", "bounds")
    return {
        "way": frame.way if frame else "keep",
        "by": core.size.by if core.size else "own",
        "ratio": None if keeps else layout.canvas[0] / layout.canvas[1],
        "columns": layout.columns,
        "rows": layout.rows,
    }


def recipe_out(recipe: Recipe) -> dict[str, Any]:
    """A RecipeOut as plain values. recipe: as `counted` finds it, with what it says now."""
    version = recipe.current
    assert version is not None, "a recipe is made with its first version"
    return {
        "id": recipe.pk,
        "title": recipe.title,
        "shelf": version.content.get("shelf", ""),
        "note": version.content.get("note", ""),
        "archived": recipe.archived,
        "version": version.number,
        "version_id": version.pk,
        "content": version.content,
        "trays": recipe.lit_in,  # type: ignore[attr-defined]  # counted with it, see `counted`
        **words(version.core()),
    }


def _find(request: HttpRequest, number: int) -> Recipe:
    return get_object_or_404(counted(studio_of(request).recipes.filter(pk=number)))


@router.get("", response=list[RecipeOut])
def list_recipes(request: HttpRequest) -> list[dict[str, Any]]:
    return [recipe_out(recipe) for recipe in counted(studio_of(request).recipes.all())]


@router.post("", response=RecipeOut)
def create_recipe(request: HttpRequest, body: RecipeIn) -> dict[str, Any]:
    made = flows.create(studio_of(request), request.user, body.content)  # type: ignore[arg-type]
    return recipe_out(_find(request, made.pk))


@router.get("/starters", response=list[StarterOut])
def list_starters(request: HttpRequest) -> list[dict[str, Any]]:
    """Recipes to start from."""
    return [{"title": core.title, "note": core.note, "content": core.to_json(), **words(core)} for core in starters()]


@router.put("/order", response=list[RecipeOut])
def order_recipes(request: HttpRequest, body: OrderIn) -> list[dict[str, Any]]:
    """Put the recipes into this order; those not named follow as they were."""
    flows.order(studio_of(request), body.recipes)
    return list_recipes(request)


@router.get("/{number}", response=RecipeOut)
def get_recipe(request: HttpRequest, number: int) -> dict[str, Any]:
    return recipe_out(_find(request, number))


@router.put("/{number}", response=RecipeOut)
def change_recipe(request: HttpRequest, number: int, body: ChangeIn) -> dict[str, Any]:
    flows.change(_find(request, number), request.user, body.content, body.version)  # type: ignore[arg-type]
    return recipe_out(_find(request, number))


@router.get("/{number}/versions", response=list[VersionOut])
def list_versions(request: HttpRequest, number: int) -> list[dict[str, Any]]:
    """What the recipe said before, the newest first; the changes of one sitting are one version."""
    sittings = flows.sittings(_find(request, number).versions.all()[:_MOST_VERSIONS])
    before: list[RecipeVersion | None] = [*sittings[1:], None]
    return [
        {
            "number": version.number,
            "made": version.made,
            "content": version.content,
            "sentence": "".join(phrase.text for phrase in describe(version.core())),
            "changed": changes(old.core(), version.core()) if old is not None else ("new",),
        }
        for version, old in zip(sittings, before, strict=True)
    ]


@router.get("/{number}/file")
def recipe_file(request: HttpRequest, number: int) -> HttpResponse:
    """The recipe as a file, to keep or to give to somebody."""
    recipe = _find(request, number)
    assert recipe.current is not None
    text = json.dumps(recipe.current.content, indent=2, ensure_ascii=False) + "\n"
    name = f"{safe_text(recipe.title).strip(' .') or 'recipe'}.json"
    response = HttpResponse(text, content_type="application/json")
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


@router.post("/{number}/archived", response=RecipeOut)
def archive_recipe(request: HttpRequest, number: int, body: ArchiveIn) -> dict[str, Any]:
    flows.archive(_find(request, number), body.archived)
    return recipe_out(_find(request, number))
