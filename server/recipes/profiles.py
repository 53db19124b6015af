"""Color profiles that people added, as files that recipes name."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.http import Http404

from server.http.problems import Problem
from server.project.conf import conf
from server.recipes.keeping import keep_file
from server.recipes.models import Recipe
from server.studios.models import Studio
from tray_core import RecipeError
from tray_core.photo.profile_files import checked_profile, profile_file, profile_files
from tray_core.photo.profiles import ProfileFacts, read_profile
from tray_core.plan.naming import safe_text

_LARGEST = 16_000_000


def known(studio: Studio) -> dict[str, ProfileFacts]:
    """The profiles that a studio's recipes can name, by name, besides the spaces that have names of their own."""
    found = {}
    for name in profile_files(str(studio.pk)):
        try:
            facts = read_profile(profile_file(f"{studio.pk}/{name}"))
        except (RecipeError, OSError):
            continue
        if facts is not None:
            found[name] = facts
    return found


def path_of(studio: Studio, name: str) -> Path:
    """Where a studio's profile of that name lies, or would."""
    return conf.profiles / str(studio.pk) / safe_text(name)


def using(studio: Studio, name: str) -> list[Recipe]:
    """The recipes that name a profile now, archived ones too."""
    return list(studio.recipes.filter(current__content__color__icc=name))


def delete(studio: Studio, name: str) -> None:
    """Delete a profile file of a studio; Problem where there is none, or where a recipe names it."""
    path = path_of(studio, name)
    if not path.is_file():
        raise Http404
    if users := using(studio, name):
        titles = ", ".join(recipe.title for recipe in users)
        raise Problem(409, "The profile is in use", f"{name}: used by {titles}. Give these another color space first.")
    path.unlink()


def add(studio: Studio, file: UploadedFile[Any]) -> str:
    """Keep a profile for a studio; gives its name. Problem where it is none that can be used."""
    data = file.read(_LARGEST + 1)
    stem = safe_text((file.name or "").rsplit("/", 1)[-1].rsplit(".", 1)[0])[:80] or "profile"
    if len(data) > _LARGEST:
        raise Problem(413, "Too large", f"{stem}: expected at most {_LARGEST:,} bytes. Is it an ICC profile?")
    try:
        checked_profile(data, f"{stem}.icc")
    except RecipeError as error:
        raise Problem(422, "No profile that can be used", str(error)) from error
    return keep_file(conf.profiles / str(studio.pk), stem, "icc", data)[0].name
