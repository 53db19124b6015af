"""Files of several recipes on the command line."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from collections.abc import Mapping
from pathlib import Path

from tray_core.marks.fonts import FOLDERS as MARKS
from tray_core.photo.profile_files import FOLDERS
from tray_core.recipe import Recipe, read_recipe_file
from tray_core.recipe.shelf import is_shelf, read_shelf


def read_recipes(path: str) -> tuple[Recipe, ...]:
    """The recipe at `path`, or all of a file of several, whose profiles and marks are there as long as this process is.

    RecipeProblems names what is wrong by file and path.
    """
    file = Path(path)
    try:
        with file.open("rb") as opened:
            if not is_shelf(opened.read(4)):
                return (read_recipe_file(path),)
        found = read_shelf(file.read_bytes(), path)
    except OSError:
        return (read_recipe_file(path),)  # which says what is wrong with it
    for variable, files in ((FOLDERS, found.profiles), (MARKS, found.marks)):
        if files:
            _lay_out(variable, files)
    return found.recipes


def _lay_out(variable: str, files: Mapping[str, bytes]) -> None:
    """Put profiles or marks where they are looked for, by worker processes too, which have the same environment."""
    folder = tempfile.mkdtemp(prefix="shelf-")
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    for name, data in files.items():
        (Path(folder) / name).write_bytes(data)
    before = os.environ.get(variable, "")
    os.environ[variable] = f"{folder}{os.pathsep}{before}" if before else folder
