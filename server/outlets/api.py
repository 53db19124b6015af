"""Outlets over the API: their sheets, the recipes for them, and files from anywhere that are held against them."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from server.http.connections import let_go
from server.http.problems import Problem
from server.outlets import flows
from server.outlets.models import Outlet
from server.photos.hands import hands
from server.recipes.api import RecipeOut, recipe_out
from server.recipes.models import Recipe, counted
from server.studios.visitors import studio_of
from tray_core.errors import TrayError
from tray_core.intake import file_facts
from tray_core.outlets import breaches
from tray_core.plan.naming import safe_text

router = Router(tags=["outlets"])
MOST_BYTES = 60_000_000
"""Of a file that is held against a sheet."""


class FollowerOut(Schema):
    """A recipe that is for a use. changed: the sheet has other rules now. gone: it has no such use any more."""

    id: int
    title: str
    version: int
    use: str
    changed: bool
    gone: bool


class OutletOut(Schema):
    id: int
    name: str
    version: int
    content: dict[str, Any]
    recipes: list[FollowerOut]


class OutletIn(Schema):
    content: dict[str, Any]


class OutletChangeIn(OutletIn):
    """version: of the sheet that the change began from; or was: what it said then, as undoing knows it."""

    version: int | None = None
    was: dict[str, Any] | None = None


class ProposalIn(Schema):
    use: str


class AimIn(Schema):
    """use: null for no outlet. version: of the recipe."""

    use: str | None
    version: int


class BreachOut(Schema):
    """kind: refuses, changes or spoils."""

    kind: str
    label: str
    text: str


class CheckedOut(Schema):
    """What an outlet would do to a file; `unread` says why nothing can be told."""

    name: str
    format: str = ""
    width: int = 0
    height: int = 0
    bytes: int
    profile: str | None = None
    unread: str = ""
    breaches: list[BreachOut] = []


def find(request: HttpRequest, number: int) -> Outlet:
    """The studio's outlet of that number."""
    return get_object_or_404(studio_of(request).outlets, pk=number)


def _out(outlet: Outlet) -> OutletOut:
    recipes = [
        FollowerOut(
            id=each.recipe.pk,
            title=each.recipe.title,
            version=each.recipe.current.number if each.recipe.current else 0,
            use=each.use,
            changed=each.changed,
            gone=each.gone,
        )
        for each in flows.followers_of(outlet)
    ]
    return OutletOut(
        id=outlet.pk,
        name=outlet.name,
        version=outlet.version,
        content=outlet.core().model_dump(mode="json"),
        recipes=recipes,
    )


@router.get("", response=list[OutletOut])
def list_outlets(request: HttpRequest) -> list[OutletOut]:
    return [_out(outlet) for outlet in studio_of(request).outlets.all()]


@router.post("", response=OutletOut)
def create_outlet(request: HttpRequest, body: OutletIn) -> OutletOut:
    """Keep a new sheet: an empty one, a copy, or one from a file."""
    return _out(flows.create(studio_of(request), body.content))


@router.get("/{number}", response=OutletOut)
def get_outlet(request: HttpRequest, number: int) -> OutletOut:
    return _out(find(request, number))


@router.put("/{number}", response=OutletOut)
def change_outlet(request: HttpRequest, number: int, body: OutletChangeIn) -> OutletOut:
    user: Any = request.user
    return _out(flows.change(find(request, number), user, body.content, body.version, body.was))


@router.delete("/{number}", response={204: None})
def delete_outlet(request: HttpRequest, number: int) -> Status[None]:
    """Delete a sheet. Recipes that are for it keep the rules that they took over."""
    flows.delete(find(request, number))
    return Status(204, None)


@router.get("/{number}/file")
def outlet_file(request: HttpRequest, number: int) -> HttpResponse:
    """The sheet as a file, to keep or to give to somebody."""
    outlet = find(request, number)
    text = json.dumps(outlet.core().to_json(), indent=2, ensure_ascii=False) + "\n"
    response = HttpResponse(text, content_type="application/json")
    name = f"{safe_text(outlet.name).strip(' .') or 'outlet'}.json"
    response["Content-Disposition"] = content_disposition_header(as_attachment=True, filename=name) or "attachment"
    return response


@router.post("/{number}/recipes", response=RecipeOut)
def propose_recipe(request: HttpRequest, number: int, body: ProposalIn) -> dict[str, Any]:
    """Make a recipe for a use, with every station as its rules want it."""
    made = flows.propose(find(request, number), request.user, body.use)  # type: ignore[arg-type]
    return recipe_out(get_object_or_404(counted(Recipe.objects.filter(pk=made.pk))))


@router.put("/{number}/recipes/{recipe}", response=OutletOut)
def aim_recipe(request: HttpRequest, number: int, recipe: int, body: AimIn) -> OutletOut:
    """Let a recipe be for a use, with its rules as they are now, or for no outlet."""
    outlet = find(request, number)
    found = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=recipe)
    flows.aim(outlet, found, request.user, body.use, body.version)  # type: ignore[arg-type]
    return _out(outlet)


@router.post("/{number}/check", response=CheckedOut)
def check_file(request: HttpRequest, number: int, use: str, file: File[UploadedFile]) -> CheckedOut:
    """Hold a finished file from anywhere against a use: what would be refused, changed or spoiled. It is not kept."""
    outlet = find(request, number)
    found, name = flows.use_of(outlet, use), safe_text(file.name or "file")
    if (file.size or 0) > MOST_BYTES:
        raise Problem(413, "Too large", f"{name}: expected at most {MOST_BYTES:,} bytes, found {file.size:,}.")
    data = file.read()
    let_go()
    try:
        facts, photo = hands.do(name, file_facts, name, data)
    except TrayError as error:
        return CheckedOut(name=name, bytes=len(data), unread=f"Expected {error.expected}, found {error.found}.")
    early = "The file ends early and may be damaged; save it again, or copy it again from where it came."
    told = [BreachOut(kind="spoils", label="ends early", text=early)] if photo.ends_early else []
    told += [
        BreachOut(kind=each.kind, label=each.label, text=each.text)
        for each in breaches(outlet.name, found.rules, facts, found.intake)
    ]
    return CheckedOut(
        name=name,
        format=facts.format,
        width=facts.width,
        height=facts.height,
        bytes=len(data),
        profile=facts.profile,
        breaches=told,
    )
