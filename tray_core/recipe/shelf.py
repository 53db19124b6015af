"""Recipes given away together: a zip of plain recipe files, in their order, with the profiles and marks that they name.

A single recipe stays a plain JSON file. Parts need no file: a recipe has the setting of each that it follows in itself.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tray_core.errors import RecipeError
from tray_core.photo.profile_files import checked_profile
from tray_core.recipe.model import Recipe
from tray_core.recipe.reading import RecipeProblems, read_recipe_text

FORMAT, VERSION = "upper-tray/shelf", 1
_LIST = "shelf.json"
_MOST_FILES, _MOST_BYTES = 500, 40_000_000
_MADE = (2031, 1, 1, 0, 0, 0)
"""The time of all files in it: the same recipes make the same file."""


@dataclass(frozen=True, slots=True)
class Shelf:
    """recipes: in their order. profiles: ICC files, marks: fonts and mark pictures, by the names that recipes have."""

    recipes: tuple[Recipe, ...]
    profiles: Mapping[str, bytes]
    marks: Mapping[str, bytes]


def is_shelf(data: bytes) -> bool:
    """Whether a file is such a zip, by its first bytes."""
    return data[:4] == b"PK\x03\x04"


def write_shelf(
    recipes: Sequence[Recipe], profiles: Mapping[str, bytes], marks: Mapping[str, bytes] | None = None
) -> bytes:
    """The file. profiles, marks: all that any of the recipes names."""
    made = io.BytesIO()
    names = [f"recipes/{number:02}-{_plain(recipe.title)}.json" for number, recipe in enumerate(recipes, 1)]
    listed = {"format": FORMAT, "version": VERSION, "recipes": names, "profiles": sorted(profiles)}
    if marks:
        listed["marks"] = sorted(marks)
    with zipfile.ZipFile(made, "w") as archive:

        def put(name: str, data: bytes) -> None:
            archive.writestr(zipfile.ZipInfo(name, _MADE), data, zipfile.ZIP_DEFLATED, 9)

        put(_LIST, _json(listed))
        for name, recipe in zip(names, recipes, strict=True):
            put(name, _json(recipe.to_json()))
        for name in sorted(profiles):
            put(f"profiles/{name}", profiles[name])
        for name in sorted(marks or {}):
            put(f"marks/{name}", (marks or {})[name])
    return made.getvalue()


def _json(value: object) -> bytes:
    return (json.dumps(value, indent=2, ensure_ascii=False) + "\n").encode()


def _plain(title: str) -> str:
    return re.sub(r"[^\w.-]+", "-", title).strip("-.")[:60] or "recipe"


def read_shelf(data: bytes, source: str = "shelf") -> Shelf:
    """All that is in such a file, or RecipeProblems that name each wrong place in it by file and path.

    Nothing is unpacked to the disk; a file that unpacks to more than it may is refused before it does.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = archive.infolist()
            if len(files) > _MOST_FILES or sum(each.file_size for each in files) > _MOST_BYTES:
                raise _wrong(source, f"at most {_MOST_FILES} files and {_MOST_BYTES // 1_000_000} MB", "more")
            listed = _listed(archive, source)
            problems: list[RecipeError] = []
            recipes: list[Recipe] = []
            for name in listed["recipes"]:
                try:
                    text = _content(archive, name, source).decode()
                    recipe = read_recipe_text(text, f"{source}: {name}")
                    recipes.append(
                        recipe if recipe.title else recipe.model_copy(update={"title": name.rpartition("/")[2][:-5]})
                    )
                except UnicodeDecodeError:
                    problems.append(_error(f"{source}: {name}", "UTF-8 text", "other bytes"))
                except RecipeProblems as error:
                    problems.extend(error.problems)
            profiles = {name: _content(archive, f"profiles/{name}", source) for name in listed["profiles"]}
            marks = {name: _content(archive, f"marks/{name}", source) for name in listed["marks"]}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError) as error:
        raise _wrong(
            source, "a file of recipes, as this product gives them", f"a zip that cannot be read ({error})"
        ) from error
    for name, profile in profiles.items():
        try:
            checked_profile(profile, name)
        except RecipeError as error:
            problems.append(_of_place(error, f"{source}: profiles/{name}"))
    if problems:
        raise RecipeProblems.of(problems)
    return Shelf(tuple(recipes), profiles, marks)


def _of_place(error: RecipeError, subject: str) -> RecipeError:
    """The same error of another place."""
    return RecipeError(subject, expected=error.expected, found=error.found, remedy=error.remedy)


def _listed(archive: zipfile.ZipFile, source: str) -> dict[str, list[str]]:
    try:
        listed = json.loads(_content(archive, _LIST, source))
    except ValueError as error:
        raise _wrong(f"{source}: {_LIST}", "JSON", str(error)) from error
    if not isinstance(listed, dict) or listed.get("format") != FORMAT:
        raise _wrong(f"{source}: {_LIST}: format", repr(FORMAT), "something else")
    if not isinstance(listed.get("version"), int) or listed["version"] > VERSION:
        raise _wrong(f"{source}: {_LIST}: version", f"at most {VERSION}", repr(listed.get("version")))
    found = {}
    for key in ("recipes", "profiles", "marks"):
        names = listed.get(key, [])
        if not isinstance(names, list) or not all(isinstance(name, str) for name in names):
            raise _wrong(f"{source}: {_LIST}: {key}", "a list of names", "something else")
        found[key] = names
    for key in ("profiles", "marks"):
        for name in found[key]:
            if "/" in name or "\\" in name or name.startswith("."):
                raise _wrong(f"{source}: {_LIST}: {key}", "plain names", repr(name))
    return found


def _content(archive: zipfile.ZipFile, name: str, source: str) -> bytes:
    try:
        with archive.open(name) as file:
            return file.read(_MOST_BYTES)
    except KeyError as error:
        raise _wrong(f"{source}: {name}", "a file of that name in the zip", "none") from error


def _error(subject: str, expected: str, found: str) -> RecipeError:
    return RecipeError(
        subject, expected=expected, found=found, remedy="Save it anew where it comes from, then try again."
    )


def _wrong(subject: str, expected: str, found: str) -> RecipeProblems:
    return RecipeProblems.of([_error(subject, expected, found)])
