"""How heavy a rendition will be, before it is made: an honest guess, to be called "about"."""

from __future__ import annotations

from itertools import pairwise

from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import JpegFile

# Measured on the demo's photographs at web sizes, sharpened at 80 to 100 %; 4:2:0 below a quality of 90. The
# ends are continued by eye.
_JPEG = (
    *((1, 0.015), (40, 0.044), (60, 0.061), (70, 0.075), (80, 0.101)),
    *((89, 0.15), (90, 0.201), (95, 0.322), (100, 0.9)),
)
_PNG = 0.65


def bytes_a_pixel(recipe: Recipe) -> float:
    """The usual weight of a pixel by a recipe of which nothing was made yet, in bytes.

    Single pictures differ from it by a factor of two and more, as their content does.
    """
    if not isinstance(recipe.file, JpegFile):
        return _PNG
    quality = recipe.file.quality
    for (low, light), (high, heavy) in pairwise(_JPEG):
        if quality <= high:
            return light + (heavy - light) * max(0, quality - low) / (high - low)
    return _JPEG[-1][1]
