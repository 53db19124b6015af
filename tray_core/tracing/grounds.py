"""The plain ground of a photo: its color all over, as a smooth surface, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.picture import Pixels8

_SMALL = 128
_BORDER = 0.04
"""How much along the picture's edges is taken for ground, in parts of its short edge."""

_NEAR = 6.0
"""Levels of 8 bits by which ground may be off its surface."""

_ROUGH = 25.0
"""Levels from the border's median that are looked at in the first place."""

PLAIN = 0.7
"""The share of the border that has to lie on one smooth surface."""


@dataclass(frozen=True, slots=True)
class Ground:
    """coefficients: 6 x 3, of the surface 1, x, y, x², xy, y² over -1..1, in levels. share: of the border on it."""

    coefficients: NDArray[np.float64]
    share: float

    @property
    def plain(self) -> bool:
        """Whether there is one."""
        return self.share >= PLAIN

    def over(self, height: int, width: int) -> NDArray[np.float32]:
        """Its color at each pixel, height x width x 3, 1..255."""
        rows, columns = min(height, _SMALL), min(width, _SMALL)
        small = (_surface(rows, columns) @ self.coefficients).reshape(rows, columns, 3)
        whole = cv2.resize(np.clip(small, 1, 255).astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
        return np.asarray(whole, np.float32)


def _surface(rows: int, columns: int) -> NDArray[np.float64]:
    y, x = np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : columns * 1j]
    x, y = x.ravel(), y.ravel()
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=1)


def ground_of(pixels: Pixels8) -> Ground:
    """The ground of a picture (height x width x 3, sRGB): the smooth surface that most of its border lies on."""
    height, width = pixels.shape[:2]
    scale = min(1.0, _SMALL / max(height, width))
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    rows, columns = small.shape[:2]
    beside = max(2, round(_BORDER * min(rows, columns)))
    border = np.ones((rows, columns), bool)
    border[beside:-beside, beside:-beside] = False
    at = border.ravel()
    values, terms = small.reshape(-1, 3).astype(np.float64)[at], _surface(rows, columns)[at]
    use = np.abs(values - np.median(values, axis=0)).max(axis=1) < _ROUGH
    coefficients = np.zeros((6, 3))
    for _ in range(6):
        if use.sum() < 12:
            return Ground(coefficients, 0.0)
        used = terms[use]
        # By the normal equations, six of them: a tenth of the time, and of a border that is short the shortest answer.
        coefficients = np.linalg.lstsq(used.T @ used, used.T @ values[use], rcond=None)[0]
        use = np.abs(values - terms @ coefficients).max(axis=1) < _NEAR
    return Ground(coefficients, float(use.mean()))
