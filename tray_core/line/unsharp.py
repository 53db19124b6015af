"""The sharpening of `line.sharpen` in compiled code: a row at a time, with the rows around it at hand.

Luminance and all that is derived from it are 32-bit floats in levels of the picture's own type.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from tray_core.pixels.compiled import compiled, made, part, read, types
from tray_core.pixels.lanes import LANES, store_changed, store_luminance

WINDOW = 7
"""Edge in pixels of the window in which the guard looks for structure."""

_REACH = WINDOW // 2
_AREA = WINDOW * WINDOW
_I32, _F32 = np.int32, np.float32


@part
def _luminance(row: Any, channels: int, weights: Any, margin: int, values: Any, out: Any) -> None:
    """One row's luminance into `out`, with its ends repeated over `margin` pixels. values: room for the row."""
    width = out.shape[0] - 2 * margin
    inner = out[margin : margin + width]
    v, w, x = weights[0], weights[1], weights[2]
    done = 0
    if channels == 3 and row.itemsize == 1:
        while done + LANES <= width:
            store_luminance(row, 3 * done, v, w, x, inner, done)
            done += LANES
    # In two steps, since only even strides become vectors.
    for i in range(channels * done, values.shape[0]):
        values[i] = row[i]
    if channels == 1:
        for i in range(width):
            inner[i] = values[i]
    elif channels == 3:
        for i in range(done, width):
            inner[i] = values[3 * i] * v + values[3 * i + 1] * w + values[3 * i + 2] * x
    else:
        for i in range(width):
            inner[i] = values[4 * i] * v + values[4 * i + 1] * w + values[4 * i + 2] * x
    _extend(out, margin)


@part
def _extend(row: Any, margin: int) -> None:
    last = row.shape[0] - margin - 1
    for i in range(margin):
        row[i] = row[margin]
        row[last + 1 + i] = row[last]


@part
def _add_pair(a: Any, b: Any, weight: Any, out: Any) -> None:
    for i in range(out.shape[0]):
        out[i] += (a[i] + b[i]) * weight


@part
def _times(a: Any, weight: Any, out: Any) -> None:
    for i in range(out.shape[0]):
        out[i] = a[i] * weight


@part
def _scale(values: Any, weight: Any) -> None:
    for i in range(values.shape[0]):
        values[i] *= weight


@part
def _add(a: Any, out: Any) -> None:
    for i in range(out.shape[0]):
        out[i] += a[i]


@part
def _clamped(row: int, height: int, size: int) -> int:
    """Where a row of the picture, or the last one it has, lies in a ring of `size`."""
    return min(max(row, 0), height - 1) % size


@part
def _seven(d: Any, c: Any, b: Any, a: Any, e: Any, f: Any, g: Any, taps: Any, out: Any) -> None:
    """The middle a and three on either side, in one go: no Gaussian here is narrower."""
    v, w, x, y = taps[0], taps[1], taps[2], taps[3]
    for i in range(out.shape[0]):
        out[i] = a[i] * v + (b[i] + e[i]) * w + (c[i] + f[i]) * x + (d[i] + g[i]) * y


@part
def _blurred(ring: Any, y: int, height: int, taps: Any, margin: int, across: Any, out: Any) -> None:
    """The Gaussian of row y. ring: rows of luminance with margins. across: room for such a row."""
    size, reach, width = ring.shape[0], taps.shape[0] - 1, out.shape[0]
    _seven(
        ring[_clamped(y - 3, height, size)],
        ring[_clamped(y - 2, height, size)],
        ring[_clamped(y - 1, height, size)],
        ring[y % size],
        ring[_clamped(y + 1, height, size)],
        ring[_clamped(y + 2, height, size)],
        ring[_clamped(y + 3, height, size)],
        taps,
        across,
    )
    for t in range(4, reach + 1):
        _add_pair(ring[_clamped(y - t, height, size)], ring[_clamped(y + t, height, size)], taps[t], across)
    _seven(
        across[margin - 3 : margin - 3 + width],
        across[margin - 2 : margin - 2 + width],
        across[margin - 1 : margin - 1 + width],
        across[margin : margin + width],
        across[margin + 1 : margin + 1 + width],
        across[margin + 2 : margin + 2 + width],
        across[margin + 3 : margin + 3 + width],
        taps,
        out,
    )
    for t in range(4, reach + 1):
        _add_pair(across[margin - t : margin - t + width], across[margin + t : margin + t + width], taps[t], out)


