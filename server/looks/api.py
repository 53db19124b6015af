"""The bench over the API, beyond framing: sharpness at the rendition's own pixels, weight, color."""

from __future__ import annotations

import functools
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from server.framings import sharpness
from server.framings.choices import chosen_for
from server.framings.models import Sharpness
from server.http.problems import Problem
from server.http.types import SizeOut
from server.looks import exact
from server.photos.models import Photo
from server.photos.reading import copy_path
from server.recipes.flows import drafted
from server.studios.visitors import studio_of
from server.trays.finding import find_tray
from tray_core import Recipe as CoreRecipe
from tray_core.coders import coded
from tray_core.line.sharpen import guard_for, overshoot, radius_for
from tray_core.looks import ColorChange, as_candidate, color_change, colored, difference, guarded, shown, window
from tray_core.looks.places import places_of
from tray_core.pixels.color import to_8
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import Lossy
from tray_core.weight.score import decoded

router = Router(tags=["bench"])


class CloserIn(Schema):
    """A cell as it is being judged. content: the recipe as it is drafted, or as it is kept.

    strength: of the photo's own sharpening; null for the recipe's. part: of several renditions, from 1; null for
    the first panel or the largest. page, turn: of the asking page, so that what was asked before is dropped.
    """

    content: dict[str, Any] | None = None
    strength: int | None = None
    part: int | None = Field(None, ge=1, le=10_000)
    page: str = Field("", max_length=80)
    turn: int = 0


class WindowIn(CloserIn):
    """What part is wanted, in the rendition's pixels. view: after, before, mask or difference."""

    view: str = "after"
    x: int = 0
    y: int = 0
    width: int = 900
    height: int = 600

    def of(self, picture: Picture) -> Picture:
        """That part of a picture."""
        return window(picture, self.x, self.y, self.width, self.height)


class PointsIn(CloserIn):
    """format: jpeg, thorough, webp or avif. qualities: some of its curve."""

    format: str = "jpeg"
    qualities: list[int] = []
    scored: bool = True


class CandidateIn(WindowIn):
    format: str = "jpeg"
    quality: int = 84


class PointOut(Schema):
    quality: int
    bytes: int
    score: float | None


class MadeOut(Schema):
    """What the recipe makes of the photo now, exactly: the bytes of the file, the quality that it has."""

    bytes: int
    quality: int | None
    score: float | None
    width: int
    height: int
    limit: int | None
    looks: int | None


class CloserOut(Schema):
    """width, height: of one rendition. radius: of the sharpening. strength: the recipe's; own: the photo's.

    parts: what the cell becomes, panel by panel or width by width; part: which of them this is, from 1.
    """

    width: int
    height: int
    radius: float
    strength: int
    own: int | None
    part: int
    parts: list[SizeOut]


class AreaOut(Schema):
    """kind: flat or fine. x, y: its middle, in shares of the photo."""

    photo: int
    name: str
    kind: str
    x: float
    y: float


class StrengthsIn(Schema):
    strengths: dict[int, int | None]


class StrengthsOut(Schema):
    strengths: dict[int, int | None]


class EdgesOut(Schema):
    """overshoot: how far the strongest edges go beyond what is around them. guard: as it is for this picture."""

    overshoot: float
    guard: float


class ColorsOut(Schema):
    """source, target: profile names, or what a photo without one is taken for. converts: whether values change.

    share: of the picture beyond the target's gamut.
    """

    source: str
    target: str
    converts: bool
    share: float
    warning: str


def _cell(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> tuple[exact.Cell, CoreRecipe]:
    """The cell, resized, with the recipe as it is judged."""
    tray = find_tray(request, number)
    ready = Photo.objects.select_related("root").filter(places__tray=tray, state=Photo.State.READY)
    found = get_object_or_404(ready, pk=photo)
    kept = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=recipe)
    assert kept.current is not None, "a recipe is made with its first version"
    core = drafted(body.content, kept.studio_id) if body.content is not None else kept.current.core()
    alive = functools.partial(exact.check_turn, found.studio_id, body.page, body.turn)
    alive()
    cell = exact.resized_cell(found, core, chosen_for(found, recipe), alive, body.part)
    return cell, core


def _picture(data: bytes) -> HttpResponse:
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": "no-store"})


