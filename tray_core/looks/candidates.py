"""What a recipe would be in another format, to weigh one against the other."""

from __future__ import annotations

from typing import Any

from tray_core.errors import RecipeError
from tray_core.pixels.color import target_of
from tray_core.recipe import Recipe
from tray_core.recipe.file import KEEPS_CMYK, AvifFile, File, JpegFile, Lossy, WebpFile
from tray_core.recipe.stations import Color


def as_candidate(recipe: Recipe, name: str) -> Recipe:
    """The recipe with another format, and a color station that the format can hold.

    name: jpeg, thorough (a JPEG by the thorough coder), webp or avif; RecipeError for any other.
    """
    file = _file(recipe.coded, name)
    changes: dict[str, Any] = {"file": file}
    target = target_of(recipe.color)
    if target is not None and target.space == "CMYK" and file.format not in KEEPS_CMYK:
        changes["color"] = Color()
    elif recipe.color is not None and recipe.color.bits == 16:
        changes["color"] = recipe.color.model_copy(update={"bits": 8})
    return recipe.model_copy(update=changes)


def _file(own: File, name: str) -> File:
    """The file station of a curve: as the recipe's own where it is of that format."""
    if name == own.format and isinstance(own, Lossy) and not (isinstance(own, JpegFile) and own.coder == "thorough"):
        plain: dict[str, Any] = {"under_kb": None, "looks": None, "lowest": None}
        if isinstance(own, WebpFile):
            plain["sharp"] = own.sharp_color  # which follows from the look where it is not said
        return own.model_copy(update=plain)
    match name:
        case "jpeg":
            return JpegFile(format="jpeg")
        case "thorough":
            return JpegFile(format="jpeg", coder="thorough", progressive=True)
        case "webp":
            return WebpFile(format="webp")
        case "avif":
            return AvifFile(format="avif")
    raise RecipeError(
        "format", expected="jpeg, thorough, webp or avif", found=repr(name), remedy="Choose one of these."
    )
