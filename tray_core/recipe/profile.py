"""Whether a recipe's color profile is there and goes with its format. Asks the files, not the recipe alone."""

from __future__ import annotations

from tray_core.errors import RecipeError
from tray_core.photo.profile_files import profile_file
from tray_core.photo.profiles import read_profile
from tray_core.recipe.file import KEEPS_CMYK
from tray_core.recipe.model import Recipe
from tray_core.recipe.reading import RecipeProblems


def check_profile(recipe: Recipe) -> None:
    """RecipeProblems where the profile file is missing, unusable, or of inks that the format cannot hold."""
    if recipe.color is None or recipe.color.icc is None:
        return
    try:
        facts = read_profile(profile_file(recipe.color.icc))
    except RecipeError as error:
        raise RecipeProblems.of([error]) from error
    assert facts is not None, "checked when it was found"
    if facts.space == "CMYK" and recipe.file.format not in KEEPS_CMYK:
        clash = RecipeError(
            "color.icc",
            expected=f"a profile for RGB or grey, since {recipe.file.format.upper()} holds no inks",
            found=facts.description,
            remedy="Choose JPEG, TIFF or PDF, or another profile.",
        )
        raise RecipeProblems.of([clash])
