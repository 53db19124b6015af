"""Lanczos-3 in compiled code: 8 bits in integers of 16, everything else in 32-bit floats.

Columns first, row by row; then the rows, a block of them at once, turned over so that one instruction works on the
same column of many rows. In between nothing is rounded to 8 bits: six bits of fraction are kept.

Inside the loops, pictures are flat and counted by unsigned integers: views would be counted by reference, and signed
indices might be negative ones, which keeps a loop from being made one of vectors.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import types
from numpy.typing import NDArray

from tray_core.line.taps import taps
from tray_core.pixels.compiled import compiled, made, part, read

_I16, _I32, _F32, _U = np.int16, np.int32, np.float32, np.uint64
_BLOCK = 32
"""Rows that are worked on at once."""
_STRIDE = 16
"""So many of them are turned over at once: what the compiler unrolls."""
_TILE = 256
"""Columns that are turned over at once, so that they stay in the nearest cache."""
_FIVE, _FOUR = 5, 4
"""Taps that are added in one step."""

Edge = tuple[int, float, float, int]
"""(pixels of the picture's edge, start and stop of the part of it, pixels wanted)."""


def resampled(pixels: NDArray[Any], across: Edge, down: Edge, alpha: bool = False) -> NDArray[Any]:
    """Both edges of height x width (x channels) pixels of 8 or 16 bits resampled; the dtype stays.

    alpha: the last channel is one; the others are weighted by it.
    """
    columns, rows = taps(*down, (_FIVE, _FOUR)), taps(*across, (_FIVE, _FOUR))
    channels = pixels.shape[2] if pixels.ndim == 3 else 1
    flat = np.ascontiguousarray(pixels).reshape(-1)
    result = np.empty((down[3], across[3], *pixels.shape[2:]), pixels.dtype)
    into, width = result.reshape(-1), pixels.shape[1]
    if pixels.dtype == np.uint8 and not alpha and rows.short and columns.short:
        weights = columns.first, columns.integers, columns.lost, rows.first, rows.integers, rows.lost
        _by_integers(flat, width, channels, *weights, into)
    else:
        most = np.iinfo(pixels.dtype).max
        _by_floats(flat, width, channels, alpha, most, columns.first, columns.floats, rows.first, rows.floats, into)
    return result


@part
def _mulhi(value: Any, weight: Any) -> Any:
    # In this form it becomes the one instruction for the upper halves of sixteen products.
    return _I16((_I32(value) * _I32(weight)) >> 16)


@part
def _product(value: Any, weight: Any) -> Any:
    return value * weight


@part
def _weights(weights: Any, w: Any) -> Any:
    last = _U(len(weights) - 1)  # behind four at the very end, there is no fifth
    return weights[w], weights[w + _U(1)], weights[w + _U(2)], weights[w + _U(3)], weights[min(w + _U(4), last)]


def _adder(term: Any, whole: Any) -> Any:
    """Compiled code that adds up taps. term: a value times its weight. whole: the type of the sums."""

    @part
    def five(into: Any, start: Any, many: Any, values: Any, a: Any, b: Any, c: Any, d: Any, e: Any, of: Any) -> None:
        v, w, x, y, z = of
        for i in range(many):
            into[start + i] = whole(
                into[start + i]
                + term(values[a + i], v)
                + term(values[b + i], w)
                + term(values[c + i], x)
                + term(values[d + i], y)
                + term(values[e + i], z)
            )

    @part
    def four(into: Any, start: Any, many: Any, values: Any, a: Any, b: Any, c: Any, d: Any, of: Any) -> None:
        v, w, x, y = of
        for i in range(many):
            into[start + i] = whole(
                into[start + i]
                + term(values[a + i], v)
                + term(values[b + i], w)
                + term(values[c + i], x)
                + term(values[d + i], y)
            )

    @part
    def down(rows: Any, start: Any, wide: Any, ring: Any, first: Any, n: Any, weights: Any, w: Any) -> None:
        """rows[start..] += the n rows of a ring from the first-th on, times weights[w..]."""
        t = _U(0)
        while t < n:
            a, b = ((first + t) % n) * wide, ((first + t + _U(1)) % n) * wide
            c, d = ((first + t + _U(2)) % n) * wide, ((first + t + _U(3)) % n) * wide
            if n % _U(_FIVE):
                four(rows, start, wide, ring, a, b, c, d, _weights(weights, w + t)[:4])
                t += _U(_FOUR)
            else:
                e = ((first + t + _U(4)) % n) * wide
                five(rows, start, wide, ring, a, b, c, d, e, _weights(weights, w + t))
                t += _U(_FIVE)

    @part
    def across(sums: Any, lanes: Any, columns: Any, first: Any, n: Any, weights: Any, w: Any) -> None:
        """sums += the n columns from the first-th on, times weights[w..]."""
        a, zero = first * lanes, _U(0)
        if n % _U(_FIVE):
            for t in range(zero, n, _U(_FOUR)):
                b, c, d = a + lanes, a + _U(2) * lanes, a + _U(3) * lanes
                four(sums, zero, lanes, columns, a, b, c, d, _weights(weights, w + t)[:4])
                a += _U(_FOUR) * lanes
        else:
            for t in range(zero, n, _U(_FIVE)):
                b, c, d, e = a + lanes, a + _U(2) * lanes, a + _U(3) * lanes, a + _U(4) * lanes
                five(sums, zero, lanes, columns, a, b, c, d, e, _weights(weights, w + t))
                a += _U(_FIVE) * lanes

    return down, across


_integers_down, _integers_across = _adder(_mulhi, _I16)
_floats_down, _floats_across = _adder(_product, _F32)


@part
def _fill(out: Any, start: Any, many: Any, value: Any) -> None:
    for i in range(many):
        out[start + i] = value


@part
def _turn(rows: Any, wide: Any, packed: Any, columns: Any) -> None:
    """A block of rows of 16 bits, each `wide`, as columns. packed: room for a row of 64 bits.

    Four rows at a time become one of 64 bits, in vectors; so only a quarter of the values is moved one by one.
    """
    fours = columns.view(np.uint64)
    for left in range(_U(0), wide, _U(_TILE)):
        many = min(_U(_TILE), wide - left)
        for row in range(_U(0), _U(_BLOCK), _U(4)):
            a = row * wide + left
            b, c, d = a + wide, a + _U(2) * wide, a + _U(3) * wide
            for x in range(many):
                packed[x] = (
                    _U(np.uint16(rows[a + x]))
                    | _U(np.uint16(rows[b + x])) << _U(16)
                    | _U(np.uint16(rows[c + x])) << _U(32)
                    | _U(np.uint16(rows[d + x])) << _U(48)
                )
            there = left * _U(_BLOCK // 4) + row // _U(4)
            for x in range(many):
                fours[there + x * _U(_BLOCK // 4)] = packed[x]


@part
def _turn_back(columns: Any, wide: Any, count: Any, packed: Any, out: Any, start: Any) -> None:
    """The first `count` rows of a block of columns of 8 bits, into out[start..]. packed: room for a row of 32 bits."""
    fours = columns.view(np.uint32)
    for left in range(_U(0), wide, _U(_TILE)):
        many = min(_U(_TILE), wide - left)
        for row in range(_U(0), count, _U(4)):
            here = left * _U(_BLOCK // 4) + row // _U(4)
            for x in range(many):
                packed[x] = fours[here + x * _U(_BLOCK // 4)]
            there = start + left + row * wide
            for x in range(many):
                out[there + x] = np.uint8(packed[x])
            # Shifts by constants: others would be done on 64 bits, four at a time.
            if count - row > _U(1):
                for x in range(many):
                    out[there + wide + x] = np.uint8(packed[x] >> _U(8))
            if count - row > _U(2):
                for x in range(many):
                    out[there + _U(2) * wide + x] = np.uint8(packed[x] >> _U(16))
            if count - row > _U(3):
                for x in range(many):
                    out[there + _U(3) * wide + x] = np.uint8(packed[x] >> _U(24))


@compiled(
    types.void(
        read(types.uint8),
        types.uint64,
        types.uint64,
        read(types.int64),
        read(types.int16),
        read(types.int16),
        read(types.int64),
        read(types.int16),
        read(types.int16),
        made(types.uint8),
    )
)
def _by_integers(
    pixels: Any,
    width: Any,
    channels: Any,
    top: Any,
    down: Any,
    down_lost: Any,
    left: Any,
    across: Any,
    across_lost: Any,
    out: Any,
) -> None:
    """pixels: flat, of rows of width * channels. Vertical sums have 6 bits of fraction, horizontal ones 5."""
    wide = width * channels
    high = _U(len(pixels)) // wide
    n, m = _U(len(down) // len(top)), _U(len(across) // len(left))
    lanes, made_wide = channels * _U(_BLOCK), _U(len(left)) * channels
    ring = np.zeros(n * wide, _I16)
    rows = np.zeros(_U(_BLOCK) * wide, _I16)
    # Zeros behind the last column: the taps that only fill up point there.
    columns = np.zeros((width + m) * lanes, _I16)
    sums = np.zeros(lanes, _I16)
    finished = np.empty(made_wide * _U(_BLOCK), np.uint8)
    packed, packed_back = np.empty(_TILE, np.uint64), np.empty(_TILE, np.uint32)
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
                    ring[there + x] = _I16(pixels[here + x]) << 7
                have += _U(1)
            _fill(rows, r * wide, wide, down_lost[y])
            _integers_down(rows, r * wide, wide, ring, first, n, down, y * n)
        _turn(rows, wide, packed, columns)
        for x in range(_U(len(left))):
            _fill(sums, _U(0), lanes, _I16(16 + across_lost[x]))
            _integers_across(sums, lanes, columns, _U(left[x]), m, across, x * m)
            for i in range(lanes):
                finished[x * lanes + i] = np.uint8(min(max(_I16(sums[i] >> 5), _I16(0)), _I16(255)))
        _turn_back(finished, made_wide, count, packed_back, out, start * made_wide)


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
    *(
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
    )
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
    """As `_by_integers`. most: the largest value of the pixels' type."""
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
            _floats_down(rows, r * wide, wide, ring, first, n, down, y * n)
        _turn_floats(rows, wide, columns)
        for x in range(_U(len(left))):
            _fill(sums, _U(0), lanes, _F32(0))
            _floats_across(sums, lanes, columns, _U(left[x]), m, across, x * m)
            if alpha:
                _unweight(sums, channels, most)
            for i in range(lanes):
                finished[x * lanes + i] = _I32(min(max(sums[i] + _F32(0.5), _F32(0)), most))
        _turn_floats_back(finished, made_wide, count, out, start * made_wide)
