"""Recipes that are being changed: what they would do, before they are kept."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from server.framings.choices import WITH_CHOICES, chosen_for
from server.http.types import SizeOut
from server.photos.models import Photo
from server.recipes.api import PhraseOut, words
from server.recipes.flows import drafted
from server.studios.visitors import studio_of
from tray_core.plan import Layout, Names, framing_of, plan_renditions
from tray_core.plan.weight import about_bytes, is_rough

router = Router(tags=["recipes"])


class DraftIn(Schema):
    content: dict[str, Any]
    photos: list[int] = []
    of: int | None = None


class PartOut(Schema):
    x: float
    y: float
    width: float
    height: float


class DraftPlanOut(Schema):
    """width, height: of one rendition; of a responsive set, the largest. shown: share of the photo.

    part: what of the photo is shown, in shares of its edges; it may reach beyond. within: the picture inside of its
    borders, in shares of the whole. about: bytes of that rendition,
    as forecast; rough: whether the forecast may be far off.
    """

    photo: int
    width: int
    height: int
    canvas: SizeOut
    part: PartOut
    within: PartOut
    padded: bool
    asks: bool
    columns: int
    rows: int
    scale: float
    shown: float
    parts: list[SizeOut]
    framing: str | None
    name: str
    folder: str
    about: int
    rough: bool
    warnings: list[str]


class DraftOut(Schema):
    sentence: list[PhraseOut]
    size_line: str
    file_line: str
    plans: list[DraftPlanOut]


def _within(layout: Layout) -> PartOut:
    """Where the picture lies inside of its borders, in shares of the whole rendition."""
    (width, height), rings = layout.outer, layout.rings
    return PartOut(
        x=sum(ring[0] for ring in rings) / width,
        y=sum(ring[1] for ring in rings) / height,
        width=layout.canvas[0] / width,
        height=layout.canvas[1] / height,
    )


@router.post("", response=DraftOut)
def plan_draft(request: HttpRequest, body: DraftIn) -> DraftOut:
    """Say what a recipe does, and plan it for a few photos; 422 names every field that is not right."""
    studio = studio_of(request)
    recipe = drafted(body.content, studio.pk)
    plans = []
    wanted = body.photos[:8]
    ready = studio.photos.filter(pk__in=wanted, state=Photo.State.READY)
    photos = {photo.pk: photo for photo in ready.prefetch_related(*WITH_CHOICES)}
    if len(photos) < len(set(wanted)):
        raise Http404
    for n, number in enumerate(wanted, 1):
        photo = photos[number]
        found = plan_renditions(photo.facts(), recipe, n, Names(), **chosen_for(photo, body.of))
        plan, layout = found[-1], found[-1].layout
        plans.append(
            DraftPlanOut(
                photo=number,
                width=plan.width,
                height=plan.height,
                canvas=SizeOut(width=layout.outer[0], height=layout.outer[1]),
                within=_within(layout),
                part=PartOut.from_orm(framing_of("", layout.rect, layout.source)),
                padded=layout.padded,
                asks=layout.asks,
                columns=layout.columns,
                rows=layout.rows,
                scale=layout.scale,
                shown=1 - layout.cut,
                parts=[SizeOut(width=each.width, height=each.height) for each in found],
                framing=layout.framing,
                name=plan.name,
                folder=plan.folder,
                about=about_bytes(plan, photo.weighed()),
                rough=is_rough(plan),
                warnings=[warning.text for warning in plan.warnings],
            )
        )
    return DraftOut(plans=plans, **words(recipe))
