"""How heavy a rendition will be, before it is made: an honest guess, to be called "about"."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from tray_core.recipe.file import JpegFile, Lossy
from tray_core.recipe.model import Recipe

# Measured on the demo's photographs at web sizes, sharpened at 80 to 100 %; 4:2:0 below a quality of 90. The
# ends are continued by eye.
_JPEG = (
    *((1, 0.015), (40, 0.044), (60, 0.061), (70, 0.075), (80, 0.101)),
    *((89, 0.15), (90, 0.201), (95, 0.322), (100, 0.9)),
)
_SHARE = {"webp": 0.72, "avif": 0.55, "pdf": 1.0}
"""Of a JPEG of the same quality; measured on the same photographs."""

_LOSSLESS = {"png": 0.65, "webp": 0.5, "tiff": 1.7, "gif": 0.6}
_THOROUGH = 0.82
_LOOKS = ((30, 30), (70, 70), (80, 82), (88, 91), (95, 96), (99, 99))
"""Perceptual scores, and the quality of a JPEG that usually reaches them."""


def bytes_a_pixel(recipe: Recipe) -> float:
    """The usual weight of a pixel by a recipe of which nothing was made yet, in bytes.

    Single pictures differ from it by a factor of two and more, as their content does.
    """
    file = recipe.file
    if not isinstance(file, Lossy) or getattr(file, "lossless", False):
        deep = recipe.color is not None and recipe.color.bits == 16
        few = 0.4 if getattr(file, "colors", None) is not None and file.format == "png" else 1
        return _LOSSLESS[file.format] * (2.6 if deep else 1) * few
    quality = float(file.quality) if file.looks is None else _between(_LOOKS, file.looks)
    share = _SHARE.get(file.format, _THOROUGH if isinstance(file, JpegFile) and file.coder == "thorough" else 1)
    return _between(_JPEG, quality) * share


def most_bytes(recipe: Recipe) -> int | None:
    """What a rendition by `recipe` never weighs more than, in bytes; None without a limit."""
    file = recipe.file
    return file.under_kb * 1000 if isinstance(file, Lossy) and file.under_kb is not None else None


def _between(points: Sequence[tuple[float, float]], at: float) -> float:
    """Linear between known points, and as the last beyond them."""
    for (low, light), (high, heavy) in pairwise(points):
        if at <= high:
            return light + (heavy - light) * max(0, at - low) / (high - low)
    return points[-1][1]
