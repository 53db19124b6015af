"""Color profiles that people added, as files that recipes name."""

from __future__ import annotations

from typing import Any

from django.core.files.uploadedfile import UploadedFile

from server.http.problems import Problem
from server.project.conf import conf
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


def add(studio: Studio, file: UploadedFile[Any]) -> str:
    """Keep a profile for a studio; gives its name. Problem where it is none that can be used.

    One of the same name and other content gets a number: what a recipe names never changes.
    """
    data = file.read(_LARGEST + 1)
    stem = safe_text((file.name or "").rsplit("/", 1)[-1].rsplit(".", 1)[0])[:80] or "profile"
    if len(data) > _LARGEST:
        raise Problem(413, "Too large", f"{stem}: expected at most {_LARGEST:,} bytes. Is it an ICC profile?")
    try:
        checked_profile(data, f"{stem}.icc")
    except RecipeError as error:
        raise Problem(422, "No profile that can be used", str(error)) from error
    folder = conf.profiles / str(studio.pk)
    folder.mkdir(parents=True, exist_ok=True)
    number = 1
    while True:
        path = folder / (f"{stem}.icc" if number == 1 else f"{stem} {number}.icc")
        try:
            with path.open("xb") as made:
                made.write(data)
        except FileExistsError:
            if path.read_bytes() != data:
                number += 1
                continue
        return path.name
