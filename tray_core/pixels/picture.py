"""A picture in memory, as it travels along the line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Pixels8 = NDArray[np.uint8]
"""Gamma-encoded values, 0..255."""

Pixels16 = NDArray[np.uint16]
"""Gamma-encoded values, 0..65535."""

Pixels = NDArray[Any]
"""Pixels8 or Pixels16; numpy keeps the difference in the dtype."""


@dataclass(frozen=True, slots=True)
class Picture:
    """Upright pixels with what they mean.

    pixels: height x width for grey, height x width x channels otherwise; alpha, if any, comes last
            and is not premultiplied.
    space:  RGB, grey or CMYK (ink coverage: 0 is bare paper).
    icc:    the profile of the values, or None for sRGB taken on trust.
    extent: (left, top, right, bottom) of the photo in these pixels, where a scaled decoding rounded its
            size up; None for all of them.
    """

    pixels: Pixels
    space: str
    alpha: bool
    icc: bytes | None
    extent: tuple[float, float, float, float] | None = None

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels."""
        return self.pixels.shape[1], self.pixels.shape[0]
