"""References in double precision, written from the methods' own sources. Nothing of `tray_core` is used here."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


def _weights(length: int, count: int) -> tuple[NDArray[np.int64], Values]:
    """For each of `count` places along an edge of `length` pixels: the pixels that count there, and how much."""
    scale = length / count
    wide = max(1.0, scale)
    middle = (np.arange(count) + 0.5) * scale
    index = np.floor(middle - 3 * wide).astype(np.int64)[:, None] - 1 + np.arange(int(np.ceil(6 * wide)) + 3)
    away = (index + 0.5 - middle[:, None]) / wide
    weights = np.where(np.abs(away) < 3, np.sinc(away) * np.sinc(away / 3), 0.0)
    return np.clip(index, 0, length - 1), weights / weights.sum(1, keepdims=True)


def _along(values: Values, count: int) -> Values:
    index, weights = _weights(len(values), count)
    return np.stack([np.tensordot(weights[i], values[index[i]], 1) for i in range(count)])


def lanczos(values: NDArray[np.generic], width: int, height: int) -> Values:
    """Lanczos-3 of height x width x channels (Duchon, 1979), its support as wide as the reduction; not clipped."""
    rows = _along(np.asarray(values, np.float64), height)
    return _along(rows.swapaxes(0, 1), width).swapaxes(0, 1)


def to_linear(encoded: Values) -> Values:
    """sRGB to linear light, both on [0, 1] (IEC 61966-2-1)."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def to_encoded(linear: Values) -> Values:
    """The way back, clipped to [0, 1]."""
    inside = np.clip(linear, 0, 1)
    return np.where(inside <= 0.0031308, inside * 12.92, 1.055 * inside ** (1 / 2.4) - 0.055)


def resized(pixels: NDArray[np.uint8], width: int, height: int, linear: bool) -> Values:
    """8-bit sRGB pixels as width x height of them, in levels of 255, not rounded."""
    if linear:
        return to_encoded(lanczos(to_linear(pixels / 255), width, height)) * 255
    return np.clip(lanczos(pixels, width, height), 0, 255)


def psnr(one: NDArray[np.generic], other: NDArray[np.generic]) -> float:
    """Peak signal-to-noise ratio in dB of values in levels of 255."""
    error = float(np.mean((np.asarray(one, np.float64) - np.asarray(other, np.float64)) ** 2))
    return float(10 * np.log10(255**2 / error)) if error else 99.0


def rings(edge: int) -> NDArray[np.uint8]:
    """A zone plate: frequency grows from nothing in the middle to half a cycle a pixel at the edges."""
    y, x = np.mgrid[0:edge, 0:edge] - (edge - 1) / 2
    wave = np.rint(127.5 + 110 * np.cos(np.pi * (x * x + y * y) / edge)).astype(np.uint8)
    return np.repeat(wave[..., None], 3, 2)
