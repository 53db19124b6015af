"""Lanczos-3 of 8-bit pixels, in integers of 16 bits and vectors of 32 of them.

A block of 32 rows at once, strip by strip: columns first, then turned, so that one instruction works on the same
column of all 32 rows; what the strips so far are enough for is summed across, turned back and put in place.
In between nothing is rounded to 8 bits: six bits of fraction are kept, and five in the end. Indices are unsigned:
signed ones might be negative, which costs a look at each.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from tray_core.line.taps import Taps
from tray_core.pixels.compiled import compiled, made, part, read, types
from tray_core.pixels.lanes import (
    LANES,
    add_product,
    load,
    load_levels,
    prefetch,
    splat,
    store,
    to_levels,
    turn,
    turn_levels,
)

_I16, _U = np.int16, np.uint64
_STEP = 4 * LANES
"""Values of a row that are summed at once: as many sums as hide how long each addition takes."""
_STRIP = 4 * _STEP
"""Values of a row in a strip: a few rows of them stay in the nearest cache."""
_APART = _STRIP + LANES
"""From row to row of a strip of sums: multiples of a large power of two would all want the same place in the cache."""
_SIDE = 128
"""Pixels of a row that are put in place at once."""
_AHEAD = 8
"""Rows that are fetched before they are needed: a strip is too narrow for the processor to guess them."""


def resample_integers(pixels: Any, width: int, channels: int, across: Taps, down: Taps, out: Any) -> None:
    """pixels: flat, uint8, of rows of width * channels. across, down: short. out: flat, uint8."""
    weights = down.first, down.integers, down.lost, across.first, across.integers, across.lost
    _resample(pixels, width, channels, *weights, out)


@part
def _room(values: Any) -> Any:
    """Zeros of int16 that begin where a line of the cache does: vectors across two of them take twice the time."""
    room = np.zeros(values + _U(LANES), _I16)
    return room[-(room.ctypes.data // 2) % LANES :]


@part
def _most_rows(top: Any, n: Any) -> Any:
    """The most rows of the picture that a block is made of."""
    most = n
    for start in range(_U(0), _U(len(top)), _U(LANES)):
        last = min(start + _U(LANES), _U(len(top))) - _U(1)
        most = max(most, _U(top[last]) + n - _U(top[start]))
    return most


@part
def _lift(pixels: Any, here: Any, many: Any, strip: Any, there: Any) -> None:
    """`many` levels as a row of a strip, times 128: times weights of 1/32768, their upper halves are 1/64."""
    if many == _U(_STRIP):
        for i in range(_U(0), _U(_STRIP), _U(_STEP)):
            for k in range(_U(0), _U(_STEP), _U(LANES)):
                store(strip, there + i + k, load_levels(pixels, here + i + k, _I16(7)))
    else:
        for i in range(many):
            strip[there + i] = _I16(pixels[here + i]) << 7


@part
def _down(strip: Any, row: Any, n: Any, weights: Any, w: Any, lost: Any, rows: Any, to: Any) -> None:
    """rows[to..] = the n rows of a strip from the row-th on, times weights[w..]."""
    for x in range(_U(0), _U(_STRIP), _U(_STEP)):
        a = b = c = d = splat(lost)
        here = row * _U(_STRIP) + x
        for t in range(n):
            weight = splat(weights[w + t])
            a = add_product(a, load(strip, here), weight)
            b = add_product(b, load(strip, here + _U(LANES)), weight)
            c = add_product(c, load(strip, here + _U(2 * LANES)), weight)
            d = add_product(d, load(strip, here + _U(3 * LANES)), weight)
            here += _U(_STRIP)
        store(rows, to + x, a)
        store(rows, to + x + _U(LANES), b)
        store(rows, to + x + _U(2 * LANES), c)
        store(rows, to + x + _U(3 * LANES), d)


@part
def _across(columns: Any, at: Any, step: Any, n: Any, weights: Any, w: Any, lost: Any, sums: Any, to: Any) -> None:
    """sums[to..] = n columns, `step` apart, times weights[w..]."""
    a = splat(lost)
    for t in range(n):
        a = add_product(a, load(columns, at), splat(weights[w + t]))
        at += step
    store(sums, to, to_levels(a, _I16(5)))


@part
def _three_across(columns: Any, at: Any, n: Any, weights: Any, w: Any, lost: Any, sums: Any, to: Any) -> None:
    """The same for three channels at once."""
    a = b = c = splat(lost)
    for t in range(n):
        weight = splat(weights[w + t])
        a = add_product(a, load(columns, at), weight)
        b = add_product(b, load(columns, at + _U(LANES)), weight)
        c = add_product(c, load(columns, at + _U(2 * LANES)), weight)
        at += _U(3 * LANES)
    store(sums, to, to_levels(a, _I16(5)))
    store(sums, to + _U(LANES), to_levels(b, _I16(5)))
    store(sums, to + _U(2 * LANES), to_levels(c, _I16(5)))


@part
def _put(sums: Any, many: Any, block: Any, side: Any, count: Any, out: Any, there: Any, wide: Any) -> None:
    """`many` columns of sums as a part of `count` rows, `wide` apart from out[there] on. block: room for them."""
    for i in range(_U(0), many, _U(LANES)):
        turn_levels(sums, i * _U(LANES), block, i, side)
    for r in range(count):
        for i in range(many):
            out[there + r * wide + i] = block[r * side + i]


@compiled(
    lambda: [
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
    ]
)
def _resample(
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
    wide, made_width = width * channels, _U(len(left))
    high = _U(len(pixels)) // wide
    n, m = _U(len(down) // len(top)), _U(len(across) // len(left))
    strip = _room(_most_rows(top, n) * _U(_STRIP))
    rows = _room(_U(LANES * _APART))
    columns = _room((wide + _U(_STRIP)) * _U(LANES))
    side = _U(_SIDE) * channels + _U(2 * LANES)
    sums, block = _room(side * _U(LANES)), np.empty(side * _U(LANES), np.uint8)
    for start in range(_U(0), _U(len(top)), _U(LANES)):
        count = min(_U(LANES), _U(len(top)) - start)
        base, x = _U(top[start]), _U(0)
        for begin in range(_U(0), wide, _U(_STRIP)):
            many = min(_U(_STRIP), wide - begin)
            have = base
            for r in range(count):
                first = _U(top[start + r])
                while have < min(high, first + n):
                    soon = min(have + _U(_AHEAD), high - _U(1)) * wide + begin
                    for i in range(_U(0), many, _U(64)):
                        prefetch(pixels, soon + i)
                    _lift(pixels, have * wide + begin, many, strip, (have - base) * _U(_STRIP))
                    have += _U(1)
                lost = down_lost[start + r]
                _down(strip, first - base, n, down, (start + r) * n, lost, rows, r * _U(_APART))
            for i in range(_U(0), many, _U(LANES)):
                turn(rows, i, _U(_APART), columns, (begin + i) * _U(LANES))
            while x < made_width:
                stop = min(x + _U(_SIDE), made_width)
                if (_U(left[stop - _U(1)]) + m) * channels > begin + many:
                    break
                for i in range(x, stop):
                    lost, at = _I16(16 + across_lost[i]), _U(left[i]) * channels * _U(LANES)
                    if channels == _U(3):
                        _three_across(columns, at, m, across, i * m, lost, sums, (i - x) * _U(3 * LANES))
                    else:
                        for c in range(channels):
                            to = ((i - x) * channels + c) * _U(LANES)
                            step = channels * _U(LANES)
                            _across(columns, at + c * _U(LANES), step, m, across, i * m, lost, sums, to)
                there = start * made_width * channels + x * channels
                _put(sums, (stop - x) * channels, block, side, count, out, there, made_width * channels)
                x = stop
