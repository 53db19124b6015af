"""Lanczos-3 in compiled code: 8 bits in integers of 16 (`resample_integers`), everything else in 32-bit floats.

Columns first, row by row; then the rows, a block of them at once, turned over so that one instruction works on the
same column of many rows.

Inside the loops, pictures are flat and counted by unsigned integers: views would be counted by reference, and signed
indices might be negative ones, which keeps a loop from being made one of vectors.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from tray_core.line.resample_integers import resample_integers
from tray_core.line.taps import taps
from tray_core.pixels.compiled import compiled, made, part, read, types

_I32, _F32, _U = np.int32, np.float32, np.uint64
_BLOCK = 32
"""Rows that are worked on at once."""
_STRIDE = 16
"""So many of them are turned over at once: what the compiler unrolls."""
_FIVE, _FOUR = 5, 4
"""Taps that are added in one step."""

Edge = tuple[int, float, float, int]
"""(pixels of the picture's edge, start and stop of the part of it, pixels wanted)."""


def resampled(pixels: NDArray[Any], across: Edge, down: Edge, alpha: bool = False) -> NDArray[Any]:
    """Both edges of height x width (x channels) pixels of 8 or 16 bits resampled; the dtype stays.

    alpha: the last channel is one; the others are weighted by it.
    """
    columns, rows = taps(*down), taps(*across)
    channels = pixels.shape[2] if pixels.ndim == 3 else 1
    flat = np.ascontiguousarray(pixels).reshape(-1)
    result = np.empty((down[3], across[3], *pixels.shape[2:]), pixels.dtype)
    into, width = result.reshape(-1), pixels.shape[1]
    if pixels.dtype == np.uint8 and not alpha and rows.short and columns.short:
        resample_integers(flat, width, channels, rows, columns, into)
    else:
        most = np.iinfo(pixels.dtype).max
        columns, rows = taps(*down, (_FIVE, _FOUR)), taps(*across, (_FIVE, _FOUR))
        _by_floats(flat, width, channels, alpha, most, columns.first, columns.floats, rows.first, rows.floats, into)
    return result


@part
def _weights(weights: Any, w: Any) -> Any:
    last = _U(len(weights) - 1)  # behind four at the very end, there is no fifth
    return weights[w], weights[w + _U(1)], weights[w + _U(2)], weights[w + _U(3)], weights[min(w + _U(4), last)]


@part
def _five(into: Any, start: Any, many: Any, values: Any, a: Any, b: Any, c: Any, d: Any, e: Any, of: Any) -> None:
    v, w, x, y, z = of
    for i in range(many):
        # One after the other, in this order: the rounding is the same everywhere then.
        so_far = into[start + i] + values[a + i] * v + values[b + i] * w + values[c + i] * x
        into[start + i] = so_far + values[d + i] * y + values[e + i] * z


@part
def _four(into: Any, start: Any, many: Any, values: Any, a: Any, b: Any, c: Any, d: Any, of: Any) -> None:
    v, w, x, y = of
    for i in range(many):
        so_far = into[start + i] + values[a + i] * v + values[b + i] * w
        into[start + i] = so_far + values[c + i] * x + values[d + i] * y


@part
def _down(rows: Any, start: Any, wide: Any, ring: Any, first: Any, n: Any, weights: Any, w: Any) -> None:
    """rows[start..] += the n rows of a ring from the first-th on, times weights[w..]."""
    t = _U(0)
    while t < n:
        a, b = ((first + t) % n) * wide, ((first + t + _U(1)) % n) * wide
        c, d = ((first + t + _U(2)) % n) * wide, ((first + t + _U(3)) % n) * wide
        if n % _U(_FIVE):
            _four(rows, start, wide, ring, a, b, c, d, _weights(weights, w + t)[:4])
            t += _U(_FOUR)
        else:
            e = ((first + t + _U(4)) % n) * wide
            _five(rows, start, wide, ring, a, b, c, d, e, _weights(weights, w + t))
            t += _U(_FIVE)


@part
def _across(sums: Any, lanes: Any, columns: Any, first: Any, n: Any, weights: Any, w: Any) -> None:
    """sums += the n columns from the first-th on, times weights[w..]."""
    a, zero = first * lanes, _U(0)
    if n % _U(_FIVE):
        for t in range(zero, n, _U(_FOUR)):
            b, c, d = a + lanes, a + _U(2) * lanes, a + _U(3) * lanes
            _four(sums, zero, lanes, columns, a, b, c, d, _weights(weights, w + t)[:4])
            a += _U(_FOUR) * lanes
    else:
        for t in range(zero, n, _U(_FIVE)):
            b, c, d, e = a + lanes, a + _U(2) * lanes, a + _U(3) * lanes, a + _U(4) * lanes
            _five(sums, zero, lanes, columns, a, b, c, d, e, _weights(weights, w + t))
            a += _U(_FIVE) * lanes


@part
def _fill(out: Any, start: Any, many: Any, value: Any) -> None:
    for i in range(many):
        out[start + i] = value


@part
def _turn_floats(rows: Any, wide: Any, columns: Any) -> None:
    for half in range(_U(0), _U(_BLOCK), _U(_STRIDE)):
        for x in range(wide):
            there, here = x * _U(_BLOCK) + half, half * wide + x
            for r in range(_U(_STRIDE)):
                columns[there + r] = rows[here + r * wide]


@part
def _turn_floats_back(columns: Any, wide: Any, count: Any, out: Any, start: Any) -> None:
    for r in range(count):
        for x in range(wide):
            out[start + r * wide + x] = columns[x * _U(_BLOCK) + r]


@part
def _weight(row: Any, start: Any, wide: Any, channels: Any, most: Any) -> None:
    last = channels - _U(1)
    for x in range(start, start + wide, channels):
        cover = row[x + last] / most
        for c in range(last):
            row[x + c] *= cover


@part
def _unweight(sums: Any, channels: Any, most: Any) -> None:
    last = channels - _U(1)
    for r in range(_U(_BLOCK)):
        share = most / max(sums[last * _U(_BLOCK) + r], _F32(1e-6) * most)
        for c in range(last):
            sums[c * _U(_BLOCK) + r] *= share


@compiled(
    lambda: [
        types.void(
            read(kind),
            types.uint64,
            types.uint64,
            types.boolean,
            types.float32,
            read(types.int64),
            read(types.float32),
            read(types.int64),
            read(types.float32),
            made(kind),
        )
        for kind in (types.uint8, types.uint16)
    ]
)
def _by_floats(
    pixels: Any,
    width: Any,
    channels: Any,
    alpha: bool,
    most: Any,
    top: Any,
    down: Any,
    left: Any,
    across: Any,
    out: Any,
) -> None:
    """pixels: flat, of rows of width * channels. most: the largest value of their type."""
    wide = width * channels
    high = _U(len(pixels)) // wide
    n, m = _U(len(down) // len(top)), _U(len(across) // len(left))
    lanes, made_wide = channels * _U(_BLOCK), _U(len(left)) * channels
    ring = np.zeros(n * wide, _F32)
    rows = np.zeros(_U(_BLOCK) * wide, _F32)
    columns = np.zeros((width + m) * lanes, _F32)
    sums = np.zeros(lanes, _F32)
    finished = np.empty(made_wide * _U(_BLOCK), out.dtype)
    have = _U(top[0])
    for start in range(_U(0), _U(len(top)), _U(_BLOCK)):
        count = min(_U(_BLOCK), _U(len(top)) - start)
        for r in range(count):
            y = start + r
            first = _U(top[y])
            have = max(have, first)
            while have < min(high, first + n):
                here, there = have * wide, (have % n) * wide
                for x in range(wide):
                    ring[there + x] = pixels[here + x]
                if alpha:
                    _weight(ring, there, wide, channels, most)
                have += _U(1)
            _fill(rows, r * wide, wide, _F32(0))
            _down(rows, r * wide, wide, ring, first, n, down, y * n)
        _turn_floats(rows, wide, columns)
        for x in range(_U(len(left))):
            _fill(sums, _U(0), lanes, _F32(0))
            _across(sums, lanes, columns, _U(left[x]), m, across, x * m)
            if alpha:
                _unweight(sums, channels, most)
            for i in range(lanes):
                finished[x * lanes + i] = _I32(min(max(sums[i] + _F32(0.5), _F32(0)), most))
        _turn_floats_back(finished, made_wide, count, out, start * made_wide)
