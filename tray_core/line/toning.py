"""A photo's tone on a picture: see `tray_core.tone.curves` for what is computed, and in which order."""

from __future__ import annotations

import functools
import math
from dataclasses import replace
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.line.light import has_curves
from tray_core.photo.profile_files import NAMED
from tray_core.photo.profiles import SRGB, read_profile, tone_curves
from tray_core.pixels.color import Target, convert, through_tables, to_16, to_working
from tray_core.pixels.picture import Picture
from tray_core.tone import Tone
from tray_core.tone.curves import GAMMA, STEPS, factors, falling_by, gains_of, lightness
from tray_core.tone.model import HEADROOM

_RADIUS = 0.02
"""Of local contrast, in parts of the photo's long edge."""

_EDGE = 0.05
"""The variance of luminance, in powers of two, from which on something is an edge and stays as it is."""

_DARKEST = 1 / 4096


class Where(NamedTuple):
    """Where pixels lie in their photo: its middle is (0, 0), its corners are 1 away.

    start: of the first pixel. across, down: the steps to the next column and row.
    """

    start: tuple[float, float]
    across: tuple[float, float]
    down: tuple[float, float]


def whole(size: tuple[int, int]) -> Where:
    """Of a photo's own `size` pixels, width and height."""
    width, height = size
    half = math.hypot(width, height) / 2
    return Where(((1 - width) / 2 / half, (1 - height) / 2 / half), (1 / half, 0.0), (0.0, 1 / half))


def apply_tone(
    picture: Picture, tone: Tone, long_edge: float, where: Where | None = None, developed: bool = False
) -> Picture:
    """`picture` with the photo's tone, in 16 bits a channel; the same one where the tone changes none. Alpha stays.

    long_edge: how long the whole photo would be at the scale of these pixels. where: they lie in it; None for a whole
    photo. developed: whether `HEADROOM` times white is the lightest value. Inks are taken to a wide RGB space.
    """
    if not tone.graded and not developed:
        return picture
    fall = _falling(tone, where or whole(picture.size))
    if picture.space == "grey":
        return _grey(picture, tone, long_edge, fall)
    picture = to_16(to_working(picture))
    if not has_curves(picture):
        picture = convert(picture, Target(NAMED["adobe-rgb"]))
    icc = picture.icc or SRGB
    facts = read_profile(icc)
    assert facts is not None, "what has curves has a profile"
    weights = np.asarray(facts.luminance_weights(), np.float32)
    gains = gains_of(tone, weights.astype(np.float64)) * (HEADROOM if developed else 1)
    curves = np.ascontiguousarray(tone_curves(icc, 65536) * gains[:, None], np.float32)
    pixels = np.ascontiguousarray(picture.pixels)
    local = np.ones((1, 1), np.float32)
    # Here, since Numba takes two seconds that planning need not wait for.
    from tray_core.pixels.tones import luminance, toned

    if tone.local:
        light = np.empty(pixels.shape[:2], np.float32)
        luminance(pixels, curves, weights, light)
        local = _local(light, tone, long_edge)
    made = np.empty(pixels.shape, np.uint16)
    toned(
        pixels,
        curves,
        weights,
        factors(tone),
        local,
        fall,
        tone.saturation / 100,
        tone.muted / 100,
        _encoding(icc),
        made,
    )
    return replace(picture, pixels=made)


def _falling(tone: Tone, where: Where) -> NDArray[np.float32]:
    (x, y), (x_across, y_across), (x_down, y_down) = where
    return np.array([falling_by(tone), x, x_across, x_down, y, y_across, y_down], np.float32)


@functools.lru_cache(maxsize=8)
def _encoding(icc: bytes) -> NDArray[np.uint16]:
    """A profile's curves from linear light to encoded values, over its square root."""
    middles = (np.arange(STEPS) + 0.5) / STEPS
    encoded = np.arange(65536)
    return np.stack([np.rint(np.interp(middles**2, c, encoded)) for c in tone_curves(icc, 65536)]).astype(np.uint16)


def _grey(picture: Picture, tone: Tone, long_edge: float, fall: NDArray[np.float32]) -> Picture:
    """Light alone: grey has no color to balance or to saturate."""
    curve = np.asarray(tone_curves(SRGB, 65536)[1], np.float64)
    if tone.vignette:
        picture = to_16(picture)
        height, width = picture.pixels.shape
        across, down = np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32)[:, None]
        x, y = (start + across * step + down * row for start, step, row in (fall[1:4], fall[4:7]))
        light = curve.astype(np.float32)[picture.pixels] * (1 + fall[0] * (x * x + y * y)) ** 2
        found = np.interp(np.minimum(light, 1), curve, np.arange(65536))
        picture = replace(picture, pixels=np.rint(found).astype(np.uint16))
    light = curve * 2.0**tone.exposure
    made = lightness(tone, light ** (1 / GAMMA)) ** GAMMA
    back = np.interp(made, curve, np.arange(65536))
    toned = through_tables(picture, np.tile(np.rint(back).astype(np.uint16), (3, 1)))
    if tone.local:
        local = _local(curve.astype(np.float32)[toned.pixels], tone, long_edge)
        found = np.interp(np.minimum(curve[toned.pixels] * local, 1), curve, np.arange(65536))
        toned = replace(toned, pixels=np.rint(found).astype(np.uint16))
    return toned


def _local(luminance: NDArray[np.float32], tone: Tone, long_edge: float) -> NDArray[np.float32]:
    """A factor for each pixel, height x width: what is finer than the radius, once more or less."""
    light: Any = cv2.log(np.maximum(luminance, np.float32(_DARKEST)))
    radius = max(1, round(_RADIUS * long_edge))
    # Means of large windows are as true of a picture of a quarter of the pixels.
    step = max(1, min(4, radius // 4))
    height, width = light.shape
    small = cv2.resize(light, (-(-width // step), -(-height // step)), interpolation=cv2.INTER_AREA)
    window = (2 * max(1, radius // step) + 1,) * 2
    mean = cv2.blur(small, window, borderType=cv2.BORDER_REFLECT)
    variance = np.maximum(cv2.blur(small * small, window, borderType=cv2.BORDER_REFLECT) - mean * mean, 0)
    keeps = variance / (variance + np.float32(_EDGE * math.log(2) ** 2))
    slope = cv2.resize(cv2.blur(keeps, window, borderType=cv2.BORDER_REFLECT), (width, height))
    offset = cv2.resize(cv2.blur(mean * (1 - keeps), window, borderType=cv2.BORDER_REFLECT), (width, height))
    # Natural logarithms here, and no powers of two: only their scale differs.
    detail = light - (slope * light + offset)
    return np.asarray(cv2.exp(detail * np.float32(tone.local / 125)), np.float32)
