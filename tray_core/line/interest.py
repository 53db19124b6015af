"""The interesting part of a photo: a saliency measure, summed along both edges.

Two well-known measures, each scaled to a maximum of 1, are added at small size:

- the spectral residual of the luminance (X. Hou and L. Zhang, "Saliency Detection: A Spectral Residual
  Approach", CVPR 2007), which finds what breaks the picture's own regularity;
- the distance of each smoothed color from the picture's mean color in CIE L*a*b* (R. Achanta and others,
  "Frequency-tuned Salient Region Detection", CVPR 2009), which finds what stands out by color.

The lowest half of the values is taken away, so that large quiet areas weigh nothing.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.picture import Pixels8

STEPS = 48
"""Length of each profile."""

_EDGE = 96


def interest_of(pixels: Pixels8) -> tuple[bytes, bytes]:
    """Interest along the width and along the height of a picture, STEPS values of 0..255 each.

    pixels: sRGB, height x width x 3, or height x width for grey; 0..255.
    """
    height, width = pixels.shape[:2]
    scale = _EDGE / max(height, width)
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    if small.ndim == 2:
        small = cv2.cvtColor(small, cv2.COLOR_GRAY2RGB).astype(np.float32)
    lab = cv2.cvtColor(small, cv2.COLOR_RGB2Lab)
    found = _unit(_residual(lab[..., 0].astype(np.float32))) + _unit(_distance(lab.astype(np.float32)))
    found = np.maximum(found - np.median(found), 0)
    return _profile(found.sum(axis=0)), _profile(found.sum(axis=1))


def _unit(values: NDArray[np.float32]) -> NDArray[np.float32]:
    low, high = float(values.min()), float(values.max())
    return ((values - low) / (high - low)).astype(np.float32) if high > low else np.zeros_like(values)


def _residual(luminance: NDArray[np.float32]) -> NDArray[np.float32]:
    spectrum = np.fft.fft2(luminance)
    log = np.log(np.abs(spectrum) + 1e-6).astype(np.float32)
    residual = log - cv2.blur(log, (3, 3), borderType=cv2.BORDER_REFLECT_101)
    back = np.abs(np.fft.ifft2(np.exp(residual + 1j * np.angle(spectrum)))) ** 2
    return cv2.GaussianBlur(back.astype(np.float32), (0, 0), 2.5).astype(np.float32)


def _distance(lab: NDArray[np.float32]) -> NDArray[np.float32]:
    smooth = cv2.GaussianBlur(lab, (0, 0), 1.0)
    away: NDArray[np.float32] = np.linalg.norm(smooth - lab.mean(axis=(0, 1)), axis=2).astype(np.float32)
    return away


def _profile(sums: NDArray[np.float32]) -> bytes:
    even = cv2.resize(sums.reshape(1, -1).astype(np.float32), (STEPS, 1), interpolation=cv2.INTER_LINEAR)[0]
    top = float(even.max())
    return bytes(np.rint(even * (255 / top) if top > 0 else even).astype(np.uint8))
