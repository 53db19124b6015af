"""The weights of Lanczos-3, as `line.resample` takes them."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

LOBES = 3
MOST_TAPS = 40
"""More taps than this are summed in floats: every tap of the integers may leave a 64th of a level behind."""


@dataclass(frozen=True, slots=True)
class Taps:
    """How one edge is resampled: pixel i is the sum of weights, of its row, times the pixels from first[i] on.

    short: whether the taps are few, and none above 1, as the integers need it. floats, integers: rows of weights, one
    after the other; the integers in 1/32768, summing to 1 exactly. lost: half of what they round down, in the sums'
    own unit.
    """

    short: bool
    first: NDArray[np.int64]
    floats: NDArray[np.float32]
    integers: NDArray[np.int16]
    lost: NDArray[np.int16]


@functools.lru_cache(maxsize=64)
def taps(length: int, start: float, stop: float, count: int, steps: tuple[int, ...] = (1,)) -> Taps:
    """The weights for `start`..`stop` of an edge of `length` pixels as `count` pixels.

    The kernel is as wide as the reduction; where an edge grows, as wide as the pixels. Beyond the picture its
    outermost pixels go on; beyond the part, the picture does. steps: the number of taps is filled up with zeros to a
    multiple of one of them.
    """
    scale = (stop - start) / count
    reach = LOBES * max(1.0, scale)
    center = start + (np.arange(count) + 0.5) * scale
    lowest = np.ceil(center - reach - 0.5).astype(np.int64)
    number = math.ceil(2 * reach)
    index = lowest[:, None] + np.arange(number)
    distance = (index + 0.5 - center[:, None]) / max(1.0, scale)
    weights = np.where(np.abs(distance) < LOBES, np.sinc(distance) * np.sinc(distance / LOBES), 0.0)
    weights /= weights.sum(axis=1, keepdims=True)
    first = np.clip(lowest, 0, max(0, length - number))
    within = min(number, length)
    rows = np.arange(count)
    inside = np.zeros((count, min(within + -within % step for step in steps)))
    for tap in range(number):
        inside[rows, np.clip(index[:, tap], 0, length - 1) - first] += weights[:, tap]
    whole = np.rint(inside * 32768)
    whole[rows, np.argmax(whole, axis=1)] += 32768 - whole.sum(axis=1)
    lost = np.rint(np.count_nonzero(whole, axis=1) / 2)
    # At an edge, what goes on beyond it is added to the outermost pixel.
    short = within <= MOST_TAPS and whole.max() <= 32768
    integers = np.clip(whole, -32768, 32767).astype(np.int16)
    return Taps(short, first, inside.astype(np.float32).ravel(), integers.ravel(), lost.astype(np.int16))
