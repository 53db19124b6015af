"""Noise of camera raw: its grain, and the colored spots that are coarser than it.

Both by guided filters (He, Sun and Tang, 2010), in strips: lightness by itself, within a few pixels; differences of
color along what is of one lightness, farther. What differs by more than noise does is an edge, and stays.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.picture import Pixels16

_GRAIN = 0.06
"""The standard deviation of encoded lightness that is half smoothed, at 100."""

_COLOR_EDGE = 0.015**2
"""The variance of encoded lightness from which on something is an edge that colors follow."""

_FINE, _COARSE = 3, 9
"""How far smoothing reaches, in pixels of the sensor: for grain, and for color at 100."""

_STRIP = 1024
Values = NDArray[np.float32]


def without_noise(pixels: Pixels16, grain: int, color: int, scale: int) -> Pixels16:
    """`pixels` (height x width x 3, encoded) with less grain and fewer colored spots; both from 0 to 100.

    scale: 2 for a picture with the sensor's own pixels, 1 for one of half its size, which has half the grain.
    """
    fine = max(1, _FINE * scale // 2)
    coarse = max(1, round(_COARSE * scale / 2 * (0.3 + 0.7 * color / 100)))
    around = 2 * max(fine, coarse)
    made = np.empty_like(pixels)
    for top in range(0, len(pixels), _STRIP):
        start = max(0, top - around)
        strip = pixels[start : top + _STRIP + around].astype(np.float32) * np.float32(1 / 65535)
        red, green, blue = cv2.split(strip)
        light: Any = (red + 2 * green + blue) / 4
        reds: Any = red - light
        blues: Any = blue - light
        if color:
            reds, blues = (_along(each, light, coarse, _COLOR_EDGE, color / 100) for each in (reds, blues))
        if grain:
            light = _along(light, light, fine, (_GRAIN * scale / 2 * grain / 100) ** 2, 1.0)
        done = cv2.merge([light + reds, light - (reds + blues) / 2, light + blues])
        high = min(_STRIP, len(pixels) - top)
        made[top : top + high] = np.rint(np.clip(done[top - start : top - start + high], 0, 1) * 65535)
    return made


def _along(values: Any, guide: Any, reach: int, edge: float, share: float) -> Values:
    """`values` smoothed where the guide is, by a share of 0 to 1. edge: a variance of it that is kept by half."""

    def mean(of: Any) -> Values:
        return np.asarray(cv2.blur(of, (2 * reach + 1,) * 2, borderType=cv2.BORDER_REFLECT), np.float32)

    middle, own = mean(guide), mean(values)
    slope = (mean(guide * values) - middle * own) / (mean(guide * guide) - middle * middle + np.float32(edge))
    smooth = mean(slope) * guide + mean(own - slope * middle)
    return np.asarray(values + np.float32(share) * (smooth - values), np.float32)
