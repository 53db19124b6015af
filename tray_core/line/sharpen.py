"""Sharpening for screen: an unsharp mask on luminance, after resizing.

out = in + amount * (Y - blur(Y)), the same for every channel, so that no color fringes appear.
Y is the weighted sum of the gamma-encoded channels, the weights those of the picture's own
primaries; blur is a Gaussian of `radius` pixels. Source of the method: the photographic unsharp
mask, as in Pratt, "Digital Image Processing", section on edge crispening.
"""

from __future__ import annotations

import cv2
import numpy as np

from tray_core.line.picture import Picture, Pixels
from tray_core.photo.profiles import SRGB, read_profile

AMOUNT_AT_100 = 0.9
"""The mask's amount at a strength of 100 %."""

_ROWS = 128
_REACH = 4


def radius_for(width: int, height: int) -> float:
    """The Gaussian's standard deviation in pixels for a rendition of width x height.

    0.5 px up to 800 px on the long edge, rising evenly to 0.8 px at 2,400 px and staying there:
    larger renditions are looked at scaled to the screen and bear a wider edge.
    """
    return 0.5 + 0.3 * min(1.0, max(0.0, (max(width, height) - 800) / 1600))


def sharpen(picture: Picture, strength: int, radius: float | None = None) -> Picture:
    """Sharpen an RGB or grey picture; alpha is left alone.

    strength: per cent, 0 to 200; 0 returns the picture itself. radius: pixels; by size when None.
    The dtype stays; results are rounded to nearest and clipped to its range.
    """
    if strength == 0:
        return picture
    pixels = picture.pixels
    amount = AMOUNT_AT_100 * strength / 100
    sigma = radius_for(*picture.size) if radius is None else radius
    color = pixels[..., :3] if picture.alpha else pixels
    facts = read_profile(picture.icc or SRGB)
    weights = facts.luminance_weights() if facts else (0.2126, 0.7152, 0.0722)
    made = np.empty_like(pixels)
    made_color = made[..., :3] if picture.alpha else made
    if picture.alpha:
        made[..., 3] = pixels[..., 3]
    # Strips with a margin: everything between reading and writing a strip stays in the cache.
    height = pixels.shape[0]
    for top in range(0, height, _ROWS):
        bottom = min(top + _ROWS, height)
        above, below = max(0, top - _REACH), min(height, bottom + _REACH)
        strip = _sharpened(color[above:below], amount, sigma, weights)
        made_color[top:bottom] = strip[top - above : bottom - above]
    return Picture(made, picture.space, picture.alpha, picture.icc)


def _sharpened(strip: Pixels, amount: float, sigma: float, weights: tuple[float, float, float]) -> Pixels:
    values = strip.astype(np.float32)
    luminance = values if values.ndim == 2 else cv2.transform(values, np.array([weights], np.float32))
    size = 2 * _REACH + 1 if sigma > 0.8 else 7
    blurred = cv2.GaussianBlur(luminance, (size, size), sigma, borderType=cv2.BORDER_REPLICATE)
    change = cv2.addWeighted(luminance, amount, blurred, -amount, 0)
    if values.ndim == 3:
        change = cv2.merge([change, change, change])
    top = np.iinfo(strip.dtype).max
    depth = cv2.CV_8U if top == 255 else cv2.CV_16U
    return cv2.add(values, change, dtype=depth)
