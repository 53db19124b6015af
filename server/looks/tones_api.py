"""A photo's tone over the API: looked at, measured, proposed, kept, given to others."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from server.framings import tones
from server.framings.keeping import Edit
from server.looks.drawing import working_copy
from server.looks.exact import check_turn
from server.photos.models import Photo
from server.photos.types import PhotoOut
from server.studios.visitors import studio_of
from server.trays.finding import find_tray
from tray_core.line.preview import WORKING_EDGES
from tray_core.looks.tones import PATCH, grey_at, light_of, propose_for, toned_copy
from tray_core.pixels.decode import development_of
from tray_core.pixels.scale import RAW
from tray_core.tone import NEUTRAL, Tone

router = Router(tags=["looks"])


class LookData(Schema):
    """A tone for some recipes. recipes: their numbers."""

    title: str
    recipes: list[int] = []
    tone: dict[str, Any] = {}


class RecipeNamed(Schema):
    id: int
    title: str


class ToneOut(Schema):
    """tone: without what is neutral. neutral: all values that change nothing. raw: whether it is developed. patch: half
    the side of what a grey is taken from, in parts of the long edge. recipes: of the tray, that looks can be for. near:
    photos of the same minute. next: the photo that follows in the tray.
    """

    photo: PhotoOut
    tone: dict[str, Any]
    looks: list[LookData]
    version: int
    neutral: dict[str, Any]
    raw: bool
    patch: float
    recipes: list[RecipeNamed]
    near: list[int]
    next: int | None


class ToneIn(Schema):
    """lost: paint what is lost at the ends. page, turn: which page asks, and for the how-manieth time; older questions
    are dropped.
    """

    tone: dict[str, Any]
    edge: int = Field(960, ge=16, le=2000)
    lost: bool = False
    page: str = ""
    turn: int = 0


class LightOut(Schema):
    luminance: list[float]
    red: list[float]
    green: list[float]
    blue: list[float]
    black: float
    white: float


class SpotIn(Schema):
    """x, y: in shares of the picture as it is seen with a tone."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    tone: dict[str, Any] = {}


class CastOut(Schema):
    temperature: int
    tint: int


class ToneEditIn(Schema):
    """looks: all of them; none given leaves them as they are."""

    photo: int
    tone: dict[str, Any]
    looks: list[LookData] | None = None
    version: int | None = None


class ToneEditsIn(Schema):
    edits: list[ToneEditIn]


class GiveToneIn(Schema):
    photos: list[int]
    values: dict[str, Any]


def _photo(request: HttpRequest, number: int, photo: int) -> Photo:
    tray = find_tray(request, number)
    found = Photo.objects.select_related("root").filter(places__tray=tray, state=Photo.State.READY)
    return get_object_or_404(found, pk=photo)


def _told(before: list[Edit]) -> dict[str, Any]:
    return {"edits": [{"photo": each.photo, **each.values, "version": each.version} for each in before]}


@router.get("/{number}/tone/{photo}", response=ToneOut)
def get_tone(request: HttpRequest, number: int, photo: int) -> dict[str, Any]:
    """A photo's tone as it is kept."""
    found = _photo(request, number, photo)
    tray = find_tray(request, number)
    place = tray.places.get(photo=found).position
    behind = tray.places.filter(position__gt=place, photo__state=Photo.State.READY).order_by("position", "id")
    return {
        "photo": found,
        "tone": found.tone,
        "looks": found.looks,
        "version": found.tone_version,
        "neutral": NEUTRAL.model_dump(mode="json"),
        "patch": PATCH,
        "raw": found.format == RAW,
        "recipes": tray.recipes.filter(archived=False).order_by("title").values("id", "title"),
        "near": tones.of_the_same_time(tray, found),
        "next": behind.values_list("photo_id", flat=True).first(),
    }


@router.post("/{number}/tone/{photo}/picture", response={200: None})
def get_toned(request: HttpRequest, number: int, photo: int, body: ToneIn) -> HttpResponse:
    """The photo with a tone that need not be kept, from its working copy."""
    check_turn(studio_of(request).pk, body.page, body.turn)
    tone, found = tones.checked(body.tone), _photo(request, number, photo)
    copy, developed = _copy(found, body.edge, tone)
    return HttpResponse(toned_copy(copy, tone, body.edge, body.lost, developed), content_type="image/jpeg")


@router.post("/{number}/tone/{photo}/light", response=LightOut)
def get_light(request: HttpRequest, number: int, photo: int, body: ToneIn) -> Any:
    """How its light is spread with a tone, and how much is lost at the ends."""
    check_turn(studio_of(request).pk, f"{body.page}-light", body.turn)
    tone, found = tones.checked(body.tone), _photo(request, number, photo)
    copy, developed = _copy(found, min(WORKING_EDGES), tone)
    return light_of(copy, tone, developed)


@router.post("/{number}/tone/{photo}/grey", response=CastOut)
def pick_grey(request: HttpRequest, number: int, photo: int, body: SpotIn) -> dict[str, int]:
    """The cast that makes a spot grey."""
    tone, found = tones.checked(body.tone), _photo(request, number, photo)
    copy, developed = _copy(found, max(WORKING_EDGES), tone)
    # What is mirrored is pressed on where it is seen.
    temperature, tint = grey_at(copy, 1 - body.x if tone.mirror else body.x, body.y, developed)
    return {"temperature": temperature, "tint": tint}


@router.get("/{number}/tone/{photo}/proposal", response=dict[str, Any])
def propose(request: HttpRequest, number: int, photo: int) -> dict[str, Any]:
    """A tone from the picture itself; nothing is kept."""
    return propose_for(working_copy(_photo(request, number, photo), min(WORKING_EDGES))).to_json()


@router.put("/{number}/tones", response=ToneEditsIn)
def keep_tones(request: HttpRequest, number: int, body: ToneEditsIn) -> dict[str, Any]:
    """Keep tones of photos: all of them, or, where somebody changed one meanwhile, none. Answers what undoes it."""
    tray = find_tray(request, number)
    return _told(tones.keep(tray, [_edit(each) for each in body.edits]))


@router.post("/{number}/tones/given", response=ToneEditsIn)
def give_tone(request: HttpRequest, number: int, body: GiveToneIn) -> dict[str, Any]:
    """Give some values to several photos. Answers what undoes it."""
    return _told(tones.give(find_tray(request, number), body.photos, body.values))


def _edit(given: ToneEditIn) -> Edit:
    values: dict[str, Any] = {"tone": given.tone}
    if given.looks is not None:
        values["looks"] = [each.dict() for each in given.looks]
    return Edit(given.photo, values, given.version)


def _copy(photo: Photo, edge: int, tone: Tone) -> tuple[bytes, bool]:
    """The working copy that a tone is seen on, and whether it was developed for it."""
    wanted = next((each for each in sorted(WORKING_EDGES) if each >= edge), max(WORKING_EDGES))
    development = development_of(photo.facts(), tone)
    return working_copy(photo, wanted, development), development is not None
