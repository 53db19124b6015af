"""Rehearsals over the API: a variant at a time, so that the first is seen soon and a page can leave."""

from __future__ import annotations

import functools
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema
from pydantic import ValidationError

from server.framings.choices import chosen_for
from server.http.problems import Problem
from server.looks import exact
from server.outlets import flows
from server.outlets.api import find
from server.outlets.rehearsing import Rehearsal, Rehearsed
from server.photos.models import Photo
from server.studios.visitors import studio_of
from server.trays.finding import find_tray
from tray_core.rehearsal import Variant, variant_recipe

router = Router(tags=["outlets"])


class RehearsalIn(Schema):
    """page, turn: which page asks, and for the how-manieth time; older questions are dropped."""

    tray: int
    photo: int
    recipe: int
    use: str
    page: str = Field("", max_length=80)
    turn: int = 0


class VariantIn(RehearsalIn):
    """variant: as `tray_core.rehearsal.Variant`."""

    variant: dict[str, Any]


class VariantsOut(Schema):
    """width, height: as the recipe makes it. seen_width, seen_height: as people see it, in the display's pixels."""

    photo: str
    width: int
    height: int
    seen_width: int
    seen_height: int
    variants: list[dict[str, Any]]


class RehearsedOut(Schema):
    """photo: its name. what, how: the variant in words. sent, shown: bytes. score: like the ideal, of 100."""

    photo: str
    what: str
    how: str
    width: int
    height: int
    sent: int
    shown: int
    served_width: int
    served_height: int
    score: float
    untouched: bool


class UsedOut(Schema):
    """The recipe's content as the variant has it, to be kept as its next version."""

    content: dict[str, Any]
    version: int


def _rehearsal(request: HttpRequest, number: int, body: RehearsalIn) -> Rehearsal:
    use = flows.use_of(find(request, number), body.use)
    tray = find_tray(request, body.tray)
    ready = Photo.objects.select_related("root").filter(places__tray=tray, state=Photo.State.READY)
    photo = get_object_or_404(ready, pk=body.photo)
    recipe = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=body.recipe)
    assert recipe.current is not None, "a recipe is made with its first version"
    core = recipe.current.core()
    if core.file.format == "same":
        detail = f"{recipe.title} sends photos as they are. Choose a format in its file station to rehearse others."
        raise Problem(409, "Nothing to rehearse", detail)
    return Rehearsal(photo, core, use, chosen_for(photo, recipe.pk))


def _variant(body: VariantIn) -> Variant:
    try:
        return Variant.model_validate(body.variant)
    except ValidationError as error:
        details = error.errors()[0]
        field = ".".join(map(str, details["loc"]))
        raise Problem(422, "The variant is not right", f"{field}: {details['msg'].lower()}.") from error


def _rehearsed(request: HttpRequest, number: int, body: VariantIn) -> Rehearsed:
    rehearsal, variant = _rehearsal(request, number, body), _variant(body)
    if variant.format not in rehearsal.use.rules.formats:
        raise Problem(422, "The variant is not right", f"format: the outlet does not take {variant.format.upper()}.")
    alive = functools.partial(exact.check_turn, rehearsal.photo.studio_id, body.page, body.turn)
    alive()
    return rehearsal.rehearse(variant, alive)


@router.post("/{number}/rehearsal", response=VariantsOut)
def get_variants(request: HttpRequest, number: int, body: RehearsalIn) -> VariantsOut:
    """The variants worth trying, and at which size people will see them."""
    rehearsal = _rehearsal(request, number, body)
    plan, alive = rehearsal.plan, functools.partial(exact.check_turn, rehearsal.photo.studio_id, body.page, body.turn)
    seen = rehearsal.ideal(alive).size
    return VariantsOut(
        photo=rehearsal.photo.name,
        width=plan.width,
        height=plan.height,
        seen_width=seen[0],
        seen_height=seen[1],
        variants=[each.model_dump(mode="json") for each in rehearsal.variants()],
    )


@router.post("/{number}/rehearsal/variant", response=RehearsedOut)
def rehearse(request: HttpRequest, number: int, body: VariantIn) -> RehearsedOut:
    """One variant, made, sent through the intake and scored."""
    made = _rehearsed(request, number, body)
    return RehearsedOut(
        photo=made.photo,
        what=made.what,
        how=made.how,
        width=made.width,
        height=made.height,
        sent=made.sent,
        shown=len(made.served.data),
        served_width=made.served.width,
        served_height=made.served.height,
        score=round(made.score, 1),
        untouched=made.served.untouched,
    )


@router.post("/{number}/rehearsal/picture", response={200: None})
def served_picture(request: HttpRequest, number: int, body: VariantIn) -> HttpResponse:
    """The file that the outlet would show of a variant, byte for byte."""
    made = _rehearsed(request, number, body)
    kind = f"image/{made.served.format}"
    return HttpResponse(made.served.data, content_type=kind, headers={"Cache-Control": "no-store"})


@router.post("/{number}/rehearsal/recipe", response=UsedOut)
def variant_content(request: HttpRequest, number: int, body: VariantIn) -> UsedOut:
    """What the recipe says with a variant; nothing is kept."""
    _rehearsal(request, number, body)
    recipe = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=body.recipe)
    assert recipe.current is not None
    own = recipe.current.content
    content = variant_recipe(recipe.current.core(), _variant(body)).to_json()
    # Files of the studio are named without its folder in what is kept.
    for station in ("finish", "color"):
        if station in content and station in own and (station != "color" or "icc" in content[station]):
            content[station] = own[station]
    return UsedOut(content=content, version=recipe.current.number)
