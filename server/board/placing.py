"""The bench over the API: one cell, its photo's framings, and what a framing would give."""

from __future__ import annotations

from typing import Any, get_args

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from server.board import choosing
from server.board.api import SpotOut, WarningOut
from server.board.choosing import ChosenIn
from server.board.planning import lit
from server.framings import choices, flows
from server.framings.choices import WITH_CHOICES, chosen_for
from server.http.problems import Problem
from server.http.types import SizeOut
from server.photos.models import Photo
from server.photos.types import PhotoOut
from server.recipes.models import Recipe
from server.studios.visitors import studio_of
from server.trays.finding import find_tray
from server.trays.models import Tray
from tray_core import Plan, plan_renditions
from tray_core import Recipe as CoreRecipe
from tray_core.fingerprint import fingerprint
from tray_core.plan import Framing, followed_framing, framing_of
from tray_core.recipe import headline
from tray_core.recipe.frame import Anchor

router = Router(tags=["bench"])


class FramingOut(Schema):
    name: str
    x: float
    y: float
    width: float
    height: float
    angle: float
    turn: int
    recipe: int | None


class FramingIn(Schema):
    name: str
    x: float
    y: float
    width: float
    height: float
    angle: float = 0
    turn: int = 0
    recipe: int | None = None

    def core(self) -> Framing:
        """The framing as the core knows it; Problem (422) where it is none."""
        return flows.checked(self.model_dump())


class RectOut(Schema):
    left: float
    top: float
    width: float
    height: float


class NumbersOut(Schema):
    """What one framing gives: whole canvas and one panel in pixels, the part of the photo in its pixels.

    inner: left, top, width and height of the photo in the canvas before quarter turns. scale: pixels of the
    rendition a pixel of the photo. share: of the photo that is shown.
    """

    canvas: SizeOut
    panel: SizeOut
    columns: int
    rows: int
    rect: RectOut
    inner: RectOut
    scale: float
    share: float
    padded: bool
    warnings: list[WarningOut]


class ShownFramingOut(Schema):
    """One of the photo's framings: its own shape, and whether this recipe follows it."""

    framing: FramingOut
    shape: str
    ratio: float
    used: bool


class NeighborOut(Schema):
    """A photo that stands beside this one in a grid. key: changes with its picture."""

    id: int
    name: str
    key: str


class BenchOut(Schema):
    """ratio: the shape wanted, None where any is right. framing: the one followed, or a proposal.

    number: of the recipe's version, for changes that begin from it.
    """

    photo: PhotoOut
    recipe: int
    title: str
    version: int
    number: int
    content: dict[str, Any]
    size_line: str
    ratio: float | None
    asks: bool
    proposed: bool
    framing: FramingOut
    numbers: NumbersOut
    framings: list[ShownFramingOut]
    similar: list[int]
    neighbors: list[NeighborOut]


class AskingIn(Schema):
    cells: list[tuple[int, int]] = Field(max_length=100)


class ListsOut(Schema):
    photos: dict[int, list[FramingOut]]


class ListsIn(Schema):
    photos: dict[int, list[FramingIn]]


class ChangedOut(ListsOut):
    """The framings that photos had. framed: cells, or photos, that got one; uncropped: cells that show all anyway."""

    framed: int
    uncropped: int = 0


class AnchorIn(ChosenIn):
    anchor: str


class CarryIn(ChosenIn):
    """photos: one by one, in place of those that are chosen."""

    source: int
    framing: FramingIn
    photos: list[int] | None = None


def _find(request: HttpRequest, number: int, photo: int, recipe: int) -> tuple[Tray, Photo, Recipe, CoreRecipe]:
    tray = find_tray(request, number)
    found = get_object_or_404(Photo, pk=photo, places__tray=tray, state=Photo.State.READY)
    made = get_object_or_404(studio_of(request).recipes.select_related("current"), pk=recipe)
    assert made.current is not None, "a recipe is made with its first version"
    return tray, found, made, made.current.core()


def _plan(photo: Photo, recipe: Recipe, core: CoreRecipe, framings: list[Framing]) -> Plan:
    chosen = chosen_for(photo, recipe.pk) | {"framings": framings}
    return plan_renditions(photo.facts(), core, 1, None, **chosen)[-1]


