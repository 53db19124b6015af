"""Sets over the API: recipes that make the same picture for one place in a page."""

from __future__ import annotations

from typing import Annotated, Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from pydantic import Field

from server.http.problems import Problem
from server.live.hub import hint
from server.recipes.models import Set
from server.studios.visitors import studio_of

router = Router(tags=["sets"])


class MemberIn(Schema):
    """media: a media condition as in HTML, such as (max-width: 600px); "" for all screens."""

    recipe: int
    media: Annotated[str, Field(max_length=200, pattern=r"^[^<>\"]*$")] = ""


class SetIn(Schema):
    name: Annotated[str, Field(min_length=1, max_length=60)]
    sizes: Annotated[str, Field(max_length=500)] = ""
    members: Annotated[list[MemberIn], Field(min_length=1, max_length=40)]


class SetOut(Schema):
    id: int
    name: str
    sizes: str
    members: list[MemberIn]


@router.get("", response=list[SetOut])
def list_sets(request: HttpRequest) -> Any:
    return studio_of(request).sets.all()


@router.put("", response=SetOut)
def keep_set(request: HttpRequest, body: SetIn) -> Set:
    """Keep a set under its name; one of the same name is replaced."""
    studio = studio_of(request)
    wanted = {member.recipe for member in body.members}
    if missing := wanted - set(studio.recipes.filter(pk__in=wanted).values_list("pk", flat=True)):
        raise Problem(422, "Not a recipe", f"members: expected recipes of the studio, found number {min(missing)}.")
    told = {"sizes": body.sizes, "members": [member.dict() for member in body.members]}
    kept, _ = Set.objects.update_or_create(studio=studio, name=body.name.strip(), defaults=told)
    hint(studio.pk, "recipe", 0)
    return kept


@router.delete("/{number}", response={204: None})
def drop_set(request: HttpRequest, number: int) -> Status[None]:
    """Forget a set; its recipes stay."""
    get_object_or_404(studio_of(request).sets, pk=number).delete()
    return Status(204, None)
