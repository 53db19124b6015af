"""Automatic corrections of a whole photo: color balance, levels, contrast, in this order, each alone or together.

All are curves, one for each channel, found on a small average of the photo, so that grain and single bright points
decide nothing and the same photo always gets the same curves.

- balance: gains that make the channels' Minkowski means (p = 6) equal, luminance kept, at most a quarter. Source:
  Finlayson and Trezzi (2004), "Shades of gray and colour constancy".
- levels: the luminance below which clip_dark per cent of the picture lie becomes black, that above which clip_light
  per cent lie white; all channels alike, so that hues stay. Stretched to 4 times at most.
- contrast: powers around the median m, m (x / m)^k below and 1 - (1 - m) ((1 - x) / (1 - m))^k above, with k from 1
  to 1.5 such that the standard deviation of luminance comes near 0.24.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.photo.profiles import SRGB, read_profile
from tray_core.pixels.color import through_tables
from tray_core.pixels.picture import Picture
from tray_core.recipe.stations import Prep

_SMALL = 512
_MOST_GAIN = 1.25
_LEAST_RANGE = 0.25
_USUAL_SPREAD = 0.24
_MOST_CONTRAST = 1.5
_POWER = 6

Curves = NDArray[np.float64]


def correct(picture: Picture, prep: Prep) -> Picture:
    """`picture`, RGB or grey, with the corrections that `prep` asks for, in 16 bits a channel; alpha is left alone."""
    if not prep.corrects:
        return picture
    return through_tables(picture, np.rint(correction_curves(picture, prep) * 65535).astype(np.uint16))


def correction_curves(picture: Picture, prep: Prep) -> Curves:
    """The curves of red, green and blue: 3 x 65536 values on [0, 1], from encoded values to encoded values."""
    small = _small(picture)
    facts = read_profile(picture.icc or SRGB)
    weights = np.array(facts.luminance_weights() if facts else (0.2126, 0.7152, 0.0722))
    curves = np.tile(np.linspace(0, 1, 65536), (3, 1))
    if prep.balance and picture.space != "grey":
        gains = _balance(small, weights)
        curves = np.clip(curves * gains[:, None], 0, 1)
        small = np.clip(small * gains, 0, 1)
    if prep.levels:
        black, white = _levels(small @ weights, prep)
        curves = np.clip((curves - black) / (white - black), 0, 1)
        small = np.clip((small - black) / (white - black), 0, 1)
    if prep.contrast:
        curves = _contrast(curves, small @ weights)
    return curves


def _small(picture: Picture) -> NDArray[np.float64]:
    """Visible pixels of a small average of the picture: n x 3, on [0, 1]."""
    width, height = picture.size
    scale = min(1.0, _SMALL / max(width, height))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    pixels = cv2.resize(picture.pixels, size, interpolation=cv2.INTER_AREA)
    values = pixels.reshape(-1, 1 if pixels.ndim == 2 else pixels.shape[2]) / np.iinfo(picture.pixels.dtype).max
    if picture.alpha:
        seen = values[values[:, -1] > 0.5]
        values = (seen if len(seen) else values)[:, :-1]
    return np.repeat(values, 3, axis=1) if values.shape[1] == 1 else values


def _balance(values: NDArray[np.float64], weights: NDArray[np.float64]) -> NDArray[np.float64]:
    means = np.power(np.mean(np.power(values, _POWER), axis=0), 1 / _POWER)
    gains = np.clip(means.mean() / np.maximum(means, 1e-3), 1 / _MOST_GAIN, _MOST_GAIN)
    kept = float(values.mean(axis=0) @ weights) / max(1e-6, float((values.mean(axis=0) * gains) @ weights))
    return np.asarray(gains * kept)


def _levels(luminance: NDArray[np.float64], prep: Prep) -> tuple[float, float]:
    black = float(np.quantile(luminance, prep.clip_dark / 100))
    white = float(np.quantile(luminance, 1 - prep.clip_light / 100))
    short = (_LEAST_RANGE - (white - black)) / 2
    if short > 0:  # fog and plain grounds are not torn apart
        black, white = black - short, white + short
    return max(0.0, min(black, 1 - _LEAST_RANGE)), min(1.0, max(white, _LEAST_RANGE))


def _contrast(curves: Curves, luminance: NDArray[np.float64]) -> Curves:
    middle = float(np.clip(np.median(luminance), 0.1, 0.9))
    power = float(np.clip(_USUAL_SPREAD / max(1e-3, float(luminance.std())), 1, _MOST_CONTRAST))
    below = middle * np.power(np.minimum(curves, middle) / middle, power)
    above = 1 - (1 - middle) * np.power((1 - np.maximum(curves, middle)) / (1 - middle), power)
    return np.where(curves < middle, below, above)
