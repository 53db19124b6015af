"""Trays, their photos and their board over the API."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

from django.http import HttpRequest, JsonResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from server.recipes.api import RecipeOut, recipe_out
from server.studios.confine import below
from server.studios.models import Root
from server.trays import flows
from server.trays.board import Cell, board, lit
from server.trays.models import Tray
from server.visitors import studio_of
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


class PhotoOut(Schema):
    id: int
    name: str
    folder: str
    state: str
    reason: str
    format: str
    width: int
    height: int
    orientation: int
    depth: int
    mode: str
    alpha: bool
    profile: str | None
    bytes: int
    taken: dt.datetime | None
    digest: str


class WarningOut(Schema):
    label: str
    text: str


class CellOut(Schema):
    recipe: int
    version: int
    width: int
    height: int
    name: str
    folder: str
    warnings: list[WarningOut]
    state: str
    rendition: int | None
    bytes: int | None
    error: str


class RowOut(Schema):
    photo: PhotoOut
    cells: list[CellOut]


class BoardOut(Schema):
    id: int
    name: str
    recipes: list[RecipeOut]
    rows: list[RowOut]


class IncludeIn(Schema):
    cells: list[tuple[int, int]]
    included: bool


class LightIn(Schema):
    recipes: list[int]


_PHOTO = tuple(PhotoOut.model_fields)


def find_tray(request: HttpRequest, number: int) -> Tray:
    """A tray of the visitor's studio, or 404."""
    return get_object_or_404(studio_of(request).trays, pk=number)


def _tray_out(tray: Tray) -> TrayOut:
    folders = tray.places.values("photo__root", "photo__folder").distinct().count()
    return TrayOut(id=tray.pk, name=tray.name, photos=tray.places.count(), folders=folders)


def _cell_out(cell: Cell) -> dict[str, Any]:
    """A CellOut as plain values: a board has thousands, and building models of them takes seconds."""
    rendition = cell.rendition if cell.state in ("done", "failed", "kept", "outdated") else None
    receipt = rendition.receipt if rendition else None
    return {
        "recipe": cell.recipe.pk,
        "version": cell.recipe.current_id,
        "width": cell.plan.width,
        "height": cell.plan.height,
        "name": cell.plan.name,
        "folder": cell.plan.folder,
        "warnings": [{"label": each.label, "text": each.text} for each in cell.plan.warnings],
        "state": cell.state,
        "rendition": rendition.pk if rendition else None,
        "bytes": receipt["bytes"] if receipt and cell.state == "done" else None,
        "error": rendition.error if rendition else "",
    }


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


def _shown(entry: Path) -> bool:
    return not entry.name.startswith(".") and not entry.is_symlink() and entry.is_dir()


def _counts(folder: Path) -> tuple[int, int]:
    photos = folders = 0
    try:
        for entry in folder.iterdir():
            if entry.suffix.lower() in EXTENSIONS and not entry.name.startswith("."):
                photos += 1
            elif _shown(entry):
                folders += 1
    except OSError:
        pass  # listed, with nothing that can be seen in it
    return photos, folders


@router.get("", response=list[TrayOut])
def list_trays(request: HttpRequest) -> list[TrayOut]:
    return [_tray_out(tray) for tray in studio_of(request).trays.all()]


@router.post("", response=TrayOut)
def create_tray(request: HttpRequest, body: TrayIn) -> TrayOut:
    studio = studio_of(request)
    roots = {each.root: get_object_or_404(studio.roots, pk=each.root) for each in body.folders}
    for each in body.folders:
        below(roots[each.root], each.path)  # a wrong folder must not leave an empty tray behind
    tray = flows.create_tray(studio, body.name)
    for each in body.folders:
        flows.add_folder(tray, roots[each.root], each.path)
    return _tray_out(tray)


@router.post("/{number}/folders", response=TrayOut)
def add_folder(request: HttpRequest, number: int, body: FolderIn) -> TrayOut:
    tray = find_tray(request, number)
    flows.add_folder(tray, get_object_or_404(studio_of(request).roots, pk=body.root), body.path)
    return _tray_out(tray)


@router.post("/{number}/uploads", response=PhotoOut)
def add_upload(request: HttpRequest, number: int, file: File[UploadedFile], path: Form[str] = "") -> PhotoOut:
    return PhotoOut.from_orm(flows.add_upload(find_tray(request, number), file, path))


@router.get("/{number}/board", response=BoardOut)
def get_board(request: HttpRequest, number: int) -> JsonResponse:
    """Written out as it is; that it is a BoardOut is held by a test, not checked cell by cell each time."""
    tray = find_tray(request, number)
    recipes = lit(tray)
    rows = [
        {"photo": {name: getattr(row.photo, name) for name in _PHOTO}, "cells": [_cell_out(cell) for cell in row.cells]}
        for row in board(tray, recipes)
    ]
    heads = [recipe_out(recipe).model_dump() for recipe, _ in recipes]
    return JsonResponse({"id": tray.pk, "name": tray.name, "recipes": heads, "rows": rows})


@router.post("/{number}/include", response={204: None})
def include_cells(request: HttpRequest, number: int, body: IncludeIn) -> Status:
    flows.include(find_tray(request, number), body.cells, body.included)
    return Status(204, None)


@router.put("/{number}/recipes", response={204: None})
def light_recipes(request: HttpRequest, number: int, body: LightIn) -> Status:
    flows.light(find_tray(request, number), body.recipes)
    return Status(204, None)
