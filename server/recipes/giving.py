"""Recipes given away as one file, and taken in from one: seen first, and then all or nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Literal, NamedTuple

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from server.http.problems import Problem
from server.recipes import flows, marks, profiles
from server.recipes.models import Recipe
from server.studios.models import Studio
from server.studios.names import unused
from tray_core import Recipe as CoreRecipe
from tray_core import check_recipe
from tray_core.photo.profile_files import profile_file
from tray_core.recipe import RecipeProblems, describe, read_recipe_text
from tray_core.recipe.changes import changes
from tray_core.recipe.shelf import Shelf, is_shelf, read_shelf, write_shelf

Choice = Literal["theirs", "mine", "both"]
"""Of a recipe that is here already and says something else: take theirs as its new version, keep mine, or have both."""


class Seen(NamedTuple):
    """One recipe of a file beside what is here. state: new, same or differs. changed: in words."""

    title: str
    sentence: str
    state: str
    changed: list[str]


def give(studio: Studio, recipes: Sequence[Recipe]) -> bytes:
    """A file of these recipes with the profiles and marks that they name."""
    cores = [_plain(recipe) for recipe in recipes]
    named = {core.color.icc for core in cores if core.color is not None and core.color.icc is not None}
    files = {name for core in cores if core.finish is not None for name in (*core.finish.pictures, *core.finish.fonts)}
    return write_shelf(
        cores,
        {name: profile_file(f"{studio.pk}/{name}") for name in sorted(named)},
        {name: marks.path_of(studio, name).read_bytes() for name in sorted(files)},
    )


def _plain(recipe: Recipe) -> CoreRecipe:
    """What a recipe says, with profiles named as people name them, and not as they lie here."""
    assert recipe.current is not None
    return check_recipe(recipe.current.content)


def read(data: bytes, name: str) -> Shelf:
    """What is in a file, of several recipes or of one; Problem (422) names every wrong place in it."""
    try:
        if is_shelf(data):
            return read_shelf(data, name)
        recipe = read_recipe_text(data.decode(), name)
    except UnicodeDecodeError as error:
        detail = f"{name}: expected a recipe file, found other bytes. Choose a file that this product gave."
        raise Problem(422, "Not a file of recipes", detail) from error
    except RecipeProblems as error:
        fields = [
            {"field": each.subject, "expected": each.expected, "found": each.found, "remedy": each.remedy}
            for each in error.problems[:50]
        ]
        raise Problem(422, "The file is not right", "; ".join(map(str, error.problems[:3])), fields) from error
    title = recipe.title or name.rpartition("/")[2].removesuffix(".json")
    return Shelf((recipe.model_copy(update={"title": title[:80]}),), {}, {})


def _here(studio: Studio) -> dict[str, Recipe]:
    return {recipe.title: recipe for recipe in studio.recipes.filter(archived=False).select_related("current")}


def look(studio: Studio, shelf: Shelf) -> list[Seen]:
    """What taking a file in would meet."""
    here = _here(studio)
    found = []
    for core in shelf.recipes:
        sentence = "".join(phrase.text for phrase in describe(core))
        mine = here.get(core.title)
        if mine is None or mine.current is None:
            found.append(Seen(core.title, sentence, "new", []))
        elif mine.current.content == core.to_json():
            found.append(Seen(core.title, sentence, "same", []))
        else:
            found.append(Seen(core.title, sentence, "differs", list(changes(_plain(mine), core))))
    return found


def take(studio: Studio, user: AbstractBaseUser | None, shelf: Shelf, choices: Mapping[str, Choice]) -> list[str]:
    """Take a file in: new recipes, and those that differ as was chosen; the titles of what changed.

    choices: by title, for those that differ; mine where nothing was said. All of it, or nothing.
    """
    added: list[Path] = []
    try:
        with transaction.atomic():
            names = _take_profiles(studio, shelf, added)
            there = {each.name for each in marks.known(studio)}
            own = {name: marks.put(studio, name, data) for name, data in shelf.marks.items()}
            added += [marks.folder_of(studio) / each for each in own.values() if each not in there]
            taken = []
            for core, seen in zip(shelf.recipes, look(studio, shelf), strict=True):
                content = _renamed(core, names, own)
                choice = choices.get(seen.title, "mine") if seen.state == "differs" else "both"
                if seen.state == "same" or choice == "mine":
                    continue
                if choice == "theirs":
                    flows.change(_here(studio)[seen.title], user, content)
                else:
                    flows.create(studio, user, content)
                taken.append(seen.title)
            return taken
    except BaseException:
        for path in added:
            path.unlink(missing_ok=True)
        raise


def _take_profiles(studio: Studio, shelf: Shelf, added: list[Path]) -> dict[str, str]:
    """Put profiles beside the studio's own, under new names where these are taken. Returns their names here."""
    names: dict[str, str] = {}
    for name, data in shelf.profiles.items():
        path = profiles.path_of(studio, name)
        if path.is_file() and path.read_bytes() == data:
            names[name] = name
            continue
        if path.is_file():
            stem, _, ending = name.rpartition(".")
            others = {each.rpartition(".")[0] for each in profiles.known(studio)}
            path = profiles.path_of(studio, f"{unused(stem, others, 100)}.{ending}")
        path.parent.mkdir(parents=True, exist_ok=True)
        added.append(path)
        path.write_bytes(data)
        names[name] = path.name
    return names


def _renamed(core: CoreRecipe, names: Mapping[str, str], own: Mapping[str, str]) -> dict[str, Any]:
    """What a recipe says, with its profile and its marks by the names that they have here."""
    content = core.to_json()
    icc = content.get("color", {}).get("icc")
    if icc in names:
        content["color"] = {**content["color"], "icc": names[icc]}
    for mark in content.get("finish", {}).get("marks", []):
        mark |= {key: own[mark[key]] for key in ("picture", "on_dark", "font") if mark.get(key) in own}
    return content
