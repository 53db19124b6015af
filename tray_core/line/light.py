"""Linear light: values in proportion to the light of the scene, for resampling that keeps fine bright detail.

A picture is taken to linear 16-bit values by the tone curves of its own profile (sRGB's without one), resampled,
and taken back. Source: ICC.1:2022, Annex F; IEC 61966-2-1 for sRGB.
"""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from tray_core.photo.profiles import SRGB, read_profile, tone_curves
from tray_core.pixels.picture import Picture, Pixels, Pixels16


def has_curves(picture: Picture) -> bool:
    """Whether `picture` can be taken to linear light: RGB or grey, with a profile that says its curves."""
    if picture.space == "CMYK":
        return False
    facts = read_profile(picture.icc) if picture.icc is not None and picture.space == "RGB" else None
    return picture.space == "grey" or picture.icc is None or (facts is not None and facts.colorants is not None)


def to_linear(picture: Picture) -> Picture:
    """`picture` in linear 16-bit values; alpha is only widened."""
    steps = 256 if picture.pixels.dtype == np.uint8 else 65536
    curves = np.rint(tone_curves(_curves_of(picture), steps) * np.float32(65535)).astype(np.uint16)
    return Picture(_mapped(picture, curves), picture.space, picture.alpha, picture.icc)


def to_encoded(picture: Picture) -> Picture:
    """The way back: linear 16-bit values to gamma-encoded ones of 16 bits."""
    return Picture(_mapped(picture, _inverse(_curves_of(picture))), picture.space, picture.alpha, picture.icc)


def _curves_of(picture: Picture) -> bytes:
    return picture.icc if picture.icc is not None and picture.space == "RGB" else SRGB


@functools.lru_cache(maxsize=8)
def _inverse(icc: bytes) -> Pixels16:
    encoded = np.linspace(0, 65535, 65536)
    wanted = np.linspace(0, 1, 65536)
    return np.stack([np.rint(np.interp(wanted, curve, encoded)) for curve in tone_curves(icc, 65536)]).astype(np.uint16)


def _mapped(picture: Picture, tables: NDArray[np.uint16]) -> Pixels:
    pixels = picture.pixels
    if pixels.ndim == 2:
        return np.take(tables[1], pixels)
    made = np.empty(pixels.shape, np.uint16)
    for channel in range(3):
        np.take(tables[channel], pixels[..., channel], out=made[..., channel])
    if picture.alpha:
        made[..., 3] = pixels[..., 3] if pixels.dtype == np.uint16 else pixels[..., 3].astype(np.uint16) * 257
    return made
