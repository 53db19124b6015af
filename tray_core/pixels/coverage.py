"""How much of each pixel lies in a polygon, exactly, in compiled code."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.compiled import compiled, made, read, types

_STRIP = 512


# Signed areas are summed up along each row: what an edge covers of its own pixels, and one height for all behind it
# (Green's theorem, as renderers of type do it).
@compiled(lambda: [types.void(read(types.float64, 2), made(types.float64, 2))])
def _add_edges(points: Any, sums: Any) -> None:
    height, width = sums.shape[0], sums.shape[1] - 2
    count = len(points)
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        x0, y0, x1, y1 = points[i, 0], points[i, 1], points[j, 0], points[j, 1]
        if y0 == y1:
            continue
        sign = 1.0
        if y0 > y1:
            x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
        slope = (x1 - x0) / (y1 - y0)
        for row in range(max(0, math.floor(y0)), min(height, math.ceil(y1))):
            above, below = max(y0, float(row)), min(y1, row + 1.0)
            if below <= above:
                continue
            one, other = x0 + (above - y0) * slope, x0 + (below - y0) * slope
            left, right = min(one, other), max(one, other)
            left, right = min(max(left, 0.0), float(width)), min(max(right, 0.0), float(width))
            high = sign * (below - above)
            first, last = math.floor(left), math.floor(right)
            if first == last:
                share = 1.0 - ((left + right) / 2 - first)
                sums[row, first] += high * share
                sums[row, first + 1] += high * (1.0 - share)
                continue
            per = high / (right - left)
            before = 0.0
            for column in range(first, last + 1):
                # The area right of the edge within this pixel, summed up from the left.
                start, stop = max(left, float(column)), min(right, column + 1.0)
                across = stop - start
                area = per * across * (column + 1.0 - (start + stop) / 2) + before
                sums[row, column] += area
                sums[row, column + 1] += per * across - (area - before)
                before = 0.0


def coverage(contours: Iterable[NDArray[np.float64]], size: tuple[int, int]) -> NDArray[np.float32]:
    """The share of each pixel of a picture of (width, height) that lies in closed polygons, height x width, 0..1.

    contours: points x 2 each, in pixels, holes turning the other way than what they lie in.
    """
    width, height = size
    made_of = [np.ascontiguousarray(contour, np.float64) for contour in contours]
    found = np.empty((height, width), np.float32)
    # A strip at a time: sums in double precision need eight times the room of an 8-bit mask.
    for top in range(0, height, _STRIP):
        sums = np.zeros((min(_STRIP, height - top), width + 2))
        for contour in made_of:
            _add_edges(contour - (0, top) if top else contour, sums)
        np.minimum(np.abs(np.cumsum(sums[:, :width], axis=1)), 1.0, out=found[top : top + _STRIP], casting="same_kind")
    return found
