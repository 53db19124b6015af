"""The bench over the API, beyond framing: sharpness at the rendition's own pixels, weight, color."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.problems import Problem
from server.recipes.flows import checked
from server.trays import exact, sharpness
from server.trays.finding import find_tray
from server.trays.models import Photo, Sharpness
from server.trays.reading import copy_path
from server.visitors import studio_of
from tray_core import Recipe as CoreRecipe
from tray_core.coders import coded, encode
from tray_core.line.line import goal_of
from tray_core.line.sharpen import guard_for, guard_mask, overshoot, radius_for
from tray_core.photo.profiles import profile_name
from tray_core.pixels.color import TO_SRGB, beyond_gamut, needs_conversion, target_of, to_8, to_srgb
from tray_core.pixels.picture import Picture
from tray_core.plan.cautions import no_profile, taken_for
from tray_core.recipe.file import KEEPS_CMYK, AvifFile, File, JpegFile, Lossy, PngFile, WebpFile
from tray_core.recipe.stations import Color
from tray_core.weight.places import places_of
from tray_core.weight.score import decoded

router = Router(tags=["bench"])

_PNG = PngFile(format="png", effort=1)
_LARGEST_WINDOW = 2000
_FIT = 1400
_MARK = (230, 0, 160)


class CloserIn(Schema):
    """A cell as it is being judged. content: the recipe as it is drafted, or as it is kept.

    strength: of the photo's own sharpening; null for the recipe's. page, turn: of the asking page, so that what was
    asked before is dropped.
    """

    content: dict[str, Any] | None = None
    strength: int | None = None
    page: str = ""
    turn: int = 0


class WindowIn(CloserIn):
    """What part is wanted, in the rendition's pixels. view: after, before, mask or difference."""

    view: str = "after"
    x: int = 0
    y: int = 0
    width: int = 900
    height: int = 600


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
    """width, height: of one rendition. radius: of the sharpening. strength: the recipe's; own: the photo's."""

    width: int
    height: int
    radius: float
    strength: int
    own: int | None


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


def _cell(
    request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn
) -> tuple[exact.Resized, CoreRecipe]:
    """The cell, resized, with the recipe as it is judged."""
    tray = find_tray(request, number)
    ready = Photo.objects.select_related("root").filter(places__tray=tray, state=Photo.State.READY)
    found = get_object_or_404(ready, pk=photo)
    kept = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=recipe)
    assert kept.current is not None, "a recipe is made with its first version"
    core = checked(body.content) if body.content is not None else kept.current.core()
    exact.check_turn(body.page, body.turn)
    cell = exact.resized_cell(found, core, found.chosen(recipe), lambda: exact.check_turn(body.page, body.turn))
    return cell, core


def _picture(data: bytes) -> HttpResponse:
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": "no-store"})


def _window(picture: Picture, body: WindowIn) -> Picture:
    """The part asked for, moved inside where it reaches beyond."""
    wide, high = picture.size
    width, height = (max(1, min(edge, _LARGEST_WINDOW)) for edge in (body.width, body.height))
    left = max(0, min(body.x, wide - width))
    top = max(0, min(body.y, high - height))
    pixels = np.ascontiguousarray(picture.pixels[top : top + height, left : left + width])
    return Picture(pixels, picture.space, picture.alpha, picture.icc)


def _shown(picture: Picture) -> bytes:
    """A picture as a lossless file that browsers show; inks as sRGB."""
    return encode(to_8(to_srgb(picture) if picture.space == "CMYK" else picture), _PNG)


