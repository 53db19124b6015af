"""Linear light: values in proportion to the light of the scene, for resampling that keeps fine bright detail.

A picture is taken to linear 16-bit values by the tone curves of its own profile (sRGB's without one), resampled,
and taken back. Source: ICC.1:2022, Annex F; IEC 61966-2-1 for sRGB.
"""

from __future__ import annotations

import functools

import numpy as np

from tray_core.photo.profiles import SRGB, read_profile, tone_curves
from tray_core.pixels.color import through_tables
from tray_core.pixels.picture import Picture, Pixels16


def has_curves(picture: Picture) -> bool:
    """Whether `picture` can be taken to linear light: RGB or grey, with a profile that says its curves."""
    if picture.space == "CMYK":
        return False
    facts = read_profile(picture.icc) if picture.icc is not None and picture.space == "RGB" else None
    return picture.space == "grey" or picture.icc is None or (facts is not None and facts.colorants is not None)


def to_linear(picture: Picture) -> Picture:
    """`picture` in linear 16-bit values; alpha is only widened."""
    return through_tables(picture, _straight(_curves_of(picture)))


def to_encoded(picture: Picture) -> Picture:
    """The way back: linear 16-bit values to gamma-encoded ones of 16 bits."""
    return through_tables(picture, _inverse(_curves_of(picture)))


def _curves_of(picture: Picture) -> bytes:
    return picture.icc if picture.icc is not None and picture.space == "RGB" else SRGB


@functools.lru_cache(maxsize=8)
def _straight(icc: bytes) -> Pixels16:
    return np.asarray(np.rint(tone_curves(icc, 65536) * np.float32(65535)), np.uint16)


@functools.lru_cache(maxsize=8)
def _inverse(icc: bytes) -> Pixels16:
    encoded = np.linspace(0, 65535, 65536)
    wanted = np.linspace(0, 1, 65536)
    return np.stack([np.rint(np.interp(wanted, curve, encoded)) for curve in tone_curves(icc, 65536)]).astype(np.uint16)
