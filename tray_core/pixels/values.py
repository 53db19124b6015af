"""What color conversion does to every value, in compiled code: between 8 and 16 bits, and between matrix spaces."""

from __future__ import annotations

from typing import Any

import numpy as np

from tray_core.pixels.compiled import compiled, made, read, types

_U8, _U16, _U32, _U64 = np.uint8, np.uint16, np.uint32, np.uint64


@compiled(lambda: [types.void(read(types.uint8), made(types.uint16))])
def widened(values: Any, out: Any) -> None:
    """16 bits from 8, exactly: 65535 = 255 * 257."""
    for i in range(out.shape[0]):
        out[i] = _U16(_U32(values[i]) * _U32(257))


@compiled(lambda: [types.void(read(types.uint16), made(types.uint8))])
def narrowed(values: Any, out: Any) -> None:
    """8 bits from 16, rounded to nearest."""
    for i in range(out.shape[0]):
        # round(v / 257) for every v of 16 bits, without dividing.
        out[i] = _U8((_U32(values[i]) * _U32(255) + _U32(32895)) >> _U32(16))


@compiled(
    lambda: [types.void(read(types.uint16, 2), types.int64, types.int64, made(types.float64), made(types.uint8, 2))]
)
def dithered(values: Any, channels: int, colors: int, noise: Any, out: Any) -> None:
    """8 bits from height x (width * channels) of 16, the first `colors` channels dithered, the others rounded.

    The pattern is interleaved gradient noise, the same for every picture. noise: room for its row.
    """
    for y in range(values.shape[0]):
        for x in range(noise.shape[0]):
            one = 0.06711056 * x + 0.00583715 * y
            two = 52.9829189 * (one - np.floor(one))
            noise[x] = np.floor((two - np.floor(two)) * 257)
        for x in range(noise.shape[0]):
            added = _U32(noise[x])
            for c in range(channels):
                i = x * channels + c
                if c < colors:
                    out[y, i] = _U8(min((_U32(values[y, i]) + added) // _U32(257), _U32(255)))
                else:
                    out[y, i] = _U8((_U32(values[y, i]) * _U32(255) + _U32(32895)) >> _U32(16))


@compiled(
    lambda: [
        types.void(
            read(types.uint16),
            read(types.float32, 2),
            read(types.float32, 2),
            read(types.uint16, 2),
            read(types.uint16, 2),
            made(types.uint16),
        )
    ]
)
def by_matrix(values: Any, curves: Any, matrix: Any, tables: Any, dark: Any, out: Any) -> None:
    """RGB values of 16 bits through curves to linear, a matrix to places in tables, and the tables to encoded values.

    curves: 1 or 3 x 65536. matrix: 3 x 3, to places in the tables. tables: 1 or 3 x places. dark: the same for the
    first 256th of the places, 256 times as fine: a power curve is steepest there.
    """
    most = np.float32(tables.shape[1] - 1)
    fine, end = np.float32(256), np.float32((dark.shape[1] - 1) // 256)
    two, three = 1 % curves.shape[0], 2 % curves.shape[0]
    green, blue = 1 % tables.shape[0], 2 % tables.shape[0]
    half = np.float32(0.5)
    a, b, c = matrix[0, 0], matrix[0, 1], matrix[0, 2]
    d, e, f = matrix[1, 0], matrix[1, 1], matrix[1, 2]
    g, h, j = matrix[2, 0], matrix[2, 1], matrix[2, 2]
    for pixel in range(_U64(out.shape[0] // 3)):
        i = pixel * _U64(3)
        x, y, z = curves[0, values[i]], curves[two, values[i + _U64(1)]], curves[three, values[i + _U64(2)]]
        r = min(max(a * x + b * y + c * z, np.float32(0)), most)
        s = min(max(d * x + e * y + f * z, np.float32(0)), most)
        t = min(max(g * x + h * y + j * z, np.float32(0)), most)
        out[i] = dark[0, _U32(r * fine + half)] if r < end else tables[0, _U32(r + half)]
        out[i + _U64(1)] = dark[green, _U32(s * fine + half)] if s < end else tables[green, _U32(s + half)]
        out[i + _U64(2)] = dark[blue, _U32(t * fine + half)] if t < end else tables[blue, _U32(t + half)]


@compiled(
    lambda: [
        types.void(read(kind), types.int64, read(types.uint16, 2), made(types.uint16))
        for kind in (types.uint8, types.uint16)
    ]
)
def by_tables(values: Any, channels: int, tables: Any, out: Any) -> None:
    """Values through the tables of their channels, 3 x all values; grey through the second; alpha is only widened."""
    wide = _U32(257 if values.itemsize == 1 else 1)
    for pixel in range(_U64(out.shape[0]) // _U64(channels)):
        i = pixel * _U64(channels)
        if channels == 1:
            out[i] = tables[1, values[i]]
        else:
            out[i] = tables[0, values[i]]
            out[i + _U64(1)] = tables[1, values[i + _U64(1)]]
            out[i + _U64(2)] = tables[2, values[i + _U64(2)]]
            if channels == 4:
                out[i + _U64(3)] = _U16(_U32(values[i + _U64(3)]) * wide)