def _numbers(plan: Plan) -> dict[str, Any]:
    layout = plan.layout
    return {
        "canvas": {"width": layout.outer[0], "height": layout.outer[1]},
        "panel": {"width": plan.width, "height": plan.height},
        "columns": layout.columns,
        "rows": layout.rows,
        "rect": dict(zip(RectOut.model_fields, layout.rect, strict=True)),
        "inner": dict(zip(RectOut.model_fields, layout.inner, strict=True)),
        "scale": layout.scale,
        "share": 1 - layout.cut,
        "padded": layout.padded,
        "warnings": [{"code": w.code, "label": w.label, "text": w.text} for w in plan.warnings],
    }


def _out(framing: Framing) -> dict[str, Any]:
    return {name: getattr(framing, name) for name in framing.__slots__}


def _shape(ratio: float) -> str:
    """A ratio for people: square, 3 : 1, 1 : 1.91."""
    if abs(ratio - 1) < 0.01:
        return "square"
    for below in range(1, 17):
        above = round(ratio * below)
        if above and abs(ratio * below / above - 1) < 0.004:
            return f"{above} : {below}"
    return f"{ratio:.2f} : 1" if ratio > 1 else f"1 : {1 / ratio:.2f}"


def _proposal(photo: Photo, recipe: Recipe, core: CoreRecipe, plan: Plan) -> Plan:
    """Where nobody said yet what is to be shown: by the interesting part."""
    if not plan.layout.asks or core.frame is None:
        return plan
    guess = core.model_copy(update={"frame": core.frame.model_copy(update={"anchor": "interest"})})
    return _plan(photo, recipe, guess, [])


@router.get("/{number}/bench/{photo}/{recipe}", response=BenchOut)
def get_bench(request: HttpRequest, number: int, photo: int, recipe: int) -> dict[str, Any]:
    """One cell for framing: what is followed now, or a proposal."""
    tray, found, made, core = _find(request, number, photo, recipe)
    framings = [framing.core() for framing in found.framings.all()]
    plan = _plan(found, made, core, framings)
    layout, size, frame = plan.layout, (found.width, found.height), core.frame
    used = followed_framing(size, frame, core.size, framings, made.pk)
    shaped = _proposal(found, made, core, plan)
    keeps = frame is None or frame.way == "keep"
    return {
        "photo": found,
        "recipe": made.pk,
        "title": made.title,
        "version": made.current_id,
        "number": made.current.number if made.current else 0,
        "content": core.to_json(),
        "size_line": headline(core)[0],
        "ratio": None if keeps else layout.canvas[0] / layout.canvas[1],
        "asks": layout.asks,
        "proposed": used is None,
        "framing": _out(used or framing_of("", shaped.layout.rect, size)),
        "numbers": _numbers(shaped),
        "framings": [
            {"framing": _out(each), "shape": _shape(each.ratio(size)), "ratio": each.ratio(size), "used": each is used}
            for each in framings
        ],
        "similar": choices.similar(tray, found),
        "neighbors": _neighbors(tray, found, made, core),
    }


def _neighbors(tray: Tray, photo: Photo, recipe: Recipe, core: CoreRecipe, around: int = 4) -> list[dict[str, Any]]:
    """The photo with those before and behind it in the tray: what would stand around it in a grid."""
    place = tray.places.get(photo=photo).position
    ready = tray.places.filter(photo__state=Photo.State.READY).values_list("photo_id", flat=True)
    before = list(ready.filter(position__lt=place).order_by("-position")[: 2 * around])[::-1]
    behind = list(ready.filter(position__gt=place).order_by("position")[: 2 * around])
    first = len(before) - max(around, 2 * around - len(behind))
    wanted = [*before[max(0, first) :], photo.pk, *behind][: 2 * around + 1]
    found = {each.pk: each for each in Photo.objects.filter(pk__in=wanted).prefetch_related(*WITH_CHOICES)}
    framings = choices.lists_of(found.values())
    plans = {each: _plan(found[each], recipe, core, framings[each]) for each in wanted}
    return [
        {"id": each, "name": found[each].name, "key": fingerprint(found[each].digest, plans[each])} for each in wanted
    ]


