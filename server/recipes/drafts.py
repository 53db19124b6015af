"""Recipes that are being changed: what they would do, before they are kept."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.recipes.api import PhraseOut, words
from server.recipes.flows import checked
from server.trays.models import Photo
from server.visitors import studio_of
from tray_core.plan import Names, plan_rendition

router = Router(tags=["recipes"])


class DraftIn(Schema):
    content: dict[str, Any]
    photos: list[int] = []


class DraftPlanOut(Schema):
    photo: int
    width: int
    height: int
    name: str
    folder: str
    warnings: list[str]


class DraftOut(Schema):
    sentence: list[PhraseOut]
    size_line: str
    file_line: str
    plans: list[DraftPlanOut]


@router.post("", response=DraftOut)
def plan_draft(request: HttpRequest, body: DraftIn) -> DraftOut:
    """Say what a recipe does, and plan it for a few photos; 422 names every field that is not right."""
    recipe = checked(body.content)
    plans = []
    for n, number in enumerate(body.photos[:8], 1):
        photo = get_object_or_404(studio_of(request).photos, pk=number, state=Photo.State.READY)
        plan = plan_rendition(photo.facts(), recipe, n, Names())
        plans.append(
            DraftPlanOut(
                photo=number,
                width=plan.width,
                height=plan.height,
                name=plan.name,
                folder=plan.folder,
                warnings=[warning.text for warning in plan.warnings],
            )
        )
    return DraftOut(plans=plans, **words(recipe))
