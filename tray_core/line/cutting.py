"""Cutting out: how much of each pixel is the object, its colors without the old ground, its new shadow."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.line.ground import values_of
from tray_core.outline import Traced
from tray_core.pixels.color import rgb_of
from tray_core.pixels.coverage import coverage
from tray_core.pixels.picture import Picture, Pixels, Pixels8, Pixels16
from tray_core.plan.layout import Layout
from tray_core.recipe.cutout import Shadow

_NEAR = 1.6
"""Standard deviation of the blur, in pixels, by which the object's colors are carried over its rim."""

_TILE, _AROUND = 128, 16
"""Pixels of a part that is worked on at once, and of what is looked at around it."""

_STRIP = 256
_FULL = 65_535
_WHITE = (255, 255, 255)

_RIM = 3
"""Width in pixels, odd, of what counts as rim: resampling carries the ground's color into the object by about one."""


def covered(layout: Layout, outline: Traced) -> Pixels8:
    """How much of each pixel of `layout.inner` is the object, 0..255."""
    left, top, width, height = layout.inner
    contours = (layout.canvas_points(each) - (left, top) for each in outline.contours(layout.source))
    return np.rint(coverage(contours, (width, height)) * 255).astype(np.uint8)


def without_ground(picture: Picture, cover: Pixels8) -> Picture:
    """`picture` with the object's colors carried outward over its rim: what mixed there with the ground is gone.

    cover: as `covered` gives it, of the picture's size. Where the object is thinner than its rim, the ground's color
    nearby is taken out of the mixture instead.
    """
    made = picture.pixels.copy()
    height, width = cover.shape
    # Tile by tile, with what lies around it: the rim is a small part of a picture, whatever its size.
    for top in range(0, height, _TILE):
        for left in range(0, width, _TILE):
            here = np.s_[max(0, top - _AROUND) : top + _TILE + _AROUND, max(0, left - _AROUND) : left + _TILE + _AROUND]
            share = cover[here]
            if share.min() == 255 or share.max() == 0:
                continue
            done = _carried_over(picture.pixels[here], share.astype(np.float32) / np.float32(255))
            inner = np.s_[min(top, _AROUND) :, min(left, _AROUND) :]
            made[top : top + _TILE, left : left + _TILE] = done[inner][: height - top, : width - left][:_TILE, :_TILE]
    return replace(picture, pixels=made)


def _carried_over(pixels: Pixels, share: Any) -> Pixels:
    """The same for a part of the picture. share: of each pixel that is the object, 0..1."""
    inside = cv2.erode(share, np.ones((_RIM, _RIM), np.uint8))
    rim = (cv2.dilate(share, np.ones((5, 5), np.uint8)) > 0) & (inside < 1)
    values = pixels.astype(np.float32).reshape(*share.shape, -1)
    near, weight = _nearby(values, inside, _NEAR)
    ground, outside = _nearby(values, 1 - cv2.dilate(share, np.ones((_RIM, _RIM), np.uint8)), 2 * _NEAR)
    most = np.iinfo(pixels.dtype).max
    mixed = ground + (values - ground) / np.maximum(share, 0.2)[..., None]
    mixed = np.where(outside[..., None] > 1e-3, mixed, values)
    trust = np.clip(weight * 20, 0, 1)[..., None]
    found = near * trust + np.clip(mixed, 0, most) * (1 - trust)
    keep = inside[..., None]
    blended = np.where(rim[..., None], values * keep + found * (1 - keep), values)
    made: Pixels = np.rint(np.clip(blended, 0, most)).astype(pixels.dtype).reshape(pixels.shape)
    return made


def _nearby(values: NDArray[np.float32], weight: Any, sigma: float) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The mean of what weighs something nearby, and how much that is."""
    sums = cv2.GaussianBlur(values * weight[..., None], (0, 0), sigma).reshape(values.shape)
    all_of_it = cv2.GaussianBlur(weight, (0, 0), sigma)
    found: NDArray[np.float32] = (sums / np.maximum(all_of_it, 1e-6)[..., None]).astype(np.float32)
    return found, np.asarray(all_of_it, np.float32)


def with_shadow(picture: Picture, layout: Layout, cover: Pixels8, shadow: Shadow) -> Picture:
    """A finished canvas with a soft shadow beside its object. cover: of `layout.inner`.

    On transparency the shadow is black and half-clear; on a color it darkens that. Distances are shares of the object's
    longer edge.
    """
    if not cover.any():
        return picture
    width, height = layout.upright_canvas
    left, top, wide, high = layout.inner
    whole = np.zeros((height, width), np.uint16)
    whole[top : top + high, left : left + wide] = cover.astype(np.uint16) * np.uint16(_FULL // 255)
    rows, columns = _span(cover.any(axis=1)), _span(cover.any(axis=0))
    edge = max(rows[1] - rows[0], columns[1] - columns[0]) / 100
    move = np.array([[1, 0, shadow.across * edge], [0, 1, shadow.down * edge]], np.float32)
    dark: Pixels16 = np.asarray(cv2.warpAffine(whole, move, (width, height), flags=cv2.INTER_LINEAR), np.uint16)
    if (sigma := shadow.blur * edge) > 0.3:
        dark = _blurred(dark, sigma)
    first, last = _span(dark.any(axis=0))
    made = picture.pixels.copy()
    for start in range(0, height, _STRIP):
        here = np.s_[start : start + _STRIP, first:last]
        if dark[here].any():
            part = dark[here] * np.float32(shadow.strength / 100 / _FULL) * (1 - whole[here] * np.float32(1 / _FULL))
            made[here] = _shaded(replace(picture, pixels=picture.pixels[here]), layout, part)
    return replace(picture, pixels=made)


def _shaded(picture: Picture, layout: Layout, dark: Any) -> Pixels:
    """A part of a canvas with a shadow on it. dark: how much of each pixel it takes, 0..1."""
    pixels = picture.pixels if picture.pixels.ndim == 3 else picture.pixels[..., None]
    most = np.iinfo(pixels.dtype).max
    if picture.alpha:
        alpha = pixels[..., -1].astype(np.float32) / most
        sums = alpha + dark
        keep = np.divide(alpha, sums, out=np.ones_like(alpha), where=sums > 0)[..., None]
        made = np.concatenate([pixels[..., :-1] * keep, np.minimum(sums, 1)[..., None] * most], axis=2)
    else:
        ground = values_of(rgb_of(layout.fill) or _WHITE, picture).astype(np.float32)
        # The darkest value: no light, or, in inks, the last of them over the ground's.
        shade = np.append(ground[:-1], np.float32(most)) if picture.space == "CMYK" else np.zeros_like(ground)
        made = pixels + (shade - ground) * dark[..., None]
    done: Pixels = np.rint(np.clip(made, 0, most)).astype(pixels.dtype).reshape(picture.pixels.shape)
    return done


def _span(used: Any) -> tuple[int, int]:
    found = np.flatnonzero(used)
    return (int(found[0]), int(found[-1]) + 1) if len(found) else (0, 0)


def _blurred(values: Pixels16, sigma: float) -> Pixels16:
    """A wide blur costs no more than a narrow one: it is made of a smaller copy, whose steps nobody sees."""
    height, width = values.shape
    scale = max(1, math.floor(sigma / 3))
    size = (max(1, width // scale), max(1, height // scale))
    small = cv2.resize(values, size, interpolation=cv2.INTER_AREA) if scale > 1 else values
    small = cv2.GaussianBlur(small, (0, 0), sigma / scale)
    whole = cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR) if scale > 1 else small
    return np.asarray(whole, np.uint16)
