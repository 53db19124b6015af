"""Sizes in whole pixels. Exact arithmetic only, so that what is planned is what is made."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

from tray_core.recipe.base import MAX_PIXELS
from tray_core.recipe.size import BoxSize, EdgeSize, ExactSize, MegapixelSize, PercentSize, Size, WidthsSize

MAX_AREA = 400_000_000
"""The most pixels that one picture is enlarged to, whatever a recipe asks for."""

Length = Fraction | int


def half_up(value: Length) -> int:
    """Rounded half up, at least 1."""
    value = Fraction(value)
    return max(1, (2 * value.numerator + value.denominator) // (2 * value.denominator))


@dataclass(frozen=True, slots=True)
class Measured:
    """width, height: whole pixels, at least 1. wanted: the scale asked for. scale: the scale allowed."""

    width: int
    height: int
    wanted: Fraction
    scale: Fraction


def orientation(width: int, height: int) -> str:
    """landscape, portrait or square."""
    return "square" if width == height else "landscape" if width > height else "portrait"


def limit_of(size: Size | None, width: Length, height: Length) -> Fraction:
    """The largest scale allowed for a picture of width x height: by the recipe, and by what can be made."""
    area = max(Fraction(1), Fraction(math.sqrt(MAX_AREA / float(width * height))))
    made = min(Fraction(MAX_PIXELS) / max(width, height), area)
    allowed = Fraction(1) if size is None or size.limit is None else Fraction(str(size.limit))
    return made if size is not None and size.limit is None else min(allowed, made)


def measure(
    width: Length, height: Length, size: Size | None, shape: str, limit: Fraction, asked_width: int | None = None
) -> Measured:
    """Measure a picture of width x height (both > 0, in pixels of the photo) by the size station.

    shape: landscape, portrait or square, for values that differ between them. limit: the largest scale
    allowed. asked_width: which one of a list of widths. The edge asked for is exact, the other
    follows the shape, rounded half up; a picture that would have to be scaled beyond the limit is scaled by
    the limit. Exact sizes are no measure of a picture: the caller decides what they mean.
    """
    values = size.for_shape(shape) if size is not None else {}
    by_width, asked = True, None
    match size:
        case EdgeSize():
            asked = values["pixels"]
            wide, tall = width >= height, width <= height
            by_width = {"width": True, "height": False, "long-edge": wide, "short-edge": tall}[size.by]
        case BoxSize():
            # The edge that meets the box first is the one asked for.
            by_width = values["width"] * height <= values["height"] * width
            asked = values["width"] if by_width else values["height"]
        case MegapixelSize():
            asked = max(1, round(math.sqrt(values["megapixels"] * 1e6 * float(Fraction(width) / height))))
        case WidthsSize():
            asked = asked_width
    if asked is not None:
        wanted = Fraction(asked) / (width if by_width else height)
    else:
        wanted = Fraction(values["percent"], 100) if isinstance(size, PercentSize) else Fraction(1)
    if wanted > limit or asked is None:
        scale = min(wanted, limit)
        return Measured(half_up(width * scale), half_up(height * scale), wanted, scale)
    if by_width:
        return Measured(asked, half_up(height * wanted), wanted, wanted)
    return Measured(half_up(width * wanted), asked, wanted, wanted)


def target_size(width: int, height: int, size: Size | None) -> tuple[int, int]:
    """The (width, height) of a rendition of an upright photo that keeps its shape, split into no panels."""
    assert not isinstance(size, ExactSize), "exact sizes need a frame"
    found = measure(width, height, size, orientation(width, height), limit_of(size, width, height))
    return found.width, found.height
