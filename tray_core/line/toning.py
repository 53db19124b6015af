"""A photo's tone on a picture: see `tray_core.tone.curves` for what is computed, and in which order."""

from __future__ import annotations

import functools
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.line.light import has_curves
from tray_core.photo.profile_files import NAMED
from tray_core.photo.profiles import SRGB, read_profile, tone_curves
from tray_core.pixels.color import Target, convert, through_tables, to_16, to_working
from tray_core.pixels.picture import Picture
from tray_core.tone import Tone
from tray_core.tone.curves import GAMMA, STEPS, factors, gains_of, lightness

_RADIUS = 0.02
"""Of local contrast, in parts of the photo's long edge."""

_EDGE = 0.05
"""The variance of luminance, in powers of two, from which on something is an edge and stays as it is."""

_DARKEST = 1 / 4096


def apply_tone(picture: Picture, tone: Tone, long_edge: float) -> Picture:
    """`picture` with the photo's tone, in 16 bits a channel; the same one where the tone is neutral. Alpha stays.

    long_edge: how long the whole photo would be at the scale of these pixels. Inks are taken to a wide RGB space.
    """
    if tone.neutral:
        return picture
    if picture.space == "grey":
        return _grey(picture, tone, long_edge)
    picture = to_16(to_working(picture))
    if not has_curves(picture):
        picture = convert(picture, Target(NAMED["adobe-rgb"]))
    icc = picture.icc or SRGB
    facts = read_profile(icc)
    assert facts is not None, "what has curves has a profile"
    weights = np.asarray(facts.luminance_weights(), np.float32)
    gains = gains_of(tone, weights.astype(np.float64))
    curves = np.ascontiguousarray(tone_curves(icc, 65536) * gains[:, None], np.float32)
    pixels = np.ascontiguousarray(picture.pixels)
    local = np.ones(1, np.float32)
    if tone.local:
        local = _local(sum(weights[c] * curves[c][pixels[..., c]] for c in range(3)), tone, long_edge)
    # Here, since Numba takes two seconds that planning need not wait for.
    from tray_core.pixels.tones import toned

    made = np.empty(pixels.shape, np.uint16)
    toned(
        pixels.reshape(-1),
        pixels.shape[2],
        curves,
        weights,
        factors(tone),
        local,
        tone.saturation / 100,
        tone.muted / 100,
        _encoding(icc),
        made.reshape(-1),
    )
    return replace(picture, pixels=made)


@functools.lru_cache(maxsize=8)
def _encoding(icc: bytes) -> NDArray[np.uint16]:
    """A profile's curves from linear light to encoded values, over its square root."""
    middles = (np.arange(STEPS) + 0.5) / STEPS
    encoded = np.arange(65536)
    return np.stack([np.rint(np.interp(middles**2, c, encoded)) for c in tone_curves(icc, 65536)]).astype(np.uint16)


def _grey(picture: Picture, tone: Tone, long_edge: float) -> Picture:
    """Light alone: grey has no color to balance or to saturate."""
    curve = np.asarray(tone_curves(SRGB, 65536)[1], np.float64)
    light = curve * 2.0**tone.exposure
    made = lightness(tone, light ** (1 / GAMMA)) ** GAMMA
    back = np.interp(made, curve, np.arange(65536))
    toned = through_tables(picture, np.tile(np.rint(back).astype(np.uint16), (3, 1)))
    if tone.local:
        local = _local(curve.astype(np.float32)[toned.pixels], tone, long_edge).reshape(toned.pixels.shape)
        found = np.interp(np.minimum(curve[toned.pixels] * local, 1), curve, np.arange(65536))
        toned = replace(toned, pixels=np.rint(found).astype(np.uint16))
    return toned


def _local(luminance: NDArray[np.float32], tone: Tone, long_edge: float) -> NDArray[np.float32]:
    """A factor for each pixel, one after the other: what is finer than the radius, once more or less."""
    light = np.log2(np.maximum(np.asarray(luminance, np.float32), np.float32(_DARKEST)))
    radius = max(1, round(_RADIUS * long_edge))
    # Means of large windows are as true of a picture of a quarter of the pixels.
    step = max(1, min(4, radius // 4))
    height, width = light.shape
    small = cv2.resize(light, (-(-width // step), -(-height // step)), interpolation=cv2.INTER_AREA)
    window = (2 * max(1, radius // step) + 1,) * 2
    mean = cv2.blur(small, window, borderType=cv2.BORDER_REFLECT)
    variance = np.maximum(cv2.blur(small * small, window, borderType=cv2.BORDER_REFLECT) - mean * mean, 0)
    keeps = variance / (variance + np.float32(_EDGE))
    slope = cv2.resize(cv2.blur(keeps, window, borderType=cv2.BORDER_REFLECT), (width, height))
    offset = cv2.resize(cv2.blur(mean * (1 - keeps), window, borderType=cv2.BORDER_REFLECT), (width, height))
    detail = light - (slope * light + offset)
    factor: NDArray[np.float32] = np.exp2(detail * np.float32(tone.local / 125)).reshape(-1)
    return factor
