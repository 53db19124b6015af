"""The finish station: borders around a rendition, rounded corners, marks and a proof stamp over it.

All of it is drawn in the rendition's own pixels and color space, after sharpening and conversion: edges are as sharp as
the pixels allow, and colors the ones asked for, in 16 bits and in inks too. A layer is laid over by its coverage a, in
the encoded values: out = in * (1 - a) + color * a (source: W3C "Compositing and Blending Level 1", source over).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tray_core.line.ground import around, values_of
from tray_core.line.mark_pictures import in_space_of, mark_picture, turned
from tray_core.marks.text import Mask, drawn, fitted, room_for
from tray_core.pixels.color import rgb_of
from tray_core.pixels.picture import Picture, Pixels
from tray_core.plan.layout import Layout
from tray_core.recipe.file import KEEPS_ALPHA
from tray_core.recipe.finish import ANCHORS, Border, Finish, Mark, PictureMark, Proof, TextMark, pixels_of
from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import Color

_WHITE, _BLACK = (255, 255, 255), (0, 0, 0)
_LIGHT = 0.56
"""The mean lightness, of 1, above which dark letters are read better than light ones."""

M = TypeVar("M", bound=Mark)

Layer = tuple[int, int, Mask, Pixels]
"""Left and top of a mask in the rendition, the mask, and the values that it lays there: one color, or one a pixel."""

Area = tuple[int, int, int, int]
"""Left, top, width and height in the rendition."""


def finish(picture: Picture, recipe: Recipe, layout: Layout) -> Picture:
    """Lay the borders of `layout` around a finished picture, and over it what `recipe` says.

    picture: of layout.canvas pixels, 8 or 16 bits, in the rendition's color space. Returns one of layout.outer pixels,
    with alpha where rounded corners need it and the format keeps it. RecipeError where a file of a font is missing.
    """
    station = recipe.finish
    assert station is not None
    for border, ring in zip(station.borders, layout.rings, strict=True):
        picture = around(picture, ring, _fill(border))
    layers = [*_marks(picture, station, layout)]
    if station.proof is not None:
        layers += _stamp(picture, station.proof, layout.texts[-1])
    if layers or not station.corners.startswith("0 "):
        picture = Picture(picture.pixels.copy(), picture.space, picture.alpha, picture.icc)
    for left, top, mask, values in layers:
        _lay(picture, (left, top), mask, values)
    radius = pixels_of(station.corners, min(picture.size))
    if station.corners.endswith("px"):
        radius *= layout.seen
    return _rounded(picture, radius, recipe) if radius > 0 else picture


def _fill(border: Border) -> tuple[int, int, int] | str:
    return "blur" if border.blur else rgb_of(border.color) or border.color


def _marks(picture: Picture, station: Finish, layout: Layout) -> Iterator[Layer]:
    texts = iter(layout.texts)
    for mark in station.marks:
        area = (0, 0, *picture.size) if mark.over == "all" else _inside(layout)
        taken = _pixels(layout, picture.size) if mark.clear else ()
        if isinstance(mark, PictureMark):
            yield _picture_layer(picture, mark, area, taken)
        elif (text := next(texts)).strip():
            yield from _text_layers(picture, mark, text, area, layout.seen, taken)


def _inside(layout: Layout) -> Area:
    left, top = sum(ring[0] for ring in layout.rings), sum(ring[1] for ring in layout.rings)
    return left, top, *layout.canvas


def _pixels(layout: Layout, size: tuple[int, int]) -> tuple[Area, ...]:
    """What marks keep clear of, in pixels."""
    found = []
    for box in layout.subjects:
        left, top, right, bottom = (round(share * size[i % 2]) for i, share in enumerate(box))
        found.append((left, top, right - left, bottom - top))
    return tuple(found)


def _text_layers(
    picture: Picture, mark: TextMark, text: str, area: Area, seen: float, taken: tuple[Area, ...]
) -> Iterator[Layer]:
    """A text's layers, what sets it off below its letters."""
    short = min(area[2:])
    align = "right" if "right" in mark.at else "left" if "left" in mark.at else "center"
    fit = fitted(mark, text, room_for(mark, area[2:]), short, seen)
    masks = [each for each in drawn(fit, align) if each is not None]
    if mark.tiled:
        gap = (round(1.2 * masks[0].shape[1] + short / 12), round(3.2 * masks[0].shape[0] + short / 12))
        placed = [(area[0], area[1], tiled(each, area[2:], gap, mark.angle)) for each in masks]
    else:
        leaning = [_turned(each, mark.angle) for each in masks]
        mark = _cleared(leaning[0], mark, area, taken)
        placed = [(*_place(each, mark, area), each) for each in leaning]
    left, top, mask = placed[0]
    own = rgb_of(mark.color)
    dark = _lightness(picture, (left, top), mask) > _LIGHT if own is None else sum(own) < 384
    for left, top, behind in placed[1:]:
        yield left, top, _faded(behind, mark.opacity), values_of(_WHITE if dark else _BLACK, picture)
    yield left, top, _faded(mask, mark.opacity), values_of(own or (_BLACK if dark else _WHITE), picture)


