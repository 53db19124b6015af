"""Weighing a photo when it is read: its copies in the ways that forecasts know (`plan.weight`), and how fine it is.

The large copy is weighed whole as a JPEG only. How much more or less it weighs in other ways is asked of tiles from
all over it: a quarter of the time, and within 2 to 4 % of the whole for half of 25 photographs.
"""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.coders import encode
from tray_core.line.sharpen import sharpen
from tray_core.pixels.color import flatten
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.plan.weight import EVERY_FILE, STEPS, Detail
from tray_core.recipe.file import AvifFile, File, JpegFile, PngFile, WebpFile
from tray_core.recipe.stations import Sharpen
from tray_core.weight.score import Scorer, seen

_JPEG = JpegFile(format="jpeg", chroma="420")
_WAYS: dict[str, tuple[File, tuple[int, ...]]] = {
    "jpeg": (_JPEG, (40, 60, 84, 95)),
    "jpeg-444": (JpegFile(format="jpeg", chroma="444"), (84, 95)),
    "thorough": (JpegFile(format="jpeg", coder="thorough", progressive=True, chroma="420"), (84,)),
    "webp": (WebpFile(format="webp"), (40, 80, 92)),
    "avif": (AvifFile(format="avif", chroma="420"), (45,)),
    "avif-444": (AvifFile(format="avif", chroma="444"), (65, 85)),
    "png": (PngFile(format="png", effort=1), (0,)),
    "webp-lossless": (WebpFile(format="webp", lossless=True, effort=0), (0,)),
}
"""At the small copy: a tenth of the pixels, and cheap. Palettes take half a second, and are told by what is usual."""

_LARGE = {("webp", 80): 0.012, ("avif-444", 65): 0.027, ("png", 0): 0.035}
"""Of the large copy, and by how much (a logarithm) its tiles weigh more than they do in the whole: they have seams."""

_TILE, _TILED = 64, 120_000
"""A tile's edge, and about how many pixels all of them have: with fewer or larger ones they are less like the whole."""

_AS_USUAL = Sharpen(strength=100)
_USUAL = ("jpeg", 84)
_SCORED = (_USUAL, ("webp", 80), ("avif-444", 65))


def weighed(large: Picture, small: Picture) -> Detail:
    """Weigh the two working copies of a photo (sRGB, 8 bits), sharpened as most renditions are: what that does to its
    weight depends on the photo.
    """
    one, other = (sharpen(replace(flatten(each), icc=None), _AS_USUAL) for each in (large, small))
    files = {
        (way, q): encode(other, file, quality=q or None) for way, (file, qualities) in _WAYS.items() for q in qualities
    }
    light = {f"{way} {q}": _density(other, data) for (way, q), data in files.items()}
    scorer = Scorer(other)
    scores = {f"{way} {q}": round(scorer.score_of_file(files[way, q]), 2) for way, q in _SCORED}
    across, down = _profiles(seen(one))
    return Detail((max(one.size), max(other.size)), _heavy(one), light, scores, across, down)


def _heavy(picture: Picture) -> dict[str, float]:
    """Bytes a pixel of the large copy: whole as a JPEG, and by its tiles in other ways."""

    def weight(picture: Picture, way: str, quality: int) -> float:
        return _density(picture, encode(picture, _WAYS[way][0], quality=quality or None))

    whole = weight(picture, *_USUAL)
    pixels = _tiles(picture.pixels)
    if pixels is picture.pixels:
        return {"jpeg 84": whole} | {f"{way} {q}": weight(picture, way, q) for way, q in _LARGE}
    tiles = replace(picture, pixels=pixels)
    of_tiles = weight(tiles, *_USUAL)
    found = {
        f"{way} {q}": round(whole * weight(tiles, way, q) / of_tiles / math.exp(seams), 6)
        for (way, q), seams in _LARGE.items()
    }
    return {"jpeg 84": whole} | found


def _tiles(pixels: Pixels8) -> Pixels8:
    """Tiles from all over a picture, laid side by side to a square; small pictures as they are."""
    down, across = (edge // _TILE for edge in pixels.shape[:2])
    step = round(down * across * _TILE**2 / _TILED)
    if step < 2:
        return pixels
    places = ((row, column) for row in range(down) for column in range(across) if not (column + 2 * row) % step)
    tiles = [pixels[y * _TILE :, x * _TILE :][:_TILE, :_TILE] for y, x in places]
    side = math.isqrt(len(tiles))
    firsts = range(0, len(tiles) - side + 1, side)
    rows = [np.concatenate(tiles[first : first + side], axis=1) for first in firsts]
    return np.ascontiguousarray(np.concatenate(rows))


def _density(picture: Picture, data: bytes) -> float:
    return round(max(1, len(data) - EVERY_FILE) / (picture.size[0] * picture.size[1]), 6)


def _profiles(pixels: NDArray[np.uint8]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Along the width and the height: the mean of what is finer than a pixel or two, 0..255."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY).astype(np.float32)
    fine = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 1.5))
    rows = [cv2.resize(fine, size, interpolation=cv2.INTER_AREA).ravel() for size in ((STEPS, 1), (1, STEPS))]
    top = max(1e-6, max(float(row.max()) for row in rows))
    across, down = (tuple(int(v) for v in np.rint(row * (255 / top))) for row in rows)
    return across, down
