"""Sharpening on luminance: an unsharp mask or a high-pass layer, with a guard for flat areas.

    d   = Y - blur(Y)                                   what is finer than the radius
    d'  = sign(d) * max(|d| - threshold, 0)
    out = in + amount * mask * d'                       unsharp
    out = in + amount * mask * 2 min(Y, 1 - Y) * d'     highpass, Y on [0, 1]

The same is added to every channel, so that no color fringes appear. Y is the weighted sum of the gamma-encoded
channels, the weights those of the picture's own primaries; blur is a Gaussian whose standard deviation is the radius.
highpass is the overlay blend of the layer 0.5 + d' with the picture. mask is 0 where the guard sees a flat area.
Source of the method: the photographic unsharp mask, as in Pratt, "Digital Image Processing", section on edge
crispening; W3C "Compositing and Blending Level 1" for overlay.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.photo.profiles import SRGB, read_profile
from tray_core.pixels.picture import Picture, Pixels, Pixels8
from tray_core.recipe.stations import FirstSharpen, Sharpen

AMOUNT_AT_100 = 0.9
"""The mask's amount at a strength of 100 %."""

_ROWS = 64
_WINDOW = 7
"""Edge in pixels of the window in which the guard looks for structure."""

Floats = NDArray[np.float32]


def radius_for(width: int, height: int) -> float:
    """The Gaussian's standard deviation in pixels for a rendition of width x height.

    0.5 px up to 800 px on the long edge, rising evenly to 0.8 px at 2,400 px and staying there:
    larger renditions are looked at scaled to the screen and bear a wider edge.
    """
    return 0.5 + 0.3 * min(1.0, max(0.0, (max(width, height) - 800) / 1600))


@dataclass(frozen=True, slots=True)
class _Mask:
    """What is computed for every strip. amount: 1 adds the difference once. threshold, guard: in levels of 255."""

    amount: float
    radius: float
    threshold: float
    guard: float
    highpass: bool

    @property
    def reach(self) -> int:
        """How many pixels around one decide about it."""
        return max(4, int(4 * self.radius + 0.5), _WINDOW + 1 if self.guard else 0)


def sharpen(picture: Picture, station: Sharpen, strength: int | None = None) -> Picture:
    """Sharpen an RGB or grey picture as `station` says; alpha is left alone.

    strength: per cent, 0 to 200, instead of the station's own; 0 returns the picture itself. The dtype stays;
    results are rounded to nearest and clipped to its range.
    """
    strength = station.strength if strength is None else strength
    if strength == 0:
        return picture
    radius = radius_for(*picture.size) if station.radius is None else station.radius
    amount = AMOUNT_AT_100 * strength / 100
    mask = _Mask(amount, radius, station.threshold, station.guard, station.method == "highpass")
    return _masked(picture, mask)


def sharpen_first(picture: Picture, station: FirstSharpen, scale: float = 1) -> Picture:
    """Sharpen a photo before it is resized. scale: of `picture` to the photo, for small copies that only show it."""
    radius = station.radius * scale
    if radius < 0.2:
        return picture
    return _masked(picture, _Mask(station.amount / 100, radius, 0, station.guard, False))


def guard_mask(picture: Picture, guard: float) -> Pixels8:
    """What the guard lets through: 0 for flat areas, that stay as they are, to 255, height x width.

    Structure is the standard deviation of luminance in a window of 7 x 7 pixels: up to half of `guard` (in levels of
    255) an area is flat, from `guard` on it is not, with a smooth step between. 255 everywhere where guard is 0.
    """
    if guard == 0:
        return np.full(picture.pixels.shape[:2], 255, np.uint8)
    color = picture.pixels[..., :3] if picture.alpha else picture.pixels
    scale = np.float32(255 / np.iinfo(color.dtype).max)
    luminance = _luminance(color.astype(np.float32), _weights(picture)) * scale
    return np.rint(_structure(luminance, guard) * 255).astype(np.uint8)


def _weights(picture: Picture) -> tuple[float, float, float]:
    facts = read_profile(picture.icc or SRGB)
    return facts.luminance_weights() if facts else (0.2126, 0.7152, 0.0722)


def _luminance(values: Floats, weights: tuple[float, float, float], scale: float = 1) -> Floats:
    if values.ndim == 2:
        return values if scale == 1 else values * np.float32(scale)
    return np.asarray(cv2.transform(values, np.array([weights], np.float32) * np.float32(scale)), np.float32)


def _structure(luminance: Floats, guard: float) -> Floats:
    """The guard's mask on [0, 1] for a luminance in levels of 255."""
    window, rim = (_WINDOW, _WINDOW), cv2.BORDER_REPLICATE
    # Differences from the window's mean first: squares of whole levels would lose the small ones to float32.
    centered = luminance - cv2.boxFilter(luminance, -1, window, borderType=rim)
    spread = np.sqrt(cv2.boxFilter(centered * centered, -1, window, borderType=rim))
    step = np.clip(spread / np.float32(guard / 2) - 1, 0, 1)
    return np.asarray(step * step * (3 - 2 * step), np.float32)


def _masked(picture: Picture, mask: _Mask) -> Picture:
    pixels = picture.pixels
    color = pixels[..., :3] if picture.alpha else pixels
    weights = _weights(picture)
    made = np.empty_like(pixels)
    made_color = made[..., :3] if picture.alpha else made
    if picture.alpha:
        made[..., 3] = pixels[..., 3]
    # Strips with a margin: everything between reading and writing a strip stays in the cache.
    height = pixels.shape[0]
    for top in range(0, height, _ROWS):
        bottom = min(top + _ROWS, height)
        above, below = max(0, top - mask.reach), min(height, bottom + mask.reach)
        strip = _sharpened(color[above:below], mask, weights)
        made_color[top:bottom] = strip[top - above : bottom - above]
    return replace(picture, pixels=made)


def _sharpened(strip: Pixels, mask: _Mask, weights: tuple[float, float, float]) -> Pixels:
    values = strip.astype(np.float32)
    top = np.iinfo(strip.dtype).max
    level = np.float32(top / 255)
    size = 2 * max(3, int(4 * mask.radius + 0.5)) + 1
    # Scaled by the amount first: the difference is then ready to be added.
    scaled = _luminance(values, weights, mask.amount)
    change = cv2.subtract(scaled, cv2.GaussianBlur(scaled, (size, size), mask.radius, borderType=cv2.BORDER_REPLICATE))
    if mask.threshold:
        least = np.float32(mask.threshold * mask.amount) * level
        change = np.sign(change) * np.maximum(np.abs(change) - least, 0)
    if mask.highpass:
        luminance = _luminance(values, weights)
        change = change * (np.minimum(luminance, top - luminance) * np.float32(2 / top))
    if mask.guard:
        change = change * _structure(_luminance(values, weights, 1 / float(level)), mask.guard)
    if values.ndim == 3:
        change = cv2.cvtColor(np.asarray(change, np.float32), cv2.COLOR_GRAY2BGR)
    depth = cv2.CV_8U if top == 255 else cv2.CV_16U
    return cv2.add(values, change, dtype=depth)