@part
def _window_mean(ring: Any, y: int, height: int, margin: int, across: Any, out: Any) -> None:
    size, width = ring.shape[0], out.shape[0]
    _times(ring[_clamped(y - _REACH, height, size)], _F32(1), across)
    for t in range(1 - _REACH, _REACH + 1):
        _add(ring[_clamped(y + t, height, size)], across)
    _times(across[margin - _REACH : margin - _REACH + width], _F32(1), out)
    for t in range(1 - _REACH, _REACH + 1):
        _add(across[margin + t : margin + t + width], out)
    _scale(out, _F32(1) / _F32(_AREA))


@part
def _deviate(luminance: Any, mean: Any, out: Any) -> None:
    """The square of what differs from the window's mean, into a row with margins."""
    inner = out[_REACH : _REACH + mean.shape[0]]
    for i in range(mean.shape[0]):
        off = luminance[i] - mean[i]
        inner[i] = off * off
    _extend(out, _REACH)


@part
def _step(variance: Any, guard: Any) -> None:
    """From the variance in the window to the guard's mask on [0, 1], in place."""
    for i in range(variance.shape[0]):
        t = min(max(np.sqrt(variance[i]) / (guard / _F32(2)) - _F32(1), _F32(0)), _F32(1))
        variance[i] = t * t * (_F32(3) - _F32(2) * t)


@part
def _guarded(
    ring: Any, squares: Any, squared: int, y: int, height: int, margin: int, across: Any, guard: Any, mask: Any
) -> int:
    """The guard's mask of row y, from the luminance around it. squared: rows of `squares` there are, and then are."""
    width = mask.shape[0]
    while squared < min(height, y + _REACH + 1):
        _window_mean(ring, squared, height, margin, across, mask)
        luminance = ring[squared % ring.shape[0]][margin : margin + width]
        _deviate(luminance, mask, squares[squared % squares.shape[0]])
        squared += 1
    _window_mean(squares, y, height, _REACH, across[: width + 2 * _REACH], mask)
    _step(mask, guard)
    return squared


@part
def _less(values: Any, threshold: Any) -> None:
    for i in range(values.shape[0]):
        v = values[i]
        left = max(abs(v) - threshold, _F32(0))
        values[i] = left if v > 0 else -left


@part
def _room_to_the_ends(luminance: Any, most: Any, values: Any) -> None:
    for i in range(values.shape[0]):
        values[i] *= _F32(2) * min(luminance[i], most - luminance[i]) / most


@part
def _whole(values: Any, out: Any) -> None:
    """Rounded to whole levels."""
    for i in range(values.shape[0]):
        out[i] = _I32(np.floor(values[i] + _F32(0.5)))


@part
def _changed(row: Any, channels: int, change: Any, out: Any) -> None:
    """Each pixel's channels but alpha, with its change."""
    width, done = change.shape[0], 0
    most = 255 if row.itemsize == 1 else 65535
    if channels == 3 and row.itemsize == 1:
        while done + LANES <= width:
            store_changed(row, 3 * done, change, done, out)
            done += LANES
    if channels == 1:
        for i in range(width):
            out[i] = min(max(_I32(row[i]) + change[i], 0), most)
    elif channels == 3:
        for i in range(done, width):
            out[3 * i] = min(max(_I32(row[3 * i]) + change[i], 0), most)
            out[3 * i + 1] = min(max(_I32(row[3 * i + 1]) + change[i], 0), most)
            out[3 * i + 2] = min(max(_I32(row[3 * i + 2]) + change[i], 0), most)
    else:
        for i in range(width):
            out[4 * i] = min(max(_I32(row[4 * i]) + change[i], 0), most)
            out[4 * i + 1] = min(max(_I32(row[4 * i + 1]) + change[i], 0), most)
            out[4 * i + 2] = min(max(_I32(row[4 * i + 2]) + change[i], 0), most)
            out[4 * i + 3] = row[4 * i + 3]


