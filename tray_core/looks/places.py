"""Where in a picture sharpening shows first: its flattest area, which must stay clean, and its finest texture."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from tray_core.pixels.picture import Picture
from tray_core.weight.score import seen

_BLOCK = 96
_CLIPPED = (4, 251)


@dataclass(frozen=True, slots=True)
class Place:
    """kind: flat or fine. x, y: its middle, in shares of the picture's edges. amount: of detail, in levels of 255."""

    kind: str
    x: float
    y: float
    amount: float


def places_of(picture: Picture) -> Iterator[Place]:
    """The flattest block that is neither black nor white, and the one of the finest texture, by the standard
    deviation of luminance less its local mean. Nothing for pictures smaller than a few blocks.
    """
    grey = np.asarray(cv2.cvtColor(seen(picture), cv2.COLOR_RGB2GRAY), np.float32)
    height, width = grey.shape[0] // _BLOCK, grey.shape[1] // _BLOCK
    if min(width, height) < 2:
        return
    fine = grey - np.asarray(cv2.GaussianBlur(grey, (9, 9), 1.5), np.float32)
    area = (slice(0, height * _BLOCK), slice(0, width * _BLOCK))
    shape = (height, _BLOCK, width, _BLOCK)
    detail = fine[area].reshape(shape).std(axis=(1, 3))
    mean = grey[area].reshape(shape).mean(axis=(1, 3))
    usable = (mean > _CLIPPED[0]) & (mean < _CLIPPED[1])
    if not usable.any():
        return
    for kind, best in (
        ("flat", np.where(usable, detail, np.inf).argmin()),
        ("fine", np.where(usable, detail, -1).argmax()),
    ):
        row, column = divmod(int(best), width)
        x, y = (column + 0.5) * _BLOCK / grey.shape[1], (row + 0.5) * _BLOCK / grey.shape[0]
        yield Place(kind, x, y, float(detail[row, column]))
