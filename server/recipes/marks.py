"""Fonts and pictures for marks that people added, as files that recipes name."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db.models import Q
from django.http import Http404

from server.http.problems import Problem
from server.project.conf import conf
from server.recipes.keeping import keep_file
from server.recipes.models import Recipe
from server.studios.models import Studio
from tray_core import RecipeError
from tray_core.errors import TrayError
from tray_core.marks.fonts import letters_of
from tray_core.photo import read_bytes, read_facts
from tray_core.plan.naming import safe_text

_LARGEST = 30_000_000
_FONTS = frozenset(("ttf", "otf"))  # compressed ones may unpack to any size
PICTURES = frozenset(("png", "svg", "webp", "tif", "tiff"))


@dataclass(frozen=True, slots=True)
class MarkFile:
    """kind: font or picture. bytes: how many."""

    name: str
    kind: str
    bytes: int


def folder_of(studio: Studio) -> Path:
    """Where a studio's own lie."""
    return conf.marks / str(studio.pk)


def known(studio: Studio) -> list[MarkFile]:
    """A studio's fonts and mark pictures, by name."""
    folder = folder_of(studio)
    found = sorted(folder.iterdir()) if folder.is_dir() else []
    return [MarkFile(each.name, _kind(each.name), each.stat().st_size) for each in found if _kind(each.name)]


def path_of(studio: Studio, name: str) -> Path:
    """The file of that name; Http404 where there is none."""
    path = folder_of(studio) / safe_text(name)
    if not path.is_file():
        raise Http404
    return path


def using(studio: Studio, name: str) -> list[Recipe]:
    """The recipes that name a mark's file now, archived ones too."""
    at = "current__content__finish__marks__contains"
    named = [{"picture": name}], [{"on_dark": name}], [{"font": name}]
    return list(studio.recipes.filter(Q(**{at: named[0]}) | Q(**{at: named[1]}) | Q(**{at: named[2]})))


def delete(studio: Studio, name: str) -> None:
    """Delete a file; Problem where a recipe names it."""
    path = path_of(studio, name)
    if users := using(studio, name):
        titles = ", ".join(recipe.title for recipe in users)
        raise Problem(409, "The mark is in use", f"{name}: used by {titles}. Give these another mark first.")
    path.unlink()


def add(studio: Studio, file: UploadedFile[Any]) -> str:
    """Keep a font or a mark picture for a studio; gives its name. Problem where it is none that can be used."""
    data = file.read(_LARGEST + 1)
    name = (file.name or "").rsplit("/", 1)[-1]
    if len(data) > _LARGEST:
        raise Problem(413, "Too large", f"{name}: expected at most {_LARGEST:,} bytes.")
    return put(studio, name, data)


def put(studio: Studio, name: str, data: bytes) -> str:
    """Keep `data`; gives its name, with a number where the name is taken by another. Problem where it is no mark."""
    stem, _, ending = safe_text(name).rpartition(".")
    stem, ending = stem[:80] or "mark", ending.lower()
    if not _kind(f"{stem}.{ending}"):
        expected = "a font (ttf, otf) or a picture with transparency (png, svg, webp, tiff)"
        raise Problem(422, "Not a mark", f"{name}: expected {expected}, found another kind of file.")
    path, new = keep_file(folder_of(studio), stem, ending, data)
    try:
        _check(path)
    except TrayError as error:
        if new:
            path.unlink()
        raise Problem(422, "No mark that can be used", str(error)) from error
    return path.name


def _kind(name: str) -> str:
    ending = name.rpartition(".")[2].lower()
    return "font" if ending in _FONTS else "picture" if ending in PICTURES else ""


def _check(path: Path) -> None:
    if _kind(path.name) == "picture":
        read_facts(path, data=read_bytes(path))
    elif not letters_of(path):
        raise RecipeError("font", expected="letters", found=f"none in {path.name}", remedy="Choose another font.")
