"""What lies beside the picture: a color, nothing, a blurred copy of it, or the colors of its edges."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.color import color_in, flatten, rgb_of, to_rgb_channels
from tray_core.pixels.picture import Picture, Pixels, Pixels8
from tray_core.plan.borders import Ring
from tray_core.plan.layout import Layout

_SMALL = 96
"""Long edge of the copy that is blurred: what is finer would not be seen."""

_BLUR = 0.045
"""Standard deviation of the blur, in parts of the ground's long edge."""

_RIM = 0.02
"""How much of the picture's edge gives the edge color, in parts of its short edge."""

# A fixed 4 x 4 pattern of fractions of a level: smooth grounds would show steps without it (Bayer, 1973).
_PATTERN = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]], np.float32) / 16 + 1 / 32


def lay_on_ground(picture: Picture, layout: Layout, mask: Pixels8 | None, transparent: bool) -> Picture:
    """Lay a picture of the size of `layout.inner` into its canvas, and fill the rest; its values keep their kind.

    mask: what of the picture counts, 0..255, or all of it. transparent: whether the file can hold
    transparency; a transparent ground is white where it cannot. A transparent picture on a color or on its own
    copy becomes opaque.
    """
    width, height = layout.upright_canvas
    left, top, wide, high = layout.inner
    if layout.fill == "transparent" and transparent:
        return _on_nothing(to_rgb_channels(picture), (width, height), (left, top), mask)
    color = _color(layout.fill)
    if picture.alpha or (picture.space == "grey" and picture.icc is None):
        picture = to_rgb_channels(flatten(picture, color or (255, 255, 255)))
    pixels = picture.pixels if picture.pixels.ndim == 3 else picture.pixels[..., None]
    if color is not None:
        ground = np.full((height, width, pixels.shape[2]), values_of(color, picture), pixels.dtype)
    elif layout.fill == "blur":
        ground = _blurred(pixels, width, height)
    else:
        ground = _edges(pixels, (width, height), (left, top))
    here = ground[top : top + high, left : left + wide]
    if mask is None:
        here[...] = pixels
    else:
        np.copyto(here, pixels, where=(mask == 255)[..., None])
        rim = (mask > 0) & (mask < 255)
        cover = mask[rim][:, None].astype(np.float32) / 255
        here[rim] = np.rint(pixels[rim] * cover + here[rim] * (1 - cover)).astype(pixels.dtype)
    return Picture(ground if picture.pixels.ndim == 3 else ground[..., 0], picture.space, False, picture.icc)


def values_of(color: tuple[int, int, int], picture: Picture) -> Pixels:
    """An sRGB color (8-bit values) in the space, the channels without alpha, and the dtype of `picture`."""
    kind = picture.pixels.dtype
    values: Pixels = np.rint(color_in(color, picture.space, picture.icc) * np.iinfo(kind).max).astype(kind)
    return values


def around(picture: Picture, ring: Ring, color: tuple[int, int, int] | str) -> Picture:
    """Lay a border around `picture`. ring: its pixels on the left, above, on the right and below.

    color: 8-bit sRGB values; or "blur", a blurred copy of the picture; or "main", the color that it has most of. A
    transparent picture stays transparent inside of its border.
    """
    if picture.space == "grey" and picture.icc is None and not isinstance(color, str) and len(set(color)) > 1:
        picture = to_rgb_channels(picture)
    flat = flatten(picture)
    pixels = flat.pixels if flat.pixels.ndim == 3 else flat.pixels[..., None]
    (wide, high), (left, top, right, bottom) = picture.size, ring
    width, height = left + wide + right, top + high + bottom
    if color == "blur":
        made = _blurred(pixels, width, height)
    else:
        values = main_color(pixels) if isinstance(color, str) else values_of(color, picture)
        made = np.empty((height, width, pixels.shape[2]), pixels.dtype)
        beside = made[top : top + high]
        for part in (made[:top], made[top + high :], beside[:, :left], beside[:, left + wide :]):
            part[...] = values
    if picture.alpha:
        made = np.concatenate([made, np.full((height, width, 1), np.iinfo(made.dtype).max, made.dtype)], axis=2)
    made[top : top + high, left : left + wide] = picture.pixels if picture.pixels.ndim == 3 else pixels
    return replace(picture, pixels=made if picture.pixels.ndim == 3 else made[..., 0], extent=None)