def _picture_layer(picture: Picture, mark: PictureMark, area: Area, taken: tuple[Area, ...]) -> Layer:
    width = mark.width * min(area[2:]) / 100
    made = mark_picture(mark.picture, width, room_for(mark, area[2:]))
    mark = _cleared(turned(made, mark.angle)[..., 3], mark, area, taken)
    if mark.on_dark is not None:
        at = _place(made[..., 3], mark, area)
        if _lightness(picture, at, made[..., 3]) <= _LIGHT:
            made = mark_picture(mark.on_dark, width, room_for(mark, area[2:]))
    if mark.tiled:
        gap = (made.shape[1] + round(width), made.shape[0] + round(width))
        made = np.dstack([tiled(np.ascontiguousarray(made[..., i]), area[2:], gap, mark.angle) for i in range(4)])
        at = area[0], area[1]
    else:
        made = turned(made, mark.angle)
        at = _place(made[..., 3], mark, area)
    mask, colors = in_space_of(made, picture)
    return *at, _faded(mask, mark.opacity), colors


def _stamp(picture: Picture, proof: Proof, text: str) -> Iterator[Layer]:
    """The stamp of a proof: light letters with a dark rim, so that it is seen on everything."""
    width, height = picture.size
    row = height / proof.repeats
    size = min(50.0, max(0.5, 34 * row / min(width, height)))
    mark = TextMark(text=text, size=size, least=4, weight="bold", edge="outline", angle=proof.angle, margin=1)
    fit = fitted(mark, text, (float(width), float(height)), min(width, height))
    letters, edge = drawn(fit, "center")
    gap = (letters.shape[1] + 2 * fit.size, max(letters.shape[0] + 4, round(row)))
    assert edge is not None
    behind = _faded(tiled(edge, (width, height), gap, proof.angle), proof.opacity // 2 + 1)
    yield 0, 0, behind, values_of(_BLACK, picture)
    yield 0, 0, _faded(tiled(letters, (width, height), gap, proof.angle), proof.opacity), values_of(_WHITE, picture)


def _faded(mask: Mask, opacity: int) -> Mask:
    faded: Mask = np.rint(mask.astype(np.float32) * (opacity / 100)).astype(np.uint8)
    return faded


def _turned(mask: Mask, angle: float) -> Mask:
    if not angle:
        return mask
    turned = Image.fromarray(mask).rotate(-angle, Image.Resampling.BICUBIC, expand=True)
    return np.asarray(turned.crop(turned.getbbox()))


def tiled(mask: Mask, size: tuple[int, int], step: tuple[int, int], angle: float) -> Mask:
    """A mask repeated over `size` (width, height), every other row moved by half a step, all of it turned.

    step: from one to the next, across and down, in pixels.
    """
    width, height = size
    side = math.ceil(math.hypot(width, height)) + 2
    field = np.zeros((side, side), np.uint8)
    high, wide = mask.shape
    middle = side // 2
    rows = range(-(-middle // step[1]) + 1)
    for row in sorted({sign * each for each in rows for sign in (1, -1)}):
        top = middle + row * step[1] - high // 2
        for left in range((row % 2) * step[0] // 2 + middle % step[0] - wide // 2 - step[0], side, step[0]):
            y0, y1, x0, x1 = max(0, top), min(side, top + high), max(0, left), min(side, left + wide)
            if y0 < y1 and x0 < x1:
                part = field[y0:y1, x0:x1]
                np.maximum(part, mask[y0 - top : y1 - top, x0 - left : x1 - left], out=part)
    matrix = cv2.getRotationMatrix2D((side / 2, side / 2), -angle, 1.0)
    matrix[:, 2] += np.array([(width - side) / 2, (height - side) / 2])
    found = cv2.warpAffine(field, matrix, (width, height), flags=cv2.INTER_LINEAR)
    return np.asarray(found, np.uint8)


def _place(mask: Mask, mark: Mark, area: Area) -> tuple[int, int]:
    """(left, top) of a mask: by its anchor, or around a point, and inside the area."""
    margin = mark.margin * min(area[2:]) / 100
    found = []
    for axis, (near, far) in enumerate((("left", "right"), ("top", "bottom"))):
        long, whole = mask.shape[1 - axis], area[2 + axis]
        if not isinstance(mark.at, str):
            start = mark.at[axis] * whole - long / 2
        elif near in mark.at:
            start = margin
        elif far in mark.at:
            start = whole - margin - long
        else:
            start = (whole - long) / 2
        found.append(area[axis] + max(0, min(round(start), whole - long)))
    return found[0], found[1]


def _cleared(mask: Mask, mark: M, area: Area, taken: tuple[Area, ...]) -> M:
    """The mark as it is, or at another anchor where it would cover what must be seen: the nearest that covers none of
    it, or else the one that covers least.
    """
    if mark.tiled or not taken:
        return mark
    start = _place(mask, mark, area)

    def worth(other: M) -> tuple[float, float]:
        left, top = _place(mask, other, area)
        covered = sum(
            max(0, min(left + mask.shape[1], x + wide) - max(left, x))
            * max(0, min(top + mask.shape[0], y + high) - max(top, y))
            for x, y, wide, high in taken
        )
        return covered, math.hypot(left - start[0], top - start[1])

    return min((mark, *(mark.model_copy(update={"at": each}) for each in ANCHORS)), key=worth)


def _part(picture: Picture, at: tuple[int, int], mask: Mask) -> Pixels:
    return picture.pixels[at[1] : at[1] + mask.shape[0], at[0] : at[0] + mask.shape[1]]


def _lightness(picture: Picture, at: tuple[int, int], mask: Mask) -> float:
    """How light it is below a mask, 0 to 1, by the encoded values."""
    part = _part(picture, at, mask)
    cover = mask[: part.shape[0], : part.shape[1]].astype(np.float32)
    values = part.astype(np.float32) / np.iinfo(part.dtype).max
    if picture.space == "CMYK":
        light: NDArray[Any] = (1 - values[..., :3].mean(axis=2)) * (1 - values[..., 3])
    else:
        light = values if values.ndim == 2 else values[..., :3] @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        if picture.alpha:
            light = 1 - values[..., 3] * (1 - light)
    return float((light * cover).sum() / max(1.0, float(cover.sum())))


def _lay(picture: Picture, at: tuple[int, int], mask: Mask, color: Pixels) -> None:
    """Lay `color` over the picture's own pixels by a mask; what it covers of a transparent picture becomes opaque."""
    part = _part(picture, at, mask)
    cover = (mask[: part.shape[0], : part.shape[1]].astype(np.float32) / 255)[..., None]
    flat = part if part.ndim == 3 else part[..., None]
    color = color[: part.shape[0], : part.shape[1]] if color.ndim == 3 else color
    if not picture.alpha:
        flat[...] = np.rint(flat + (color.astype(np.float32) - flat) * cover).astype(part.dtype)
        return
    top = np.float32(np.iinfo(part.dtype).max)
    below = flat[..., 3:].astype(np.float32) / top
    whole = cover + below * (1 - cover)
    share = np.divide(cover, whole, out=np.zeros_like(whole), where=whole > 0)
    flat[..., :3] = np.rint(flat[..., :3] + (color.astype(np.float32) - flat[..., :3]) * share).astype(part.dtype)
    flat[..., 3:] = np.rint(whole * top).astype(part.dtype)


def _rounded(picture: Picture, radius: float, recipe: Recipe) -> Picture:
    """Round the corners: transparent outside of them, or the matte where the file has no transparency."""
    width, height = picture.size
    radius = min(radius, min(width, height) / 2)
    reach = math.ceil(radius)
    along = radius - (np.arange(reach, dtype=np.float32) + 0.5)
    covered = np.clip(radius + 0.5 - np.hypot(along[:, None], along[None]), 0, 1)
    lacks = np.rint(255 * (1 - covered)).astype(np.uint8)
    clear = recipe.file.format in KEEPS_ALPHA and picture.space == "RGB"
    if clear and not picture.alpha:
        kind = picture.pixels.dtype
        whole = np.full((height, width, 1), np.iinfo(kind).max, kind)
        picture = Picture(np.concatenate([picture.pixels, whole], axis=2), "RGB", True, picture.icc)
    matte = values_of(rgb_of((recipe.color or Color()).matte) or _WHITE, picture)
    # Corners that meet in a small picture share no pixel: each takes what is its own half.
    tall, wide = min(reach, height - reach) or reach, min(reach, width - reach) or reach
    for down in (1, -1):
        for right in (1, -1):
            mask = np.ascontiguousarray(lacks[:tall, :wide][::down, ::right])
            at = 0 if right == 1 else width - wide, 0 if down == 1 else height - tall
            if clear:
                alpha = _part(picture, at, mask)[..., 3]
                alpha[...] = np.rint(alpha * (1 - mask.astype(np.float32) / 255)).astype(alpha.dtype)
            else:
                _lay(picture, at, mask, matte)
    return picture
