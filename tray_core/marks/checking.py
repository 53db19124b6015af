"""Whether the files that a recipe's marks name are there, and of use. Asks the files, not the recipe alone."""

from __future__ import annotations

from tray_core.errors import RecipeError
from tray_core.marks.fonts import font_files, letters_of, mark_file
from tray_core.recipe.finish import TextMark
from tray_core.recipe.model import Recipe
from tray_core.recipe.reading import RecipeProblems


def check_marks(recipe: Recipe) -> None:
    """RecipeProblems where a font is missing or is none, or where a mark picture is missing, named by its mark."""
    problems = []
    for number, mark in enumerate(recipe.finish.marks if recipe.finish is not None else ()):
        place = f"finish.marks.{number}"
        try:
            if isinstance(mark, TextMark):
                for path in font_files(mark.font, mark.weight):
                    letters_of(path)
            else:
                mark_file(mark.picture, f"{place}.picture")
                if mark.on_dark is not None:
                    mark_file(mark.on_dark, f"{place}.on_dark")
        except RecipeError as error:
            told = {"expected": error.expected, "found": error.found, "remedy": error.remedy}
            problems.append(RecipeError(error.subject.replace("finish.marks.font", f"{place}.font"), **told))
    if problems:
        raise RecipeProblems.of(problems)
