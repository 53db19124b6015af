"""Giving recipes away and taking them in, over the API."""

from __future__ import annotations

import json
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import File, Form, Query, Router, Schema
from ninja.files import UploadedFile

from server.http.problems import Problem
from server.recipes import giving
from server.studios.visitors import studio_of
from tray_core.plan.naming import safe_text

router = Router(tags=["recipes"])
_LARGEST = 20_000_000


class GiveIn(Schema):
    """recipes: these; or all of a shelf; or, with neither, all."""

    recipes: list[int] = []
    shelf: str | None = None


class BesideOut(Schema):
    """state: new, same or differs. changed: what would be other than here, in words."""

    title: str
    sentence: str
    state: str
    changed: list[str]


class LookedIntoOut(Schema):
    recipes: list[BesideOut]
    profiles: list[str]


class TakenInOut(Schema):
    taken: list[str]


@router.get("/given")
def give_recipes(request: HttpRequest, which: Query[GiveIn]) -> HttpResponse:
    """A file of recipes, to be taken in elsewhere."""
    studio = studio_of(request)
    rows = studio.recipes.filter(archived=False).select_related("current").order_by("position", "pk")
    if which.recipes:
        rows = rows.filter(pk__in=which.recipes)
    elif which.shelf is not None:
        rows = (
            rows.filter(current__content__shelf=which.shelf)
            if which.shelf
            else rows.exclude(current__content__has_key="shelf")
        )
    found = list(rows)
    if not found:
        raise Http404
    name = which.shelf or (found[0].title if len(found) == 1 else "Recipes")
    response = HttpResponse(giving.give(studio, found), content_type="application/zip")
    name = f"{safe_text(name).strip(' .') or 'recipes'}.recipes.zip"
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


def _content(file: UploadedFile) -> bytes:
    if (file.size or 0) > _LARGEST:
        raise Problem(413, "The file is too large", f"{file.name}: expected at most {_LARGEST // 1_000_000} MB.")
    return bytes(file.read())


@router.post("/look-into", response=LookedIntoOut)
def look_into(request: HttpRequest, file: File[UploadedFile]) -> dict[str, Any]:
    """What a file has, beside what is here; nothing is taken."""
    shelf = giving.read(_content(file), file.name or "file")
    seen = giving.look(studio_of(request), shelf)
    return {"recipes": [each._asdict() for each in seen], "profiles": sorted(shelf.profiles)}


@router.post("/take-in", response=TakenInOut)
def take_in(request: HttpRequest, file: File[UploadedFile], choices: Form[str] = "{}") -> dict[str, Any]:
    """Take a file in. choices: JSON of theirs, mine or both, by the titles of recipes that differ."""
    try:
        chosen = json.loads(choices)
        right = isinstance(chosen, dict) and all(each in ("theirs", "mine", "both") for each in chosen.values())
    except (ValueError, TypeError):
        right = False
    if not right:
        raise Problem(
            422, "The choices are not right", "choices: expected theirs, mine or both by title, found something else."
        )
    shelf = giving.read(_content(file), file.name or "file")
    return {"taken": giving.take(studio_of(request), request.user, shelf, chosen)}  # type: ignore[arg-type]
