"""How much of what people want to see a crop keeps, of what a crop of that shape could keep."""

from __future__ import annotations

import functools

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.accuracy.marked import DEMO, OTHERS, SHAPES, kept, possible, upright, window
from tray_core.line.interest import interest_of
from tray_core.photo.interest import Box, Interest
from tray_core.plan.interest import Start, best_start

_COPY = 960


@functools.lru_cache(maxsize=64)
def seen(name: str) -> tuple[Interest, tuple[int, int]]:
    """The interest of a marked photograph, found on a copy as the product makes it, and its (width, height)."""
    pixels: NDArray[np.uint8] = upright(name)
    scale = min(1.0, _COPY / max(pixels.shape))
    copy = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else pixels
    return interest_of(np.asarray(copy, np.uint8)), (pixels.shape[1], pixels.shape[0])


def chosen(name: str, ratio: float) -> tuple[Box, Start]:
    """The crop that is taken of a marked photograph."""
    interest, size = seen(name)
    share = ratio * size[1] / size[0]
    start = best_start(interest, 0 if share < 1 else 1, round(min(share, 1 / share), 6))
    return window(ratio, size, start.at), start


def share_kept(name: str, box: Box, ratio: float) -> tuple[float, float, bool]:
    """What a crop keeps of what it could, what the middle would keep of that, and whether it asks for an eye."""
    _, size = seen(name)
    most = possible(box, ratio, size)
    share = ratio * size[1] / size[0]
    middle = kept(box, window(ratio, size, (1 - min(share, 1 / share)) / 2))
    crop, start = chosen(name, ratio)
    return kept(box, crop) / most, middle / most, start.cuts


def crops() -> list[tuple[str, float, float, float, int, int]]:
    """(shape, mean kept of the demo's, of others, by the middle of all, how many ask, how many keep under half)."""
    rows = []
    for shape, ratio in SHAPES.items():
        own = [share_kept(name, box, ratio) for name, box in DEMO.items()]
        others = [share_kept(name, box, ratio) for name, box in OTHERS.items()]
        mine, theirs, middle = (
            float(np.mean([each[i] for each in some])) for some, i in ((own, 0), (others, 0), (own + others, 1))
        )
        asks, lost = (sum(test) for test in ([e[2] for e in own + others], [e[0] < 0.5 for e in own + others]))
        rows.append((shape, mine, theirs, middle, asks, lost))
    return rows