@router.post("/{number}/closer/{photo}/{recipe}", response=CloserOut)
def get_closer(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> CloserOut:
    """The sizes and strengths of a cell."""
    cell, core = _cell(request, number, photo, recipe, body)
    own = Sharpness.objects.filter(photo_id=photo, recipe_id=recipe).values_list("strength", flat=True).first()
    station = core.sharpen
    return CloserOut(
        width=cell.plan.width,
        height=cell.plan.height,
        radius=station.radius if station and station.radius else radius_for(*cell.made.picture.size),
        strength=station.strength if station else 0,
        own=own,
        part=cell.part,
        parts=[SizeOut(width=width, height=height) for width, height in cell.parts],
    )


@router.post("/{number}/closer/{photo}/{recipe}/window", response={200: None})
def get_window(request: HttpRequest, number: int, photo: int, recipe: int, body: WindowIn) -> HttpResponse:
    """A part of the rendition at its own pixels, lossless: after or before sharpening, the guard's mask, or what
    sharpening changes, four times as strong on middle grey.
    """
    cell, core = _cell(request, number, photo, recipe, body)
    plain = exact.for_coder(cell, core.model_copy(update={"sharpen": None}), None)
    match body.view:
        case "before":
            found = body.of(plain)
        case "mask":
            found = body.of(guarded(plain, core.sharpen))
        case "difference":
            found = difference(body.of(plain), body.of(exact.for_coder(cell, core, body.strength)))
        case _:
            found = body.of(exact.for_coder(cell, core, body.strength))
    return _picture(shown(found))


@router.post("/{number}/closer/{photo}/{recipe}/edges", response=EdgesOut)
def get_edges(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> EdgesOut:
    """What sharpening does to the strongest edges, and what its guard is for this picture, in levels of 255."""
    cell, core = _cell(request, number, photo, recipe, body)
    before = exact.for_coder(cell, core.model_copy(update={"sharpen": None}), None)
    after = exact.for_coder(cell, core, body.strength)
    guard = guard_for(before, core.sharpen) if core.sharpen else 0
    return EdgesOut(overshoot=overshoot(to_8(before), to_8(after)), guard=guard)


@router.post("/{number}/closer/{photo}/{recipe}/points", response=list[PointOut])
def get_points(request: HttpRequest, number: int, photo: int, recipe: int, body: PointsIn) -> list[PointOut]:
    """Bytes and perceptual score at some qualities of a format: a part of its curve."""
    cell, core = _cell(request, number, photo, recipe, body)
    core = as_candidate(core, body.format)
    found = []
    for quality in [max(1, min(100, quality)) for quality in body.qualities[:30]]:
        exact.check_turn(studio_of(request).pk, body.page, body.turn)
        data = exact.file_of(cell, core, body.strength, quality)
        score = exact.score_of(cell, core, body.strength, quality) if body.scored else None
        found.append(PointOut(quality=quality, bytes=len(data), score=score))
    return found


@router.post("/{number}/closer/{photo}/{recipe}/made", response=MadeOut)
def get_made(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> MadeOut:
    """Encode the rendition as the recipe says, without writing it: its exact bytes."""
    cell, core = _cell(request, number, photo, recipe, body)
    picture = exact.for_coder(cell, core, body.strength)
    made = coded(picture, core.coded, core.size.ppi if core.size else None)
    file = core.coded
    return MadeOut(
        bytes=len(made.data),
        quality=made.quality,
        score=made.score,
        width=picture.size[0],
        height=picture.size[1],
        limit=file.under_kb * 1000 if isinstance(file, Lossy) and file.under_kb is not None else None,
        looks=file.looks if isinstance(file, Lossy) else None,
    )


@router.post("/{number}/closer/{photo}/{recipe}/candidate", response={200: None})
def get_candidate(request: HttpRequest, number: int, photo: int, recipe: int, body: CandidateIn) -> HttpResponse:
    """A part of the rendition as a format and quality show it, at its own pixels."""
    cell, core = _cell(request, number, photo, recipe, body)
    data = exact.file_of(cell, as_candidate(core, body.format), body.strength, body.quality)
    return _picture(shown(body.of(decoded(data))))


@router.post("/{number}/closer/{photo}/{recipe}/colors", response=ColorsOut)
def get_colors(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> ColorChange:
    """What the conversion changes, in words and numbers."""
    cell, core = _cell(request, number, photo, recipe, body)
    facts = get_object_or_404(Photo, pk=photo).facts()
    return color_change(facts, cell.made.picture, core)


@router.post("/{number}/closer/{photo}/{recipe}/color", response={200: None})
def get_color(request: HttpRequest, number: int, photo: int, recipe: int, body: WindowIn) -> HttpResponse:
    """The rendition before or after conversion, each with its own profile, or with what is beyond the gamut marked."""
    cell, core = _cell(request, number, photo, recipe, body)
    before = exact.for_coder(cell, core.model_copy(update={"color": None, "sharpen": None}), None)
    after = exact.for_coder(cell, core, body.strength)
    return _picture(shown(colored(before, after, core, body.view)))


@router.get("/{number}/places", response=list[AreaOut])
def get_places(request: HttpRequest, number: int) -> list[AreaOut]:
    """The tray's flattest areas and finest textures: where sharpening shows first, for better or worse."""
    tray = find_tray(request, number)
    photos = Photo.objects.filter(places__tray=tray, state=Photo.State.READY).order_by("places__position")[:200]
    found = []
    for photo in photos:
        try:
            copy = copy_path(photo.digest, 960).read_bytes()
        except OSError:
            continue
        found += [(place.amount, place.kind, photo, place) for place in places_of(decoded(copy))]
    rows = []
    for kind, reverse in (("flat", False), ("fine", True)):
        best = sorted((row for row in found if row[1] == kind), key=lambda row: row[0], reverse=reverse)[:6]
        rows += [AreaOut(photo=p.pk, name=p.name, kind=kind, x=place.x, y=place.y) for _, _, p, place in best]
    return rows


@router.put("/{number}/sharpness/{recipe}", response=StrengthsOut)
def set_strengths(request: HttpRequest, number: int, recipe: int, body: StrengthsIn) -> StrengthsOut:
    """Sharpen photos by strengths of their own, or as the recipe says again (null); answers what they had."""
    tray = find_tray(request, number)
    made = get_object_or_404(studio_of(request).recipes, pk=recipe)
    if any(strength is not None and not 0 <= strength <= 200 for strength in body.strengths.values()):
        raise Problem(422, "The strength is not right", "strength: expected 0 to 200 %.")
    return StrengthsOut(strengths=sharpness.keep(tray, made, body.strengths))
