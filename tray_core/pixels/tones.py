"""A tone on every pixel, in compiled code.

A piece of a row at a time: what is looked up in tables is gathered one by one, and everything between is arithmetic on
the whole piece, which the compiler does with vectors. It stays in the processor's nearest memory.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from tray_core.pixels.compiled import compiled, made, part, read, types

_F32, _I32, _U64 = np.float32, np.int32, np.uint64
_PIECE = 512


@part
def _steps(values: Any, most: Any, steps: Any, count: Any) -> None:
    """Where the square roots of linear values lie in a table over the root from 0 to 1."""
    for k in range(count):
        steps[k] = _I32(np.sqrt(min(max(values[k], _F32(0)), _F32(1))) * most)


@part
def _times(red: Any, green: Any, blue: Any, light: Any, factor: Any, count: Any) -> None:
    for k in range(count):
        red[k] *= factor[k]
        green[k] *= factor[k]
        blue[k] *= factor[k]
        light[k] *= factor[k]


@part
def _saturated(red: Any, green: Any, blue: Any, light: Any, vivid: Any, pale: Any, count: Any) -> None:
    for k in range(count):
        r, g, b = red[k], green[k], blue[k]
        low, high = min(r, g, b), max(r, g, b) + _F32(1e-9)
        # Skin: red before green before blue, and neither of the two ends.
        share, wide = g - low, high - low
        skin = (r >= g) & (g >= b) & (share > _F32(0.15) * wide) & (share < _F32(0.75) * wide)
        more = vivid + pale * (low / high) * (_F32(0.25) if skin else _F32(1))
        # No channel is pushed below zero: what cannot be more saturated stays as it is.
        more = min(more, low / (light[k] - low + _F32(1e-9)))
        red[k] = r + more * (r - light[k])
        green[k] = g + more * (g - light[k])
        blue[k] = b + more * (b - light[k])


@compiled(
    lambda: [
        types.void(
            read(types.uint16, 3),
            read(types.float32, 2),
            read(types.float32),
            read(types.float32),
            read(types.float32, 2),
            read(types.float32),
            types.float32,
            types.float32,
            read(types.uint16, 2),
            made(types.uint16, 3),
        )
    ]
)
def toned(
    values: Any,
    curves: Any,
    weights: Any,
    factors: Any,
    local: Any,
    fall: Any,
    saturation: float,
    muted: float,
    encoding: Any,
    out: Any,
) -> None:
    """Encoded values (height x width x channels) to encoded values of the same space; what is no color stays.

    curves: 3 x 65536, from encoded values to linear, times each channel's gain. factors: over the square root of
    luminance from 0 to 2. local: a factor for each pixel, height x width, or a single one for all. fall: c, and
    where the pixels lie by columns and rows, x = fall[1] + column fall[2] + row fall[3], y likewise, so that light is
    multiplied by (1 + c (x^2 + y^2))^2. saturation, muted: what is added to 1.
    encoding: 3 x any number, over the square root of linear values from 0 to 1. Values in tables are those of the
    middles of their steps.
    """
    most, many = _F32(encoding.shape[1]) - _F32(0.01), local.shape[0] * local.shape[1] > 1
    per_root, last = _F32(factors.shape[0] / 2), _F32(factors.shape[0]) - _F32(0.01)
    vivid, pale, c = _F32(saturation), _F32(muted), fall[0]
    red, green, blue = np.empty(_PIECE, _F32), np.empty(_PIECE, _F32), np.empty(_PIECE, _F32)
    light, factor, steps = np.empty(_PIECE, _F32), np.empty(_PIECE, _F32), np.empty(_PIECE, _I32)
    height, width, channels = values.shape
    for row in range(height):
        for start in range(0, width, _PIECE):
            count = min(_PIECE, width - start)
            for k in range(count):
                red[k] = curves[0, values[row, start + k, 0]]
                green[k] = curves[1, values[row, start + k, 1]]
                blue[k] = curves[2, values[row, start + k, 2]]
            if c != _F32(0):
                x0 = fall[1] + _F32(start) * fall[2] + _F32(row) * fall[3]
                y0 = fall[4] + _F32(start) * fall[5] + _F32(row) * fall[6]
                for k in range(count):
                    x, y = x0 + _F32(k) * fall[2], y0 + _F32(k) * fall[5]
                    gain = _F32(1) + c * (x * x + y * y)
                    factor[k] = gain * gain
                _times(red, green, blue, light, factor, count)
            for k in range(count):
                light[k] = weights[0] * red[k] + weights[1] * green[k] + weights[2] * blue[k]
            for k in range(count):
                steps[k] = _I32(min(np.sqrt(light[k]) * per_root, last))
            for k in range(count):
                factor[k] = factors[steps[k]]
            if many:
                for k in range(count):
                    factor[k] *= local[row, start + k]
            _times(red, green, blue, light, factor, count)
            if vivid != _F32(0) or pale != _F32(0):
                _saturated(red, green, blue, light, vivid, pale, count)
            _steps(red, most, steps, count)
            for k in range(count):
                out[row, start + k, 0] = encoding[0, steps[k]]
            _steps(green, most, steps, count)
            for k in range(count):
                out[row, start + k, 1] = encoding[1, steps[k]]
            _steps(blue, most, steps, count)
            for k in range(count):
                out[row, start + k, 2] = encoding[2, steps[k]]
            if channels == 4:
                for k in range(count):
                    out[row, start + k, 3] = values[row, start + k, 3]


@compiled(
    lambda: [types.void(read(types.uint16, 3), read(types.float32, 2), read(types.float32), made(types.float32, 2))]
)
def luminance(values: Any, curves: Any, weights: Any, out: Any) -> None:
    """Linear luminance of encoded values (height x width x channels). curves, weights: as in `toned`."""
    height, width, _ = values.shape
    for row in range(height):
        for k in range(width):
            red, green, blue = values[row, k, 0], values[row, k, 1], values[row, k, 2]
            out[row, k] = weights[0] * curves[0, red] + weights[1] * curves[1, green] + weights[2] * curves[2, blue]
