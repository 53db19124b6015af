"""Trays and the folders that they are gathered from, over the API."""

from __future__ import annotations

import os
from collections import Counter
from pathlib import Path, PurePath

from django.db.models import Count, QuerySet
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from server.photos.types import PhotoOut
from server.studios.confine import below
from server.studios.models import Root
from server.studios.visitors import studio_of
from server.trays import flows, gathering, watching
from server.trays.finding import find_tray
from server.trays.models import Tray
from server.trays.watching import Seen
from tray_core.photo.find import EXTENSIONS

router = Router(tags=["trays"])
roots_router = Router(tags=["roots"])


class RootOut(Schema):
    id: int
    name: str


class FolderOut(Schema):
    name: str
    path: str
    photos: int
    folders: int


class ListingOut(Schema):
    root: RootOut
    path: str
    photos: int
    folders: list[FolderOut]


class FolderIn(Schema):
    root: int
    path: str = ""


class TrayIn(Schema):
    name: str
    folders: list[FolderIn] = []


class TrayOut(Schema):
    id: int
    name: str
    photos: int
    folders: int


class TrayChangeIn(Schema):
    name: str | None = None
    archived: bool | None = None


class LightIn(Schema):
    recipes: list[int]


class SeenOut(Schema):
    """odd: names of files that cannot be gathered, since they are no text."""

    new: int
    changed: int
    gone: int
    odd: list[str]


class PhotosIn(Schema):
    photos: list[int]


class PlaceOut(Schema):
    photo: int
    position: int = Field(ge=0, lt=2**31)


class PromisedIn(Schema):
    count: int = Field(ge=1, le=100_000)


class PromisedOut(Schema):
    start: int


class PlacesIn(Schema):
    places: list[PlaceOut]


def _trays_out(trays: QuerySet[Tray]) -> list[TrayOut]:
    """Trays with how much is in them, counted in three questions for all: each may see a tray made or undone since."""
    photos = dict(trays.values_list("pk").annotate(Count("places")).order_by())
    folders: Counter[int] = Counter()
    places = trays.exclude(places=None)
    for tray, _, _ in places.values_list("pk", "places__photo__root", "places__photo__folder").distinct().order_by():
        folders[tray] += 1
    return [
        TrayOut(id=tray.pk, name=tray.name, photos=photos.get(tray.pk, 0), folders=folders[tray.pk]) for tray in trays
    ]


def _tray_out(tray: Tray) -> TrayOut:
    return _trays_out(Tray.objects.filter(pk=tray.pk))[0]


@roots_router.get("", response=list[RootOut])
def list_roots(request: HttpRequest) -> list[Root]:
    return list(studio_of(request).roots.order_by("name"))


@roots_router.get("/{number}/folders", response=ListingOut)
def list_folders(request: HttpRequest, number: int, path: str = "") -> ListingOut:
    """A folder below a root: its own photos counted, its subfolders named."""
    root = get_object_or_404(studio_of(request).roots, pk=number)
    folder = below(root, path)
    inner = sorted((entry for entry in folder.iterdir() if _shown(entry)), key=lambda entry: entry.name.casefold())
    folders = []
    for entry in inner:
        photos, deeper = _counts(entry)
        relative = str(entry.relative_to(root.folder))
        folders.append(FolderOut(name=entry.name, path=relative, photos=photos, folders=deeper))
    return ListingOut(root=RootOut(id=root.pk, name=root.name), path=path, photos=_counts(folder)[0], folders=folders)


_MOST_COUNTED = 50_000


def _shown(entry: Path) -> bool:
    return not entry.name.startswith(".") and not entry.is_symlink() and entry.is_dir()


def _counts(folder: Path) -> tuple[int, int]:
    """(photos in a folder and below it, folders right in it); counting ends where it would take long."""
    photos = folders = looked = 0
    for here, inner, names in os.walk(folder):
        inner[:] = [name for name in inner if _shown(Path(here, name))]
        if here == str(folder):
            folders = len(inner)
        photos += sum(PurePath(name).suffix.lower() in EXTENSIONS and not name.startswith(".") for name in names)
        looked += len(names) + len(inner)
        if looked > _MOST_COUNTED:
            break
    return photos, folders


@router.get("", response=list[TrayOut])
def list_trays(request: HttpRequest, archived: bool = False) -> list[TrayOut]:
    """The studio's trays, or those that were archived."""
    return _trays_out(studio_of(request).trays.filter(archived=archived))


@router.post("", response=TrayOut)
def create_tray(request: HttpRequest, body: TrayIn) -> TrayOut:
    studio = studio_of(request)
    roots = {each.root: get_object_or_404(studio.roots, pk=each.root) for each in body.folders}
    for each in body.folders:
        below(roots[each.root], each.path)  # a wrong folder must not leave an empty tray behind
    tray = flows.create_tray(studio, body.name)
    for each in body.folders:
        gathering.add_folder(tray, roots[each.root], each.path)
    return _tray_out(tray)


@router.put("/{number}", response=TrayOut)
def change_tray(request: HttpRequest, number: int, body: TrayChangeIn) -> TrayOut:
    tray = find_tray(request, number)
    flows.change_tray(tray, body.name, body.archived)
    return _tray_out(tray)


@router.post("/{number}/look-again", response=SeenOut)
def look_again(request: HttpRequest, number: int) -> Seen:
    """Find what is new, changed or gone in the tray's folders."""
    return watching.look_again(find_tray(request, number))


@router.post("/{number}/take-out", response=PlacesIn)
def take_out(request: HttpRequest, number: int, body: PhotosIn) -> PlacesIn:
    taken = flows.take_out(find_tray(request, number), body.photos)
    return PlacesIn(places=[PlaceOut(photo=photo, position=position) for photo, position in taken])


@router.post("/{number}/put-back", response={204: None})
def put_back(request: HttpRequest, number: int, body: PlacesIn) -> Status[None]:
    flows.put_back(find_tray(request, number), [(each.photo, each.position) for each in body.places])
    return Status(204, None)


@router.post("/{number}/folders", response=TrayOut)
def add_folder(request: HttpRequest, number: int, body: FolderIn) -> TrayOut:
    tray = find_tray(request, number)
    gathering.add_folder(tray, get_object_or_404(studio_of(request).roots, pk=body.root), body.path)
    return _tray_out(tray)


@router.post("/{number}/promised", response=PromisedOut)
def promise_places(request: HttpRequest, number: int, body: PromisedIn) -> PromisedOut:
    """Places for files that are about to be uploaded: they stand in this order, whatever arrives first."""
    return PromisedOut(start=gathering.promise(find_tray(request, number), body.count))


@router.post("/{number}/uploads", response=PhotoOut)
def add_upload(
    request: HttpRequest, number: int, file: File[UploadedFile], path: Form[str] = "", place: Form[int | None] = None
) -> PhotoOut:
    """place: a promised one."""
    wanted = place if place is None or place >= 0 else None
    return PhotoOut.from_orm(gathering.add_upload(find_tray(request, number), file, path, wanted))


@router.put("/{number}/recipes", response={204: None})
def light_recipes(request: HttpRequest, number: int, body: LightIn) -> Status[None]:
    flows.light(find_tray(request, number), body.recipes)
    return Status(204, None)


@router.put("/{number}/order", response=PhotosIn)
def put_in_order(request: HttpRequest, number: int, body: PhotosIn) -> PhotosIn:
    """Give some photos this order among themselves; answers with the one that they had."""
    return PhotosIn(photos=flows.put_in_order(find_tray(request, number), body.photos))
