"""Parts of pictures for screens, and what sharpening does to them."""

from __future__ import annotations

import numpy as np

from tray_core.coders import encode
from tray_core.line.sharpen import guard_for, guard_mask
from tray_core.pixels.color import to_8, to_srgb
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import PngFile
from tray_core.recipe.stations import Sharpen

LARGEST = 2000
"""Pixels of a window's edge."""

_PNG = PngFile(format="png", effort=1)
_GAIN = 4


def window(picture: Picture, x: int, y: int, width: int, height: int) -> Picture:
    """The part of a picture that begins at (x, y), moved inside where it reaches beyond; at most `LARGEST` a side."""
    wide, high = picture.size
    width, height = (max(1, min(edge, LARGEST)) for edge in (width, height))
    left = max(0, min(x, wide - width))
    top = max(0, min(y, high - height))
    pixels = np.ascontiguousarray(picture.pixels[top : top + height, left : left + width])
    return Picture(pixels, picture.space, picture.alpha, picture.icc)


def shown(picture: Picture) -> bytes:
    """A picture as a lossless file of 8 bits with its profile; inks as sRGB."""
    return encode(to_8(to_srgb(picture) if picture.space == "CMYK" else picture), _PNG)


def guarded(picture: Picture, station: Sharpen | None) -> Picture:
    """Where the guard lets sharpening through, 255, and where it holds it back, 0: grey, 8 bits."""
    return Picture(guard_mask(picture, guard_for(picture, station) if station else 0), "grey", False, None)


def difference(before: Picture, after: Picture) -> Picture:
    """What changed between two pictures of one size, four times as strong, around middle grey: 8 bits, no profile.

    Inks as sRGB and without alpha, so that what is shown are colors.
    """
    one, other = (to_8(to_srgb(each) if each.space == "CMYK" else each) for each in (before, after))
    colors = 3 if one.pixels.ndim == 3 else None
    change = _colors(other, colors).astype(np.int16) - _colors(one, colors)
    return Picture(np.clip(128 + _GAIN * change, 0, 255).astype(np.uint8), other.space, False, None)


def _colors(picture: Picture, count: int | None) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    return picture.pixels if count is None else picture.pixels[..., :count]
