"""How heavy a rendition will be, before it is made: an honest guess, to be called "about".

What a picture weighs depends first on how much detail it has, by a factor of ten between plain and busy ones. That is
measured once, when a photo is read, at two scales: the bytes of its working copies as plain JPEGs. Files of other
sizes, formats and qualities weigh so many times as much; how many was measured on the demo's photographs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.recipe.file import AvifFile, JpegFile, Lossy, WebpFile
from tray_core.recipe.model import Recipe

Detail = tuple[float, float]
"""Bytes a pixel, without `EVERY_FILE`, of a photo at `DETAIL_EDGES`: as JPEGs of `DETAIL_QUALITY`, not sharpened."""

DETAIL_EDGES = (960, 320)
"""Pixels on the long edge; less of smaller photos."""

DETAIL_QUALITY = 84

EVERY_FILE = 650
"""Bytes of headers and tables that even an empty picture has."""

USUAL: Detail = (0.094, 0.145)
"""The mean of the demo's photographs: for photos whose detail nobody measured."""

# Times the weight of a JPEG of DETAIL_QUALITY, all sharpened at 100 %: medians over 24 pictures at 480, 900 and 1,600
# pixels. The ends are continued by eye.
_JPEG = (
    *((1, 0.09), (20, 0.29), (30, 0.385), (45, 0.5), (60, 0.62), (70, 0.75), (80, 0.95), (86, 1.17), (89, 1.31)),
    *((90, 1.77), (93, 2.13), (96, 3.0), (98, 4.2), (100, 6.8)),
)
_WEBP = ((1, 0.11), (30, 0.26), (50, 0.36), (65, 0.42), (80, 0.565), (90, 0.96), (95, 1.43), (100, 2.5))
_AVIF = ((1, 0.03), (35, 0.216), (50, 0.386), (60, 0.54), (70, 0.742), (80, 0.99), (90, 1.58), (100, 3.3))
_LOSSLESS = {"png": 8.8, "webp": 6.8, "tiff": 9.3, "gif": 4.4}
_THOROUGH = 0.82
_FULL_CHROMA = 1.29
_SHARPER = 0.0007
"""Weight grows as its exponential for each per cent of sharpening."""

_HIGHEST_SEARCHED = 98
_LOOKS = ((30, 30), (70, 70), (80, 82), (88, 91), (95, 96), (99, 99))
"""Perceptual scores, and the quality of a JPEG that usually reaches them."""

_LOOKING_SHARE = {"webp": 0.75, "avif": 0.65}
"""Of that JPEG's weight, at the same score."""

_STEEPEST, _SHALLOWEST = -1.2, 0.3
"""How detail a pixel changes with scale, as an exponent: more than this is an accident of two measurements."""

_ENLARGED = -1.5
"""The same beyond the photo's own pixels: there is next to nothing new there."""

_FILLED = {"blur": 0.1}
"""What a pixel beside the photo weighs, as a share of one of the photo; plain ones 0.01."""


def times_detail(recipe: Recipe) -> float:
    """How many times the weight of its detail a rendition by `recipe` has. A file under a limit as if without it."""
    file = recipe.file
    strength = recipe.sharpen.strength if recipe.sharpen else 0
    sharp = math.exp(_SHARPER * (strength - 100))
    if not isinstance(file, Lossy) or getattr(file, "lossless", False):
        deep = 2.6 if recipe.color is not None and recipe.color.bits == 16 else 1
        few = 0.4 if getattr(file, "colors", None) is not None and file.format == "png" else 1
        return _LOSSLESS[file.format] * deep * few * sharp
    if file.looks is not None:
        return _between(_JPEG, _between(_LOOKS, file.looks)) * _LOOKING_SHARE.get(file.format, 1) * sharp
    quality = _HIGHEST_SEARCHED if file.under_kb is not None else file.quality
    match file:
        case WebpFile():
            return _between(_WEBP, quality) * sharp
        case AvifFile():
            return _between(_AVIF, quality) * sharp
        case JpegFile():
            made = _between(_JPEG, quality) * sharp * (_THOROUGH if file.coder == "thorough" else 1)
            full = quality >= 90
            if file.chroma == "444" and not full:
                return made * _FULL_CHROMA
            return made / _FULL_CHROMA if file.chroma == "420" and full else made
    return _between(_JPEG, quality) * sharp


def about_bytes(plan: Plan, detail: Detail | None, times: float | None = None) -> int:
    """About how many bytes a rendition will have; never more than its recipe's limit.

    detail: of the photo, as it was measured; None where it was not. times: of its detail, where that was learned from
    what was made; `times_detail` of its recipe otherwise. On the demo's pictures half of the JPEGs of qualities from 60
    to 89 are within 5 %, nine of ten within 17; of WebP and AVIF within 13 and 30; of lossless files within 23 and 78.
    """
    file = plan.recipe.file
    most = file.under_kb * 1000 if isinstance(file, Lossy) and file.under_kb is not None else math.inf
    times = times_detail(plan.recipe) if times is None else times
    return round(min(most, EVERY_FILE + times * _detail_shown(plan.layout, plan.width * plan.height, detail or USUAL)))


def _detail_shown(layout: Layout, pixels: int, detail: Detail) -> float:
    """How much detail `pixels` of a layout's canvas hold, in bytes of a JPEG of `DETAIL_QUALITY`."""
    large, small = detail
    whole = max(layout.source)
    edges = [min(edge, whole) for edge in DETAIL_EDGES]
    slope = 0.0
    if edges[0] > edges[1] and large > 0 and small > 0:
        slope = min(_SHALLOWEST, max(_STEEPEST, math.log(large / small) / math.log(edges[0] / edges[1])))
    scale = layout.scale
    density: float = large * (whole * min(1.0, scale) / edges[0]) ** slope * max(1.0, scale) ** _ENLARGED
    _, _, width, height = layout.inner
    photo = width * height / (layout.canvas[0] * layout.canvas[1])
    return pixels * density * (photo + (1 - photo) * _FILLED.get(layout.fill, 0.01))


def _between(points: Sequence[tuple[float, float]], at: float) -> float:
    """Linear between known points, and as the last beyond them."""
    for (low, light), (high, heavy) in pairwise(points):
        if at <= high:
            return light + (heavy - light) * max(0, at - low) / (high - low)
    return points[-1][1]