def main_color(pixels: Pixels) -> Pixels:
    """The color that most of `pixels` (height x width x channels) are near to, as values of one pixel.

    Colors are counted in eight steps a channel, each with those beside it; the mean of the fullest is taken.
    """
    scale = _SMALL / max(pixels.shape[:2])
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA).reshape(-1, pixels.shape[2])
    steps = (small.astype(np.float32) * (8 / (np.iinfo(pixels.dtype).max + 1))).astype(np.int32)
    kinds, numbers, counts = np.unique(steps, axis=0, return_inverse=True, return_counts=True)
    near = np.abs(kinds[:, None] - kinds[None]).max(axis=2) <= 1
    fullest = int(np.argmax(near @ counts))
    members = near[fullest][numbers.reshape(-1)]
    found: Pixels = np.rint(small[members].mean(axis=0)).astype(pixels.dtype)
    return found


def _color(fill: str) -> tuple[int, int, int] | None:
    if fill == "transparent":
        return (255, 255, 255)
    return rgb_of(fill)


def _on_nothing(picture: Picture, canvas: tuple[int, int], at: tuple[int, int], mask: Pixels8 | None) -> Picture:
    kind = picture.pixels.dtype
    made = np.zeros((canvas[1], canvas[0], 4), kind)
    wide, high = picture.size
    part = made[at[1] : at[1] + high, at[0] : at[0] + wide]
    part[..., :3] = picture.pixels[..., :3]
    part[..., 3] = picture.pixels[..., 3] if picture.alpha else np.iinfo(kind).max
    if mask is not None:
        part[..., 3] = (part[..., 3].astype(np.uint32) * mask // 255).astype(kind)
    return Picture(made, "RGB", True, picture.icc)


def _dithered(values: NDArray[np.float32], kind: np.dtype[Any]) -> Pixels:
    if kind == np.uint16:
        return np.clip(np.rint(values), 0, 65535).astype(np.uint16)
    height, width = values.shape[:2]
    pattern = np.tile(_PATTERN, (-(-height // 4), -(-width // 4)))[:height, :width, None]
    return np.clip(np.floor(values + pattern), 0, 255).astype(np.uint8)


def _blurred(pixels: Pixels, width: int, height: int) -> Pixels:
    """A copy that fills the canvas, cut around its middle and blurred."""
    high, wide = pixels.shape[:2]
    part_wide, part_high = min(wide, max(1, high * width // height)), min(high, max(1, wide * height // width))
    left, top = (wide - part_wide) // 2, (high - part_high) // 2
    part = pixels[top : top + part_high, left : left + part_wide]
    scale = _SMALL / max(width, height)
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    small = cv2.resize(part, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    small = cv2.GaussianBlur(small, (0, 0), _BLUR * _SMALL, borderType=cv2.BORDER_REPLICATE).astype(np.float32)
    large = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC).astype(np.float32)
    return _dithered(large.reshape(height, width, -1), pixels.dtype)


def _edges(pixels: Pixels, canvas: tuple[int, int], at: tuple[int, int]) -> Pixels:
    """Beside each side the mean color of that side; in the corners the mean of the two."""
    high, wide = pixels.shape[:2]
    width, height = canvas
    rim = max(1, round(_RIM * min(wide, high)))
    sides = {
        "left": pixels[:, :rim],
        "right": pixels[:, -rim:],
        "top": pixels[:rim],
        "bottom": pixels[-rim:],
    }
    mean = {name: side.reshape(-1, pixels.shape[2]).mean(axis=0) for name, side in sides.items()}
    made = np.empty((height, width, pixels.shape[2]), pixels.dtype)
    columns = (("left", 0, at[0]), ("", at[0], at[0] + wide), ("right", at[0] + wide, width))
    rows = (("top", 0, at[1]), ("", at[1], at[1] + high), ("bottom", at[1] + high, height))
    for row, y, y_end in rows:
        for column, x, x_end in columns:
            near = [mean[name] for name in (row, column) if name]
            color = np.mean(near or list(mean.values()), axis=0)
            made[y:y_end, x:x_end] = np.rint(color).astype(pixels.dtype)
    return made