@router.post("/{number}/asking", response=list[SpotOut])
def still_asking(request: HttpRequest, number: int, body: AskingIn) -> list[dict[str, int]]:
    """Those of some cells that still need a crop, in their order: asked by whoever goes from one to the next."""
    tray = find_tray(request, number)
    recipes = {recipe.pk: (recipe, core) for recipe, core in lit(tray)}
    wanted = {photo for photo, _ in body.cells}
    found = Photo.objects.filter(places__tray=tray, pk__in=wanted, state=Photo.State.READY)
    photos = {photo.pk: photo for photo in found.prefetch_related(*WITH_CHOICES)}
    framings = choices.lists_of(photos.values())
    excluded = set(tray.exclusions.filter(photo_id__in=wanted).values_list("photo_id", "recipe_id"))
    return [
        {"photo": photo, "recipe": recipe}
        for photo, recipe in body.cells
        if photo in photos
        and recipe in recipes
        and (photo, recipe) not in excluded
        and _plan(photos[photo], *recipes[recipe], framings[photo]).layout.asks
    ]


@router.post("/{number}/bench/{photo}/{recipe}", response=NumbersOut)
def try_framing(request: HttpRequest, number: int, photo: int, recipe: int, body: FramingIn) -> dict[str, Any]:
    """What a framing that is not kept yet would give."""
    _, found, made, core = _find(request, number, photo, recipe)
    values = body.model_dump() | {"recipe": made.pk}
    return _numbers(_plan(found, made, core, [flows.checked(values)]))


def _lists_out(lists: choices.Lists) -> dict[str, Any]:
    return {"photos": {photo: [_out(each) for each in framings] for photo, framings in lists.items()}}


@router.put("/{number}/framings", response=ListsOut)
def keep_framings(request: HttpRequest, number: int, body: ListsIn) -> dict[str, Any]:
    """Give photos exactly these framings, those chosen last first; answers what they had, to undo it."""
    find_tray(request, number)
    photos = list(studio_of(request).photos.filter(pk__in=list(body.photos)))
    return _changed(request, photos, {photo: [each.core() for each in body.photos[photo]] for photo in body.photos})


@router.post("/{number}/anchor", response=ChangedOut)
def choose_anchor(request: HttpRequest, number: int, body: AnchorIn) -> dict[str, Any]:
    """Frame cells by an anchor, as if by hand; answers the framings that their photos had."""
    if body.anchor not in get_args(Anchor) or body.anchor == "ask":
        raise Problem(422, "No such anchor", f"anchor: expected a place in the picture, found {body.anchor!r}.")
    tray = find_tray(request, number)
    recipes = {recipe.pk: (recipe, core) for recipe, core in lit(tray)}
    chosen = _pairs(tray, body)
    wanted = {photo for photo, _ in chosen}
    photos = {p.pk: p for p in Photo.objects.filter(places__tray=tray, pk__in=wanted, state=Photo.State.READY)}
    cells = [(photos[p], *recipes[r]) for p, r in chosen if p in photos and r in recipes]
    lists, framed = flows.by_anchor(cells, body.anchor)
    return _changed(request, list(photos.values()), lists) | {"framed": framed, "uncropped": len(cells) - framed}


def _pairs(tray: Tray, chosen: ChosenIn) -> list[choosing.Pair]:
    """Chosen cells in an order that is the same each time; all of them have to be told."""
    return sorted(choosing.pairs(tray, lit(tray), chosen) or ())


@router.post("/{number}/carry", response=ChangedOut)
def carry_framing(request: HttpRequest, number: int, body: CarryIn) -> dict[str, Any]:
    """Use a framing of one photo for others of the tray; answers the framings that they had."""
    tray = find_tray(request, number)
    ready = Photo.objects.filter(places__tray=tray, state=Photo.State.READY)
    source = get_object_or_404(ready, pk=body.source)
    wanted = body.photos if body.photos is not None else {photo for photo, _ in _pairs(tray, body)}
    targets = list(ready.filter(pk__in=wanted).exclude(pk=source.pk))
    lists = flows.carried(body.framing.core(), source, targets)
    return _changed(request, targets, lists) | {"framed": len(targets)}


def _changed(request: HttpRequest, photos: list[Photo], lists: choices.Lists) -> dict[str, Any]:
    before = choices.lists_of(photos)
    flows.keep(studio_of(request), {photo: framings for photo, framings in lists.items() if photo in before})
    return _lists_out(before)
