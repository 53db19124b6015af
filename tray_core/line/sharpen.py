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
from types import ModuleType

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.photo.profiles import SRGB, read_profile
from tray_core.pixels.picture import Picture, Pixels, Pixels8
from tray_core.recipe.stations import FirstSharpen, Sharpen

AMOUNT_AT_100 = 0.9
"""The mask's amount at a strength of 100 %."""

_WINDOW, _CLIPPED, _FEWEST = 7, 4, 24
_FLATTEST, _LOW_BY = 1 / 12, 0.86
"""The flattest twelfth of windows, and how far below the noise its upper end lies where there is nothing but noise."""

_TIMES_NOISE, _LEAST_GUARD, _MOST_GUARD = 2.7, 2.0, 16.0


def radius_for(width: int, height: int) -> float:
    """The Gaussian's standard deviation in pixels for a rendition of width x height.

    0.5 px up to 800 px on the long edge, rising evenly to 0.8 px at 2,400 px and staying there:
    larger renditions are looked at scaled to the screen and bear a wider edge.
    """
    return 0.5 + 0.3 * min(1.0, max(0.0, (max(width, height) - 800) / 1600))


@dataclass(frozen=True, slots=True)
class _Mask:
    """What is computed. amount: 1 adds the difference once. threshold, guard: in levels of 255."""

    amount: float
    radius: float
    threshold: float
    guard: float
    highpass: bool

    def taps(self) -> NDArray[np.float32]:
        """The Gaussian's middle and one side, cut where less than a three-thousandth of its height is left."""
        reach = max(3, int(4 * self.radius + 0.5))
        values = np.exp(-0.5 * (np.arange(reach + 1) / self.radius) ** 2)
        return np.asarray(values / (2 * values.sum() - values[0]), np.float32)


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
    guard = guard_for(picture, station)
    return _masked(picture, _Mask(amount, radius, station.threshold, guard, station.method == "highpass"))


def guard_for(picture: Picture, station: Sharpen) -> float:
    """The guard in levels of 255 for a picture that is about to be sharpened: the station's, or by its own noise.

    Noise is the standard deviation of luminance in windows of 7 x 7 pixels, of which the flattest twelfth is asked;
    windows that are nearly black or white hold none and are left out. A guard of 2.7 times the noise leaves flat areas
    alone, since windows of noise differ by a tenth; more than 16 levels would be texture, and less than 2 is none.
    """
    if station.guard != "auto":
        return station.guard
    values = _luminance(picture)
    height, width = (edge // _WINDOW for edge in values.shape)
    if not (height and width):
        return _LEAST_GUARD
    shape = (height, _WINDOW, width, _WINDOW)
    windows = values[: height * _WINDOW, : width * _WINDOW].reshape(shape).swapaxes(1, 2).reshape(-1, _WINDOW**2)
    means = windows.mean(axis=1)
    usable = windows[(means > _CLIPPED) & (means < 255 - _CLIPPED)]
    if len(usable) < _FEWEST:
        return _LEAST_GUARD
    noise = float(np.quantile(usable.std(axis=1), _FLATTEST)) / _LOW_BY
    return min(_MOST_GUARD, max(_LEAST_GUARD, _TIMES_NOISE * noise))


def overshoot(before: Picture, after: Picture) -> float:
    """By how many levels of 255 sharpening goes beyond the darkest and lightest luminance around a pixel, at the
    strongest edges: a thousandth of all pixels goes further. A halo that is seen begins at about 20.
    """
    one, other = _luminance(before), _luminance(after)
    around = np.ones((5, 5), np.uint8)
    beyond = np.maximum(other - cv2.dilate(one, around), cv2.erode(one, around) - other)
    return max(0.0, float(np.quantile(beyond, 0.999)))


def _luminance(picture: Picture) -> NDArray[np.float32]:
    """Height x width, in levels of 255."""
    pixels, scale = picture.pixels, np.float32(1 / _level(picture.pixels))
    if pixels.ndim == 2:
        return pixels.astype(np.float32) * scale
    made = cv2.transform(np.ascontiguousarray(pixels[..., :3], np.float32), _weights(picture)[None] * scale)
    return np.asarray(made, np.float32)


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
    pixels = picture.pixels
    mask = np.full(pixels.shape[:2], 1, np.float32)
    if guard:
        compiled = _compiled()
        compiled.structure(_rows(pixels), _channels(pixels), _weights(picture), guard * _level(pixels), mask)
    return np.rint(mask * 255).astype(np.uint8)


def _weights(picture: Picture) -> NDArray[np.float32]:
    facts = read_profile(picture.icc or SRGB)
    return np.array(facts.luminance_weights() if facts else (0.2126, 0.7152, 0.0722), np.float32)


def _compiled() -> ModuleType:
    # Here, since Numba takes two seconds that planning need not wait for.
    from tray_core.line import unsharp

    return unsharp


def _rows(pixels: Pixels) -> Pixels:
    return np.ascontiguousarray(pixels).reshape(len(pixels), -1)


def _channels(pixels: Pixels) -> int:
    return pixels.shape[2] if pixels.ndim == 3 else 1


def _level(pixels: Pixels) -> float:
    """One level of 255 in the pixels' own."""
    return float(np.iinfo(pixels.dtype).max) / 255


def _masked(picture: Picture, mask: _Mask) -> Picture:
    pixels = picture.pixels
    made = np.empty(pixels.shape, pixels.dtype)
    level = _level(pixels)
    _compiled().sharpened(
        _rows(pixels),
        _channels(pixels),
        _weights(picture),
        mask.taps(),
        mask.amount,
        mask.threshold * level,
        mask.guard * level,
        mask.highpass,
        np.empty(picture.size[0], np.int16 if made.itemsize == 1 else np.int32),
        made.reshape(len(made), -1),
    )
    return replace(picture, pixels=made)
