"""Weighing a photo when it is read: its copies in the ways that forecasts know (`plan.weight`), and how fine it is."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.coders import encode
from tray_core.line.sharpen import sharpen
from tray_core.pixels.color import flatten
from tray_core.pixels.picture import Picture
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
    "webp-lossless": (WebpFile(format="webp", lossless=True), (0,)),
}
"""At the small copy: a tenth of the pixels, and cheap. Palettes take half a second, and are told by what is usual."""

_LARGE = (("jpeg", 84), ("webp", 80), ("avif-444", 65), ("png", 0))
_AS_USUAL = Sharpen(strength=100)
_SCORED = (("jpeg", 84), ("webp", 80), ("avif-444", 65))


def weighed(large: Picture, small: Picture) -> Detail:
    """Weigh the two working copies of a photo (sRGB, 8 bits), sharpened as most renditions are: what that does to its
    weight depends on the photo.
    """
    one, other = (sharpen(replace(flatten(each), icc=None), _AS_USUAL) for each in (large, small))
    heavy = {f"{way} {quality}": _density(one, way, quality) for way, quality in _LARGE}
    light = {f"{way} {q}": _density(other, way, q) for way, (_, qualities) in _WAYS.items() for q in qualities}
    scorer = Scorer(other)
    scores = {
        f"{way} {quality}": round(scorer.score_of_file(encode(other, _WAYS[way][0], quality=quality)), 2)
        for way, quality in _SCORED
    }
    across, down = _profiles(seen(one))
    return Detail((max(one.size), max(other.size)), heavy, light, scores, across, down)


def _density(picture: Picture, way: str, quality: int) -> float:
    size = len(encode(picture, _WAYS[way][0], quality=quality or None))
    return round(max(1, size - EVERY_FILE) / (picture.size[0] * picture.size[1]), 6)


def _profiles(pixels: NDArray[np.uint8]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Along the width and the height: the mean of what is finer than a pixel or two, 0..255."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY).astype(np.float32)
    fine = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 1.5))
    rows = [cv2.resize(fine, size, interpolation=cv2.INTER_AREA).ravel() for size in ((STEPS, 1), (1, STEPS))]
    top = max(1e-6, max(float(row.max()) for row in rows))
    across, down = (tuple(int(v) for v in np.rint(row * (255 / top))) for row in rows)
    return across, down