@router.post("/{number}/closer/{photo}/{recipe}", response=CloserOut)
def get_closer(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> CloserOut:
    """The sizes and strengths of a cell."""
    cell, core = _cell(request, number, photo, recipe, body)
    own = Sharpness.objects.filter(photo_id=photo, recipe_id=recipe).values_list("strength", flat=True).first()
    station = core.sharpen
    return CloserOut(
        width=cell.plan.width,
        height=cell.plan.height,
        radius=station.radius if station and station.radius else radius_for(*cell.picture.size),
        strength=station.strength if station else 0,
        own=own,
    )


@router.post("/{number}/closer/{photo}/{recipe}/window", response={200: None})
def get_window(request: HttpRequest, number: int, photo: int, recipe: int, body: WindowIn) -> HttpResponse:
    """A part of the rendition at its own pixels, lossless: after or before sharpening, the guard's mask, or what
    sharpening changes, four times as strong on middle grey.
    """
    cell, core = _cell(request, number, photo, recipe, body)
    plain = core.model_copy(update={"sharpen": None})
    if body.view == "before":
        return _picture(_shown(_window(exact.for_coder(cell, plain, None), body)))
    if body.view == "mask":
        before = exact.for_coder(cell, plain, None)
        guard = guard_for(before, core.sharpen) if core.sharpen else 0
        mask = Picture(guard_mask(before, guard), "grey", False, None)
        return _picture(_shown(_window(mask, body)))
    after = _window(exact.for_coder(cell, core, body.strength), body)
    if body.view == "difference":
        before = _window(exact.for_coder(cell, plain, None), body)
        change = to_8(after).pixels.astype(np.int16) - to_8(before).pixels
        shown = np.clip(128 + 4 * change, 0, 255).astype(np.uint8)
        return _picture(encode(Picture(shown, after.space, False, None), _PNG))
    return _picture(_shown(after))


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
    core = _as_candidate(core, body.format)
    found = []
    for quality in [max(1, min(100, quality)) for quality in body.qualities[:30]]:
        exact.check_turn(body.page, body.turn)
        data = exact.file_of(cell, core, body.strength, quality)
        score = exact.score_of(cell, core, body.strength, quality) if body.scored else None
        found.append(PointOut(quality=quality, bytes=len(data), score=score))
    return found


@router.post("/{number}/closer/{photo}/{recipe}/made", response=MadeOut)
def get_made(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> MadeOut:
    """Encode the rendition as the recipe says, without writing it: its exact bytes."""
    cell, core = _cell(request, number, photo, recipe, body)
    picture = exact.for_coder(cell, core, body.strength)
    made = coded(picture, core.file, core.size.ppi if core.size else None)
    file = core.file
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
    data = exact.file_of(cell, _as_candidate(core, body.format), body.strength, body.quality)
    shown = decoded(data)
    return _picture(_shown(_window(shown, body)))


def _as_candidate(core: CoreRecipe, name: str) -> CoreRecipe:
    """The recipe with another format, and a color station that the format can hold."""
    file = _file(core.file, name)
    changes: dict[str, Any] = {"file": file}
    target = target_of(core.color)
    if target is not None and target.space == "CMYK" and file.format not in KEEPS_CMYK:
        changes["color"] = Color()
    elif core.color is not None and core.color.bits == 16:
        changes["color"] = core.color.model_copy(update={"bits": 8})
    return core.model_copy(update=changes)


def _file(own: File, name: str) -> File:
    """The file station of a curve: as the recipe's own where it is of that format."""
    if name == own.format and isinstance(own, Lossy) and not (isinstance(own, JpegFile) and own.coder == "thorough"):
        plain: dict[str, Any] = {"under_kb": None, "looks": None, "lowest": None}
        if isinstance(own, WebpFile):
            plain["sharp"] = own.sharp_color  # which follows from the look where it is not said
        return own.model_copy(update=plain)
    match name:
        case "jpeg":
            return JpegFile(format="jpeg")
        case "thorough":
            return JpegFile(format="jpeg", coder="thorough", progressive=True)
        case "webp":
            return WebpFile(format="webp")
        case "avif":
            return AvifFile(format="avif")
    raise Problem(422, "No such format", f"format: expected jpeg, thorough, webp or avif, found {name!r}.")


@router.post("/{number}/closer/{photo}/{recipe}/colors", response=ColorsOut)
def get_colors(request: HttpRequest, number: int, photo: int, recipe: int, body: CloserIn) -> ColorsOut:
    """What the conversion changes, in words and numbers."""
    cell, core = _cell(request, number, photo, recipe, body)
    goal = goal_of(core, cell.picture)
    facts = get_object_or_404(Photo, pk=photo).facts()
    source = facts.profile or ("inks, taken on trust" if facts.mode == "CMYK" else "sRGB, taken on trust")
    converts = goal is not None and needs_conversion(cell.picture, goal)
    beyond = beyond_gamut(cell.picture, goal) if goal is not None and converts else None
    warning = ""
    if facts.profile is None and facts.format not in ("SVG", "PDF"):
        warning = f"The photo{no_profile(facts)} and is taken {taken_for(facts)}. Embed the right one if it is another."
    elif goal is None and facts.profile != "sRGB":
        warning = f"The rendition stays in {facts.profile}; where that is not understood, its colors look dull."
    return ColorsOut(
        source=source,
        target=(profile_name(goal.icc) or "no profile") if goal is not None else source,
        converts=converts,
        share=float((beyond > 0).mean()) if beyond is not None else 0.0,
        warning=warning,
    )


@router.post("/{number}/closer/{photo}/{recipe}/color", response={200: None})
def get_color(request: HttpRequest, number: int, photo: int, recipe: int, body: WindowIn) -> HttpResponse:
    """The rendition before or after conversion, each with its own profile, or with what is beyond the gamut marked."""
    cell, core = _cell(request, number, photo, recipe, body)
    target = goal_of(core, cell.picture) or TO_SRGB
    picture = exact.for_coder(cell, core, body.strength)
    if body.view == "before":
        picture = cell.picture
    made = _fitted(to_8(to_srgb(picture) if picture.space == "CMYK" else picture))
    if body.view == "marked":
        beyond = beyond_gamut(_fitted(cell.picture), target)
        own = made.pixels if made.pixels.ndim == 3 else np.repeat(made.pixels[..., None], 3, axis=2)
        if beyond.shape == own.shape[:2]:
            own = own.copy()
            own[..., :3][beyond > 0] = _MARK
        made = Picture(own, "RGB", made.alpha, None)
    return _picture(encode(made, _PNG))


def _fitted(picture: Picture) -> Picture:
    """No larger than a screen."""
    scale = min(1.0, _FIT / max(picture.size))
    if scale == 1:
        return picture
    size = (max(1, round(picture.size[0] * scale)), max(1, round(picture.size[1] * scale)))
    pixels = cv2.resize(picture.pixels, size, interpolation=cv2.INTER_AREA)
    return Picture(pixels, picture.space, picture.alpha, picture.icc)


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