@part
def _differ(luminance: Any, amount: Any, blur: Any) -> None:
    """The difference, times the amount, in place of the blur."""
    for i in range(blur.shape[0]):
        blur[i] = (luminance[i] - blur[i]) * amount


@compiled(
    lambda: [
        types.void(
            read(kind, 2),
            types.int64,
            read(types.float32),
            read(types.float32),
            types.float32,
            types.float32,
            types.float32,
            types.boolean,
            made(wider),
            made(kind, 2),
        )
        for kind, wider in ((types.uint8, types.int16), (types.uint16, types.int32))
    ]
)
def sharpened(
    pixels: Any,
    channels: int,
    weights: Any,
    taps: Any,
    amount: Any,
    threshold: Any,
    guard: Any,
    highpass: bool,
    steps: Any,
    out: Any,
) -> None:
    """Sharpen height x (width * channels) pixels into `out`, of the same shape.

    channels: 1, 3 or 4; the fourth is alpha and is taken over. weights: of luminance. taps: the Gaussian's middle and
    one side. amount: of the difference. threshold, guard: in levels of the pixels' type, 0 for none.
    steps: room for the changes of a row, a value a pixel.
    """
    height, wide = pixels.shape
    width = wide // channels
    margin = max(taps.shape[0] - 1, _REACH)
    ahead = max(taps.shape[0] - 1, 2 * _REACH if guard > 0 else 0)
    most = _F32(255 if pixels.itemsize == 1 else 65535)
    ring = np.empty((2 * ahead + 1, width + 2 * margin), _F32)
    squares = np.empty((WINDOW + 1, width + 2 * _REACH), _F32)
    values, across = np.empty(wide, _F32), np.empty(width + 2 * margin, _F32)
    change, mask = np.empty(width, _F32), np.empty(width, _F32)
    have, squared = 0, 0
    for y in range(height):
        while have < min(height, y + ahead + 1):
            _luminance(pixels[have], channels, weights, margin, values, ring[have % ring.shape[0]])
            have += 1
        luminance = ring[y % ring.shape[0]][margin : margin + width]
        _blurred(ring, y, height, taps, margin, across, change)
        _differ(luminance, amount, change)
        if threshold > 0:
            _less(change, threshold * amount)
        if highpass:
            _room_to_the_ends(luminance, most, change)
        if guard > 0:
            squared = _guarded(ring, squares, squared, y, height, margin, across, guard, mask)
            for i in range(width):
                change[i] *= mask[i]
        _whole(change, steps)
        _changed(pixels[y], channels, steps, out[y])


@compiled(
    lambda: [
        types.void(read(kind, 2), types.int64, read(types.float32), types.float32, made(types.float32, 2))
        for kind in (types.uint8, types.uint16)
    ]
)
def structure(pixels: Any, channels: int, weights: Any, guard: Any, out: Any) -> None:
    """The guard's mask on [0, 1] for height x (width * channels) pixels, height x width."""
    height, wide = pixels.shape
    width = wide // channels
    ring = np.empty((4 * _REACH + 1, width + 2 * _REACH), _F32)
    squares = np.empty((WINDOW + 1, width + 2 * _REACH), _F32)
    values, across = np.empty(wide, _F32), np.empty(width + 2 * _REACH, _F32)
    have, squared = 0, 0
    for y in range(height):
        while have < min(height, y + 2 * _REACH + 1):
            _luminance(pixels[have], channels, weights, _REACH, values, ring[have % ring.shape[0]])
            have += 1
        squared = _guarded(ring, squares, squared, y, height, _REACH, across, guard, out[y])
