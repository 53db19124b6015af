"""A tone on every pixel, in compiled code."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import types

from tray_core.pixels.compiled import compiled, made, part, read

_F32, _U32, _U64 = np.float32, np.uint32, np.uint64


@part
def _encoded(value: Any, table: Any, most: Any) -> Any:
    return table[_U32(np.sqrt(min(max(value, _F32(0)), _F32(1))) * most)]


@compiled(
    types.void(
        read(types.uint16),
        types.int64,
        read(types.float32, 2),
        read(types.float32),
        read(types.float32),
        read(types.float32),
        types.float32,
        types.float32,
        read(types.uint16, 2),
        made(types.uint16),
    )
)
def toned(
    values: Any,
    channels: int,
    curves: Any,
    weights: Any,
    factors: Any,
    local: Any,
    saturation: float,
    muted: float,
    encoding: Any,
    out: Any,
) -> None:
    """Encoded values to encoded values of the same space.

    curves: 3 x 65536, from encoded values to linear, times each channel's gain. factors: over the square root of
    luminance from 0 to 2. local: a factor for each pixel, or a single 1 for all. saturation, muted: what is added to 1.
    encoding: 3 x any number, over the square root of linear values from 0 to 1. Values in tables are those of the
    middles of their steps.
    """
    most, many = _F32(encoding.shape[1]) - _F32(0.01), local.shape[0] > 1
    per_root, last = _F32(factors.shape[0] / 2), _F32(factors.shape[0]) - _F32(0.01)
    reds, greens, blues = curves[0], curves[1], curves[2]
    to_red, to_green, to_blue = encoding[0], encoding[1], encoding[2]
    more_red, more_green, more_blue = weights[0], weights[1], weights[2]
    vivid, pale = _F32(saturation), _F32(muted)
    for pixel in range(_U64(values.shape[0] // channels)):
        i = pixel * _U64(channels)
        red, green, blue = reds[values[i]], greens[values[i + _U64(1)]], blues[values[i + _U64(2)]]
        light = more_red * red + more_green * green + more_blue * blue
        factor = factors[_U32(min(np.sqrt(light) * per_root, last))]
        if many:
            factor *= local[pixel]
        red *= factor
        green *= factor
        blue *= factor
        light *= factor
        if vivid != _F32(0) or pale != _F32(0):
            low, high = min(red, green, blue), max(red, green, blue) + _F32(1e-9)
            # Skin: red before green before blue, and neither of the two ends.
            share, wide = green - low, high - low
            skin = red >= green and green >= blue and share > _F32(0.15) * wide and share < _F32(0.75) * wide
            more = vivid + pale * (low / high) * (_F32(0.25) if skin else _F32(1))
            # No channel is pushed below zero: what cannot be more saturated stays as it is.
            more = min(more, low / (light - low + _F32(1e-9)))
            red += more * (red - light)
            green += more * (green - light)
            blue += more * (blue - light)
        out[i] = _encoded(red, to_red, most)
        out[i + _U64(1)] = _encoded(green, to_green, most)
        out[i + _U64(2)] = _encoded(blue, to_blue, most)
        if channels == 4:
            out[i + _U64(3)] = values[i + _U64(3)]
