"""A finished rendition beside its original, both at their own pixels, over the API."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from pydantic import Field

from server.looks import exact
from server.runs.models import Rendition
from server.studios.visitors import studio_of
from tray_core import check_recipe
from tray_core.looks import shown, window
from tray_core.plan import layout_from_json

router = Router(tags=["receipts"])

_AS_IT_IS = check_recipe(
    {
        "format": "upper-tray/recipe",
        "version": 1,
        "color": {"profile": "srgb"},
        "file": {"format": "png"},
        "name": {"pattern": "{stem}"},
        "place": {"to": "download"},
    }
)
"""The photo itself: neither framed, nor sized, nor sharpened, in the screens' color."""


class PointIn(Schema):
    """x, y: the middle of what is looked at, in the rendition's pixels. width, height: of the window, in the photo's
    own.
    """

    x: float = 0
    y: float = 0
    width: int = Field(600, ge=1, le=2400)
    height: int = Field(600, ge=1, le=2400)
    page: str = Field("", max_length=80)
    turn: int = 0


@router.get("/renditions/{number}/original", response={200: None})
def original_window(request: HttpRequest, number: int, how: Query[PointIn]) -> HttpResponse:
    """The same place in the original, at the original's own pixels, lossless."""
    rows = Rendition.objects.select_related("photo__root").filter(run__studio=studio_of(request))
    row = get_object_or_404(rows, pk=number)
    layout = layout_from_json(row.layout)
    left, top, _, _ = layout.panel(row.panel or 1) if row.panel else (0, 0, 0, 0)
    x, y = layout.photo_point(left + how.x, top + how.y)

    def alive() -> None:
        exact.check_turn(row.photo.studio_id, how.page, how.turn)

    alive()
    cell = exact.resized_cell(row.photo, _AS_IT_IS, {}, alive)
    picture = exact.for_coder(cell, _AS_IT_IS, None)
    found = window(picture, round(x - how.width / 2), round(y - how.height / 2), how.width, how.height)
    kind = "image/png" if (data := shown(found)).startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": "no-store"})
