"""Resampling to exact pixels, by Lanczos-3 with a support that grows with the reduction.

Source of the method: Duchon (1979), "Lanczos filtering in one and two dimensions"; computed by
libvips, in gamma-encoded values.
"""

from __future__ import annotations

import itertools

import cv2
import numpy as np
import pyvips

from tray_core.line.decode import covers
from tray_core.line.picture import Picture, Pixels

# One process a core is how the product scales; libvips threads beside it would only fight over cores.
pyvips.vips_lib.vips_concurrency_set(1)
# Every picture passes once; the operation cache would hold on to it.
pyvips.cache_set_max(0)


class Pyramid:
    """A picture with its half, quarter and eighth, each made once, when first wanted.

    whole: the width of the photo that `picture` was decoded from; no level is less than its eighth,
    since what is lost to averages adds up.
    """

    def __init__(self, picture: Picture, whole: int) -> None:
        self._levels = [picture]
        self._least = whole / 8

    def covering(self, width: int, height: int) -> Picture:
        """The smallest level that covers width x height with the margin, or the whole picture.

        Halving is a mean of four, much as scaled JPEG decoding is; Lanczos does the rest. Pictures
        with alpha are not halved: their weights would be lost.
        """
        level = self._levels[0]
        for following in itertools.count(1):
            half = (level.size[0] // 2, level.size[1] // 2)
            if level.alpha or half[0] < self._least or not covers(half, (width, height)):
                break
            if following == len(self._levels):
                pixels = cv2.resize(level.pixels, half, interpolation=cv2.INTER_AREA)
                self._levels.append(Picture(pixels, level.space, False, level.icc))
            level = self._levels[following]
        return level


def resize(picture: Picture, width: int, height: int) -> Picture:
    """Return `picture` as width x height pixels of the same dtype, space and profile.

    Transparent pictures are weighted by their alpha, so that the color of what cannot be seen does
    not bleed into edges.
    """
    if picture.size == (width, height):
        return picture
    pixels = _resize_alpha(picture.pixels, width, height) if picture.alpha else _resize(picture.pixels, width, height)
    return Picture(pixels, picture.space, picture.alpha, picture.icc)


def _resize(pixels: Pixels, width: int, height: int) -> Pixels:
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    made = _scaled(image, width, height).numpy()
    return made if pixels.ndim == made.ndim else made.reshape(height, width)  # type: ignore[no-any-return]


def _scaled(image: pyvips.Image, width: int, height: int) -> pyvips.Image:
    made = image.resize(width / image.width, vscale=height / image.height, kernel="lanczos3")
    if (made.width, made.height) != (width, height):
        # libvips rounds the product of size and scale in floating point; one pixel can be missing.
        made = made.crop(0, 0, min(made.width, width), min(made.height, height))
        made = made.embed(0, 0, width, height, extend="copy")
    return made


def _resize_alpha(pixels: Pixels, width: int, height: int) -> Pixels:
    top = float(np.iinfo(pixels.dtype).max)
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels)).copy(
        interpretation="srgb" if pixels.dtype == np.uint8 else "rgb16"
    )
    made = _scaled(image.premultiply(max_alpha=top), width, height).unpremultiply(max_alpha=top).numpy()
    result: Pixels = np.rint(np.clip(made, 0, top)).astype(pixels.dtype)
    return result
