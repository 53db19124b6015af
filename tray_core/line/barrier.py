"""The minimum barrier distance in compiled code: how far each pixel is from a background, by the tones between.

Source of the method: J. Zhang and others, "Minimum Barrier Salient Object Detection at 80 FPS", ICCV 2015. The barrier
of a path is the difference of its highest and lowest value; a thing with a closed edge lies behind one, however large
the wall or the sky around it is.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from tray_core.pixels.compiled import compiled, made, part, read, types

_F32 = np.float32
_FAR = np.float32(1e9)


@part
def _try(values: Any, highest: Any, lowest: Any, distance: Any, y: Any, x: Any, v: Any, u: Any) -> None:
    """Reach (y, x) by way of its neighbor (v, u), if that is nearer."""
    high, low = max(highest[v, u], values[y, x]), min(lowest[v, u], values[y, x])
    if high - low < distance[y, x]:
        distance[y, x] = high - low
        highest[y, x], lowest[y, x] = high, low


@compiled(lambda: [types.void(read(types.float32, 2), read(types.uint8, 2), types.int64, made(types.float32, 2))])
def _barriers(values: Any, seeds: Any, passes: Any, distance: Any) -> None:
    height, width = values.shape
    highest, lowest = values.copy(), values.copy()
    for y in range(height):
        for x in range(width):
            distance[y, x] = _F32(0) if seeds[y, x] else _FAR
    for turn in range(passes):
        if turn % 2 == 0:
            for y in range(height):
                for x in range(width):
                    if y > 0:
                        _try(values, highest, lowest, distance, y, x, y - 1, x)
                    if x > 0:
                        _try(values, highest, lowest, distance, y, x, y, x - 1)
        else:
            for y in range(height - 1, -1, -1):
                for x in range(width - 1, -1, -1):
                    if y < height - 1:
                        _try(values, highest, lowest, distance, y, x, y + 1, x)
                    if x < width - 1:
                        _try(values, highest, lowest, distance, y, x, y, x + 1)


def barriers(values: NDArray[np.float32], seeds: NDArray[np.uint8], passes: int = 4) -> NDArray[np.float32]:
    """The distance of each pixel of a height x width channel from those that are 1 in `seeds`, in the channel's own
    unit; 0 everywhere without any.
    """
    distance = np.zeros(values.shape, np.float32)
    if seeds.any():
        _barriers(np.ascontiguousarray(values), np.ascontiguousarray(seeds), passes, distance)
    return distance
